"""A photograph of a lamp's wall read further: its own housing from the light as it came, how the
new bulb sits from the light after; and which of a car's lamps a reading serves.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from cold_arc.core.beam.fitted import BeamReading
from cold_arc.core.beam.report import stands_deg
from cold_arc.core.beam.setup import LIMITS, SetUp
from cold_arc.core.car.keys import BeamKey
from cold_arc.core.car.lamps import Side, Traffic
from cold_arc.core.inverse.housing import FittedLamp, Progress, fit_lamp, foretold_share, typical
from cold_arc.core.inverse.light_map import LampBeside, LightMap
from cold_arc.core.inverse.seat import fit_seat
from cold_arc.core.job import stand
from cold_arc.core.job.entries.aim import WallPhotographed
from cold_arc.core.job.entries.book_in import Booking
from cold_arc.core.job.entries.kind import AimPhase
from cold_arc.core.job.entries.wall_read import HousingRead, SeatRead, housing_read, seat_read
from cold_arc.core.job.record import Record
from cold_arc.core.match.measuring import setups
from cold_arc.core.match.own_housing import measured_of


@dataclass(frozen=True)
class WallQuestion:
    """What a *beam*'s *photograph* is asked: *shines*, the set-up that was lit; *lamp*, its housing
    where that was read before; the *readings* a meter gave of it; *beside*: the other lamp, where
    that was lit too.
    """

    beam: BeamKey
    photograph: WallPhotographed
    shines: SetUp
    lamp: FittedLamp | None = None
    readings: tuple[BeamReading, ...] = ()
    beside: LampBeside | None = None

    @property
    def of_housing(self) -> bool:
        """Whether the housing is asked for; else how the bulb sits."""
        return self.photograph.phase == AimPhase.FOUND


@dataclass(frozen=True)
class WallAnswer:
    """What was read: the *entry* to keep, the light as *seen* and as it *should* be, and the set-up
    that gives that.
    """

    entry: HousingRead | SeatRead
    seen: LightMap
    foretold: LightMap
    should: SetUp


def asked_of(
    record: Record, booking: Booking, beam: BeamKey, photograph: WallPhotographed, traffic: Traffic
) -> WallQuestion | str:
    """What a photograph can be asked; in words, why nothing."""
    if photograph.found is None:
        return "Mark it first: what isn't measured can't be read."
    present, chosen = setups(record, booking, beam, traffic)
    if photograph.phase == AimPhase.FOUND:
        if present is None:
            return "This lamp can't be modelled: its optic or its base is not told, or not known."
        return WallQuestion(beam, photograph, present, readings=measured_of(record, beam))
    if chosen is None or chosen.source != "led":
        return "How a bulb sits is read of an LED bulb chosen for this lamp."
    kept = record.latest(HousingRead, beam)
    lamp = kept.lamp.turned(*turned_since(record, beam)) if kept else None
    return WallQuestion(beam, photograph, chosen, lamp)


def lamp_beside(record: Record, beam: BeamKey, taken: WallPhotographed) -> LampBeside | None:
    """Where the other lamp of a pair stands, before the wall of a photograph; None where nobody
    told how far the two are apart.
    """
    apart = stand.spacing(record, [beam])
    if apart is None:
        return None
    return LampBeside(apart.value * (1 if beam.side is Side.LEFT else -1), taken.distance_m)


def turned_since(record: Record, beam: BeamKey) -> tuple[float, float]:
    """By how much a lamp's aim was changed since it was found, degrees up and right: by what its
    cut-off moved, where both are recorded.
    """
    before, after = (record.aimed(beam, phase) for phase in AimPhase)
    if before is None or after is None:
        return 0.0, 0.0
    up = math.atan(after.slope) - math.atan(before.slope)
    right = math.atan(after.sideways or 0.0) - math.atan(before.sideways or 0.0)
    return math.degrees(up), math.degrees(right)


def answer(asked: WallQuestion, seen: LightMap, progress: Progress) -> WallAnswer:
    """What the light *seen* says; some five to twenty seconds.

    *progress* is told how far it is, 0 to 1, and may raise to stop it.
    """
    return _housing(asked, seen, progress) if asked.of_housing else _seat(asked, seen, progress)


def _housing(asked: WallQuestion, seen: LightMap, progress: Progress) -> WallAnswer:
    pair = fit_lamp(asked.shines, seen, progress, asked.beside)
    modelled = replace(pair, texture=None).light(asked.shines, beside=asked.beside)
    lamp, taken = pair.alone, asked.photograph
    as_bright = lamp if lamp.absolute else lamp.told_brightness(asked.readings)
    entry = housing_read(as_bright, foretold_share(as_bright), taken.shown, taken.simulated)
    return WallAnswer(entry, seen, modelled, as_bright.holding(asked.shines))


def _seat(asked: WallQuestion, seen: LightMap, progress: Progress) -> WallAnswer:
    taken = asked.photograph
    shines = asked.shines if asked.lamp else _aimed_as_seen(asked.shines, taken)
    lamp = asked.lamp or typical(shines)
    seat = fit_seat(lamp, shines, seen, progress)
    foretold = lamp.light(shines).as_bright_as(seen)
    entry = seat_read(seat, taken.shown, asked.lamp is None, taken.simulated)
    return WallAnswer(entry, seen, foretold, lamp.holding(shines))


def _aimed_as_seen(shines: SetUp, taken: WallPhotographed) -> SetUp:
    """A typical housing's set-up aimed as the photograph shows the lamp: nothing is known of how it
    was aimed, so its aim is nobody's fault.
    """
    assert taken.found is not None
    up_deg, right_deg = taken.found.aim_deg
    most, turned = LIMITS["aim_v"].high, (up_deg - stands_deg(shines), right_deg or 0.0)
    aim_v, aim_h = (max(-most, min(most, deg)) for deg in turned)
    return replace(shines, aim_v=round(aim_v, 3), aim_h=round(aim_h, 3))
