"""The whole car's plan: extra work, timeline, day, orders, versions, what the shop learnt, what is
proposed.
"""

import datetime as dt
import re

import pytest

from cold_arc.core.car.front_building import made
from cold_arc.core.car.keys import SocketKey
from cold_arc.core.car.lamps import Drive, Side
from cold_arc.core.job.entries.book_in import Booking
from cold_arc.core.job.entries.fit import ClockRan, FastenerBack, Ticked
from cold_arc.core.job.entries.plan import Routed
from cold_arc.core.work.access import Fasteners, RouteStep
from cold_arc.core.work.tick import Tick
from cold_arc.store import board, catalogue, jobs, work_done

WHOLE = "/jobs/5/all/plan/whole"
DAY = dt.date.today() + dt.timedelta(days=3)


def load(demo, unit, name):
    page = demo.get(f"/jobs/5/{unit}/plan")
    value = re.search(rf'value="(load:[^"]+)"><b>{name}', page)[1]
    return demo.post(f"/jobs/5/{unit}/plan", do=value)


def test_one_of_the_ways_known_for_a_car_is_proposed_with_its_reason(demo):
    page = demo.get("/jobs/5/foglamp/plan")
    proposed = re.search(r'class="route-card proposed".*?</button>', page)[0]
    assert "Under-tray, from below" in proposed
    assert "The least time" in proposed
    load(demo, "headlamp", "Lower grille and lamp frame")
    page = demo.get("/jobs/5/foglamp/plan")
    proposed = re.search(r'class="route-card proposed".*?</button>', page)[0]
    assert "Through the lower grille" in proposed  # the grille is off anyway
    assert "Adds 5 min" in proposed


def test_the_shop_may_rather_have_the_least_risk(demo):
    page = demo.get("/jobs/3/headlamp/plan")
    assert "The least time" in page
    form = {"shop_name": "X", "people": "2", "prefers": "risk", "dark_bay": "0", "zone": ""}
    assert "Saved" in demo.post("/shop", **form)
    assert "The least risk" in demo.get("/jobs/3/headlamp/plan")


def test_of_a_car_nobody_knows_nothing_is_proposed(booked):
    page = booked.get("/jobs/1/low/plan")
    assert "none is proposed" in page
    assert "Proposed." not in page


def test_ways_in_of_one_side_are_offered_to_that_side(demo):
    assert "Air box aside" in demo.get("/jobs/1/headlamp-left/plan")
    known = re.search(r"Known for this car.*?</ul>", demo.get("/jobs/1/headlamp-right/plan"))[0]
    assert "Air box aside" not in known
    assert "Washer neck aside" in known
    assert "right side only" in known
    demo.post(
        "/jobs/1/headlamp/plan", do=re.search(r'value="(load:[^"]+)"><b>Washer neck', known)[1]
    )
    plan = demo.get("/jobs/1/all/plan/whole")
    assert "Plugs</span> <b>washer pump" in plan  # of the right side alone
    assert "air box" in plan


def test_ways_of_one_side_each_stand_as_a_pair_against_those_for_both(demo):
    """They belong together: neither is proposed against the other."""
    page = demo.get("/jobs/1/headlamp/plan")
    known = re.search(r"Known for this car.*?</ul>", page)[0]
    pair = re.search(r'value="(load:pair-[^"]+)"><b>([^<]+)', known)
    assert pair[2] == "Left: air box aside, then the cap; right: washer neck aside, then the cap"
    for card in re.findall(r'class="route-card.*?</button>', known):
        assert not ("side only" in card and "Proposed." in card)
    demo.post("/jobs/1/headlamp/plan", do=pair[1])
    assert "Air box aside" in demo.get("/jobs/1/headlamp-left/plan")
    assert "Washer neck aside" in demo.get("/jobs/1/headlamp-right/plan")


def test_changing_one_side_leaves_the_other_alone(demo):
    """A step of the left side's way, changed from the page of both, replaced the right side's."""
    demo.post("/jobs/1/headlamp-left/plan", do="load:starter-Wheel-liner door")
    demo.post("/jobs/1/headlamp-right/plan", do="load:starter-Open cap, from the engine bay")
    page = demo.get("/jobs/1/headlamp/plan")
    assert "This side" in page
    assert "Both alike" not in page
    steps = re.findall(r"\?step=(\d+)", page)
    step = {"do": "step:", "text": "Changed", "minutes": "9", "caution": "", "risk": "0"}
    step |= {"kind": "opened", "cover": "", "step_id": steps[0]}
    told = demo.post("/jobs/1/headlamp/plan", **step)
    assert "Each side has a way in of its own" in told
    demo.post("/jobs/1/headlamp-left/plan", **step)
    right = demo.get("/jobs/1/headlamp-right/plan")
    assert "Bonnet up" in right
    assert "Changed" not in re.search(r'<ol class="route">.*?</ol>', right)[0]


