"""The record in words, and what a page works on."""

import datetime as dt

import pytest
from werkzeug.routing import ValidationError

from cold_arc.core.car import front_building as fronts
from cold_arc.core.car.bases import MeasuredBulb
from cold_arc.core.car.condition import UnitCondition
from cold_arc.core.car.keys import BeamKey, SocketKey
from cold_arc.core.car.lamps import Drive, Function, Optic, Present, Side
from cold_arc.core.job.entries import KINDS
from cold_arc.core.job.entries.aim import AdjustersTold, Aimed, Readied, WallLaid
from cold_arc.core.job.entries.book_in import (
    Booking,
    FrontSet,
    Identified,
    OldBulbMeasured,
    WorkChosen,
)
from cold_arc.core.job.entries.fit import Checked, Clocked, ClockRan, FastenerBack, Pictured, Ticked
from cold_arc.core.job.entries.hand_over import HandedOver
from cold_arc.core.job.entries.inspect import Inspected
from cold_arc.core.job.entries.kind import AimPhase, Payload, Phase
from cold_arc.core.job.entries.match import Chosen
from cold_arc.core.job.entries.plan import ExtraWork, Ordered, PlanKept, PlannedFor, Routed
from cold_arc.core.job.entries.prove import FaultFound, FaultSought, Interlocked, NotOnCar, Proved
from cold_arc.core.job.entries.readings import (
    Rastered,
    Read,
    ShootOutEnded,
    Tried,
    Warmed,
    WarmRead,
    WarmStarted,
)
from cold_arc.core.job.entries.stages import Passed, Reopened
from cold_arc.core.job.progress import Progress
from cold_arc.core.job.stages import Stage
from cold_arc.core.light_source import LightSource
from cold_arc.core.metering.readings import WallReading
from cold_arc.core.units import say_minutes
from cold_arc.core.work.tick import Tick
from cold_arc.store import jobs
from cold_arc.web.job import history
from cold_arc.web.scope import Scope, ScopeConverter, stage_url
from cold_arc.web.shell.filters import say_date

FRONT = fronts.made("dual", ["fog"])
LEFT, RIGHT = SocketKey("headlamp", 1, Side.LEFT), SocketKey("headlamp", 1, Side.RIGHT)
SLIM = LightSource("slim", "bulb", "H7", 24, 1900, 9, 16, 50)
BOOKING = Booking("A", "Velmar", "Dorin", Drive.LEFT, "un", year=2014)


