"""Typed numbers: what is clear to a person, what can be read two ways, what is refused, and what
the program itself says.

Unit sizes are exact by definition (1 in = 25.4 mm, 1 fc = 1 lm/ft²); ways of writing: common
practice, no published source.
"""

import contextlib
import math

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from cold_arc.core import units
from cold_arc.core.beam.setup import LIMITS as BENCH
from cold_arc.core.light_source import LIMITS as SHELF
from cold_arc.core.units import AmbiguousError, NotUnderstoodError, UnitSystem, Within
from cold_arc.core.units.figures import figures, write_figure
from cold_arc.core.units.quantities import (
    ClockAngle,
    Distance,
    Lux,
    Mark,
    Offset,
    Quantity,
    Sideways,
    Slope,
)
from cold_arc.core.units.text import tidy

FC = 1 / 0.3048**2


def slope(text, distance_m=10.0):
    return units.parse_slope(text, distance_m)


def volts(text, within=None):
    return units.parse_number(text, within, "V")


def tangent(degrees):
    return math.tan(math.radians(degrees))


@pytest.mark.parametrize(
    ("text", "meant"),
    [
        ("410", (410,)), ("0410", (410,)), ("13,8", (13.8,)), ("13.8", (13.8,)), (",5", (0.5,)),
        (".5", (0.5,)),
        ("1 013", (1013,)), ("1'013", (1013,)), ("10 000", (10000,)), ("1,013.5", (1013.5,)),
        ("1.013,5", (1013.5,)),
        ("1 013,5", (1013.5,)), ("1,000,000", (1000000,)), ("1.013.500", (1013500,)),
        ("0,013", (0.013,)),
        ("1,0130", (1.013,)), ("12,34", (12.34,)), ("1234,567", (1234.567,)),
        ("1,013", (1013, 1.013)),
        ("1.500", (1500, 1.5)), ("10,000", (10000, 10)), ("1/2", (0.5,)), ("2 3/8", (2.375,)),
        ("2-1/2", (2.5,)),
    ],
)  # fmt: skip
def test_a_separator_is_told_by_its_place(text, meant):
    assert figures(text) == pytest.approx(meant)


@pytest.mark.parametrize(
    "text",
    [
        "1,00,000",
        "1,0000,000",
        "0,013,000",
        "1,2,3",
        "1..5",
        "12 34",
        "7,",
        "1/0",
        "1/80",
        "2 3/2",
        "9" * 30,
    ],
)
def test_a_figure_with_its_separators_wrong_is_none(text):
    with pytest.raises(NotUnderstoodError):
        figures(text)


@given(st.floats(-1e7, 1e7))
def test_a_figure_written_has_one_meaning(value):
    text = write_figure(round(value, 6))
    assert figures(text.lstrip("-")) == (pytest.approx(abs(round(value, 6))),)


LENGTHS = {
    "25 ft": 7.62, "25 ft.": 7.62, "25 feet": 7.62, "25 Foot": 7.62, "25′": 7.62, "２５ ft": 7.62,
    "7.62 metres": 7.62,
    "7,62 meter": 7.62, "2 in.": 0.0508, "2 inches": 0.0508, "3''": 0.0762, "3″": 0.0762,
    "3”": 0.0762,
    "2 1/2 in": 0.0635, "2-1/2 in": 0.0635, "2½ in": 0.0635, "2 ½ in": 0.0635, "½ in": 0.0127,
    "3/8\"": 0.009525,
    "5' 3\"": 1.6002, "5'3\"": 1.6002, "5′-3″": 1.6002, "5 ft 3 in": 1.6002, "5ft3": 1.6002,
    ("5' " "3 1/2\""): 1.6129,
    "1 m 20 cm": 1.2, "1 m 2 cm 3 mm": 1.023, "- 3 cm": -0.03, "−3 cm": -0.03, "＋3 ㎝": 0.03,
    "1 013 mm": 1.013,
    "1\u2009013 mm": 1.013, "1\u202f013 mm": 1.013, "1’013 mm": 1.013, "1.013,5 mm": 1.0135,
    "7.62 m, 25 ft": 7.62,
}  # fmt: skip


@pytest.mark.parametrize("typed", LENGTHS)
def test_lengths_clear_to_a_person(typed):
    assert units.parse_length(typed) == pytest.approx(LENGTHS[typed])


READINGS = {
    "410": 410, "410 lx.": 410, "410 Lux": 410, "41 x10": 410, "41 × 10": 410, "41 lx x10": 410,
    "41 x10 lx": 410,
    "4.1 on x100": 410, "2.5 klx": 2500, "2.5k": 2500, "2.5 kilolux": 2500, "38 fc": 38 * FC,
    "38 foot-candles": 38 * FC,
    "38 footcandle": 38 * FC, "38 foot candles": 38 * FC, "4 1/2 fc": 4.5 * FC, "1 013 lx": 1013,
    "1'013 lx": 1013,
}  # fmt: skip


