"""A pair must be alike (UN R48, from memory): where one side gets another light, it is told."""

from dataclasses import replace

import pytest

from cold_arc.core.car.keys import SocketKey
from cold_arc.core.car.lamps import Drive, Side
from cold_arc.core.findings import Level
from cold_arc.core.job.entries.book_in import Booking, WorkChosen
from cold_arc.core.job.entries.match import Chosen
from cold_arc.core.job.pairs import AS_IT_CAME, pair_findings
from cold_arc.core.references import cite
from tests.core.job.test_record import LEFT, RIGHT, SLIM, Story

WARM = replace(SLIM, name="slim, warm")
HIGH = SocketKey("headlamp", 2, Side.RIGHT)


def chosen(story, source, *keys):
    return story.add(Chosen(source, "suits it"), *keys)


@pytest.mark.parametrize(
    ("left", "right", "told"),
    [
        (SLIM, SLIM, None),
        (SLIM, WARM, "slim left, slim, warm right"),
        (SLIM, None, f"slim left, {AS_IT_CAME} right"),
        (None, SLIM, f"{AS_IT_CAME} left, slim right"),
        (None, None, None),
    ],
)
def test_each_side_against_the_other(left, right, told):
    story = chosen(chosen(Story(), left, LEFT), right, RIGHT)
    findings = pair_findings(story.record)
    assert [finding.number for finding in findings] == ([told] if told else [])
    assert all(finding.level is Level.CAUTION for finding in findings)
    assert all("Low beam bulb" in finding.text for finding in findings)


def test_a_side_nobody_works_on_stays_as_it_came():
    story = Story().add(WorkChosen(), LEFT)
    assert pair_findings(story.record) == []
    (told,) = pair_findings(story.record, [LEFT], SLIM)
    assert told.number == f"slim left, {AS_IT_CAME} right"
    assert pair_findings(chosen(story, SLIM, LEFT).record) == [told]


def test_a_side_that_is_not_decided_yet_is_waited_for():
    assert pair_findings(chosen(Story(), SLIM, LEFT).record) == []
    assert pair_findings(Story().record, [LEFT, RIGHT], SLIM) == []


def test_another_pair_is_another_matter():
    story = chosen(Story(), SLIM, LEFT, RIGHT).add(WorkChosen(), LEFT, RIGHT, HIGH)
    (told,) = pair_findings(chosen(story, SLIM, HIGH).record)
    assert "High beam bulb" in told.text


@pytest.mark.parametrize(("market", "by_rule"), [("un", True), ("uk", True), ("us", False)])
def test_where_it_is_a_rule_it_is_cited(market, by_rule):
    story = chosen(chosen(Story(), SLIM, LEFT), None, RIGHT)
    story.add(Booking("A", "Velmar", "Dorin", Drive.LEFT, market))
    (told,) = pair_findings(story.record)
    assert (told.sources == cite("un-r48")) is by_rule
