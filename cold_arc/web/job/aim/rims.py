"""Aim's old lamps: how their rims stand against a straight edge and a level, before the wall."""

from __future__ import annotations

from collections.abc import Sequence

from flask import abort
from flask_wtf import FlaskForm
from werkzeug.wrappers import Response

from cold_arc.core.aim import rims
from cold_arc.core.aim.rims import Rim
from cold_arc.core.car.keys import BeamKey
from cold_arc.core.car.lamps import Optic, Side
from cold_arc.core.job.entries.aim import RimSet
from cold_arc.web.forms import fields
from cold_arc.web.job.stage_page import StagePage


class RimForm(FlaskForm):
    """How one old lamp's rim stands."""

    lamp = fields.one_of("Lamp", {}, required="Say which lamp.", id="rim-lamp")
    inner = fields.number("Gap at its inner edge", 0, rims.WIDEST_GAP_MM, "mm")
    outer = fields.number("Gap at its outer edge", 0, rims.WIDEST_GAP_MM, "mm")
    across = fields.number("Across the rim", *rims.RIM_MM, "mm")
    bubble = fields.one_of("Level on the glass", rims.BUBBLES, required="Say where it stands.")


def rim_form(page: StagePage, sent: bool) -> RimForm:
    """The form for the lamps in hand, as it was *sent* or empty."""
    form = fields.as_sent(RimForm, sent, None)
    names = {str(key): key.side.value.capitalize() for key in page.beams_alike}
    form.lamp.choices = fields.choices(names)
    return form


def is_vintage(page: StagePage, beam: BeamKey) -> bool:
    """Whether a lens with flutes makes the beam."""
    optics = {page.record.socket(giver).optic for giver in page.record.givers(beam)}
    return Optic.LENS_OPTIC in optics


def rims_of(page: StagePage, beams: Sequence[BeamKey]) -> dict[Side, Rim]:
    """How the rims of some lamps stand, as last told."""
    newest = {key.side: page.record.latest(RimSet, key) for key in beams}
    return {side: each.rim for side, each in newest.items() if each}


def kept_rim(page: StagePage, form: RimForm) -> Response | None:
    """The answer once an old lamp's rim was told whole; None, with errors beside its fields, where
    it was not; 404 for a lamp that is none.
    """
    if not is_vintage(page, page.beams_alike[0]):
        abort(404)
    if not form.validate():
        return None
    rim = Rim(form.inner.data, form.outer.data, form.across.data, form.bubble.data)
    about = [key for key in page.beams_alike if str(key) == form.lamp.data]
    return page.save(RimSet(rim), about=about)
