"""How a car stands before the wall: lamp heights and spacing, the wall's distance, the supply; each
told once, at whatever stage, with where it was told. What nobody told is assumed, and says so.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass

from cold_arc.core.aim.rules import TWENTY_FIVE_FEET_M
from cold_arc.core.car.keys import BeamKey, Key, UnitKey, across
from cold_arc.core.findings import Finding, Level
from cold_arc.core.job.entries.aim import Aimed, WallLaid
from cold_arc.core.job.entries.readings import Read
from cold_arc.core.job.record import Record
from cold_arc.core.metering.readings import AS_FOUND, RESTORED, WallReading
from cold_arc.core.references import PRACTICE
from cold_arc.core.units import UnitSystem, say_offset, worded

# A lamp's height where nobody measured one, m (common practice, no published source).
USUAL_HEIGHT_M, USUAL_DISTANCE_M = 0.65, 10.0
PHASE_STAGES = {"before": "Baseline", "after": "Verify"}


@dataclass(frozen=True)
class CarFact:
    """A figure of the car, m or V; *origin*: where it was told, in words; *assumed*: nobody told
    it.
    """

    value: float
    origin: str
    assumed: bool = False


Telling = Callable[[object, BeamKey], tuple[float | None, str]]


def _height(payload: object, beam: BeamKey) -> tuple[float | None, str]:
    if isinstance(payload, Aimed):
        return payload.height_m, "Aim"
    if isinstance(payload, WallLaid):
        return payload.of(beam.side).height_m, "Aim"
    if isinstance(payload, Read):
        return payload.reading.height_m, PHASE_STAGES[payload.phase]
    return None, ""


def _aimed_at(payload: object, _: BeamKey) -> tuple[float | None, str]:
    return (payload.distance_m, "Aim") if isinstance(payload, Aimed | WallLaid) else (None, "")


def _read_at(payload: object, _: BeamKey) -> tuple[float | None, str]:
    if isinstance(payload, Read):
        return payload.reading.distance_m, PHASE_STAGES[payload.phase]
    return None, ""


def _spacing(payload: object, _: BeamKey) -> tuple[float | None, str]:
    return (payload.spacing_m, "Aim") if isinstance(payload, Aimed | WallLaid) else (None, "")


def _told(record: Record, beam: BeamKey, telling: Telling) -> CarFact | None:
    """What was told last about a beam."""
    for entry in reversed(record.entries):
        if beam in entry.about:
            value, stage = telling(entry.payload, beam)
            if value is not None:
                return CarFact(value, f"told at {stage}, {record.front.named(beam).lower()}")
    return None


def _first_told(record: Record, beams: Iterable[BeamKey], telling: Telling) -> CarFact | None:
    """What was told of the first of some beams anything was told of."""
    return next((fact for key in beams if (fact := _told(record, key, telling))), None)


def _units_of(record: Record, key: Key) -> set[UnitKey]:
    """The units that give a beam; none of anything else."""
    givers = record.front.givers(key) if isinstance(key, BeamKey) else ()
    return {socket.of_unit for socket in givers}


def _fellows(record: Record, beam: BeamKey) -> list[BeamKey]:
    """A beam, and the others its unit gives."""
    units = _units_of(record, beam)
    others = (key for key in record.road_beams if units & _units_of(record, key) and key != beam)
    return [beam, *others]


def height_told(record: Record, beam: BeamKey) -> CarFact | None:
    """A lamp's own height, told of the beam or of another its unit gives; None where nobody did."""
    return _first_told(record, _fellows(record, beam), _height)


def height(record: Record, beam: BeamKey) -> CarFact:
    """A lamp's height, m: its own, else as its fellow's on the other side, else the usual one."""
    if own := height_told(record, beam):
        return own
    if other := height_told(record, across(beam)):
        return CarFact(
            other.value, f"assumed as the {across(beam).side.value} lamp's", assumed=True
        )
    return CarFact(USUAL_HEIGHT_M, "assumed, not measured", assumed=True)


def distance(record: Record, beams: Sequence[BeamKey]) -> CarFact:
    """Lamp to wall when aiming, m: as told last of these beams, else of any of the car's; where
    none was aimed, as the wall they were read on; else as usual where the car is.
    """
    every = [*beams, *(key for key in record.road_beams if key not in beams)]
    for telling in (_aimed_at, _read_at):
        if fact := _first_told(record, every, telling):
            return fact
    market = record.booking.market if record.booking else ""
    usual_m = TWENTY_FIVE_FEET_M if market == "us" else USUAL_DISTANCE_M
    return CarFact(usual_m, "assumed, not measured", assumed=True)


def spacing(record: Record, beams: Sequence[BeamKey]) -> CarFact | None:
    """Between the lamps' centres, m: as told of these beams or of others of their units; None where
    nobody did.
    """
    units = [fellow for key in beams for fellow in _fellows(record, key)]
    return _first_told(record, [*units, *map(across, units)], _spacing)


def readings_taken(record: Record, beams: Sequence[BeamKey]) -> Iterator[WallReading]:
    """Every reading of these beams, newest first, then of the car's others: same wall, same meter,
    same supply.
    """
    taken = [entry for entry in reversed(record.entries) if isinstance(entry.payload, Read)]
    for own in (True, False):
        for entry in taken:
            if isinstance(entry.payload, Read) and own is not entry.about.isdisjoint(beams):
                yield entry.payload.reading


def lens(record: Record, beams: Sequence[BeamKey]) -> str:
    """The lens of some lamps as it is by now, of ``LENSES``: restored where Fit says so of every
    one; else as it was last told of them; else washed, where another lamp's was.
    """
    units = {unit for beam in beams for unit in _units_of(record, beam)}
    if units and all(map(record.lens_restored_at, units)):
        return RESTORED
    fellows = {fellow for beam in beams for fellow in _fellows(record, beam)}
    washed = [state for state in _lenses(record, fellows, False) if state != RESTORED]
    return [AS_FOUND, *washed, *_lenses(record, fellows, True)][-1]


def _lenses(record: Record, beams: set[BeamKey], own: bool) -> list[str]:
    """The lens of every reading of some beams, or of all others."""
    return [
        entry.payload.reading.lens
        for entry in record.entries
        if isinstance(entry.payload, Read) and entry.about.isdisjoint(beams) is not own
    ]


def assumed_findings(record: Record, beams: Sequence[BeamKey], system: UnitSystem) -> list[Finding]:
    """A caution where what lines on the wall hang on was never measured."""
    heights = {key: height(record, key) for key in beams}
    away = distance(record, beams)
    facts = {
        f"{key.side.value.capitalize()}: the lamp's height": high for key, high in heights.items()
    }
    facts["The wall's distance"] = away
    return [
        Finding(
            "figure-not-measured",
            Level.CAUTION,
            worded("{what} is {origin}.", what=what, origin=fact.origin),
            PRACTICE,
            say_offset(fact.value, system),
            advice="Measure it: every line on the wall, and the rule's own limits, hang on it.",
        )
        for what, fact in facts.items()
        if fact.assumed
    ]
