"""What the lamps of a record are expected to read: their modelled beams, for the search, for slips
and for shadows.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from functools import lru_cache

from cold_arc.core.beam import derived
from cold_arc.core.beam.fitted import HousingFit
from cold_arc.core.beam.report import beam_of
from cold_arc.core.beam.setup import SetUp
from cold_arc.core.car.bases import find
from cold_arc.core.car.keys import BeamKey
from cold_arc.core.car.lamps import Function, Traffic
from cold_arc.core.job.entries.book_in import Booking
from cold_arc.core.job.entries.kind import Phase
from cold_arc.core.job.entries.match import Chosen
from cold_arc.core.job.facts import setting_of
from cold_arc.core.job.record import Record
from cold_arc.core.light_source import LightSource
from cold_arc.core.match.modelled import setup_of
from cold_arc.core.metering import slips
from cold_arc.core.metering.peak import Likeness
from cold_arc.core.metering.readings import PLACES, WallReading, direction


def chosen_for(record: Record, beam: BeamKey) -> LightSource | None:
    """The source chosen for a beam's socket, if one was."""
    chosen = record.latest(Chosen, record.givers(beam)[0])
    return chosen.source if chosen else None


def setup_with(
    record: Record,
    booking: Booking,
    beam: BeamKey,
    source: LightSource | None,
    traffic: Traffic,
    fit: HousingFit | None = None,
    by_now: bool = False,
) -> SetUp | None:
    """A beam's set-up with a source, or (None) with its present one; None where it can't be
    modelled.

    *fit*: in its housing as fitted to readings, instead of a typical one; *by_now*: through its
    lens as it is by now, restored where Fit says so, instead of as it was found.
    """
    giver = record.givers(beam)[0]
    restored = by_now and record.lens_restored_at(giver.of_unit) > 0
    setting = replace(setting_of(record, booking, giver, restored), fit=fit)
    return setup_of(setting, beam.function, source, traffic)


def setups(
    record: Record, booking: Booking, beam: BeamKey, traffic: Traffic
) -> tuple[SetUp | None, SetUp | None]:
    """A beam's set-ups: with its present source as it was found, and with the one chosen as it is
    by now.
    """
    source = chosen_for(record, beam)
    present = setup_with(record, booking, beam, None, traffic)
    if source is None:
        return present, None
    return present, setup_with(record, booking, beam, source, traffic, by_now=True)


def setup_at(
    record: Record, booking: Booking, beam: BeamKey, phase: Phase, traffic: Traffic
) -> SetUp | None:
    """What shines in a phase, through the lens as it is by now: the present source before, the
    chosen one after (the present, where it stays).
    """
    source = chosen_for(record, beam) if phase == Phase.AFTER else None
    return setup_with(record, booking, beam, source, traffic, by_now=True)


@lru_cache(maxsize=16)
def likeness(setup: SetUp) -> Likeness:
    """The beam of a set-up as the search and the slips know it; some 0.1 s where it is new."""
    return Likeness(beam_of(setup))


def known(
    record: Record,
    booking: Booking,
    beam: BeamKey,
    phase: Phase,
    traffic: Traffic,
    taken: Mapping[str, WallReading],
) -> slips.KnownBeam:
    """What the readings of a beam are held against; *taken*: those of the phase that stand
    already.
    """
    setup = setup_at(record, booking, beam, phase, traffic)
    flux_known = (
        setup is not None and setup.rated_volts == booking.volts
    )  # else how bright it should be is not known
    return slips.KnownBeam(
        likeness(setup) if setup and flux_known else None,
        beam.function,
        traffic,
        booking.volts,
        slips.usual_volts(taken.values()),
    )


def seated(setup: SetUp, clock_deg: float, depth_mm: float | None) -> SetUp:
    """A set-up with its bulb as it sits: turned so far, its chips so far above the reference plane
    (None: as told).
    """
    base = find(setup.base)
    off = (
        depth_mm - base.lcl_mm
        if depth_mm is not None and base and base.lcl_mm is not None
        else setup.axial
    )
    return replace(setup, clock=clock_deg, axial=off)


def pattern(setup: SetUp, function: Function, traffic: Traffic) -> dict[str, float]:
    """The modelled candela at each named place, as a meter's head reads it at 10 m."""
    beam = beam_of(setup)
    candela = {"peak": derived.peak(beam).candela}
    for name in PLACES[function]:
        candela[name] = derived.meter_candela(beam, *direction(name, traffic, function), 10.0)
    return candela
