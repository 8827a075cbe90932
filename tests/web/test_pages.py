"""Pages without a browser: what they compute, what they refuse, what they keep."""

import re
from functools import partial
from html import unescape

import pytest

from cold_arc.core.car.identify import narrow
from cold_arc.core.job.stages import Stage
from tests.timing import takes_less
from tests.web.conftest import BOOKING, identification

STAGES = [stage.value for stage in Stage]


def identify(client, **facts):
    return client.post("/jobs/1/all/book-in", **identification(**facts))


def add_source(client, **facts):
    good = {
        "name": "Test slim",
        "kind": "bulb",
        "base": "H7",
        "watts": "24",
        "claimed_lm": "1900",
        "claim_basis": "bulb",
        "colour": "white",
        "optic": "",
        "high_by": "",
        "cct_k": "6000",
        "faces": "2",
        "gap_mm": "1.5 mm",
        "emitter_mm": "4.2",
        "lcl_mm": "25.1",
        "tail_mm": "4 cm",
        "supply_min_v": "9 V",
        "supply_max_v": "16",
        "polarity": "any",
        "driver": "inside",
        "cooling": "fan",
        "price": "50",
        "warranty_years": "2",
    }
    return client.post("/light-sources/new", **(good | facts))


@pytest.mark.parametrize("stage", STAGES)
def test_every_stage_opens_on_an_empty_record(booked, stage):
    assert f'<h1><span class="stage-number">{Stage(stage).number}</span>' in booked.get(
        f"/jobs/1/low/{stage}"
    )


@pytest.mark.parametrize("stage", STAGES)
@pytest.mark.parametrize(
    "scope", ["1/low", "2/low-left", "3/low", "4/all", "5/fog", "5/position", "5/all"]
)
def test_every_stage_of_the_demo_opens(demo, scope, stage):
    assert f"/jobs/{scope}/{stage}" in demo.get(f"/jobs/{scope}/{stage}")


def test_pages_answer_within_100_ms(demo):
    stages = (f"/jobs/4/all/{stage}" for stage in STAGES)
    match = (
        f"/jobs/2/low/{path}"
        for path in ("match", "match/options", "match/wiring", "match/beside?id=5", "identify")
    )
    school = ("/school", "/school/people", "/school/cards")
    shop = ("/", "/jobs/new", "/bases", "/light-sources", "/light-sources/1")
    paths = (*shop, *school, *stages, *match)
    assert [path for path in paths if not takes_less(0.1, partial(demo.get, path))] == []


def test_empty_shop_says_what_to_do(shop):
    assert "No open jobs" in shop.get("/")
    assert "The shelf is empty" in shop.get("/light-sources")


def test_home_orders_by_what_is_due_next(demo):
    page = demo.get("/")
    order = [
        page.index(name) for name in ("Overdue", "TL-316", "TL-318", "TL-321", "TL-322", "TL-309")
    ]
    assert order == sorted(order)


def test_a_base_is_kept_under_its_catalogue_name(booked):
    assert "· 9006" in identify(booked, base="hb4")


@pytest.mark.parametrize(
    ("query", "words"),
    [
        ("reading?name=peak-low-left&peak-low-left=41+x10&distance=25+ft", "410 lx · 23 810 cd"),
        ("reading?name=p&p=41&range_factor=10&distance=10", "410 lx · 41 000 cd"),
        ("reading?name=p&p=41", "give the distance"),
        ("reading?name=p&p=what", "is not a reading"),
        ("distance?name=d&d=25+ft", "7.62 m, 25 ft"),
        ("slope?name=s&s=2+in&distance=25+ft", "5.1 cm below lamp height · −0.67 % · −0.38°"),
        ("slope?name=s&s=2+in&distance=", "Give the distance first"),
        ("clock?name=c&c=20+cw", "20° clockwise"),
    ],
)
def test_echo_says_how_it_was_understood(shop, query, words):
    assert words in shop.get(f"/echo/{query}")


def test_units_follow_the_preference(demo):
    assert "12.8 cm below lamp height" in demo.get("/jobs/1/low/aim")
    demo.post("/preferences", units="inch", back="/")
    assert "5.0 in below lamp height" in demo.get("/jobs/1/low/aim")
    assert "3.28 in" not in demo.get("/jobs/1/low/aim")


def test_theme_is_remembered(shop):
    assert 'data-bs-theme="dark"' in shop.get("/")
    assert 'data-bs-theme="light"' in shop.post("/preferences", theme="day", back="/")
    assert 'data-bs-theme="light"' in shop.get("/shop")