@pytest.mark.parametrize(
    ("payload", "words"),
    [
        (BOOKING, "Booking: Velmar Dorin 2014"),
        (FrontSet(FRONT), "Front: headlamp, fog lamp"),
        (WorkChosen(), "Work chosen"),
        (
            OldBulbMeasured(MeasuredBulb(24.0, 28.0)),
            "Old bulb measured: light centre 26.0 mm",
        ),
        (Identified(Optic.PROJECTOR, "H7", Present.HALOGEN), "Identified: H7, projector"),
        (Inspected(UnitCondition(haze=2)), "Inspected: haze 2, yellowed"),
        (
            Read(Phase.BEFORE, "41 x10", WallReading("peak", 410, 7.62, 13)),
            "Read before: brightest point, 410 lx",
        ),
        (
            Rastered(Phase.AFTER, "wall.csv", (WallReading("free-1", 4, 10, 13),)),
            "Raster after: 1 readings from wall.csv",
        ),
        (WarmStarted("after"), "Warm-up run after started"),
        (WarmRead("after", "410", 410.0), "Warm-up after: 410 lx"),
        (Warmed(Phase.AFTER, ((0.0, 410.0), (9.0, 400.0))), "Warm-up run after: 2 readings"),
        (
            Tried(2, "slim", "9", WallReading("edge", 9, 10, 13)),
            "Shoot-out, turn 2, slim: just under the cut-off, 9 lx",
        ),
        (ShootOutEnded(), "Shoot-out ended"),
        (Chosen(SLIM, "thin"), "Chosen: slim"),
        (Chosen(None, "fine"), "Chosen: stay with what is in it"),
        (Routed("cap", ()), "Route: cap, 0 steps"),
        (Ticked(Tick("fit:seat")), "Step ticked (fitted)"),
        (
            Ticked(Tick("close:3"), "Ines", "film stays"),
            "Step ticked (closed) by Ines: film stays",
        ),
        (ExtraWork(("small",)), "Extra work: small bulbs while in there"),
        (ExtraWork(()), "Extra work: none"),
        (Ordered("Adapter", dt.date(2027, 1, 5)), "Adapter on order, due 5 Jan"),
        (Ordered("Adapter", arrived=True), "Adapter arrived"),
        (PlannedFor(dt.date(2027, 1, 5), 870), "Planned for 5 Jan, 14:30"),
        (PlannedFor(None), "Taken off the day plan"),
        (PlanKept(48.0, 90.0, ("a", "b"), 4), "Plan kept: 48 min, 2 steps"),
        (ClockRan(True), "Clock started"),
        (Checked("O-ring", False, "too thick", 2.9, 2.5), "O-ring: not right, too thick"),
        (Pictured(1, "before"), "Picture before a step"),
        (
            Interlocked("closed", "low-returns", True),
            "Low beam comes back at once when high beam goes off: as it should",
        ),
        (
            FastenerBack(1, "clip", 2, 2, "", "edge", 1),
            "Fasteners: 2 clip back, 1 broken, 1 noted",
        ),
        (FastenerBack(1, "push pin", 4), "Fasteners: 4 push pin back"),
        (FastenerBack(1, "push pin", 3, 1, "broken"), "Fasteners: 3 push pin back, 1 noted"),
        (Clocked(20.0), "Clocking: stopped 20° clockwise"),
        (
            Proved("open", "low", Side.LEFT, "on", "dark"),
            "Low beam left, engine running: dark",
        ),
        (FaultSought("dark", (("fuse", 1),)), "Fault sought: dark after fitting, 1 test"),
        (
            FaultFound("dark", "polarity"),
            "Fault cured: plus and minus exchanged at the plug",
        ),
        (NotOnCar("fog"), "Front fog: not on this car"),
        (NotOnCar("fog", False), "Front fog: on this car"),
        (Aimed(AimPhase.LEFT, "us-vol", 0.7, 7.62, -0.007, ""), "Aim as left: −0.70 %"),
        (WallLaid("us-vol", 0.7, 7.62), "Wall for aiming: 7.62 m off, lamps 0.7 m high"),
        (
            WallLaid("us-vol", 1, 9, right_height_m=1.02),
            "Wall for aiming: 9 m off, lamps 1 m and 1.02 m high",
        ),
        (AdjustersTold(True), "One adjuster moves low and high beam"),
        (AdjustersTold(False), "Low and high beam have an adjuster each"),
        (Readied(("tyres", "load")), "Before aiming: 2 of 6 checked"),
        (
            HandedOver("I. C.", (), True, True, dt.date(2027, 1, 1)),
            "Customer sheet by I. C.",
        ),
        (Passed("aim"), "Aim finished"),
        (Passed("aim", "no wall"), "Aim skipped: no wall"),
        (Reopened("fit"), "Fit reopened"),
    ],
)
def test_every_kind_of_entry_has_words(payload, words):
    assert payload.in_words().replace("\u00a0", " ") == words


def test_every_kind_has_words_of_its_own():
    assert all(kind.in_words is not Payload.in_words for kind in KINDS.values())


def test_lines_are_newest_first_and_say_what_they_are_about(sessions):
    with sessions.begin() as session:
        job_id = jobs.open_job(session, BOOKING, FRONT, [LEFT, RIGHT])
        jobs.append(session, job_id, Clocked(3.0), [LEFT])
        entry = jobs.append(session, job_id, Passed("fit"), [LEFT, RIGHT])
        jobs.undo(session, job_id, entry)
    with sessions() as session:
        lines = history.history(jobs.load(session, job_id), 9)
    bulb = "low and high beam bulb"
    assert [line.about for line in lines] == [
        f"{bulb} both",
        f"{bulb} left",
        f"{bulb} both",
        "",
        "",
    ]
    assert [line.undone for line in lines] == [True, False, False, False, False]
    assert [line.can_undo for line in lines] == [True, True, True, True, False]


