"""The lamp in hand in place of a typical one of its kind: its housing fitted to what Baseline read
of it.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from contextlib import suppress
from dataclasses import replace
from functools import lru_cache

from cold_arc.core.beam.derived import wall_direction
from cold_arc.core.beam.fitted import LEAST_READINGS, BeamReading, HousingFit, fit_housing
from cold_arc.core.beam.setup import SetUp, SetUpError
from cold_arc.core.car.keys import BeamKey
from cold_arc.core.car.lamps import Function
from cold_arc.core.job.entries.kind import AimPhase, Phase
from cold_arc.core.job.entries.readings import Rastered
from cold_arc.core.job.entries.wall_read import HousingRead
from cold_arc.core.job.record import Record
from cold_arc.core.match.doubt import TYPICAL_HOUSING
from cold_arc.core.match.remembered import Remembered
from cold_arc.core.metering.readings import WallReading, words

Asked = tuple[SetUp, tuple[BeamReading, ...], float | None]
FITS: Remembered[Asked, HousingFit | None] = Remembered("fits", 200)
# A raster is fitted by the brightest reading of each part of the wall so large, degrees; and by so
# many (own).
PART_DEG, MOST_SPREAD = (3.0, 1.0), 30


def measured_of(record: Record, key: BeamKey) -> tuple[BeamReading, ...]:
    """What was read of a beam before, warm, as directions and candela; of a raster some places
    spread over it.
    """
    named = _measured(record.readings(key, Phase.BEFORE), key.function)
    rastered = [raster for raster in record.all(Rastered, key) if raster.phase == Phase.BEFORE]
    return (*named, *(_spread(rastered[-1].readings) if rastered else ()))


def _spread(taken: Sequence[WallReading]) -> Iterator[BeamReading]:
    """Some of many readings: the brightest of each part of the wall, that dark corners weigh no
    more than the beam.
    """
    parts: dict[tuple[int, int], BeamReading] = {}
    for one in taken:
        h, v = (float(part) for part in wall_direction(one.across_m, one.drop_m, one.distance_m))
        part = round(h / PART_DEG[0]), round(v / PART_DEG[1])
        if part not in parts or one.candela > parts[part].candela:
            parts[part] = BeamReading(one.point, one.candela, h, v)
    yield from sorted(parts.values(), key=lambda one: -one.candela)[:MOST_SPREAD]


def _measured(readings: dict[str, WallReading], function: Function) -> Iterator[BeamReading]:
    for name, reading in readings.items():
        if not reading.settled:
            continue
        if name == "peak" and not (reading.across_m or reading.drop_m):
            yield BeamReading(words(name, function), reading.candela, None, None)
            continue
        h, v = wall_direction(reading.across_m, reading.drop_m, reading.distance_m)
        yield BeamReading(words(name, function), reading.candela, float(h), float(v))


def asked_of(record: Record, key: BeamKey, present: SetUp) -> Asked:
    """What a fit of a beam's housing is made from: its own set-up on the supply it was read at,
    readings, cut-off.
    """
    before = record.readings(key, Phase.BEFORE)
    volts = next((reading.volts for reading in before.values()), None)
    try:
        burning = replace(present, volts=volts)
    except SetUpError:
        burning = present
    aimed = record.aimed(key, AimPhase.FOUND)
    return (
        burning,
        measured_of(record, key),
        math.degrees(math.atan(aimed.slope)) if aimed else None,
    )


def read_from_wall(record: Record, key: BeamKey) -> HousingFit | None:
    """A beam's housing as read from a photograph of its wall; None where none was, or it can't be
    built any more.
    """
    read = record.latest(HousingRead, key)
    return fit_from(read, "read from its wall") if read else None


# What the housings of two cars of one model still differ by, as a share of a hot spot (own).
ONE_MODEL = 0.12


def fit_alike(read: HousingRead, reference: str) -> HousingFit | None:
    """A housing that was read on another car of the same model, on the job of that *reference*."""
    fit = fit_from(read, f"as read on job {reference}")
    if fit is None:
        return None
    return replace(fit, left_over=math.hypot(fit.left_over, ONE_MODEL), is_own=False)


def fit_from(read: HousingRead, by: str) -> HousingFit | None:
    """A housing that was read as a fit, in words *by*."""
    try:
        lamp = read.lamp
        holding = lamp.holding(lamp.setup)
    except SetUpError:
        return None
    left_over = math.hypot(read.doubt, read.left_pct / 100)
    if not read.absolute:  # how bright it is nobody read
        left_over = math.hypot(left_over, TYPICAL_HOUSING)
    return HousingFit(holding, (), left_over, by, drawn=_drawn(read))


# So many lamps are drawn for a candidate's own doubt (own).
DRAWN = 8


@lru_cache(maxsize=16)
def _drawn(read: HousingRead) -> tuple[SetUp, ...]:
    """The set-up it was read with in lamps that agree as well with its wall; without those that are
    beyond what is modelled.
    """
    setups = []
    for lamp in read.lamp.drawn(DRAWN):
        with suppress(SetUpError):
            setups.append(lamp.holding(lamp.setup))
    return tuple(setups) if len(setups) > 1 else ()


def own_fit(
    record: Record, key: BeamKey, present: SetUp, compute: bool
) -> tuple[HousingFit | None, bool]:
    """A beam's own housing, by its wall where that was read, else by readings; and whether it is
    still to be fitted, which *compute* allows.
    """
    read = read_from_wall(record, key)
    if read is not None:
        return read, False
    asked = asked_of(record, key, present)
    if len(asked[1]) < LEAST_READINGS:
        return None, False
    fit = fit_of(asked, compute)
    return fit, fit is None


def fit_of(asked: Asked, compute: bool) -> HousingFit | None:
    """The fit, where it is known, or *compute* allows some half a second; None too for fewer
    readings than five.
    """
    if asked not in FITS and compute:
        return FITS.keep(asked, fit_housing(*asked))
    return FITS.get(asked)
