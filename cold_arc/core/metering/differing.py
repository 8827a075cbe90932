"""What was taken differently before and after: corrected where physics allows, said where not, and
what makes comparing them impossible.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass

from cold_arc.core.car.lamps import Function
from cold_arc.core.findings import Finding, Level
from cold_arc.core.light import photometry
from cold_arc.core.metering.readings import LENSES, WallReading
from cold_arc.core.references import PRACTICE, cite
from cold_arc.core.units import worded

SAME_DISTANCE_M, SAME_VOLTS, SAME_HEIGHT_M, SAME_AMBIENT_LX = 0.05, 0.1, 0.02, 0.5
# How far apart supplies may lie, as a ratio, for the power law to hold. Common practice, no
# published source.
FAR_SUPPLY = 1.25


def differs(one: float, other: float, limit: float) -> bool:
    """Whether two values lie farther apart than *limit*, which itself is still alike: 13.2 and 13.4
    are 0.2 apart, whatever a computer makes of it.
    """
    return round(abs(one - other), 9) > limit


@dataclass(frozen=True)
class SourceChange:
    """What changed between before and after: whether each source's light follows the supply, for
    which beam.

    *colour_changed*: the light is of another colour, so that a meter may see it otherwise.
    *worked_on*: something else was done that may give light, as a housing put in new or, for both
    readings, a lens polished between.
    """

    before_follows: bool
    after_follows: bool = False
    function: Function = Function.LOW
    colour_changed: bool = True
    source_changed: bool = True
    worked_on: bool = False

    def nothing_done(self, was: WallReading, now: WallReading) -> bool:
        """Whether nothing stands between the two that would change the light: a lamp kept as it is
        must read alike.
        """
        return not (self.source_changed or self.worked_on or was.lens != now.lens)


Pairs = list[tuple[WallReading, WallReading]]
Judge = Callable[[WallReading, WallReading], Finding | None]


def refusal(pairs: Pairs, change: SourceChange) -> str:
    """Why before and after can't be compared at all, or ""."""
    reasons: dict[str, Callable[[WallReading, WallReading], bool]] = {
        "the lens was worked on between, so lens and bulb can't be told apart": (
            lambda was, now: change.source_changed and was.lens != now.lens
        ),
        "another lamp shone on the wall at one of them": (
            lambda was, now: was.other_lamp != now.other_lamp
        ),
        "a simulated meter measured no lamp": lambda was, now: was.is_simulated or now.is_simulated,
        "read cold": lambda _, now: not now.settled,
    }
    holding = (why for why, holds in reasons.items() if any(holds(*pair) for pair in pairs))
    return next(holding, "")


def differences(pairs: Pairs, change: SourceChange) -> Iterator[Finding]:
    """Everything taken differently, each once."""
    judges: list[Judge] = [
        _lens_judge(change),
        _other_lamp_differs,
        _distance_differs,
        _range_differs,
        _meter_differs,
        _wall_differs,
        _height_differs,
        _ambient_differs,
        _voltage_judge(change),
    ]
    for judge in judges:
        yield from _first(judge(was, now) for was, now in pairs)


def _first(findings: Iterable[Finding | None]) -> Iterator[Finding]:
    first = next((finding for finding in findings if finding is not None), None)
    if first:
        yield first


def _lens_judge(change: SourceChange) -> Judge:
    """What a lens worked on between means: its gain can't be told from a new source's; where the
    source stayed all of it is the lens's own.
    """

    def judge(was: WallReading, now: WallReading) -> Finding | None:
        if was.lens == now.lens:
            return None
        names = [LENSES.get(lens, lens).lower() for lens in (was.lens, now.lens)]
        number = worded("{before} before, {after} after", before=names[0], after=names[1])
        if not change.source_changed:
            text = "The source stayed: what was gained is the lens's."
            return Finding("lens-gained", Level.NOTE, text, PRACTICE, number)
        return Finding(
            "lens-worked-on",
            Level.STOP,
            "The lens was worked on between before and after: what it gained is not the bulb's.",
            PRACTICE,
            number,
            advice="Not corrected. Read the old source once more through the lens as it is now.",
        )

    return judge


def _other_lamp_differs(was: WallReading, now: WallReading) -> Finding | None:
    if was.other_lamp == now.other_lamp:
        return None
    return Finding(
        "other-lamp-shone",
        Level.STOP,
        "Another lamp shone on the wall at one of them.",
        PRACTICE,
        "other lamp on before" if was.other_lamp else "other lamp on after",
        advice="Not corrected. Cover the other lamp and read again.",
    )


