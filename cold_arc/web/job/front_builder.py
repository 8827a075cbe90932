"""The front of a car as a form holds it: a ready-made one to start from, corrected tap by tap, and
what is worked on.

Every tap posts the form as it stands and shows it again with the change; nothing is saved by it.
"""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import dataclass

from flask import request
from wtforms import HiddenField

from cold_arc.core.car import front_building as fronts
from cold_arc.core.car.front import Front
from cold_arc.core.car.front_building import ReadyMade
from cold_arc.core.car.keys import SocketKey, UnitKind, across
from cold_arc.core.car.lamps import Function, Side
from cold_arc.core.job.codec import structure, to_plain
from cold_arc.core.job.plausible import check
from cold_arc.web.parts.face import Face, choosing_face

LONGEST = 6000


def write(front: Front) -> str:
    """A front as a form's hidden field."""
    return json.dumps(to_plain(front), separators=(",", ":")) if front.units else ""


def read(text: str) -> Front:
    """A front from its hidden field, "" for an empty one; ValueError for anything that is none."""
    if not text:
        return Front()
    if len(text) > LONGEST:
        raise ValueError("too long")
    try:
        front = structure(json.loads(text), Front)
        check(front)
    except Exception as error:  # whatever was sent, the form is shown again
        raise ValueError("it is not in the form's own words") from error
    return front


def chosen(front: Front) -> list[SocketKey]:
    """The sockets ticked to work on that the front has."""
    ticked = set(request.form.getlist("work"))
    return [key for key in front.sockets() if str(key) in ticked]


@dataclass(frozen=True)
class WorkRow:
    """A pair of sockets to work on: what they are, and their two boxes."""

    words: str
    boxes: tuple[tuple[SocketKey, bool], ...]


@dataclass(frozen=True)
class Builder:
    """Everything the form shows of a front."""

    front: Front
    face: Face
    rows: tuple[WorkRow, ...]
    ready: dict[str, ReadyMade]
    extras: tuple[tuple[str, str, bool], ...]
    like: str
    functions: tuple[Function, ...] = tuple(Function)
    kinds: tuple[UnitKind, ...] = tuple(UnitKind)


def shown(text: str | None, work: set[SocketKey] | None = None) -> Builder:
    """A front as the form shows it; *work*: what is ticked, else what the form sent."""
    try:
        front = read(text or "")
    except ValueError:
        front = Front()
    ticked = set(chosen(front)) if work is None else work
    rows = [
        WorkRow(
            front.words(key),
            tuple((side_key, side_key in ticked) for side_key in (key, across(key))),
        )
        for key in front.sockets()
        if key.side is Side.LEFT
    ]
    extras = tuple(
        (name, words, name in fronts.extras_of(front)) for name, words in fronts.EXTRAS.items()
    )
    return Builder(
        front, choosing_face(front), tuple(rows), fronts.ready_made(), extras, fronts.like(front)
    )


TAP = "build"
HEADLAMPS = (UnitKind.HEADLAMP,)


def is_tap() -> bool:
    """Whether the form was sent by a tap on the builder, to be shown again."""
    return request.method == "POST" and TAP in request.form


def tapped(field: HiddenField) -> Builder:
    """The builder after the tap that was sent; a tap that can't be done changes nothing. *field*
    takes the front.
    """
    before = _read_or_empty(field.data or "")
    what, _, argument = request.form[TAP].partition(":")
    try:
        after = _TAPS[what](before, argument)
    except (KeyError, ValueError):
        after = before
    work = {key for key in chosen(before) if after.has(key)}
    if what == "made" and after != before:
        work = _usual_work(after, work)
    if what in ("made", "extra") and not any(unit.kind in HEADLAMPS for unit in after.units):
        work = set(after.sockets())  # only what was added: that is what is worked on
    field.data = write(after)
    return shown(field.data, work)


def _read_or_empty(text: str) -> Front:
    try:
        return read(text)
    except ValueError:
        return Front()


def _usual_work(front: Front, work: set[SocketKey]) -> set[SocketKey]:
    """What is usually worked on of a ready-made front: its road beams but for fog lamps."""
    gives = {key: front.socket(key).functions for key in front.sockets()}
    road = {key for key, given in gives.items() if any(each.is_road_beam for each in given)}
    return (work | road) - {key for key, given in gives.items() if Function.FOG in given}


def _made(front: Front, name: str) -> Front:
    return fronts.made(name, fronts.extras_of(front))


def _unit_and_number(name: str) -> tuple[str, int]:
    unit, _, number = name.partition("-")
    return unit, int(number)


def _give(front: Front, argument: str) -> Front:
    name, _, function = argument.partition(":")
    return fronts.toggle_function(front, *_unit_and_number(name), Function(function))


_TAPS: dict[str, Callable[[Front, str], Front]] = {
    "made": _made,
    "extra": fronts.toggle_extra,
    "give": _give,
    "drop": lambda front, name: fronts.remove_socket(front, *_unit_and_number(name)),
    "socket": lambda front, unit: fronts.add_socket(front, unit, Function.POSITION),
    "unit": lambda front, kind: fronts.add_unit(front, UnitKind(kind)),
}
