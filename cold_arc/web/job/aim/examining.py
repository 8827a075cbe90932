"""Photographs of the wall examined: pictures read, marks found, the beam measured.

Heavy work: it is done in a process of its own, one at a time, which is stopped where it takes too
long or too much memory, and gives that back when it ends (`web.shell.apart`).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from cold_arc.core.beam.model import Beam
from cold_arc.core.car.lamps import Function, Side, Traffic
from cold_arc.core.inverse.light_map import LightMap, of_picture
from cold_arc.core.job.entries.aim import WallPhotographed
from cold_arc.core.light.cut_off import LineRead
from cold_arc.core.wallphoto import isolux, merging, wall_target
from cold_arc.core.wallphoto.camera import PhotoMark, find_camera
from cold_arc.core.wallphoto.directions import Subject, laid_flat
from cold_arc.core.wallphoto.measure import measure
from cold_arc.core.wallphoto.picture import PhotoUnusableError, Pixels
from cold_arc.devices.wall_camera import Shot, before_the_wall, photograph
from cold_arc.formats import photo
from cold_arc.formats.photo import Photo, PhotoError

LOOKS = Shot(exposure=-0.3)


@dataclass(frozen=True)
class Photographed:
    """Of which lamp: its side and function, the side traffic keeps to, what of the beam its rule
    goes by.
    """

    side: Side
    function: Function
    traffic: Traffic
    line: LineRead


@dataclass(frozen=True)
class Examined:
    """What came of pictures: the entry, its picture of the wall (JPEG), the pictures to keep and
    they as they came but for their whereabouts, the darkest first; *why*, in a sentence, where it
    could not be measured.
    """

    taken: WallPhotographed
    wall: bytes | None = None
    photos: tuple[Photo, ...] = ()
    originals: tuple[bytes, ...] = ()
    why: str = ""


def simulated_photo(
    beam: Beam, wall: tuple[float, float], turned_deg: tuple[float, float], side: Side
) -> bytes:
    """What a simulated camera sees of a beam so turned on a *wall* at its distance, the lamp's axis
    as high, m, its target hung up: a JPEG.
    """
    taken = photograph(beam, before_the_wall(*wall), LOOKS, (), *wall, turned_deg, side)
    return taken.jpeg()


def examined(files: Sequence[bytes], taken: WallPhotographed, of: Photographed) -> Examined:
    """Pictures as they were sent, one or a series; measured at once where the printed target is
    seen. PhotoError for what is no picture, or no series.
    """
    if not 0 < len(files) <= merging.MOST_EXPOSURES:
        raise PhotoError(f"Send one picture, or a series of up to {merging.MOST_EXPOSURES}.")
    photos = [photo.read_photo(data) for data in files]
    pixels = [photo.read_pixels(data) for data in files]
    order = merging.in_order(pixels)
    across, down = photo.size_of(photos[order[len(order) // 2]].jpeg)
    taken = replace(taken, across=across, down=down)
    series = [pixels[index] for index in order]
    came = Examined(taken)
    if marks := marks_seen(taken, of.side, series):
        came = _or_why(replace(taken, marks=marks, by_target=True), of, series)
    return replace(
        came,
        photos=tuple(photos[index] for index in order),
        originals=tuple(photo.without_whereabouts(files[index]) for index in order),
    )


def examined_again(
    originals: Sequence[bytes], taken: WallPhotographed, of: Photographed
) -> Examined:
    """Pictures kept before, the darkest first, measured by the marks that *taken* holds now."""
    return _or_why(taken, of, [photo.read_pixels(data) for data in originals])


def _or_why(taken: WallPhotographed, of: Photographed, series: Sequence[Pixels]) -> Examined:
    """A photograph measured; as it was, with the reason, where it can't be."""
    try:
        return Examined(*_measured(taken, of, series))
    except PhotoUnusableError as error:
        return Examined(taken, why=_with_unseen(taken, of, str(error)))


def _with_unseen(taken: WallPhotographed, of: Photographed, why: str) -> str:
    """Why a photograph can't be measured: where some of the target's marks were not seen, that."""
    axis_cm = 100 * taken.axis_m
    unseen = wall_target.unseen_words(taken.marks, of.side, axis_cm) if taken.by_target else ""
    if not unseen:
        return why
    return (
        f"Of the printed target's marks {unseen} can't be made out: too dark there, or hidden. "
        "Expose longer, give the wall a little light, or mark four places by hand."
    )


def mapped(originals: Sequence[bytes], taken: WallPhotographed, of: Photographed) -> LightMap:
    """The light of a photograph's pictures, the darkest first, over directions from its lamp.

    PhotoUnusableError where they show too little of it.
    """
    picture = merging.picture_of([photo.read_pixels(data) for data in originals])
    marks = scaled(taken.marks, picture.size[0] / taken.across)
    covered = wall_target.covered(of.side, 100 * taken.axis_m) if taken.by_target else ()
    subject = Subject(taken.distance_m, taken.axis_m, of.function, of.traffic, covered, of.line)
    return of_picture(picture, list(marks), subject, taken.lux)


def marks_seen(
    taken: WallPhotographed, side: Side, series: Sequence[Pixels]
) -> tuple[PhotoMark, ...]:
    """The printed target's marks in a photograph's pictures, in pixels as it is shown; none where
    it is not seen.
    """
    middle = len(series) // 2
    for number in dict.fromkeys((middle, *reversed(range(len(series))))):
        picture = series[number]
        try:
            marks = wall_target.find_marks(picture, side, 100 * taken.axis_m)
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


def _measured(
    taken: WallPhotographed, of: Photographed, series: Sequence[Pixels]
) -> tuple[WallPhotographed, bytes]:
    """A photograph measured, and its picture of the wall; PhotoUnusableError where it can't be."""
    picture = merging.picture_of(series)
    marks = scaled(taken.marks, picture.size[0] / taken.across)
    covered = wall_target.covered(of.side, 100 * taken.axis_m) if taken.by_target else ()
    subject = Subject(taken.distance_m, taken.axis_m, of.function, of.traffic, covered, of.line)
    camera = find_camera(marks, picture.size)
    reading = measure(picture, marks, subject, taken.lux, camera)
    plan = laid_flat(picture, camera, subject)
    scale = isolux.lux_a_light(picture, camera, taken.lux)
    white_lux = scale and float(scale * plan.light.max())
    return replace(taken, found=reading, white_lux=white_lux), photo.write_light(plan.light)
