"""Ten kinds of slips, each caught before it is saved; honest readings are left alone. Rates are
printed.
"""

import math
from collections import Counter
from dataclasses import replace

import numpy as np
import pytest

from cold_arc.core.beam import derived
from cold_arc.core.beam.report import beam_of
from cold_arc.core.beam.setup import SetUp
from cold_arc.core.light import photometry
from cold_arc.core.metering import readings, slips
from cold_arc.core.metering.peak import Likeness
from cold_arc.core.metering.readings import WallReading
from cold_arc.core.metering.slips import ALIKE, FACTORS, KnownBeam

LAMPS = [
    ("reflector", "H7", False),
    ("reflector", "H4", True),
    ("projector", "H11", False),
    ("lens-optic", "H7", False),
    ("vol-reflector", "H11", False),
    ("fog-projector", "H11", False),
]
KINDS = (*FACTORS, "sides", "exchanged", "sag", "saturated")
FALSE_ALARMS, JOBS = 0.02, 240


def jobs(count, seed):
    """Honest readings of lamps hazed, worn, aimed off and fitted with LEDs a little off their
    seat.
    """
    rng = np.random.default_rng(seed)
    for number in range(count):
        housing, base, high = LAMPS[number % len(LAMPS)]
        function = "fog" if housing.startswith("fog") else "high" if high else "low"
        led = number % 3 == 2
        likeness = Likeness(
            beam_of(SetUp(housing, base, high=high, source="led" if led else "nominal"))
        )
        odd = {"clock": 5.0 * (number % 2), "axial": 0.2} if led else {"haze": 0.1 * (number % 2)}
        true = beam_of(SetUp(housing, base, high=high, source="led" if led else "nominal", **odd))
        off, bright = (rng.normal(0, 0.4), rng.normal(0, 0.25)), math.exp(rng.normal(0, 0.25))
        yield KnownBeam(likeness, function, volts=13.2), honest(true, function, off, bright, rng)


def honest(true, function, off, bright, rng):
    taken = {}
    for point in readings.POINTS:
        across, down = readings.place(point, 10.0, "right", function)
        h, v = (float(it) for it in derived.wall_direction(across, down, 10.0))
        if point == "peak":
            top = derived.peak(true)
            h, v = top.h_deg + off[0], top.v_deg + off[1]
            across, down = derived.wall_place(h, v, 10.0)
        candela = derived.meter_candela(true, h - off[0], v - off[1], 10.0)
        lux = photometry.wall_lux(candela * bright, 10.0, across, down) * (1 + rng.normal(0, 0.02))
        taken[point] = WallReading(
            point,
            round(lux, 1),
            10.0,
            13.2,
            across_m=across,
            drop_m=down,
            meter="b",
            range_factor=10,
        )
    return taken


def injected(kind, taken, rng):
    """The readings with one slip; None where it would change next to nothing."""
    point = rng.choice(["peak", "below", "edge", "right"])
    if kind in FACTORS:
        return taken | {point: replace(taken[point], lux=taken[point].lux * FACTORS[kind][0])}
    if kind == "sag":
        return taken | {point: replace(taken[point], volts=12.3)}
    if kind == "saturated":
        return taken | {point: replace(taken[point], lux=1999.0, range_factor=1, meter="c")}
    one, other = ("left", "right") if kind == "sides" else ("peak", "stray")
    if abs(math.log(taken[one].lux / taken[other].lux)) < math.log(2.5):
        return None
    return taken | {
        one: replace(taken[one], lux=taken[other].lux),
        other: replace(taken[other], lux=taken[one].lux),
    }


def is_caught(kind, found):
    return any(kind in (slip.kind, ALIKE.get(slip.kind)) for slip in found)


