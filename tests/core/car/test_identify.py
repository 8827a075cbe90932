"""From what can be seen to the base. Common practice, no published source, where no other is
named.
"""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cold_arc.core.car import bases
from cold_arc.core.car.base_faces import faces, tab_count
from cold_arc.core.car.identify import (
    QUESTIONS,
    AnswerError,
    against_optic,
    identify,
    look_alikes,
    mistaken_for,
    narrow,
    next_question,
    rarer,
)
from cold_arc.core.car.lamps import Optic


def names(**answers):
    return [base.name for base in narrow(answers)]


@pytest.mark.parametrize(
    ("answers", "wanted"),
    [
        ({"beams": "dual", "looks": "round-metal", "contacts": "3"}, ["H4"]),
        ({"looks": "round-metal", "contacts": "2"}, ["H7"]),
        ({"printed": "hb4"}, ["9006"]),
        ({"printed": "H1"}, ["H1"]),  # an exact name is not any part of H11
        ({"printed": "pgj19"}, ["H8", "H9", "H11", "H16"]),
        ({"printed": "pgj19", "watts": "19"}, ["H16"]),
        ({"looks": "hid", "igniter": "box", "mercury": "no", "glass": "painted"}, ["D1R"]),
        ({"looks": "hid", "igniter": "none", "mercury": "free", "glass": "clear"}, ["D4S"]),
        ({"plug": "angled", "diameter": "22 mm", "glass": "dark tip"}, ["9006"]),
        ({"beams": "dual", "diameter": "26.4"}, ["H13"]),
        ({"looks": "bayonet", "glass": "amber"}, ["PY21W"]),
        ({"looks": "wedge", "contacts": "4"}, ["P27/7W"]),
    ],
)
def test_answers_lead_to_the_base(answers, wanted):
    assert sorted(names(**answers)) == sorted(wanted)


def test_usual_bases_come_before_rare_ones():
    """An H4 and rarer dual bulbs look alike: the H4 is proposed, the others are named."""
    found = identify({"beams": "dual", "looks": "round-metal"})
    assert [base.name for base in found.remaining] == ["H4"]
    assert {"H14", "H19", "R2"} <= {base.name for base in found.rarer}
    assert [
        base.name for base in narrow({"beams": "dual", "diameter": "45 mm", "watts": "40"})
    ] == ["R2"]
    assert identify({"beams": "dual", "diameter": "45 mm", "watts": "40"}).rarer == ()


def test_every_base_is_found_by_its_own_answers():
    """Answering every question as a base would never rules it out, and its code alone names it."""
    for base in bases.catalogue():
        own = {}
        for question in QUESTIONS:
            said = [
                value for value in question.choices([base]) if question.agrees(base, value) is True
            ]
            if said:
                own[question.id] = said[0]
        assert base in (*narrow(own), *rarer(own)), own
        assert narrow({"printed": base.name}) == (base,)


@given(
    st.dictionaries(
        st.sampled_from([question.id for question in QUESTIONS]), st.integers(0, 5), max_size=5
    )
)
def test_more_answers_never_add_a_base(picked):
    answers, before = {}, set(bases.catalogue())
    for question in QUESTIONS:
        options = list(question.options)
        if question.id in picked and options:
            answers[question.id] = options[picked[question.id] % len(options)]
            after = {*narrow(answers), *rarer(answers)}
            assert after <= before
            before = after


def test_the_next_question_splits_best():
    """H13, 9004 and 9007 differ in watts and rim, not in body, contacts or plug."""
    split = identify({"looks": "twist", "beams": "dual"}).next
    assert split.question.id in ("watts", "diameter")
    assert split.expected < 3
    others = [next_question(narrow({"looks": "twist", "beams": "dual"}), {split.question.id: "x"})]
    assert all(other is None or other.expected >= split.expected for other in others)


def test_nothing_is_asked_of_one_base():
    assert identify({"printed": "H7"}).next is None


def test_contradictions_name_the_answers_to_take_back():
    found = identify({"printed": "H7", "beams": "dual"})
    assert found.remaining == ()
    left = {one.values["phrase"]: one.values["names"] for one in found.contradictions}
    assert any("Code" in phrase and "H4" in names for phrase, names in left.items())
    assert any("low and high" in phrase and "H7" in names for phrase, names in left.items())
    assert {"H7", "H4"} <= {base.name for base in found.closest}


def test_two_answers_may_have_to_go():
    found = identify({"looks": "wedge", "contacts": "3", "plug": "high-voltage", "glass": "amber"})
    assert found.remaining == ()
    assert all(" and " in finding.values["phrase"] for finding in found.contradictions)


@pytest.mark.parametrize(
    "alike",
    [
        {"H8", "H9", "H11", "H16"},
        {"9005", "9006"},
        {"9005", "H10"},
        {"H13", "9007"},
        {"D1S", "D3S"},
        {"D2S", "D4S"},
        {"D2S", "D2R"},
        {"H7", "H11"},
    ],
)
def test_look_alikes_are_warned_of(alike):
    warned = look_alikes(bases.find(name) for name in alike)
    assert any(alike <= set(finding.values["alike"].split(", ")) for finding in warned)
    for name in alike:
        taken_for = [one.values["group"].split(", ") for one in mistaken_for(bases.find(name))]
        assert alike - {name} <= {other for group in taken_for for other in group}


def test_s_and_r_belong_in_their_housings():
    """UN R99, from memory: R bases carry a painted shield and belong in reflectors."""
    assert against_optic(bases.find("D2R"), Optic.PROJECTOR)
    assert against_optic(bases.find("D1S"), Optic.REFLECTOR)
    assert not against_optic(bases.find("D1S"), Optic.PROJECTOR)
    assert not against_optic(bases.find("H7"), Optic.REFLECTOR)


@pytest.mark.parametrize(
    ("question", "answer"), [("diameter", "wide"), ("watts", "many"), ("looks", "odd")]
)
def test_an_answer_that_cannot_be_read_is_named(question, answer):
    with pytest.raises(AnswerError) as wrong:
        identify({question: answer})
    assert wrong.value.question == question


def test_every_usual_base_has_a_face():
    assert {base.name for base in bases.usual()} == set(faces())
    assert tab_count(bases.find("H4")) == 3
    assert tab_count(bases.find("W5W")) is None