@pytest.mark.parametrize("typed", READINGS)
def test_readings_clear_to_a_person(typed):
    assert units.parse_illuminance(typed) == pytest.approx(READINGS[typed])


SLOPES = {
    "34'": -tangent(34 / 60), "0° 34'": -tangent(34 / 60), "34 min": -tangent(34 / 60),
    "1 deg 10 minutes": -tangent(70 / 60),
    "0.4º": -tangent(0.4), "0.4˚ up": tangent(0.4), "- 1.2 %": -0.012, "1.2 per cent": -0.012,
    "1.2 ％ up": 0.012,
    "under 8 cm": -0.008, "8 cm lower": -0.008, "8 cm too low": -0.008, "2 in too high": 0.00508,
    "8 beneath": -0.008,
    "2 in at 25 ft": -2 / 300, "2\" at 25'": -2 / 300, "10 cm above the lamp's height": 0.01,
    "level": 0.0,
}  # fmt: skip


@pytest.mark.parametrize("typed", SLOPES)
def test_slopes_clear_to_a_person(typed):
    assert slope(typed) == pytest.approx(SLOPES[typed])


CLOCKS = {
    "20 cw": 20, "20° clockwise": 20, "20 ccw": -20, "20 acw": -20, "20 counterclockwise": -20,
    "20 anti-clockwise": -20,
    "cw 20": 20, "-20°": -20, "- 20": -20, "1 o'clock": 30, "1 o’clock": 30, "11 oclock": -30,
    "1:30 o'clock": 45,
    "1.5 o'clock": 45, "10.5 o'clock": -45, "1,5 o'clock": 45, "1 1/2 o'clock": 45,
    "3.00 o'clock": 90, "3:30": 105, "12 o'clock": 0, "upright": 0, "3 cw": 3, "3°": 3,
    "1° 30' ccw": -1.5, "20": 20, "0": 0,
}  # fmt: skip


@pytest.mark.parametrize("typed", CLOCKS)
def test_clock_angles_clear_to_a_person(typed):
    assert units.parse_clock_angle(typed) == pytest.approx(CLOCKS[typed])


PLAIN = [
    ("13.8 VDC", "V", 13.8), ("13,8 volts", "V", 13.8), ("13.8 v d.c.", "V", 13.8),
    ("55 watts", "W", 55),
    ("140 °F", "°C", 60), ("60 deg C", "°C", 60), ("60℃", "°C", 60), ("2.5 sq mm", "mm²", 2.5),
    ("2.5 mm2", "mm²", 2.5),
    ("1 h 20 min", "min", 80), ("6500 K", "K", 6500), ("85 %", "%", 85), ("1½ turns", "turns", 1.5),
    ("6 cm", "mm", 60), ("2 1/2 in", "mm", 63.5), ("1500 lumens", "lm", 1500),
    ("100 Hz", "Hz", 100),
]  # fmt: skip


@pytest.mark.parametrize(("typed", "unit", "value"), PLAIN)
def test_plain_figures_may_carry_their_unit(typed, unit, value):
    assert units.parse_number(typed, unit=unit) == pytest.approx(value)


TWO_WAYS = [
    (units.parse_illuminance, "1,013 lx", {1013, 1.013}),
    (units.parse_illuminance, "1.013 lx", {1013, 1.013}),
    (units.parse_length, "1,500 mm", {1.5, 0.0015}),
    (units.parse_length, "10,000", {10000, 10}),
    (units.parse_number, "2,000", {2000, 2}),
    (units.parse_clock_angle, "3", {3, 90}),
    (units.parse_clock_angle, "1.30 o'clock", {39, 45}),
    (units.parse_clock_angle, "12.25 o'clock", {7.5, 12.5}),
    (units.parse_clock_angle, "12", {12, 0}),
    (slope, "2'", {-0.06096, -tangent(2 / 60)}),
    (lambda text: units.parse_illuminance(text, 10), "410 lx", {410, 4100}),
    (lambda text: units.parse_illuminance(text, 10, display=False), "5", {5, 50}),
]


@pytest.mark.parametrize(("parse", "typed", "values"), TWO_WAYS)
def test_what_can_be_read_two_ways_is_asked_back(parse, typed, values):
    with pytest.raises(AmbiguousError) as asked:
        parse(typed)
    assert sorted(meaning.value for meaning in asked.value.meanings) == pytest.approx(
        sorted(values)
    )
    for meaning in asked.value.meanings:
        assert parse(meaning.text) == pytest.approx(meaning.value), (
            "a reading tapped means itself alone"
        )
        assert meaning.text in str(asked.value)