def test_extra_work_is_chosen_for_each_lamp_and_stands_in_the_timeline(demo):
    chosen = ["polish/foglamp-left", "drl-feed/foglamp-left", "drl-feed/foglamp-right"]
    page = demo.post(WHOLE, do="extras:", extra=chosen)
    assert "Extra work: restore the lens" in page
    tasks = re.search(r'<ol class="time-list">.*?</ol>', page)[0]
    assert tasks.count("Restore the lens") == 2  # the right one is hazed: Fit asks for it
    assert tasks.count("Feed for the daytime light") == 1
    assert "cured at" in tasks
    assert (
        tasks.index("Restore the lens")
        < tasks.index("Under-tray down")
        < tasks.index("Prove, open")
    )
    page = demo.post(WHOLE, do="extras:")
    tasks = re.search(r'<ol class="time-list">.*?</ol>', page)[0]
    assert "Feed for the daytime light" not in tasks
    assert tasks.count("Restore the lens") == 2
    assert page.count(">at Fit<") == 4  # and a capacitor each, which Wiring asked for
    assert page.count(" checked disabled>") == 4  # what Fit asks for is not to be ticked here


def test_what_is_plugged_in_before_proving_is_not_told_among_what_is_closed_after(demo):
    """In the order of Fit's own list."""
    demo.post("/jobs/5/headlamp/plan", do="load:starter-Bumper off, housing out")
    plan = demo.get(WHOLE).partition("While it is open</h2>")[2]
    steps = demo.get("/jobs/5/all/fit").partition("<ol")[2]
    for words, proving in ((plan, "Prove every function"), (steps, "Prove it open: head")):
        assert words.count("Plug the housing in") == 2
        assert words.rindex("Plug the housing in") < words.index(proving)
        assert words.rindex(proving) < words.index("Housing on its guides")


def test_a_second_person_shortens_the_timeline(demo):
    def minutes(count):
        page = demo.get(f"{WHOLE}?people={count}")
        hours, rest = re.search(r"<h2>Timeline <small>(?:(\d+) h )?(\d+) min", page).groups()
        return int(hours or 0) * 60 + int(rest)

    demo.post(WHOLE, do="extras:", extra=["polish/foglamp-left", "polish/foglamp-right"])
    assert minutes(2) < minutes(1)


@pytest.mark.parametrize("starts", ["half two", "25:00", "14", "14:60", ""])
def test_a_start_that_is_no_time_is_refused_and_stays(demo, starts):
    page = demo.post(WHOLE, 422, do="when:", day=DAY.isoformat(), starts=starts, people="1")
    assert "Write the time like 14:30." in page or "Say when." in page
    assert f'value="{starts}"' in page


def test_a_car_planned_stands_on_its_day_and_in_the_calendar(demo):
    page = demo.post(WHOLE, do="when:", day=DAY.isoformat(), starts="14.30", people="1")
    assert "From 14:30, the wall from" in page
    page = demo.get(f"/day?on={DAY}")
    assert "TL-322" in page
    assert "14:30, hands" in page
    assert "TL-322 14:30 at the car" in demo.get("/calendar.ics")
    demo.post(WHOLE, do="off:")
    assert "No car is planned" in demo.get(f"/day?on={DAY}")


def test_two_cars_at_once_with_one_person_are_told(demo):
    for job in (5, 3):
        demo.post(
            f"/jobs/{job}/all/plan/whole",
            do="when:",
            day=DAY.isoformat(),
            starts="14:30",
            people="1",
        )
    assert "2 people are asked for, 1 is here" in demo.get(f"/day?on={DAY}")


