"""Numbers as people write them. Conversions are exact by definition: 1 in = 25.4 mm, 1 fc = 1 lm/ft²."""

import contextlib
import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cold_arc.core import units
from cold_arc.core.units import NotUnderstood, UnitSystem


@pytest.mark.parametrize(
    ("typed", "metres"),
    [
        ("7.62m", 7.62),
        ("25 ft", 7.62),
        ("25'", 7.62),
        ("7,62 m", 7.62),
        ("2' 4\"", 0.7112),
        ("2 in", 0.0508),
        ("41 cm", 0.41),
        ("410 mm", 0.41),
        ("5' 6", 1.6764),
        ("10", 10.0),
        ("−3 cm", -0.03),
    ],
)
def test_lengths(typed, metres):
    assert units.parse_length(typed) == pytest.approx(metres)


@pytest.mark.parametrize(
    ("typed", "lux"),
    [
        ("410", 410),
        ("41 x10", 410),
        ("41x10", 410),
        ("250 ×10", 2500),
        ("2.5 klx", 2500),
        ("38 fc", 38 * 10.7639104),
        ("4 fc x10", 40 * 10.7639104),
    ],
)
def test_illuminance(typed, lux):
    assert units.parse_illuminance(typed) == pytest.approx(lux)


def test_a_written_factor_takes_the_place_of_the_meters_range():
    assert units.parse_illuminance("41", range_factor=10) == 410
    assert units.parse_illuminance("41 x100", range_factor=10) == 4100


@pytest.mark.parametrize(
    ("typed", "slope"),
    [
        ("-1.2%", -0.012),
        ("1.2 %", -0.012),
        ("1.2% up", 0.012),
        ("10 cm", -0.01),
        ("10 cm down", -0.01),
        ("+10 cm", 0.01),
        ("2 in up", 0.00508),
        ("0.4°", -math.tan(math.radians(0.4))),
        ("0", 0.0),
    ],
)
def test_slopes_at_ten_metres(typed, slope):
    assert units.parse_slope(typed, 10.0) == pytest.approx(slope)


@pytest.mark.parametrize(
    ("typed", "degrees"),
    [("20", 20), ("20 cw", 20), ("20 ccw", -20), ("-20°", -20), ("1 o'clock", 30), ("11 o'clock", -30), ("350", -10)],
)
def test_clock_angles(typed, degrees):
    assert units.parse_clock_angle(typed) == pytest.approx(degrees)


@pytest.mark.parametrize(
    ("parse", "typed"),
    [
        (units.parse_length, "far"),
        (units.parse_length, ""),
        (units.parse_length, "9" * 400),
        (units.parse_illuminance, "-5"),
        (units.parse_illuminance, "41 x"),
        (units.parse_illuminance, "4 fc x10 lx"),
        (units.parse_number, "1e5"),
        (units.parse_number, "nan"),
        (units.parse_volts, "twelve"),
        (lambda text: units.parse_slope(text, 10.0), "-8 cm up"),
        (lambda text: units.parse_slope(text, 10.0), "60°"),
        (lambda text: units.parse_slope(text, 10.0), "8 lx"),
        (units.parse_clock_angle, "13 o'clock"),
        (units.parse_clock_angle, "400"),
    ],
)
def test_nonsense_is_refused_in_words(parse, typed):
    with pytest.raises(NotUnderstood) as refused:
        parse(typed)
    assert len(str(refused.value)) > 10


@given(st.text(max_size=30))
def test_any_text_is_understood_or_refused(text):
    for parse in (units.parse_length, units.parse_illuminance, units.parse_clock_angle, units.parse_volts):
        with contextlib.suppress(NotUnderstood):
            assert math.isfinite(parse(text))


@given(st.floats(-0.2, 0.2), st.floats(1, 40))
def test_an_offset_said_reads_back_as_the_same_slope(slope, distance_m):
    said = units.say_slope(slope, distance_m, UnitSystem.METRIC).split("·")[0]
    if "level" not in said:
        read = units.parse_slope(said.replace("lamp height", "").strip(), distance_m)
        assert read == pytest.approx(slope, abs=0.0006 / distance_m)


def test_saying():
    assert units.say_candela(40999.6) == "41\u00a0000\u00a0cd"
    assert units.say_lux(0.44) == "0.44\u00a0lx"
    assert units.say_percent(6.976, signed=True) == "+698\u00a0%"
    assert units.say_distance(7.62, UnitSystem.INCH) == "25\u00a0ft"
    assert units.say_offset(0.0508, UnitSystem.INCH) == "2.0\u00a0in"
    assert units.say_clock_angle(-20) == "20° anticlockwise"
    assert units.say_percent(-0.00001) == "0\u00a0%"