def test_preferences_never_lead_elsewhere(shop):
    response = shop.http.post("/preferences", data={"theme": "day", "back": "//elsewhere.example/"})
    assert response.headers["Location"] == "/"


def test_inspect_computes_the_restoration(booked):
    page = booked.post(
        "/jobs/1/low/inspect", haze="3", room_mm="55", labour_rate="60", replacement_price="310"
    )
    assert "Restoration, 58 min a lamp" in page
    assert "Wet sand with 1000 grit" in page
    assert "restore 58, new 310" in page


def test_a_lamp_to_be_replaced_gets_no_sanding_list(booked):
    page = booked.post("/jobs/1/low/inspect", haze="3", crack="through")
    assert "verdict-replace" in page
    assert "Restoration," not in page
    assert "Wet sand" not in page


def test_each_count_of_the_base_finder_says_what_choosing_leaves(shop):
    """“The whole lamp, no bulb” leaves one rare base: its count says so before it is tapped."""
    page = shop.get("/bases")
    counts = re.findall(r'name="looks"[^>]*value="([a-z-]+)".*?<i>(\d+)</i>', page)
    assert ("sealed", "1") in counts
    for value, count in counts:
        assert int(count) == len(narrow({"looks": value})) > 0, value


def test_on_a_front_without_headlamps_what_is_added_is_what_is_worked_on(shop):
    page = shop.post("/jobs/new", 200, build="made:signals-only", front="")
    front = re.search(r'name="front"[^>]*value="([^"]*)"', page)[1]
    page = shop.post("/jobs/new", 200, build="extra:fog", front=unescape(front))
    ticked = re.findall(r'id="work-(foglamp-1-[a-z]+)" checked', page)
    assert ticked == ["foglamp-1-left", "foglamp-1-right"]


def test_sides_that_differ_are_said(booked):
    booked.post("/jobs/1/low-left/inspect", haze="3")
    assert "recorded differently" in booked.get("/jobs/1/low/inspect")


def test_a_reading_shows_as_candela(booked):
    set_up = {"distance": "10 m", "range_factor": "10", "volts": "13.2"}
    page = booked.post(
        "/jobs/1/low/baseline", **set_up, **{"peak-low-left": "41", "edge-low-left": "25"}
    )
    assert "41 000 cd" in page
    assert "410 lx at 10 m" in page
    assert "no reading before: stray (low beam left)" in page
    assert "no reading before: peak, edge, stray (low beam right)" in page


def test_a_route_is_loaded_edited_and_saved(booked):
    page = booked.post("/jobs/1/low/plan", do="load:starter-Open cap, from the engine bay")
    assert "Open cap, from the engine bay" in page
    assert "4 min" in page
    page = booked.post(
        "/jobs/1/low/plan",
        do="step:",
        text="Fan cover off",
        minutes="6",
        tools="T20, pick",
        fasteners="3 screw T20, cover",
        caution="",
    )
    assert "10 min" in page
    assert "3 screw T20, cover" in page
    first, second = re.findall(r'value="down:(\d+)"', page)[:2]
    page = booked.post("/jobs/1/low/plan", do=f"down:{first}")
    assert re.findall(r'value="down:(\d+)"', page)[:2] == [second, first]
    booked.post("/jobs/1/low/plan", do=f"drop:{first}")
    assert "Saved" in booked.post("/jobs/1/low/plan", do="template:")
    booked.post("/jobs/new", **(BOOKING | {"reference": "A-2"}))
    page = booked.get("/jobs/2/low/plan")
    assert "Known for this car" in page
    assert "Fan cover off" in booked.post("/jobs/2/low/plan", do="load:saved-1")


def test_the_whole_car_opens_what_its_lamps_share_once(booked):
    assert "No way in yet" in booked.get("/jobs/1/all/plan/whole")
    door = {
        "do": "step:",
        "minutes": "4",
        "tools": "",
        "fasteners": "6 push pin, liner",
        "caution": "",
    }
    for name in ("Liner back", "Cap off"):
        opens = "liner" if name == "Liner back" else ""
        booked.post("/jobs/1/low/plan", **(door | {"text": name, "opens": opens}))
    page = booked.get("/jobs/1/all/plan/whole")
    assert "left side" in page
    assert "24 push pin" in page
    assert "5 push pin" in page  # a fifth of 24 as spares, rounded up
    assert page.count('<span class="route-text">Liner back') == 2  # two sides, opened
    assert page.count('<span class="route-text">Back: Liner back') == 2  # and closed


