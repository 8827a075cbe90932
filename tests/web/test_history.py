"""The record in words, and which lamps a page works on."""

import datetime as dt

import pytest
from werkzeug.routing import ValidationError

from cold_arc.core import record
from cold_arc.core.condition import LampCondition
from cold_arc.core.lamps import ALL_LAMPS, Drive, Function, Housing, LampKey, Present, Side
from cold_arc.core.light_source import LightSource
from cold_arc.core.readings import WallReading
from cold_arc.core.stages import Stage
from cold_arc.store import jobs
from cold_arc.web import history
from cold_arc.web.filters import say_date, say_minutes
from cold_arc.web.home import lane
from cold_arc.web.scope import Scope, ScopeConverter, stage_url

LEFT, RIGHT = LampKey(Function.LOW, Side.LEFT), LampKey(Function.LOW, Side.RIGHT)
SLIM = LightSource("slim", "bulb", "H7", 24, 1900, 9, 16, 50)
BOOKING = record.Booking("A", "Velmar", "Dorin", Drive.LEFT, "un", year=2014)


@pytest.mark.parametrize(
    ("payload", "words"),
    [
        (BOOKING, "Booking: Velmar Dorin 2014"),
        (record.LampsChosen(), "Lamps chosen"),
        (record.Identified(Housing.PROJECTOR, "H7", Present.HALOGEN), "Identified: H7, projector"),
        (record.Inspected(LampCondition(haze=2)), "Inspected: haze 2, yellowed"),
        (record.Read("before", "41 x10", WallReading("peak", 410, 7.62, 13)), "Read before: brightest point, 410 lx"),
        (record.Chosen(SLIM, "thin"), "Chosen: slim"),
        (record.Chosen(None, "fine"), "Chosen: stay with the original"),
        (record.Routed("cap", ()), "Route: cap, 0 steps"),
        (record.Ticked("fit:seat"), "Step ticked (fit)"),
        (record.FastenerBack(1, "push pin", 4), "Fasteners: 4 push pin back"),
        (record.FastenerBack(1, "push pin", 3, 1, "broken"), "Fasteners: 3 push pin back, 1 noted"),
        (record.Clocked(20.0), "Clocking: stopped 20° clockwise"),
        (record.Proved("open", "low", Side.LEFT, "on", "dark"), "Low beam left, engine running: dark"),
        (record.NotOnCar("fog"), "Front fog: not on this car"),
        (record.NotOnCar("fog", False), "Front fog: on this car"),
        (record.Aimed("left", "us-vol", 0.7, 7.62, -0.007, ""), "Aim as left: −0.70 %"),
        (record.HandedOver("I. C.", (), True, True, dt.date(2027, 1, 1)), "Customer sheet by I. C."),
        (record.Passed("aim"), "Aim finished"),
        (record.Passed("aim", "no wall"), "Aim skipped: no wall"),
        (record.Reopened("fit"), "Fit reopened"),
    ],
)
def test_every_kind_of_entry_has_words(payload, words):
    assert history.describe(payload).replace("\u00a0", " ") == words


def test_every_kind_is_covered():
    for kind in record.KINDS.values():
        assert history.describe.dispatch(kind) is not history.describe.dispatch(object)


def test_a_stranger_has_no_words():
    with pytest.raises(TypeError):
        history.describe(object())


def test_lines_are_newest_first_and_say_their_lamps(sessions):
    with sessions.begin() as session:
        job_id = jobs.open_job(session, BOOKING, [LEFT, RIGHT])
        jobs.append(session, job_id, record.Clocked(3.0), [LEFT])
        entry = jobs.append(session, job_id, record.Passed("fit"), [LEFT, RIGHT])
        jobs.undo(session, job_id, entry)
    with sessions() as session:
        lines = history.history(jobs.load(session, job_id))
    assert [line.lamps for line in lines] == ["low both", "low left", "low both", ""]
    assert [line.undone for line in lines] == [True, False, False, False]
    assert [line.can_undo for line in lines] == [True, True, True, False]


def test_only_the_newest_are_asked_for(sessions):
    with sessions.begin() as session:
        job_id = jobs.open_job(session, BOOKING, [LEFT])
        for _ in range(20):
            jobs.append(session, job_id, record.Clocked(1.0), [LEFT])
    with sessions() as session:
        job = jobs.load(session, job_id)
    assert len(history.history(job, history.SHOWN)) == history.SHOWN
    assert len(history.history(job)) == 22


@pytest.mark.parametrize("text", ["all", "low", "low-left", "fog-right", "position"])
def test_scopes_read_back_as_written(text):
    assert str(Scope.parse(text)) == text


@pytest.mark.parametrize("text", ["", "warp", "low-up", "low-left-left", "all-left"])
def test_no_such_scope(text):
    with pytest.raises(ValueError):
        Scope.parse(text)
    with pytest.raises(ValidationError):
        ScopeConverter(None).to_python(text)


def test_scopes_choose_lamps():
    chosen = [key for key in ALL_LAMPS if key.function in {Function.LOW, Function.FOG}]
    assert Scope.parse("all").keys(chosen) == chosen
    assert Scope.parse("low").keys(chosen) == [LEFT, RIGHT]
    assert Scope.parse("low-right").keys(chosen) == [RIGHT]
    assert Scope.parse("high").keys(chosen) == []


def test_scopes_in_words():
    assert Scope.parse("all").words(Drive.LEFT) == "All lamps"
    assert Scope.parse("low").words(Drive.LEFT) == "Low beam, both sides"
    assert Scope.parse("low-left").words(Drive.RIGHT) == "Low beam, Left · passenger"


@pytest.mark.parametrize(
    ("days", "name"),
    [(-1, "Overdue"), (0, "Today"), (1, "Next seven days"), (7, "Next seven days"), (8, "Later")],
)
def test_lanes(days, name):
    today = dt.date(2026, 11, 24)
    assert lane(today + dt.timedelta(days=days), today) == name
    assert lane(None, today) == "No date"


def test_dates_and_spans():
    assert say_date(dt.date(2026, 3, 1)) == "1 Mar 2026"
    assert say_date(None) == "no date"
    assert say_minutes(45) == "45\u00a0min"
    assert say_minutes(80) == "1\u00a0h 20\u00a0min"
    assert say_minutes(59.6) == "1\u00a0h 00\u00a0min"


@pytest.mark.parametrize("stage", list(Stage))
def test_every_stage_has_one_address(shop, stage):
    """The address a page is given leads to that page, for a lamp, a pair and all."""
    with shop.app.test_request_context():
        for scope in (Scope(), Scope(Function.LOW), LEFT):
            assert stage_url(7, scope, stage) == f"/jobs/7/{scope}/{stage.value}"


def test_an_address_carries_what_more_it_is_told(shop):
    with shop.app.test_request_context():
        address = stage_url(7, Scope(Function.LOW), Stage.PROVE, **{"pass": "open"})
    assert address == "/jobs/7/low/prove?pass=open"


def test_the_face_and_the_track_lead_to_the_same_pages(demo):
    page = demo.get("/jobs/4/low/aim")
    for address in ("/jobs/4/low-left/aim", "/jobs/4/high-right/aim", "/jobs/4/low/verify", "/jobs/4/all/aim"):
        assert f'href="{address}"' in page
        demo.get(address)
