"""How able somebody is, when a skill comes again, what is asked next."""

import datetime as dt
import itertools
import math

import numpy as np
import pytest

from cold_arc.core import references
from cold_arc.core.school.ability import HARDNESS, Scored, ability, chance
from cold_arc.core.school.memory import Practised, Sure, memories
from cold_arc.core.school.rounds import A_ROUND, MOST_NEW, Answered, next_question
from cold_arc.core.school.skills import kinds, skills
from cold_arc.devices.simulated_learner import SimulatedLearner
from cold_arc.school.making import MAKERS
from tests.thorough import THOROUGH

NOW = dt.datetime(2026, 3, 2, 9, tzinfo=dt.UTC)
A_DAY = dt.timedelta(days=1)


def answered(skill, right=True, at=NOW, sure=Sure.THOUGHT, level=2, taken_for=""):
    return Answered(skill, level, 0.25, at, right, sure, taken_for)


def test_every_skill_is_of_a_kind_that_is_made_and_says_its_source():
    assert kinds().keys() == MAKERS.keys()
    assert {skill.kind for skill in skills().values()} == kinds().keys()
    for skill in skills().values():
        assert references.say(skill.sources)
        assert len(skill.rule) > 60, skill.id
        assert len(skill.cue) > 10, skill.id


def test_chance_is_rasch_with_guessing():
    # Rasch (1960), Birnbaum (1968), from memory: half way between guess and one where able as hard.
    assert chance(HARDNESS[3], 3, 0.0) == pytest.approx(0.5)
    assert chance(HARDNESS[4], 4, 0.25) == pytest.approx(0.625)
    assert chance(1.0, 3, 0.0) == pytest.approx(1 / (1 + math.exp(-1.0)))


def test_ability_is_at_the_mode_of_its_posterior():
    """Against a search over both shares, which knows nothing of slopes."""
    answers = [Scored("read", 2, 0.25, True), Scored("read", 3, 0.25, False)]
    answers += [Scored("read", 2, 0.0, True)] * 4
    found = ability(answers)
    grid = np.linspace(-3, 3, 241)
    ages = 0.5 ** (np.arange(len(answers))[::-1] / 60.0)

    def logarithm(common, own):
        total = -(common**2) / (2 * 1.5**2) - own**2 / (2 * 0.7**2)
        for weight, one in zip(ages, answers, strict=True):
            likely = chance(common + own, one.level, one.guessed)
            total += weight * math.log(likely if one.right else 1 - likely)
        return total

    best = max((logarithm(a, b), a, b) for a in grid for b in grid)
    assert found.common == pytest.approx(best[1], abs=0.05)
    assert found.own["read"] == pytest.approx(best[2], abs=0.05)


def test_more_right_answers_ask_harder_ones():
    levels = [
        ability([Scored("read", 3, 0.0, right)] * 12).level("read") for right in (False, True)
    ]
    assert levels[0] == 1 < levels[1]
    assert ability([]).level("read", 0.25) in (1, 2)


def test_a_skill_answered_wrongly_or_by_a_guess_comes_again_sooner():
    due = {
        name: memories([Practised("a", NOW, right, sure)], NOW)["a"].due
        for name, right, sure in (
            ("wrong", False, Sure.KNEW),
            ("guess", True, Sure.GUESSED),
            ("thought", True, Sure.THOUGHT),
            ("knew", True, Sure.KNEW),
        )
    }
    assert due["wrong"] <= due["guess"] < due["thought"] < due["knew"]


def test_what_is_due_is_recalled_nine_times_in_ten():
    """FSRS: an interval ends where recall falls to what is desired (from memory)."""
    kept = memories([Practised("a", NOW, True, Sure.THOUGHT)], NOW)["a"]
    assert kept.recall == pytest.approx(1.0)
    then = memories([Practised("a", NOW, True, Sure.THOUGHT)], kept.due)["a"]
    assert then.recall == pytest.approx(0.9, abs=0.03)


def test_what_was_set_comes_first_then_what_is_due_then_something_new():
    history = [answered("order.in", False, NOW - 9 * A_DAY), answered("tell.law", True, NOW)]
    given = next_question(history, NOW, "luck", (), ["leave.aim"])
    assert given.skill == "leave.aim"
    assert next_question(history, NOW, "luck").skill == "order.in"
    fresh = next_question(history, NOW, "luck", ["order.in"])
    assert fresh.skill not in {"order.in", "tell.law"}


def test_the_same_place_asks_the_same_and_another_another():
    asked = {next_question([], NOW, f"luck {number}") for number in range(8)}
    assert next_question([], NOW, "luck 1") in asked
    assert len(asked) > 4


def test_a_first_round_shows_every_kind_it_can_and_never_two_alike_in_a_row():
    answers, asked = [], []
    for number in range(A_ROUND):
        posed = next_question(answers, NOW, f"first {number}", asked)
        answers.append(answered(posed.skill))
        asked.append(posed.skill)
    assert len(set(asked)) == A_ROUND
    kinds_asked = [skill.partition(".")[0] for skill in asked]
    assert all(one != other for one, other in itertools.pairwise(kinds_asked))
    assert len(set(kinds_asked)) > A_ROUND - MOST_NEW


def test_simulated_learners_are_known_and_asked_what_they_can_nearly_do():
    """Known skill and forgetting; 60 answers each."""
    learners = [SimulatedLearner(number) for number in range(200 if THOROUGH else 24)]
    true, found, late = [], [], []
    for learner in learners:
        answers = learner.practises(6)
        able = ability([one.scored for one in answers])
        true.append(learner.ability)
        found.append(np.mean([able.of(kind) for kind in kinds()]))
        late += [one.right for one in answers[20:]]
    assert np.corrcoef(true, found)[0, 1] > 0.9
    assert 0.7 < np.mean(late) < 0.9