def _distance_differs(was: WallReading, now: WallReading) -> Finding | None:
    if not differs(was.distance_m, now.distance_m, SAME_DISTANCE_M):
        return None
    return Finding(
        "distance-differs",
        Level.NOTE,
        "Distance differs: raw lux can't be compared; candela can.",
        cite("handbook inverse-square law"),
        worded(
            "{before_m:number} m before, {after_m:number} m after",
            before_m=was.distance_m,
            after_m=now.distance_m,
        ),
        advice=(
            worded(
                "Correction used: {factor:number} times on lux.",
                factor=(now.distance_m / was.distance_m) ** 2,
            )
        ),
    )


def _range_differs(was: WallReading, now: WallReading) -> Finding | None:
    if was.range_factor == now.range_factor:
        return None
    return Finding(
        "range-differs",
        Level.NOTE,
        "Meter range differs between before and after.",
        PRACTICE,
        worded(
            "x{before:number} before, x{after:number} after",
            before=was.range_factor,
            after=now.range_factor,
        ),
        advice="No correction: check that both displays were read with their factor.",
    )


def _meter_differs(was: WallReading, now: WallReading) -> Finding | None:
    if was.meter == now.meter:
        return None
    return Finding(
        "meters-differ",
        Level.NOTE,
        "Two meters: the error of each counts in full.",
        cite("jcgm-100"),
        worded(
            "{before} before, {after} after",
            before=was.meter_class.label.lower(),
            after=now.meter_class.label.lower(),
        ),
        advice="Take one meter for both; then its own error falls away.",
    )


def _wall_differs(was: WallReading, now: WallReading) -> Finding | None:
    if was.wall == now.wall or not (was.wall and now.wall):
        return None
    return Finding(
        "walls-differ",
        Level.NOTE,
        "Two walls: the distance of each counts with its own doubt.",
        PRACTICE,
        worded("{before} before, {after} after", before=was.wall, after=now.wall),
    )


def _height_differs(was: WallReading, now: WallReading) -> Finding | None:
    if (
        was.height_m is None
        or now.height_m is None
        or not differs(was.height_m, now.height_m, SAME_HEIGHT_M)
    ):
        return None
    return Finding(
        "height-differs",
        Level.NOTE,
        "The lamp stands at another height: another load, or other tyres?",
        PRACTICE,
        worded(
            "{before_m:number} m before, {after_m:number} m after",
            before_m=was.height_m,
            after_m=now.height_m,
        ),
        advice="No correction: places are measured from the lamp's axis. Look at its aim.",
    )


def _ambient_differs(was: WallReading, now: WallReading) -> Finding | None:
    if not differs(was.ambient_lx, now.ambient_lx, SAME_AMBIENT_LX):
        return None
    return Finding(
        "ambient-differs",
        Level.NOTE,
        "The room's own light differs.",
        PRACTICE,
        worded(
            "{before_lx:lux} before, {after_lx:lux} after",
            before_lx=was.ambient_lx,
            after_lx=now.ambient_lx,
        ),
        advice="Correction used: each is taken off its own readings.",
    )


def _voltage_judge(change: SourceChange) -> Judge:
    return lambda was, now: _voltage_differs(was, now, change.before_follows)


def _voltage_differs(was: WallReading, now: WallReading, before_follows: bool) -> Finding | None:
    if not differs(was.volts, now.volts, SAME_VOLTS):
        return None
    number = worded("{before:volts} before, {after:volts} after", before=was.volts, after=now.volts)
    if not before_follows:
        return Finding(
            "voltage-regulated",
            Level.NOTE,
            "Supply voltage differs.",
            PRACTICE,
            number,
            advice="No correction: the old source was regulated.",
        )
    factor = photometry.filament_factor(now.volts, was.volts)
    used = worded("Correction used: before readings times {factor:number}.", factor=factor)
    law = cite("handbook flux ∝ V^3.4")
    if max(was.volts / now.volts, now.volts / was.volts) <= FAR_SUPPLY:
        text = "Supply voltage differs: a filament's light follows it."
        return Finding("voltage-differs", Level.NOTE, text, law, number, advice=used)
    text = (
        "Supply voltage differs: a filament's light follows it. So far apart the law is a guess: "
        "one slipped, or it was another car's supply."
    )
    return Finding("voltage-far-apart", Level.CAUTION, text, law, number, advice=used)
