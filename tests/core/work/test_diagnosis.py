"""Diagnosis: every cause is reached from what it shows, in fewer tests than by asking in a fixed
order (printed).

The table is common practice, no published source; the arithmetic is Bayes' rule and Shannon's
entropy.
"""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cold_arc.core.work import access, diagnosis
from cold_arc.core.work.diagnosis import (
    Case,
    _bits,
    _check,
    beliefs,
    faults,
    left,
    promises,
    verdict,
)

TABLE = faults()
SHOWN = [
    (key, cause)
    for key, symptom in TABLE.symptoms.items()
    for cause, share in symptom.shows.items()
    if share >= 0.5
]
MOST_TESTS = 14


def likeliest(test, cause):
    row = test.likely.get(cause, test.otherwise)
    return row.index(max(row))


def sought(symptom, cause, choose):
    """Tests made until there is a verdict, each answered as the cause would."""
    case = Case(symptom)
    for _ in range(40):
        if (told := verdict(case)) is not None:
            return told, case
        test = choose(case)
        case = case.answered(test.id, likeliest(test, cause))
    return verdict(case), case


def best(case):
    return promises(case)[0].test


def in_order(case):
    """The table's own order, what tells nothing left out."""
    telling = {it.test.id for it in promises(case)}
    return next(test for test in TABLE.tests.values() if test.id in telling)


@pytest.mark.parametrize(("symptom", "cause"), SHOWN)
def test_every_cause_is_reached_from_what_it_shows(symptom, cause):
    told, case = sought(symptom, cause, best)
    assert told is not None
    assert told.id == cause or told.cure == TABLE.causes[cause].cure, (told.id, case.answers)
    assert len(case.answers) <= MOST_TESTS


def test_it_takes_fewer_tests_and_minutes_than_a_fixed_order(capsys):
    mine = [sought(symptom, cause, best)[1] for symptom, cause in SHOWN]
    fixed = [sought(symptom, cause, in_order)[1] for symptom, cause in SHOWN]
    counts = [sum(len(case.answers) for case in cases) / len(cases) for cases in (mine, fixed)]
    minutes = [sum(case.minutes for case in cases) / len(cases) for cases in (mine, fixed)]
    with capsys.disabled():
        print(f"\n  diagnosis: {counts[0]:.1f} tests, {minutes[0]:.1f} min", end="")
        print(f"; in fixed order {counts[1]:.1f} tests, {minutes[1]:.1f} min")
    assert counts[0] < counts[1]
    assert minutes[0] < minutes[1]


def test_every_cause_is_shown_by_a_symptom():
    assert {cause for _, cause in SHOWN} == set(TABLE.causes)


@pytest.mark.parametrize("symptom", ["flicker", "fading"])
def test_when_it_shows_is_asked_first(symptom):
    """It takes no tool and tells apart what the supply, warmth and water do."""
    assert best(Case(symptom)).id == "when"


def test_a_patch_that_stays_with_the_old_bulb_is_the_lamps():
    belief = beliefs(Case("patch", (("where-in-beam", 0),)))
    of_lamp = sum(belief[cause] for cause in ("mirror", "spot", "shield", "film"))
    assert of_lamp > 0.9


def test_cautions_are_known():
    told = {it.caution for it in (*TABLE.causes.values(), *TABLE.tests.values())}
    assert told - {""} <= set(access.cautions())


MADE = st.lists(st.sampled_from(sorted(TABLE.tests)), unique=True, max_size=8)
CASES = st.builds(
    Case,
    st.sampled_from(sorted(TABLE.symptoms)),
    MADE.map(lambda it: tuple((name, 0) for name in it)),
)


@given(CASES)
def test_beliefs_are_a_distribution_and_no_test_loses_information(case):
    belief = beliefs(case)
    assert sum(belief.values()) == pytest.approx(1.0)
    assert list(belief.values()) == sorted(belief.values(), reverse=True)
    for test in TABLE.tests.values():
        assert -1e-9 <= _bits(test, belief) <= math.log2(len(test.answers)) + 1e-9


def test_bayes_by_hand():
    """Two causes of fan noise, weights 4 and 2, shown alike: two to one; a lead moved aside leaves
    next to one.
    """
    before = beliefs(Case("fan"))
    assert before["fan-touch"] / before["fan-worn"] == pytest.approx(2.0)
    after = beliefs(Case("fan", (("listen", 0),)))
    assert after["fan-touch"] / after["fan-worn"] == pytest.approx(2.0 * 0.95 / 0.03)


def test_what_the_shop_found_counts():
    usual, here = Case("fan"), Case("fan", found=(("fan-worn", 20),))
    assert next(iter(beliefs(usual))) == "fan-touch"
    assert next(iter(beliefs(here))) == "fan-worn"


def test_what_is_left_alone_is_said_and_the_rest_forgotten():
    case = Case("fan", (("listen", 0),))
    assert list(left(case)) == ["fan-touch"]
    assert verdict(case).id == "fan-touch"
    assert verdict(Case("dark")) is None


@pytest.mark.parametrize(
    ("likely", "otherwise"),
    [
        ({"no such cause": (0.5, 0.5)}, (0.5, 0.5)),
        ({"fuse": (0.5, 0.25, 0.25)}, (0.5, 0.5)),
        ({"fuse": (0.5, 0.4)}, (0.5, 0.5)),
        ({"fuse": (1.5, -0.5)}, (0.5, 0.5)),
        ({}, (0.7, 0.7)),
    ],
)
def test_a_table_whose_answers_do_not_add_up_is_refused(likely, otherwise):
    test = diagnosis.Test("look", "Look at it", 1.0, ("yes", "no"), likely, otherwise)
    with pytest.raises(ValueError, match="look"):
        _check(faults().causes, {}, {"look": test})