def test_steps_are_ticked_in_order(demo):
    page = demo.post("/jobs/5/fog/plan", do="load:starter-Under-tray, from below")
    route = re.findall(r'value="drop:(\d+)"', page)
    assert "in order" in demo.post("/jobs/5/fog/fit", do=f"tick:open:foglamp-left:{route[1]}")
    page = demo.post("/jobs/5/fog-left/fit", do=f"tick:open:foglamp-left:{route[0]}")
    assert "Step ticked (opened)</span>" in page.replace(
        ' <span class="quiet">fog lamp both', "</span>"
    )
    page = demo.post("/jobs/5/fog-left/fit", do=f"tick:open:foglamp-left:{route[0]}")
    assert "Done meanwhile: Car on ramps" in page


def next_tick(page):
    """What the large button of Fit says it does."""
    return re.search(r'value="([^"]+)"[^>]*data-tick', page)[1]


def test_shared_fasteners_stand_once_and_count_for_both(demo):
    page = demo.get("/jobs/5/fog/fit")
    for _ in range(5):  # the tools laid out, both lenses, then the ramps, then the tray
        page = demo.post("/jobs/5/fog/fit", do=next_tick(page))
    assert "Tray <small>10 loose" in page
    first, second = dict.fromkeys(re.findall(r'name="row" value="([^"]+)"', page))
    demo.post("/jobs/5/fog-left/fit/tray", row=first, do="one")
    assert "lies: left tin" in demo.post(
        "/jobs/5/fog/fit/tray", row=first, do="lies", note="left tin"
    )
    page = demo.post("/jobs/5/fog/fit/tray", row=first, do="lost", note="thread gone")
    assert "1 noted (thread gone)" in page
    page = demo.post("/jobs/5/fog/fit/tray", row=first, do="broken")
    assert "1 broken, 1 noted (thread gone)" in page
    assert "ordered" in demo.post("/jobs/5/fog/fit/tray", row=first, do="ordered")
    demo.post("/jobs/5/fog/fit/tray", row=first, do="all")
    assert "Tray <small>0 loose" in demo.post("/jobs/5/fog/fit/tray", row=second, do="all")


def test_clocking_shows_the_preset(demo):
    page = demo.post(
        "/jobs/1/low/fit", **{"do": "clock:headlamp-1-left", "headlamp-1-left-stopped": "20 cw"}
    )
    assert "Stopped 20° clockwise" in page
    assert "Preset collar 20° anticlockwise" in page


def test_a_dark_lamp_brings_the_polarity_step(booked):
    mark = "mark:low,left,off,"
    booked.post("/jobs/1/low/prove?pass=open", do=mark + "works")
    page = booked.post("/jobs/1/low/prove?pass=open", do=mark + "dark")
    assert "try it the other way round" in page
    assert "before closing: Low beam left, engine off dark" in page
    page = booked.post("/jobs/1/low/prove?pass=open", do=mark + "turned")
    assert "Works, plug turned" in page
    assert "other way round" not in page


def test_prove_can_not_be_passed_with_untested_cells_but_for_a_reason(booked):
    for stage in STAGES[:6]:
        booked.post(f"/jobs/1/low/{stage}/finish", reason="not needed today")
    assert "not proved after refit" in booked.post("/jobs/1/low/prove/finish")
    assert "Aim" in booked.post("/jobs/1/low/prove/finish", reason="engine will not start")
    assert "Prove skipped: engine will not start" in booked.get("/jobs/1/low/aim")


def test_ahead_and_finished_stages_say_so(demo):
    assert "Waits for Inspect of the headlamp, left." in demo.get("/jobs/2/low/aim")
    assert "Reopen Match" in demo.get("/jobs/1/low/match")
    demo.post("/jobs/1/low/match/reopen")
    assert "Finish Match, go to Plan" in demo.get("/jobs/1/low/match")


def test_undo_takes_back_and_redo_brings_back(booked):
    page = booked.get("/jobs/1/all/book-in")
    assert "· H7" in page
    entry = re.findall(r"/jobs/1/entries/(\d+)/undo", page)[0]
    page = booked.post(f"/jobs/1/entries/{entry}/undo", back="/jobs/1/all/book-in")
    assert "· H7" not in page.split("<h2>Record")[0]
    page = booked.post(f"/jobs/1/entries/{entry}/redo", back="/jobs/1/all/book-in")
    assert "· H7" in page


def test_every_entry_can_be_undone_from_the_whole_record(demo):
    page = demo.get("/jobs/1/record")
    entries = re.findall(r"/jobs/1/entries/(\d+)/undo", page)
    assert len(entries) == page.count("<time") > 60
    last = demo.get("/jobs/1/record?page=2")
    assert last.count("/undo") == last.count("<time") - 1  # the founding booking stays
    identified = re.findall(r"/jobs/1/entries/(\d+)/undo", last)[-3]
    page = demo.post(f"/jobs/1/entries/{identified}/undo", back="/jobs/1/record?page=2")
    assert f"/jobs/1/entries/{identified}/redo" in page
    assert "not identified" in demo.get("/jobs/1/low/book-in")


