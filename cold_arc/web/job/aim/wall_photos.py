"""Photographs of the wall kept with a job: pictures stored, marks found, beams measured, laid on
the Wall.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from cold_arc.core.car.front import BeamKey
from cold_arc.core.job.entries.aim import WallPhotographed
from cold_arc.core.wallphoto import isolux, merging, wall_target
from cold_arc.core.wallphoto.camera import PhotoMark, find_camera
from cold_arc.core.wallphoto.directions import Plan, Subject, laid_flat, plan_frame
from cold_arc.core.wallphoto.measure import measure
from cold_arc.core.wallphoto.picture import PhotoUnusableError, Pixels
from cold_arc.formats import photo
from cold_arc.formats.photo import PhotoError
from cold_arc.store import pictures
from cold_arc.web.job.stage_page import StagePage
from cold_arc.web.shell.db import session


def kept(
    page: StagePage, files: Sequence[bytes], taken: WallPhotographed
) -> tuple[WallPhotographed, list[Pixels]]:
    """Keeps the pictures of a photograph, one or a series; PhotoError for what is no picture, or no
    series.

    Returns the entry with their numbers and the size they are shown at, and their pixels, the
    darkest first.
    """
    if not 0 < len(files) <= merging.MOST_EXPOSURES:
        raise PhotoError(f"Send one picture, or a series of up to {merging.MOST_EXPOSURES}.")
    read = [photo.read_photo(data) for data in files]
    pixels = [photo.read_pixels(data) for data in files]
    order = merging.in_order(pixels)
    numbers = [
        pictures.keep(session(), page.job.id, read[index].jpeg, read[index].small, files[index])
        for index in order
    ]
    across, down = photo.size_of(read[order[len(order) // 2]].jpeg)
    taken = replace(taken, pictures=tuple(numbers), across=across, down=down)
    return taken, [pixels[index] for index in order]


def originals(page: StagePage, taken: WallPhotographed) -> list[Pixels]:
    """The pixels of a photograph's pictures as they came from the camera, the darkest first."""
    data = (pictures.original(session(), page.job.id, number) for number in taken.pictures)
    return [photo.read_pixels(original) for original in data if original is not None]


def marks_seen(
    taken: WallPhotographed, key: BeamKey, pixels: Sequence[Pixels]
) -> tuple[PhotoMark, ...]:
    """The printed target's marks in a photograph's pictures, in pixels as it is shown; none where
    it is not seen.
    """
    for picture in (pixels[len(pixels) // 2], *reversed(pixels)):
        try:
            marks = wall_target.find_marks(picture, key.side, 100 * taken.axis_m)
        except PhotoUnusableError:
            continue
        return scaled(marks, taken.across / picture.shape[1])
    return ()


def scaled(marks: Sequence[PhotoMark], by: float) -> tuple[PhotoMark, ...]:
    """Marks in a picture *by* times as large; a pixel's place is its middle."""
    return tuple(
        replace(mark, px=((mark.px[0] + 0.5) * by - 0.5, (mark.px[1] + 0.5) * by - 0.5))
        for mark in marks
    )


def measured(
    page: StagePage, key: BeamKey, taken: WallPhotographed, pixels: Sequence[Pixels]
) -> WallPhotographed:
    """A photograph measured, and its picture of the wall kept; PhotoUnusableError where it can't
    be.
    """
    picture = merging.picture_of(pixels)
    marks = scaled(taken.marks, picture.size[0] / taken.across)
    covered = wall_target.covered(key.side, 100 * taken.axis_m) if taken.by_target else ()
    subject = Subject(
        taken.distance_m, taken.axis_m, key.function.value, page.market.traffic, covered
    )
    camera = find_camera(marks, picture.size)
    reading = measure(picture, marks, subject, taken.lux, camera)
    plan, scale = (
        laid_flat(picture, camera, subject),
        isolux.lux_a_light(picture, camera, taken.lux),
    )
    wall = photo.write_light(plan.light)
    number = pictures.keep(session(), page.job.id, wall, wall)
    return replace(
        taken, found=reading, wall=number, white_lux=scale and float(scale * plan.light.max())
    )


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
