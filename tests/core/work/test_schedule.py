"""Timelines, days, what can run beside something else. Sums worked by hand; common practice, no
published source.
"""

import datetime as dt
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cold_arc.core.work import when
from cold_arc.core.work.dark import ShopPlace
from cold_arc.core.work.schedule import ScheduleError, Task, ends, hands, schedule
from cold_arc.core.work.when import Visit


@st.composite
def works(draw):
    """Random tasks, each after some before it."""
    tasks = []
    for number in range(draw(st.integers(1, 10))):
        earlier = [it.id for it in tasks]
        after = draw(st.lists(st.sampled_from(earlier), unique=True)) if earlier else []
        cured = draw(st.lists(st.sampled_from(earlier), unique=True, max_size=1)) if earlier else []
        minutes, cures = draw(st.integers(1, 60)), draw(st.integers(0, 90))
        people = draw(st.integers(1, 3))
        tasks.append(
            Task(str(number), str(number), minutes, people, cures, tuple(after), tuple(cured))
        )
    return tasks


@given(works(), st.integers(1, 3))
def test_nothing_before_what_it_needs_and_nobody_twice_at_once(tasks, people):
    slots = schedule(tasks, people)
    at = {slot.task.id: slot for slot in slots}
    assert len(at) == len(tasks)
    for slot in slots:
        assert all(at[it].end <= slot.start for it in slot.task.after)
        assert all(at[it].cured <= slot.start for it in slot.task.cured)
        assert len(slot.by) == min(slot.task.people, people)
    for person in range(people):
        mine = sorted((slot.start, slot.end) for slot in slots if person in slot.by)
        assert all(one[1] <= other[0] for one, other in pairwise(mine))
    assert ends(slots) * people >= hands(slots)


def test_a_coat_cures_while_the_lamp_is_opened():
    """By hand: polish 40, open 10, fit 5, close 10, then aim once the coat has cured at 100."""
    tasks = [
        Task("polish", "Polish", 40, cures=60),
        Task("open", "Open", 10),
        Task("fit", "Fit", 5, after=("open",)),
        Task("close", "Close", 10, after=("fit",)),
        Task("aim", "Aim", 6, after=("close",), cured=("polish",)),
    ]
    assert [slot.start for slot in schedule(tasks, 1)] == [0, 40, 50, 55, 100]
    assert ends(schedule(tasks, 2)) == 106
    assert schedule(tasks, 1, dark_from=130)[-1].start == 100  # none of them needs the dark
    dark = [*tasks[:-1], Task("aim", "Aim", 6, after=("close",), cured=("polish",), dark=True)]
    assert schedule(dark, 1, dark_from=130)[-1].start == 130


def test_two_people_share_the_sides_and_both_lift_the_bumper():
    tasks = [
        Task("bumper", "Bumper", 20, 2),
        *(Task(it, it, 10, after=("bumper",)) for it in ("left", "right")),
    ]
    assert ends(schedule(tasks, 2)) == 30
    assert ends(schedule(tasks, 1)) == 40


def test_a_ring_is_refused():
    with pytest.raises(ScheduleError, match="“A” waits for itself"):
        schedule([Task("a", "A", 1, after=("b",)), Task("b", "B", 1, after=("a",))], 1)


LONDON, TROMSO = (
    ShopPlace(51.5074, -0.1278, "Europe/London"),
    ShopPlace(69.65, 18.96, "Europe/Oslo"),
)


@pytest.mark.parametrize(
    ("place", "bay", "day", "dark"),
    [
        (
            LONDON,
            False,
            dt.date(2026, 12, 21),
            16 * 60 + 34,
        ),  # civil dusk by the almanac, from memory: 16:34
        (LONDON, True, dt.date(2026, 12, 21), 0),
        (TROMSO, False, dt.date(2026, 6, 21), None),  # no dusk under the midnight sun
        (None, False, dt.date(2026, 12, 21), None),
    ],
)
def test_from_when_the_wall_is_dark(place, bay, day, dark):
    found = when.dark_from(place, bay, day)
    assert found == (pytest.approx(dark, abs=2) if dark is not None else None)


@pytest.mark.parametrize(
    ("hands_min", "dark", "start"), [(90, 994, 900), (600, 994, 480), (90, None, 990), (90, 0, 480)]
)
def test_the_hands_are_done_as_it_gets_dark(hands_min, dark, start):
    assert when.best_start(hands_min, dark) == start


def test_where_more_people_are_asked_for_than_there_are():
    """By hand: two cars from 14:00 and 15:00, one person: 15:00 to 15:30 twice; on the wall one
    after the other.
    """
    one, other = Visit("A", 840, 90, 20, 1), Visit("B", 900, 60, 30, 1)
    assert when.too_many([one, other], 1020, 1) == [(900, 930, 2)]
    assert when.line_up([one, other], 1020) == [1020, 1040]
    assert when.too_many([one, other], 1020, 2) == []
    assert one.ends(1020) == 1040