def test_a_part_on_order_holds_the_day_until_it_is_here(demo):
    demo.post(WHOLE, do="when:", day=DAY.isoformat(), starts="14:30", people="1")
    late = (DAY + dt.timedelta(days=2)).isoformat()
    page = demo.post(WHOLE, do="order:", what="Fog lens gasket", arrives=late)
    assert "the day is too early" in page
    assert "Not here by then: Fog lens gasket" in demo.get(f"/day?on={DAY}")
    assert "TL-322" in demo.get("/?which=order")
    page = demo.post(WHOLE, do="arrived:Fog lens gasket")
    assert "the day is too early" not in page
    assert "TL-322" not in demo.get("/?which=order")
    demo.post(WHOLE, 404, do="arrived:Fog lens gasket")
    assert "Say what is on order." in demo.post(WHOLE, 422, do="order:", what=" ")


def test_a_plan_kept_is_compared_with_what_it_became(demo):
    demo.post(WHOLE, do="keep:")
    assert "Against version 1: nothing has changed." in demo.get(WHOLE)
    load(demo, "foglamp", "Through the lower grille")
    page = demo.get(WHOLE)
    assert "New: Lower grille out, clips along its top edge first (once)" in page
    assert "Gone: Under-tray down (once)" in page
    assert "fasteners fewer" in page


def test_a_day_that_is_none_shows_today(demo):
    for asked in ("yesterday", "0001-01-01", "9999-12-31"):
        assert f"{dt.date.today():%A}" in demo.get(f"/day?on={asked}")
    assert "A day from 2000" in demo.post(
        WHOLE, 422, do="when:", day="0001-01-01", starts="9:00", people="1"
    )


def test_without_a_place_the_day_says_so(shop):
    assert "When it is dark is not known" in shop.get("/day")


PINS = RouteStep(
    1, "Grille off", 6, ("T20",), (Fasteners("push pin", 10, "grille"),), opens="grille"
)


def done_job(session, at, out_min, back_min, broken):
    """A job of a Velmar Dorin whose grille took so long and broke so many."""
    key = SocketKey("headlamp", 1, Side.LEFT)
    booking = Booking("A", "Velmar", "Dorin", Drive.LEFT, "un", year=2015)
    number = jobs.open_job(session, booking, made("two-singles", []), [key], at)
    jobs.append(session, number, Routed("way", (PINS,)), [key.of_unit], at)
    jobs.append(session, number, ClockRan(True), (), at)
    opened = at + dt.timedelta(minutes=out_min)
    jobs.append(session, number, Ticked(Tick("route:1")), [key.of_unit], opened)
    jobs.append(
        session,
        number,
        Ticked(Tick("close:1")),
        [key.of_unit],
        opened + dt.timedelta(minutes=back_min),
    )
    gone = FastenerBack(1, "push pin", 10 - broken, broken, "", "grille", broken)
    jobs.append(session, number, gone, [key.of_unit], opened)
    return number


def test_what_a_car_took_teaches_the_next_plan_for_such_a_car(shop, tmp_path):
    """By hand: planned 6, took 10 and 14: (6 + 24) / 3 = 10. Of 20 pins 6 broke: (2 + 6) / 30 of
    10, rounded up: 3.
    """
    at = dt.datetime(2026, 11, 2, 9, tzinfo=dt.UTC)
    with shop.app.extensions["cold_arc_sessions"].begin() as session:
        for out, back, broken in ((5, 5, 2), (8, 6, 4)):
            done_job(session, at, out, back, broken)
        board.keep(session, board.worked_out(session, 10))
        third = done_job(session, at, 1, 1, 0)
        catalogue.save_route(session, Routed("way", (PINS,)), "Velmar Dorin 2015", "headlamp")
    page = shop.get(f"/jobs/{third}/all/plan/whole")
    assert "planned 6 min, took 12 min (n 2)" in page
    assert ">10 min<" in page
    assert "3 push pin" in re.search(r"Spares to have ready.*?</p>", page)[0]
    assert "Adds 10 min" in shop.get(f"/jobs/{third}/headlamp/plan")


def test_damaged_lessons_are_left_out(sessions):
    with sessions.begin() as session:
        done_job(session, dt.datetime(2026, 11, 2, 9, tzinfo=dt.UTC), 5, 5, 0)
        board.keep(session, board.worked_out(session, 10))
        session.execute(work_done.WorkDoneRow.__table__.update().values(facts={"part": 1}))
        booking = Booking("B", "Velmar", "Dorin", Drive.LEFT, "un")
        assert work_done.known(session, booking) == {}
