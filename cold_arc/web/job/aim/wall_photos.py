"""Photographs of the wall kept with a job: pictures stored, laid on the Wall."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from cold_arc.core.job.entries.aim import WallPhotographed
from cold_arc.core.wallphoto import isolux
from cold_arc.core.wallphoto.directions import Plan, plan_frame
from cold_arc.formats import photo
from cold_arc.store import pictures
from cold_arc.web.job.aim.examining import Examined
from cold_arc.web.job.stage_page import StagePage
from cold_arc.web.shell.db import session, writable


def kept(page: StagePage, examined: Examined) -> WallPhotographed:
    """Keeps what came of pictures, and they themselves where they are new; returns the entry with
    their numbers.
    """
    taken = examined.taken
    if examined.photos:
        numbers = (
            pictures.keep(writable(), page.job.id, picture.jpeg, picture.small, original)
            for picture, original in zip(examined.photos, examined.originals, strict=True)
        )
        taken = replace(taken, pictures=tuple(numbers))
    if examined.wall is not None:
        number = pictures.keep(writable(), page.job.id, examined.wall, examined.wall)
        taken = replace(taken, wall=number)
    return taken


def has_originals(page: StagePage, taken: WallPhotographed) -> bool:
    """Whether a photograph's pictures are kept as they came from the camera."""
    return pictures.has_originals(session(), page.job.id, taken.pictures)


def originals(page: StagePage, taken: WallPhotographed) -> list[bytes]:
    """A photograph's pictures as they came from the camera, the darkest first."""
    data = (pictures.original(session(), page.job.id, number) for number in taken.pictures)
    return [original for original in data if original is not None]


def isolux_of(page: StagePage, taken: WallPhotographed) -> list[isolux.Isolux]:
    """The lines of equal light of a photograph with a meter's reading."""
    if taken.white_lux is None or taken.wall is None:
        return []
    data = pictures.picture(session(), page.job.id, taken.wall, small=False)
    if data is None:
        return []
    return isolux.lines(
        Plan(*plan_frame(taken.distance_m), np.asarray(photo.read_light(data))), taken.white_lux
    )
