"""Every exercise has one best answer by the core's own measure, and is plainly so."""

from __future__ import annotations

import warnings
from dataclasses import replace

import numpy as np
import pytest

from cold_arc.core import law
from cold_arc.core.aim import judging
from cold_arc.core.beam.findings import above
from cold_arc.core.car import condition
from cold_arc.core.car.bases import find
from cold_arc.core.car.condition import UnitCondition
from cold_arc.core.car.identify import QUESTIONS
from cold_arc.core.findings import Level
from cold_arc.core.law import markets
from cold_arc.core.school.exercise import LEVELS, BeamsShown, LineShown, NoAnswerError, Posed
from cold_arc.core.school.skills import skills
from cold_arc.core.units import UnitSystem
from cold_arc.core.work import clocking, diagnosis
from cold_arc.core.work.diagnosis import faults
from cold_arc.core.work.interlocks import interlocks, wanted
from cold_arc.devices.simulated_car import SimulatedCar
from cold_arc.school import bases, beam_faults, beams, cars, comparing, taking, wall
from cold_arc.school.making import judge, make
from cold_arc.school.seeing import PLAIN_DB, alike_db, glance
from tests.thorough import THOROUGH, usual

# How plainly pictures of two answers differ: CIEDE2000 (CIE 142, from memory; by a library) over
# the tenth of the picture that differs most. About 1 is just seen (common practice).
PLAIN_DELTA_E = 4.0
SEEDS = range(200) if THOROUGH else range(2)
BEAM_SEEDS = range(40) if THOROUGH else range(1)
READ = [skill for skill in skills() if skill.startswith("read.")]
OTHERS = [skill for skill in skills() if not skill.startswith(("read.", "compare.", "line."))]


def right_answer(exercise):
    """What somebody who knows would answer."""
    shown = exercise.shown
    if exercise.posed.kind == "line":
        return f"{np.tan(np.radians(shown.stands_deg)):.6f}"
    if exercise.posed.kind == "collar":
        return f"{clocking.preset(shown.stopped_deg, shown.turns_alike).preset_deg}"
    if exercise.posed.kind == "screws":
        return solved(shown)
    if exercise.posed.kind == "fault":
        return searched(shown)
    if exercise.posed.kind == "take":
        return taken(exercise)
    return ",".join(sorted(exercise.right))


READIED = ("engine", "dark", "wait", "wait", "wait")


def taken(exercise, readied=READIED, ranges=("x1", "x10")):
    """Readied, then read place by place what the meter shows, on the first range that is not at its
    end.
    """
    answer = list(readied)
    for place in taking.PLACES:
        answer.append(place)
        for factor in ranges:
            if factor not in taking.is_so(taking.done(exercise, ";".join(answer))):
                answer.append(factor)
            shown = taking.lux_shown(exercise, taking.done(exercise, ";".join(answer)))
            if shown < float("inf"):
                break
        answer.append(f"={shown:g}")
    return ";".join(answer)


def searched(shown):
    """The table's own way to the fault."""
    way = cars.best_way(SimulatedCar(shown.fault, shown.number), shown.symptom)
    return ",".join(test for test, _ in way.answers) + f"|{diagnosis.verdict(way).id}"


def solved(shown):
    """Half a turn of each screw to learn what it does, then what is left of both at once."""
    trial = 0.5
    moves = [(trial, 0.0), (0.0, trial)] if shown.sideways else [(trial, 0.0)]
    wanted = np.array([shown.target.nominal, 0.0])
    while len(moves) < shown.par:
        stood = wall.turn(shown, tuple(moves)).stands
        does = np.array([shown.per_height, shown.per_side]).T
        turns = np.linalg.solve(does, wanted - np.array(stood))
        if not shown.sideways:
            turns[1] = 0.0
        last = [next((m[s] for m in reversed(moves) if m[s]), 0.0) for s in (0, 1)]
        turns = [
            t + np.sign(t) * shown.play * (t * w < 0) for t, w in zip(turns, last, strict=True)
        ]
        moves.append((round(float(turns[0]), 3), round(float(turns[1]), 3)))
        up, right = wall.turn(shown, tuple(moves)).stands
        if not shown.target.set.excess(up) and not (
            shown.sideways and shown.target.sideways_excess(right)
        ):
            break
    return ";".join(f"{height:g},{side:g}" for height, side in moves)