@pytest.mark.parametrize("count", [30, pytest.param(JOBS, marks=pytest.mark.thorough)])
def test_ten_kinds_are_caught_and_honest_readings_left_alone(capsys, count):
    rng, tried, caught, alarms = np.random.default_rng(3), Counter(), Counter(), 0
    for known, taken in jobs(count, 11):
        alarms += bool(slips.slips(taken, known))
        for kind in KINDS:
            wrong = injected(kind, taken, rng)
            if wrong is not None:
                tried[kind] += 1
                caught[kind] += is_caught(kind, slips.slips(wrong, known))
    with capsys.disabled():
        print(
            "\n  slips caught: "
            f"{', '.join(f'{kind} {caught[kind]}/{tried[kind]}' for kind in KINDS)}"
        )
        print(f"  false alarms: {alarms} of {count} jobs")
    assert len(KINDS) == 10
    assert all(tried[kind] >= count // 6 for kind in KINDS)
    assert caught == tried
    assert alarms / count < FALSE_ALARMS


def one_lamp():
    return next(iter(jobs(1, 5)))


def test_the_reading_meant_is_offered_to_tap():
    known, taken = one_lamp()
    wrong = taken | {"below": replace(taken["below"], lux=taken["below"].lux / 10)}
    slip, *_ = slips.slips(wrong, known)
    assert slip.places == ("below",)
    assert dict(slip.meant)["below"] == pytest.approx(taken["below"].lux)
    assert slip.typed("below").endswith(" lx x1")


def test_a_range_that_stood_wrong_all_along_is_asked_once():
    known, taken = one_lamp()
    slip, *_ = slips.slips(
        {name: replace(it, lux=it.lux * 10) for name, it in taken.items()}, known
    )
    assert set(slip.places) == set(taken)


def test_even_the_first_reading_is_weighed():
    known, taken = one_lamp()
    assert slips.slips({"peak": taken["peak"]}, known) == []
    slip, *_ = slips.slips({"peak": replace(taken["peak"], lux=taken["peak"].lux / 100)}, known)
    assert slip.kind in ("hundredth", "tenth")


@pytest.mark.parametrize(
    ("nominal_v", "alone_v", "charged_v"), [(6.0, 6.0, 6.3), (12.0, 12.7, 12.8), (24.0, 25.5, 25.6)]
)
def test_a_battery_alone_is_asked_about(nominal_v, alone_v, charged_v):
    """A full battery at rest gives some 2.13 V a cell (common practice, no published source)."""
    known, taken = one_lamp()
    known = replace(known, volts=None, nominal_v=nominal_v)
    slip, *_ = slips.slips({"peak": replace(taken["peak"], volts=alone_v)}, known)
    assert slip.kind == "sag"
    charged = replace(taken["peak"], volts=charged_v)
    assert all(slip.kind != "sag" for slip in slips.slips({"peak": charged}, known))


def test_a_held_display_is_asked_about():
    known, taken = one_lamp()
    held = {
        name: replace(it, lux=312.0)
        for name, it in taken.items()
        if name in ("peak", "edge", "left")
    }
    assert "saturated" in {slip.kind for slip in slips.slips(held, replace(known, likeness=None))}


def test_without_a_modelled_beam_only_what_is_plain_is_asked():
    known, taken = one_lamp()
    wrong = taken | {"below": replace(taken["below"], lux=taken["below"].lux / 10)}
    assert slips.slips(wrong, replace(known, likeness=None)) == []


def test_what_no_lamp_of_its_kind_gives_is_asked_about_modelled_or_not():
    """143 000 cd of a fog lamp; 89 000, as a strong LED was read at, is not (common practice, no
    published source).
    """
    unknown = slips.KnownBeam(None, "fog", volts=13.2)
    read = {"peak": WallReading("peak", 2463, 7.62, 13.2)}
    (asked,) = slips.slips(read, unknown)
    assert asked.kind == "beyond"
    assert asked.meant_lux("peak") == pytest.approx(246.3)
    assert slips.slips({"peak": WallReading("peak", 1529, 7.62, 13.2)}, unknown) == []