def test_what_is_plausible_for_the_field_settles_it():
    assert units.parse_length("1,500 mm", within=Within(0.5, 60, "between 0.5 and 60 m")) == 1.5
    assert units.parse_length("7.620 m", within=Within(0.5, 60, "")) == 7.62
    assert volts("13,800", Within(3, 32, "")) == 13.8
    with pytest.raises(NotUnderstoodError, match=r"Must be near; this reads as 1200 m"):
        units.parse_length("1'200", within=Within(0.5, 60, "near"))


def test_a_meters_range_multiplies_its_display_and_nothing_else():
    assert units.parse_illuminance("41", 10) == 410
    assert units.parse_illuminance("41 x100", 10) == 4100
    assert units.parse_illuminance("410 lx x1", 10) == 410


REFUSED = [
    (units.parse_length, "5' -3\""), (units.parse_length, "5' 14\""),
    (units.parse_length, "1 m 20"), (units.parse_length, "1 m 200 cm"),
    (units.parse_length, "2 cm 1 m"), (units.parse_length, "1 m 3 in"),
    (units.parse_length, "2² m"), (units.parse_length, "1e5 m"),
    (units.parse_length, "1.5 ft 3 in"), (units.parse_length, "7.62 m, 26 ft"),
    (units.parse_length, "9" * 400),
    (units.parse_illuminance, "-5"), (units.parse_illuminance, "41 x"),
    (units.parse_illuminance, "41 x " + "9" * 400),
    (units.parse_illuminance, "0 x 3"), (units.parse_illuminance, "4 fc x10 lx"),
    (units.parse_illuminance, "41 x7"),
    (volts, "12 V AC"), (volts, "twelve"), (slope, "down up 8"), (slope, "-8 cm up"),
    (slope, "8 cm left"),
    (slope, "60°"), (slope, "179°"), (slope, "34 ft"), (slope, "1 in 80"), (slope, "1/80"),
    (slope, "8 lx"),
    (slope, "10 cm below · −2.00 %"), (units.parse_clock_angle, "-20 ccw"),
    (units.parse_clock_angle, "20 cw ccw"),
    (units.parse_clock_angle, "13 o'clock"), (units.parse_clock_angle, "400"),
    (units.parse_clock_angle, "1:75 o'clock"),
    (units.parse_code, "IQ67"),
]  # fmt: skip


@pytest.mark.parametrize(("parse", "typed"), REFUSED)
def test_contradictions_and_nonsense_are_refused_in_words(parse, typed):
    with pytest.raises(NotUnderstoodError) as refused:
        parse(typed)
    assert not isinstance(refused.value, AmbiguousError)
    assert len(str(refused.value)) > 10


@given(
    st.text(st.sampled_from("0123456789.,' \"/-+xkmcfinlupdowne°%·:"), max_size=12)
    | st.text(max_size=20)
)
def test_any_text_is_understood_asked_back_or_refused(text):
    for parse in (
        units.parse_length,
        units.parse_illuminance,
        units.parse_clock_angle,
        slope,
        units.parse_number,
    ):
        with contextlib.suppress(NotUnderstoodError):
            assert math.isfinite(parse(text))


@given(
    st.integers(1, 999),
    st.integers(0, 999),
    st.sampled_from(",."),
    st.sampled_from(["", " lx", " mm"]),
)
def test_no_figure_with_two_readings_is_ever_accepted(thousands, rest, mark, unit):
    parse = units.parse_length if unit == " mm" else units.parse_illuminance
    with pytest.raises(AmbiguousError):
        parse(f"{thousands}{mark}{rest:03d}{unit}")


FAR = {"distance": 10.0, "range_factor": "1"}
SYSTEMS = st.sampled_from(list(UnitSystem))
QUANTITIES = [
    *{it.name: it for it in (*SHELF.values(), *BENCH.values())}.values(),
    Quantity(0, 600, "min"), Quantity(-40, 140, "°C"), Quantity(0.2, 35, "mm²"),
    Quantity(1, 20000, "Hz"), Quantity(1, 100, "%"),
    Quantity(-50, 50, "turns"), Distance(0.5, 60), Lux(0, 200_000), Offset(-5, 5),
    Offset(-5, 5, ways=("DOWN", "UP")),
    Slope(), Sideways(), ClockAngle(),
]  # fmt: skip