def test_only_the_newest_are_asked_for(sessions):
    with sessions.begin() as session:
        job_id = jobs.open_job(session, BOOKING, FRONT, [LEFT])
        for _ in range(20):
            jobs.append(session, job_id, Clocked(1.0), [LEFT])
    with sessions() as session:
        job = jobs.load(session, job_id)
    assert len(history.history(job, history.SHOWN)) == history.SHOWN
    assert [len(history.history(job, 20, skip)) for skip in (0, 20, 40)] == [20, 3, 0]


SCOPES = "all low low-left fog-right headlamp headlamp2-left headlamp-1 foglamp-1-right"


@pytest.mark.parametrize("text", SCOPES.split())
def test_scopes_read_back_as_written(text):
    assert str(Scope.parse(text)) == text


@pytest.mark.parametrize(
    "text", ["", "low-up", "low-left-left", "all-left", "headlamp-x", "Headlamp", "headlamp-1-2"]
)
def test_no_such_scope(text):
    with pytest.raises(ValueError):
        Scope.parse(text)
    with pytest.raises(ValidationError):
        ScopeConverter(None).to_python(text)


@pytest.fixture
def progress(sessions):
    """A dual-bulb car with fog lamps, all worked on."""
    with sessions.begin() as session:
        job_id = jobs.open_job(session, BOOKING, FRONT, FRONT.sockets())
        return Progress(jobs.load(session, job_id).record)


@pytest.mark.parametrize(
    ("text", "stage", "things"),
    [
        ("all", Stage.INSPECT, "headlamp-left headlamp-right foglamp-left foglamp-right"),
        ("low", Stage.MATCH, "headlamp-1-left headlamp-1-right"),
        ("low", Stage.AIM, "low-left low-right"),
        ("headlamp-left", Stage.AIM, "low-left high-left"),
        ("headlamp-1-right", Stage.INSPECT, "headlamp-right"),
        ("high", Stage.PLAN, "headlamp-1-left headlamp-1-right"),
        ("daytime", Stage.INSPECT, ""),
    ],
)
def test_one_scope_serves_at_every_stage(progress, text, stage, things):
    assert " ".join(map(str, Scope.parse(text).things(progress, stage))) == things


def test_scopes_in_words():
    assert Scope.parse("all").words(FRONT, Drive.LEFT) == "The whole car"
    assert Scope.parse("low").words(FRONT, Drive.LEFT) == "Low beam, both sides"
    assert Scope.parse("headlamp-left").words(FRONT, Drive.RIGHT) == "Headlamp, Left · passenger"
    assert (
        Scope.parse("headlamp-1").words(FRONT, Drive.RIGHT) == "Low and high beam bulb, both sides"
    )
    assert Scope.parse("daytime").words(FRONT, Drive.LEFT) == "Not on this car"


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
        for scope in (Scope(), Scope("low"), LEFT, LEFT.of_unit, BeamKey(Function.LOW, Side.LEFT)):
            assert stage_url(7, scope, stage) == f"/jobs/7/{scope}/{stage.value}"


def test_an_address_carries_what_more_it_is_told(shop):
    with shop.app.test_request_context():
        address = stage_url(7, Scope("low"), Stage.PROVE, **{"pass": "open"})
    assert address == "/jobs/7/low/prove?pass=open"


def test_the_face_and_the_track_lead_to_the_same_pages(demo):
    page = demo.get("/jobs/4/low/aim")
    for address in (
        "/jobs/4/low-left/aim",
        "/jobs/4/high/aim",
        "/jobs/4/low/verify",
        "/jobs/4/headlamp/inspect",
    ):
        assert f'href="{address}"' in page
        demo.get(address)


def test_the_record_says_what_is_known_of_the_car_and_where_from(demo):
    page = demo.get("/jobs/1/record")
    assert "What is known of the car" in page
    assert "told at Fit" in page
    assert "assumed until told at Prove" in page