def test_the_only_front_and_work_can_not_be_undone(booked):
    page = booked.get("/jobs/1/low/inspect")
    for entry in re.findall(r"/jobs/1/entries/(\d+)/undo", page)[-2:]:
        assert "correct it instead" in booked.post(
            f"/jobs/1/entries/{entry}/undo", back="/jobs/1/low/inspect"
        )
    assert '<h1><span class="stage-number">2' in booked.get("/jobs/1/low/inspect")


def test_the_booking_is_corrected_not_lost(booked):
    page = booked.post(
        "/jobs/1/all/book-in", **(BOOKING | {"model": "Dorin estate", "work": ["headlamp-1-left"]})
    )
    assert "Velmar Dorin estate" in page
    assert "Work chosen" in page
    assert "<h1>" in booked.get("/jobs/1/low-right/inspect")


def test_the_sheet_waits_for_hand_over(demo):
    assert "Not completed yet" in demo.get("/jobs/1/sheet")
    demo.post(
        "/jobs/1/all/hand-over",
        technician="Ines Corvane",
        recheck="2099-03-01",
        law_told="y",
        cautions=["glare"],
        note="fan hum",
    )
    page = demo.get("/jobs/1/sheet")
    for words in (
        "Tallow Lane Lampworks",
        "+45 %",
        "12.8 cm below lamp height",
        "Re-check",
        "1 Mar 2099",
        "fan hum",
        "Off-road or show use only",
    ):
        assert words in page, words


def test_light_sources_are_changed_retired_and_put_back(shop):
    add_source(shop)
    assert "22 W" in add_source(shop, name="Other", watts="22")
    page = shop.post("/light-sources/1/retire")
    assert "Put back" in page
    assert "Put back" not in shop.post("/light-sources/1/restore")
    assert 'value="Test slim"' in shop.get("/light-sources/1")


def test_not_found_is_a_page(shop):
    for path in (
        "/nowhere",
        "/jobs/9",
        "/jobs/9/low/aim",
        "/jobs/99999999999999999999/low/aim",
        "/jobs/9/sheet",
        "/jobs/1/warp/aim",
        "/light-sources/9",
    ):
        assert "Not here" in shop.get(path, 404)


def test_headers_are_strict(demo):
    response = demo.http.get("/jobs/1/low/aim")
    policy = response.headers["Content-Security-Policy"]
    assert "script-src 'self'" in policy
    assert "unsafe" not in policy
    assert response.headers["X-Content-Type-Options"] == "nosniff"
    page = response.text
    assert not re.search(r"<script(?![^>]*\bsrc=)", page)
    assert " style=" not in page
    assert not re.search(r" on[a-z]+=", page)
    assert not re.search(r"(src|href)=\"(https?:)?//", page)


def test_every_change_wants_its_token(demo):
    demo.app.config["WTF_CSRF_ENABLED"] = True
    for path in (
        "/jobs/new",
        "/jobs/1/low/fit",
        "/jobs/1/low/aim",
        "/preferences",
        "/shop",
        "/jobs/1/entries/3/undo",
    ):
        assert demo.http.post(path, data={"do": "x"}).status_code == 400, path


def test_text_from_people_is_escaped(shop):
    page = shop.post("/jobs/new", **(BOOKING | {"complaint": "<script>alert(1)</script>"}))
    raw = shop.http.get("/jobs/1/all/book-in").text
    assert "<script>alert" not in raw
    assert "alert(1)" in page


def test_sixty_open_jobs_still_answer_quickly(shop):
    for number in range(60):
        shop.post("/jobs/new", **(BOOKING | {"reference": f"B-{number}"}))
    assert takes_less(0.1, partial(shop.get, "/"))


def test_the_board_says_what_to_test_next(demo):
    def under_hand():
        found = re.search(
            r'<section class="step-now".*?<h2>([^<]+)</h2>',
            demo.get("/jobs/2/low/prove?pass=open"),
            re.DOTALL,
        )
        return found and found[1]

    assert under_hand() == "Low beam left, engine off"
    page = demo.post("/jobs/2/low/prove?pass=open", do="mark:low,left,off,dark")
    assert "Dark: try it the other way" in page
    assert under_hand() == "Low beam left, engine running"
    demo.post("/jobs/2/low/prove?pass=open", do="row:low")
    assert under_hand() is None
