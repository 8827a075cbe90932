"""What was promised against what came of it."""

import datetime as dt

import pytest

from cold_arc.core.findings import Level
from cold_arc.core.job import settled
from cold_arc.core.job.entries.hand_over import HandedOver
from cold_arc.core.job.entries.match import Quoted, QuotedWay
from tests.core.job.test_record import LEFT, Story


def quoted(parts=100.0, labour=80.0, tax=20.0):
    way = QuotedWay("bulb", "LED bulb", "Thin", parts, labour, 60.0, "", "")
    return Quoted((way,), "bulb", tax, "Ana Ferris", "M10 20L30 40M5 5")


def ended(asked):
    return HandedOver("Ines", (), True, True, dt.date(2026, 12, 1), asked=asked)


def test_a_quote_signed_for_a_pair_counts_once_with_its_taxes():
    story = Story().add(quoted(), *Story().record.sockets)
    assert settled.quoted_price(story.record) == pytest.approx(216.0)


@pytest.mark.parametrize(
    ("asked", "level"),
    [(216.0, Level.OK), (230.0, Level.OK), (238.0, Level.CAUTION), (0.0, Level.OK)],
)
def test_more_asked_than_signed_for_wants_a_word(asked, level):
    story = Story().add(quoted(), LEFT).add(ended(asked))
    (finding,) = settled.price_findings(story.record, "EUR")
    assert finding.level is level
    assert "216.00\u00a0EUR quoted" in finding.limit


@pytest.mark.parametrize(
    "story",
    [
        Story().add(ended(200.0)),
        Story().add(quoted(), LEFT),
        Story().add(quoted(), LEFT).add(ended(None)),
        Story().add(quoted(labour=None), LEFT).add(ended(200.0)),
    ],
)
def test_where_one_of_both_is_not_told_nothing_is_said(story):
    assert settled.price_findings(story.record, "") == []


def test_a_signatures_strokes_are_those_drawn():
    assert quoted().strokes == [[(10.0, 20.0), (30.0, 40.0)], [(5.0, 5.0)]]


def test_nothing_opened_took_no_time():
    assert settled.time_taken(Story().record) is None
