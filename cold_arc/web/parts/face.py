"""Face: the front lamps as seen from the driver's seat, each with its stage."""

from __future__ import annotations

from dataclasses import dataclass

from cold_arc.core.lamps import ALL_LAMPS, Drive, Function, LampKey, Side, side_words
from cold_arc.core.record import Record
from cold_arc.core.stages import Stage, Status, current, statuses
from cold_arc.web.scope import Scope, stage_url

WIDTH = 264
# Where each lamp of the left cluster stands, from the car's outer edge inward: x, y, width, height.
CELLS = {
    Function.LOW: (0, 0, 60, 48),
    Function.HIGH: (63, 0, 60, 48),
    Function.TURN: (0, 51, 39, 44),
    Function.POSITION: (42, 51, 39, 44),
    Function.DRL: (84, 51, 39, 44),
    Function.FOG: (0, 98, 123, 44),
}
SHORT = {
    Function.LOW: "Low",
    Function.HIGH: "High",
    Function.TURN: "Turn",
    Function.POSITION: "Pos",
    Function.DRL: "DRL",
    Function.FOG: "Fog",
}


@dataclass(frozen=True)
class FaceLamp:
    """One lamp as drawn: place and size, what it says, whether it is worked on, and where a tap leads."""

    key: LampKey
    x: float
    y: float
    width: float
    height: float
    short: str
    title: str
    chosen: bool = False
    selected: bool = False
    after: bool = False
    stage: Stage | None = None
    href: str = ""


@dataclass(frozen=True)
class Face:
    """The drawing: its lamps, the drive side, and the scopes one may work in."""

    lamps: tuple[FaceLamp, ...]
    drive: Drive
    scopes: tuple[tuple[str, str, bool], ...] = ()
    width: int = WIDTH


def _lamp(key: LampKey, drive: Drive) -> dict[str, object]:
    x, y, width, height = CELLS[key.function]
    if key.side is Side.RIGHT:
        x = WIDTH - x - width
    title = f"{key.function.label}, {side_words(key.side, drive)}"
    return {
        "key": key,
        "x": x,
        "y": y,
        "width": width,
        "height": height,
        "short": SHORT[key.function],
        "title": title,
    }


def choosing_face(drive: Drive = Drive.LEFT) -> Face:
    """A face to choose lamps on; script ties each lamp to its checkbox."""
    return Face(tuple(FaceLamp(**_lamp(key, drive)) for key in ALL_LAMPS), drive)  # type: ignore[arg-type]


def build_face(record: Record, job_id: int, stage: Stage, scope: Scope) -> Face:
    """The face of a job, leading to each lamp at its own stage."""
    booking = record.booking
    drive = booking.drive if booking else Drive.LEFT
    chosen = record.lamp_keys
    in_scope = set(scope.keys(chosen))
    lamps = []
    for key in ALL_LAMPS:
        facts = _lamp(key, drive)
        if key in chosen:
            facts |= _standing(record, key, job_id, stage)
        lamps.append(FaceLamp(**facts, selected=key in in_scope))  # type: ignore[arg-type]
    return Face(tuple(lamps), drive, _scopes(record, job_id, stage, scope))


def _standing(record: Record, key: LampKey, job_id: int, stage: Stage) -> dict[str, object]:
    at = current(record, key)
    fitted = statuses(record, key)[Stage.FIT] in {Status.DONE, Status.SKIPPED}
    return {"chosen": True, "stage": at, "after": fitted, "href": stage_url(job_id, key, stage)}


def _scopes(record: Record, job_id: int, stage: Stage, scope: Scope) -> tuple[tuple[str, str, bool], ...]:
    """Links to work on a pair or on one side of it: words, address, whether it is this one."""
    functions = list(dict.fromkeys(key.function for key in record.lamp_keys))
    choices = [Scope(function) for function in functions]
    if scope.function in functions:
        sides = [key.side for key in record.lamp_keys if key.function is scope.function]
        if len(sides) > 1:
            here = functions.index(scope.function) + 1 if scope.function else 0
            choices[here:here] = [Scope(scope.function, side) for side in sides]
    if len(functions) > 1:
        choices.append(Scope())
    drive = record.booking.drive if record.booking else Drive.LEFT
    return tuple(
        (choice.words(drive), stage_url(job_id, choice, stage), str(choice) == str(scope)) for choice in choices
    )
