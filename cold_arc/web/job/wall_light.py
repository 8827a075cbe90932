"""The light on a stage's Wall: both lamps as modelled, with what was found in them and with what was chosen."""

from __future__ import annotations

import math
from collections.abc import Sequence

from cold_arc.core.beam import model
from cold_arc.core.beam.setup import SetUp
from cold_arc.core.car.front import BeamKey
from cold_arc.core.job.entries import Chosen
from cold_arc.core.match.facts import setting_of
from cold_arc.core.match.modelled import setup_of
from cold_arc.formats.picture import Lamp
from cold_arc.web.job.stage_page import StagePage
from cold_arc.web.parts.beam_wall import picture_url
from cold_arc.web.parts.wall import Wall


def modelled(page: StagePage, beam: BeamKey) -> tuple[SetUp | None, SetUp | None]:
    """A beam's set-ups: with its present source, and with the one chosen; None where one can't be modelled."""
    giver = page.record.givers(beam)[0]
    setting = setting_of(page.record, page.job.booking, giver)
    chosen = page.record.latest(Chosen, giver)
    source = chosen.source if chosen else None
    present = setup_of(setting, beam.function, None, page.market.traffic)
    return present, setup_of(setting, beam.function, source, page.market.traffic) if source else None


# How the light is shown under lines and figures, stops: dim enough to read them by night.
EXPOSURE = -1.5


def add_light(wall: Wall, page: StagePage, beams: Sequence[BeamKey], after: bool) -> None:
    """Lays the modelled light of both lamps on the Wall, each turned as it was aimed as found and, *after*, as left.

    Nothing where it can't be computed yet, or not at all.
    """
    if not model.is_warm():
        return
    present, chosen = modelled(page, beams[0])
    if present:
        wall.before = _picture(wall, page, beams, present, "found")
    if after and chosen:
        wall.after = _picture(wall, page, beams, chosen, "left")


def _picture(wall: Wall, page: StagePage, beams: Sequence[BeamKey], setup: SetUp, phase: str) -> str:
    """The address of one phase's picture: a lamp not aimed yet stands as its housing was designed."""
    level_deg = setup.built_housing().cut_off.level_deg if not setup.high else 0.0
    lamps = []
    for beam, (x, y, _) in zip(beams, wall.lamps, strict=True):
        aimed = page.record.aimed(beam, phase) or page.record.aimed(beam, "found")
        up = math.degrees(math.atan(aimed.slope)) - level_deg if aimed else 0.0
        right = math.degrees(math.atan(aimed.sideways or 0.0)) if aimed else 0.0
        lamps.append(Lamp(x / 100, y / 100, right, up))
    shade = "warm" if phase == "found" else "cold"
    return picture_url(setup, shade, lamps, wall.metres, wall.distance_m, exposure=EXPOSURE)
