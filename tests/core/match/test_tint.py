"""A tinted lens at Match: the colour that leaves the lamp is judged, and its light counted. UN R48
colours, from memory; metals' reflectances from lighting handbooks, from memory.
"""

from dataclasses import replace

import pytest

from cold_arc.core.car.condition import as_new, findings
from cold_arc.core.car.lamps import Function, Present
from cold_arc.core.findings import Level
from cold_arc.core.light import colour, filters
from cold_arc.core.match import judge
from cold_arc.core.match.light import own_through_tint
from tests.core.match.lamps import GOOD, REFLECTOR, UNIT, lamp, setup


def tinted(setting, tint):
    return replace(setting, condition=replace(setting.condition, tint=tint))


def through(source, setting):
    return [finding for finding in judge(source, setting).findings if finding.id == "tint-colour"]


@pytest.mark.parametrize(
    ("functions", "tint", "cct_k", "level"),
    [
        ((Function.FOG,), "yellow", 6000.0, Level.STOP),
        ((Function.FOG,), "yellow", 3000.0, Level.NOTE),
        ((Function.LOW,), "yellow", 3000.0, Level.STOP),
        ((Function.LOW,), "smoke", 6000.0, Level.NOTE),
        ((Function.LOW,), "blue", 6000.0, Level.STOP),
    ],
)
def test_the_colour_that_leaves_the_lamp_is_judged(functions, tint, cct_k, level):
    [finding] = through(replace(GOOD, cct_k=cct_k), tinted(lamp(*functions), tint))
    assert finding.level is level


def test_a_clear_lens_and_a_lamp_that_leaves_are_not_spoken_of():
    assert through(GOOD, REFLECTOR) == []
    assert through(UNIT, tinted(REFLECTOR, "yellow")) == []


def test_a_new_housing_has_a_clear_lens():
    assert as_new(tinted(REFLECTOR, "yellow").condition).tint == "none"


def test_a_tint_takes_of_each_source_what_its_spectrum_has_there():
    smoked, yellow = (tinted(REFLECTOR, tint) for tint in ("smoke", "yellow"))
    assert setup(GOOD, smoked).gain == pytest.approx(0.4)
    assert setup(None, smoked).gain == pytest.approx(0.4)
    assert setup(None, yellow).gain > setup(GOOD, yellow).gain
    assert setup(GOOD).gain == 1.0


def test_a_chrome_mirror_is_named_with_what_it_loses():
    chrome = replace(REFLECTOR.condition, finish="chrome")
    assert any(
        one.id == "mirror-finish" and "chrome" in one.values["finish"] for one in findings(chrome)
    )
    bright = replace(REFLECTOR, condition=replace(chrome, finish="silver"))
    assert setup(GOOD, bright).gain > 1 > setup(GOOD, replace(REFLECTOR, condition=chrome)).gain


@pytest.mark.parametrize(
    ("function", "present", "tint", "legal"),
    [
        (Function.LOW, Present.HALOGEN, "none", True),
        (Function.LOW, Present.HALOGEN, "yellow", False),
        (Function.FOG, Present.HALOGEN, "yellow", True),
        (Function.LOW, Present.HID, "yellow", False),
        (Function.LOW, Present.LED, "yellow", True),  # its colour is not to be guessed
    ],
)
def test_a_lamps_own_light_through_its_glass_is_judged_where_it_is_kept(
    function, present, tint, legal
):
    setting = tinted(lamp(function), tint)
    setting = replace(setting, socket=replace(setting.socket, present=present))
    judged = own_through_tint(setting)
    assert (judged == []) is legal
    assert all(finding.level is Level.STOP for finding in judged)


def test_what_a_colour_lacks_is_told_of_the_colour_its_lamp_must_show():
    """UN R48: a turn signal shines amber; each bound it breaks is told once."""
    [signal] = through(replace(GOOD, cct_k=3000.0), tinted(lamp(Function.TURN), "blue"))
    assert signal.values["faults"] == ", ".join(
        colour.amber_faults(*filters.through(3000.0, "blue"))
    )
    [own] = own_through_tint(tinted(REFLECTOR, "yellow"))
    faults = own.values["faults"].split(", ")
    assert len(set(faults)) == len(faults)


@pytest.mark.parametrize(
    ("base", "colour_of", "level"),
    [
        ("PY21W", "white", Level.STOP),
        ("P21W", "white", Level.CAUTION),
        ("PY21W", "amber", None),
    ],
)
def test_white_light_is_no_turn_signal_behind_a_clear_lens(base, colour_of, level):
    """UN R48 5.15: amber; an amber bulb stands behind a clear lens (common practice)."""
    bulb = replace(GOOD, base=base, colour=colour_of)
    told = judge(bulb, lamp(Function.TURN, base=base)).findings
    assert [finding.level for finding in told if finding.id == "turn-white"] == (
        [level] if level else []
    )