@pytest.mark.parametrize("quantity", QUANTITIES, ids=lambda it: it.name)
@given(data=st.data(), system=SYSTEMS)
def test_what_is_said_and_what_is_written_can_be_typed_back(quantity, data, system):
    """Every quantity a form asks for, both unit systems: the echo within its rounding, the form's
    own text exactly.
    """
    value = data.draw(
        st.integers(int(quantity.low), int(quantity.high))
        if quantity.whole
        else st.floats(quantity.low, quantity.high)
    )
    if isinstance(quantity, ClockAngle):
        assume(value > -179.5)
    said = quantity.say(value, system, FAR)
    coarse = max(0.0051 * abs(value), 0.51 if isinstance(quantity, ClockAngle) else 0.0013)
    low, high = quantity.low - coarse, quantity.high + coarse
    again = type(quantity)(**{**vars(quantity), "low": low, "high": high})
    assert again.read(said, system, FAR) == pytest.approx(value, abs=coarse)
    if not quantity.needs or isinstance(quantity, Lux):
        exact = round(value, 3)
        assume(quantity.low <= exact <= quantity.high)
        written = quantity.write(exact)
        assert quantity.read(written, system, FAR | {"range_factor": "10"}) == pytest.approx(
            exact, abs=1e-9
        )


@given(st.floats(0.01, 200_000), SYSTEMS, st.floats(1, 40), st.floats(-0.2, 0.2))
def test_every_way_of_saying_can_be_typed_back(value, system, distance_m, aim):
    near = {"rel": 0.006, "abs": 0.06}
    said = units.say_lux(value)
    assert units.parse_illuminance(said) == pytest.approx(value, **near)
    assert units.parse_length(units.say_distance(distance_m, system)) == pytest.approx(
        distance_m, rel=0.006
    )
    assert units.parse_length(units.say_offset(aim, system)) == pytest.approx(aim, abs=0.0014)
    assert units.parse_length(
        units.say_mm(value, signed=True), within=Within(0, 201, "")
    ) == pytest.approx(value / 1000, abs=6e-5)
    assert units.parse_number(units.say_percent(aim, 2, signed=True), unit="%") == pytest.approx(
        aim * 100, abs=0.006
    )
    assert units.parse_number(units.say_degrees(aim * 100, 1), unit="°") == pytest.approx(
        aim * 100, abs=0.06
    )
    assert volts(units.say_volts(distance_m)) == pytest.approx(distance_m, rel=0.006)
    assert units.parse_number(units.say_number(value, 4)) == pytest.approx(value, **near)
    assert slope(units.say_slope(aim, distance_m, system), distance_m) == pytest.approx(
        aim, abs=0.0014 / distance_m
    )


def test_tidied_text_keeps_what_it_cannot_read():
    assert tidy("２½ In.") == "2 1/2 in"
    assert tidy("5²") == "5²"
    assert tidy("4\u200b2") == "42"


def test_saying():
    assert units.say_candela(40999.6) == "41\u00a0000\u00a0cd"
    assert units.say_lux(0.44) == "0.44\u00a0lx"
    assert units.say_percent(6.976, signed=True) == "+698\u00a0%"
    assert units.say_distance(7.62, UnitSystem.INCH) == "25\u00a0ft"
    assert units.say_offset(0.0508, UnitSystem.INCH) == "2.0\u00a0in"
    assert units.say_clock_angle(-20) == "20° anticlockwise"
    assert units.say_percent(-0.00001, signed=True) == "0\u00a0%"
    assert units.say_number(1.234, 4) == "1.23", (
        "three decimals behind whole units could be thousands"
    )
    assert units.say_slope(0.01, 10, UnitSystem.METRIC).endswith("+1.00\u00a0% · +0.57°")


def test_a_figure_too_large_for_its_range_is_asked_about_not_taken_for_the_other():
    """100,000 on ×10 is a million lux, more than any lamp: that it means 100 is no better guess."""
    within = units.Within(0, 200_000, "up to 200 000 lx")
    with pytest.raises(AmbiguousError) as asked:
        units.parse_illuminance("100,000", 10, within)
    assert [meaning.value for meaning in asked.value.meanings] == [1_000_000, 1000]
    assert units.parse_illuminance("100 lx x10", 10, within) == 1000


@pytest.mark.parametrize(
    ("typed", "slope_of_it"),
    [
        ("1.2", -0.012),
        ("1,2", -0.012),
        ("1.2 %", -0.012),
        ("12 cm", -0.012),
        ("0.6875 deg", -0.012),
    ],
)
def test_a_makers_mark_is_per_cent_where_no_unit_is_told(typed, slope_of_it):
    """Marks beside a lamp's emblem are per cent (UN R48 6.2.6.1.1, from memory)."""
    mark = Mark(id="mark").read(typed, UnitSystem.METRIC, {"distance": 10.0})
    assert mark == pytest.approx(slope_of_it, rel=1e-3)