@pytest.mark.parametrize("level", usual(LEVELS, (1, 3, 5)))
@pytest.mark.parametrize("skill", OTHERS)
def test_who_knows_is_right_and_every_other_answer_is_wrong(skill, level):
    for seed in SEEDS:
        exercise = make(Posed(skill, level, seed))
        assert judge(exercise, right_answer(exercise)).right, (seed, exercise)
        if exercise.posed.kind in ("collar", "screws", "fault", "take"):
            continue
        assert exercise.right <= {option.id for option in exercise.options}
        assert len({option.text for option in exercise.options}) == len(exercise.options) > 2
        for option in exercise.options:
            wrong = judge(exercise, option.id)
            assert wrong.right == (exercise.right == {option.id})
            assert wrong.true


@pytest.mark.parametrize("level", usual(LEVELS, (5,)))
@pytest.mark.parametrize("skill", usual(READ, ("read.clock", "read.fine", READ[-1])))
def test_a_beam_to_be_read_looks_like_no_other_answer(skill, level):
    for seed in BEAM_SEEDS:
        exercise = make(Posed(skill, level, seed))
        assert skill in exercise.right
        assert beam_faults.FINE in {option.id for option in exercise.options}
        pairs = beams.looks_alike(exercise)
        assert max(alike_db(*pair) for pair in pairs) <= PLAIN_DB
        assert min(delta_e(*pair) for pair in pairs) > PLAIN_DELTA_E
        assert judge(exercise, right_answer(exercise)).right
        wrong = next(option.id for option in exercise.options if option.id not in exercise.right)
        assert judge(exercise, wrong).taken_for == wrong


@pytest.mark.parametrize("level", usual(LEVELS, (2, 5)))
def test_each_gain_offered_looks_another(level):
    for seed in BEAM_SEEDS:
        exercise = make(Posed("compare.gain", level, seed))
        assert min(delta_e(*pair) for pair in comparing.at_each_gain(exercise)) > PLAIN_DELTA_E


def delta_e(one, other):
    return float(np.mean(_worst_tenth(_differences(one, other))))


def _differences(one, other):
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        import colour

        lab = [colour.XYZ_to_Lab(colour.sRGB_to_XYZ(glance(s) / 255.0)) for s in (one, other)]
        return colour.delta_E(*lab, method="CIE 2000")


def _worst_tenth(values):
    return np.sort(values.ravel())[-values.size // 10 :]


@pytest.mark.parametrize("level", usual(LEVELS, (1, 4)))
def test_which_dazzles_is_the_findings_own_word(level):
    for seed in BEAM_SEEDS:
        exercise = make(Posed("compare.glare", level, seed))
        assert isinstance(exercise.shown, BeamsShown)
        lamps = [comparing._spill(setup) for setup in exercise.shown.setups]
        stops = [
            any(f.level is Level.STOP for f in above(lamp.share, lamp.usual)) for lamp in lamps
        ]
        words = {(0, 0): "neither", (1, 0): "A", (0, 1): "B", (1, 1): "both"}
        assert exercise.right == {words[stops[0], stops[1]]}
        assert all(lamp.is_clear for lamp in lamps)


@pytest.mark.parametrize("level", usual(LEVELS, (1, 5)))
def test_a_line_is_right_where_the_beam_is_read_and_wrong_a_little_off(level):
    exercise = make(Posed("line.edge", level, 3))
    shown = exercise.shown
    assert isinstance(shown, LineShown)
    for off, right in ((0.9, True), (-0.9, True), (1.2, False), (-1.2, False)):
        slope = np.tan(np.radians(shown.stands_deg + off * shown.within_deg))
        assert judge(exercise, f"{slope:.6f}").right is right


def test_the_same_seed_makes_the_same_exercise():
    for skill in ("base.alike", "meter.range", "order.back", "tell.lens", "fault.search"):
        make.cache_clear()
        first = make(Posed(skill, 3, 11))
        make.cache_clear()
        assert make(Posed(skill, 3, 11)) == first
        assert any(make(Posed(skill, 3, seed)) != first for seed in range(12, 18))


@pytest.mark.parametrize("level", usual(LEVELS, (1, 5)))
def test_a_base_is_the_only_one_offered_that_agrees_with_what_is_seen(level):
    asked = {question.text: question for question in QUESTIONS}
    for seed in SEEDS:
        for skill in ("base.family", "base.alike"):
            exercise = make(Posed(skill, level, seed))
            agreeing = set()
            for option in exercise.options:
                base = find(option.id)
                answers = [(asked[text], answer) for text, answer in exercise.shown.seen]
                if all(
                    bases.answer_of(question, base) in ("", value_of(question, answer))
                    or question.agrees(base, value_of(question, answer)) is not False
                    for question, answer in answers
                ):
                    agreeing.add(option.id)
            assert agreeing == exercise.right, seed


def value_of(question, words):
    return next((value for value, text in question.options.items() if text == words), words)


@pytest.mark.parametrize("back", [False, True])
def test_of_the_steps_offered_only_one_can_be_done(back):
    skill = "order.back" if back else "order.in"
    for level in LEVELS:
        for seed in range(20):
            exercise = make(Posed(skill, level, seed))
            (right,) = exercise.right
            assert exercise.text_of(right) not in exercise.shown.done
            assert exercise.shown.back is back
            assert len(exercise.options) >= 3


def test_what_stops_a_car_is_stopped_by_the_rules_themselves():
    market = markets()["us"]
    assert law.judge(market, "bulb", True, "").level is Level.STOP
    for skill in ("leave.law", "leave.glare", "leave.aim", "leave.fine"):
        for level in LEVELS:
            for seed in range(30):
                assert make(Posed(skill, level, seed)).right == {skill}


def test_what_is_told_is_the_cores_own_word():
    """The rule of the market, the lens's advice, the interlocks: no second truth."""
    notes = {note.text for market in markets().values() for note in market.notes.values()}
    together = {interlock.text for interlock in interlocks().values()}
    advice = {
        finding.advice
        for grade in condition.HAZE_GRADES
        for lens in condition.LENS
        for finding in condition.findings(UnitCondition(haze=grade, lens=lens))
    }
    for skill, words in (("tell.law", notes), ("tell.lens", advice), ("tell.together", together)):
        for seed in range(30):
            exercise = make(Posed(skill, 3, seed))
            (right,) = exercise.right
            assert exercise.text_of(right) in words


def test_an_interlock_of_another_market_is_offered_as_wrong():
    """Fog lamps: alone by the UN's rule, with low beam only by the United States'."""
    seen = {"un": set(), "us": set()}
    for seed in range(200):
        exercise = make(Posed("tell.together", 5, seed))
        name = dict(exercise.shown.facts)["Driven in"]
        market = next(known.id for known in markets().values() if known.name == name)
        if market in seen:
            wrong = {o.text for o in exercise.options if o.id not in exercise.right}
            seen[market] |= wrong
            theirs = {one.text for one in wanted(market, ("fog", "low", "high"))}
            assert not wrong & theirs
    assert interlocks()["fog-out-with-high"].text in seen["un"]
    assert interlocks()["fog-independent"].text in seen["us"]


def test_an_aim_that_is_out_is_out_by_its_rule():
    for seed in range(20):
        facts = dict(make(Posed("leave.aim", 5, seed)).shown.facts)
        slope = float(facts["Cut-off"].partition("\u00a0")[0].replace("−", "-")) / 100
        name = facts["Driven in"]
        market = next(known for known in markets().values() if known.name == name)
        rule = judging_rule(market.id)
        found = judging.judge(rule.target(0.65), slope, 10.0, UnitSystem.METRIC)
        assert found.level is Level.STOP


def judging_rule(market):
    from cold_arc.core.aim.rules import rules_for
    from cold_arc.core.car.lamps import Function

    return rules_for(market, Function.LOW)[0]


def test_a_fault_guessed_without_a_test_may_be_right_but_a_long_search_is_not():
    exercise = make(Posed("fault.search", 1, 1))
    hidden = exercise.shown.fault
    assert judge(exercise, f"|{hidden}").right
    every = ",".join(exercise.shown.tests)
    late = judge(exercise, f"{every}|{hidden}")
    assert not late.right
    assert "too long" in late.notes[0]
    other = next(option.id for option in exercise.options if not _cures(option.id, hidden))
    assert not judge(exercise, f"|{other}").right


def _cures(cause, hidden):
    return cars._is_cured(faults().causes[cause], hidden)


@pytest.mark.parametrize(
    ("skill", "answer"),
    [
        ("line.edge", ""),
        ("line.edge", "nan"),
        ("collar.preset", "x"),
        ("screws.two", ""),
        ("screws.two", "1"),
        ("screws.two", "99,0"),
        ("screws.two", ";".join(["1,0"] * 20)),
        ("fault.search", "nothing|fuse"),
        ("fault.search", "|nothing"),
        ("fault.search", ""),
        ("base.alike", ""),
        ("base.alike", "Z9"),
        ("tell.law", "a,b"),
        ("meter.range", "peak,edge,below"),
        ("tell.law", "9" * 500),
        ("take.six", ""),
        ("take.six", "engine;dance"),
        ("take.six", "peak;=-3"),
        ("take.six", "peak;=nan"),
        ("take.six", "=180"),
        ("take.six", ";".join(["wait"] * 50)),
        ("take.six", "engine;dark;peak;=180"),
    ],
)
def test_what_is_no_answer_is_said_so(skill, answer):
    with pytest.raises(NoAnswerError):
        judge(make(Posed(skill, 2, 4)), answer)


def takes(source, level=2):
    """An exercise with such a lamp in it."""
    made = (make(Posed("take.six", level, seed)) for seed in range(50))
    return next(exercise for exercise in made if exercise.shown.source == source)


@pytest.mark.parametrize(
    ("source", "readied", "skill"),
    [
        ("led", ("engine", "dark", "wait"), "meter.warm"),
        ("led", ("engine", "wait", "wait", "wait"), "meter.dark"),
        ("nominal", ("dark",), "meter.supply"),
        ("nominal", ("engine",), "meter.dark"),
    ],
)
def test_what_was_left_out_before_reading_is_told(source, readied, skill):
    exercise = takes(source)
    judged = judge(exercise, taken(exercise, readied=readied))
    assert not judged.right
    assert judged.taken_for == skill
    if skill == "meter.dark":  # where it is little of what is read, it is no matter
        assert "of the room's own" in judged.notes[0]
    else:
        assert judged.notes[0].startswith("All six: ")


def test_all_that_was_left_out_is_told_each_once():
    judged = judge(takes("led"), taken(takes("led"), readied=()))
    assert [note.partition(": ")[0] for note in judged.notes] == ["All six"] * 3


def test_a_filament_needs_no_waiting():
    exercise = takes("nominal")
    assert judge(exercise, taken(exercise, readied=("engine", "dark"))).right


@pytest.mark.parametrize("factor", [0.1, 10.0, 1.1])
def test_what_the_meter_did_not_show_is_no_reading(factor):
    exercise = takes("nominal")
    *acts, last = taken(exercise).split(";")
    wrong = ";".join([*acts, f"={factor * float(last[1:]):g}"])
    judged = judge(exercise, wrong)
    assert not judged.right
    assert judged.taken_for == "meter.range"
    assert "the meter showed" in judged.notes[0]


def test_a_display_goes_to_its_end_and_loses_figures_on_a_wide_range():
    exercise = takes("nominal")
    narrow = taking.done(exercise, "engine;dark;x1;peak")
    assert taking.display(exercise, replace(narrow, range_factor=0.01)) == "OL"
    wide = taking.done(exercise, "engine;dark;x100;stray")
    assert taking.lux_shown(exercise, wide) in (0.0, 10.0)
    assert not judge(exercise, taken(exercise, ranges=("x100",))).right
