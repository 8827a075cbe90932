"""Fit by several: steps, checks, what a panel waits for, clock, pictures, seat."""

import io
import re
import shutil

import pytest
from PIL import Image

from cold_arc.core.job.entries.fit import Checked
from cold_arc.store import jobs
from cold_arc.store.database import open_database
from tests.made import made_once
from tests.web.conftest import Client
from tests.web.test_pages import next_tick

FIT = "/jobs/5/fog/fit"


def picture(size=(900, 600), kind="JPEG", turned=False):
    out, image = io.BytesIO(), Image.new("RGB", size, (40, 60, 90))
    exif = image.getexif()
    if turned:
        exif[0x0112] = 6  # a quarter turn: the camera was held upright
    image.save(out, kind, exif=exif)
    return out.getvalue()


def send(demo, data, phase="before", path=FIT):
    fields = {"phase": phase, "step": "open:foglamp-left:1", "picture": (io.BytesIO(data), "p.jpg")}
    response = demo.http.post(
        f"{path}/picture", data=fields, content_type="multipart/form-data", follow_redirects=True
    )
    return response.status_code, response.text


def tick_until(demo, words, most=60):
    """Ticks the large button until the step under hand has *words*."""
    page = demo.get(FIT)
    for _ in range(most):
        if words in re.search(r'class="step-now.*?<h2>(.*?)</h2>', page)[1]:
            return page
        page = demo.post(FIT, do=next_tick(page))
    raise AssertionError(words)


@pytest.fixture(scope="session")
def once_fitted(tmp_path_factory, prepared):
    """A demo whose fog lamps were opened and fitted, written once."""

    def fit(folder):
        shutil.copytree(prepared, folder, dirs_exist_ok=True)
        demo = Client(folder)
        tick_until(demo, "Prove it open")
        for side in ("left", "right"):
            demo.post(FIT, **{"do": f"clock:foglamp-1-{side}", f"foglamp-1-{side}-stopped": "0"})

    return made_once(tmp_path_factory, "fitted", fit)


@pytest.fixture
def fitted(once_fitted, tmp_path):
    """Everything opened and fitted, nothing proved."""
    shutil.copytree(once_fitted, tmp_path, dirs_exist_ok=True)
    return Client(tmp_path)


def test_the_first_step_is_large_with_its_tools_and_who_did_it_is_kept(demo):
    demo.http.post(FIT, data={"do": "who:", "who": " Ines "})
    page = demo.get(FIT)
    assert "Lay out, and count: ramps, 8 mm socket, trim tool" in page
    page = demo.post(FIT, do=next_tick(page))
    assert "Step ticked (tools counted) by Ines" in page
    assert "Sanding dust" in page
    page = tick_until(demo, "Car on ramps")
    assert "jack stands" in page.lower()


def test_a_check_that_is_not_right_says_so_until_it_is(demo):
    page = tick_until(demo, "Compare O-rings")
    step = next_tick(page).removeprefix("tick:")
    page = demo.post(FIT, 422, do=f"wrong:{step}")
    assert "Say what is not right." in page
    page = demo.post(
        FIT, 422, do=f"tick:{step}", fitted_mm="3.1", needed_mm="2.5", note="keeps its text"
    )
    assert "Too thick by 0.6 mm." in page
    assert "keeps its text" in page
    page = demo.post(FIT, do=f"wrong:{step}", note="too thick")
    assert "Not right: too thick" in page
    page = demo.post(FIT, do=f"tick:{step}", fitted_mm="2.4", needed_mm="2.5")
    assert "Not right" not in re.search(r'<ol class="ticks".*?</ol>', page)[0]


def test_a_panel_closed_all_the_same_needs_a_reason(fitted):
    demo = fitted
    page = demo.get(FIT)
    closing = re.search(r'step=(close[^"]+)"', page)[1]
    page = demo.get(f"{FIT}?step={closing}")
    assert "not proved before closing" in page
    step = re.search(r'name="step" value="(close:[^"]+)"', page)[1]
    assert "Not yet." in demo.post(FIT, do=f"tick:{step}")
    page = demo.post(FIT, do=f"tick:{step}", reason="engine will not start")
    assert "Step ticked (closed): engine will not start" in page


def test_a_part_closed_with_all_its_fasteners_empties_the_tray(fitted):
    demo = fitted
    demo.post("/jobs/5/fog/fit/finish", reason="test")
    demo.post("/jobs/5/fog/prove?pass=open", do="row:fog")
    for function in ("turn", "position"):
        demo.post("/jobs/5/fog/prove?pass=open", do=f"row:{function}")
    page = demo.get(FIT)
    while found := re.search(r'value="((?:tick|home):(?:close|tools)[^"]+)"[^>]*data-tick', page):
        page = demo.post(FIT, do=found[1])
    assert "Every step is done" in page
    assert "Tray <small>0 loose" in page
    assert "All is closed again: 2 parts." in demo.get("/jobs/5/fog/prove?pass=closed")


PROVE = "/jobs/5/fog/prove?pass=open"


def cells(demo, words="Works"):
    """How many cells of the open board say so."""
    return len(re.findall(rf'class="cell result-[a-z]+"[^>]*>{words}<', demo.get(PROVE)))


def test_finishing_fit_wipes_no_proof_nor_does_opening_it_again(fitted):
    """Proofs are made at the button beside Fit; the stage is finished after them."""
    demo = fitted
    demo.post(PROVE, do="row:fog")
    assert cells(demo) == 4
    for _ in range(2):
        demo.post("/jobs/5/fog/fit/finish", reason="")
        assert cells(demo) == 4
        demo.post("/jobs/5/fog/fit/reopen")
        assert cells(demo) == 4


def close_all(demo):
    page = demo.get(FIT)
    while found := re.search(
        r'value="((?:tick|home):(?:close|seal|safe|tools)[^"]+)"[^>]*data-tick', page
    ):
        page = demo.post(FIT, do=found[1])
    return page


def test_what_is_opened_again_is_proved_again_and_shut_panels_ask_why(fitted):
    demo = fitted
    demo.post(PROVE, do="row:fog")
    page = close_all(demo)
    assert "The panels are shut." in demo.get(PROVE)
    again = re.findall(r'value="(again:[^"]+)"', page)
    demo.post(FIT, do=again[-1])
    assert cells(demo) == 0
    assert "Tray <small>0 loose" not in demo.get(FIT)
    demo.post(PROVE, do="row:fog")
    assert cells(demo) == 4
    close_all(demo)
    demo.post(PROVE, do="mark:fog,left,on,dark")  # shut again: nothing is recorded without a reason
    assert cells(demo, "Dark") == 0
    demo.post(PROVE, do="mark:fog,left,on,dark", reason="seen through the grille")
    assert cells(demo, "Dark") == 1
    assert "seen through the grille" in demo.get("/jobs/5/record")


def test_several_steps_are_told_in_one_go_each_named_and_its_check_recorded(demo):
    page = tick_until(demo, "Car on ramps")
    go = re.search(r'value="(group:[^"]+)">All\s+(\d+) done</button>\s*<ol>(.*?)</ol>', page, re.S)
    named = re.findall(r"<li>(.*?)(?:<span.*?)?</li>", go[3], re.S)
    assert len(named) == int(go[2]) > 1
    last = re.search(r'name="to" value="([^"]+)"', page)[1]
    for to in ("", "fit:headlamp-1-left:seat"):  # the page shows another list by now
        assert "look, then press again" in demo.post(FIT, do=go[1], to=to)
    page = demo.post(FIT, do=go[1], to=last)
    assert page.count("Step ticked") >= len(named)
    assert named[0] not in re.search(r'class="step-now.*?<h2>(.*?)</h2>', page, re.S)[1]
    looked = set(re.findall(r"([\w -]+): right", demo.get("/jobs/5/record")))
    assert {name.removesuffix(", right") for name in named if name.endswith(", right")} <= looked
    for left in ("group:nothing", "again:open:foglamp-left:999"):
        demo.post(FIT, 404 if "again" in left else 200, do=left)


def test_what_was_typed_of_a_check_goes_along_in_one_go(demo):
    page = tick_until(demo, "Compare O-rings")
    go, last = (
        re.search(pattern, page)[1]
        for pattern in (r'value="(group:[^"]+)"', r'name="to" value="([^"]+)"')
    )
    typed = {"fitted_mm": "3.1", "needed_mm": "2.5"}
    assert "Too thick by 0.6 mm." in demo.post(FIT, 422, do=go, to=last, **typed)
    page = demo.post(FIT, do=go, to=last, fitted_mm="2.5", needed_mm="2.5")
    assert "Compare O-rings" not in re.search(r'class="step-now.*?<h2>(.*?)</h2>', page, re.S)[1]
    with open_database(demo.folder)() as session:
        entries = [entry.payload for entry in jobs.load(session, 5).entries]
    looked = [made for made in entries if isinstance(made, Checked) and made.check == "O-ring"]
    assert [(made.right, made.fitted_mm, made.needed_mm) for made in looked] == [(True, 2.5, 2.5)]


def test_a_range_of_fasteners_is_counted_in_hand(demo):
    """“8 to 10 bolts” are not 8."""
    step = {
        "do": "step:",
        "text": "Skid plate off",
        "minutes": "4",
        "fasteners": "8 to 10 bolt M6, skid plate",
        "caution": "",
        "risk": "0",
        "kind": "opened",
        "cover": "",
    }
    page = demo.post("/jobs/5/foglamp/plan", **step)
    assert "8 to 10 bolt M6, skid plate" in page
    page = tick_until(demo, "Prove it open")
    row = re.search(r'name="row" value="([^"]+/bolt M6/skid plate/[^"]+)"', page)[1]
    tray = "/jobs/5/fog/fit/tray"
    state = re.search(
        rf'value="{re.escape(row)}"><input type="hidden"\s+name="stood" value="([^"]+)"', page
    )[1]
    assert "not counted" in page
    page = demo.post(tray, row=row, stood=state, do="count", note="9")
    assert "9 out" in page
    assert "is no count" in demo.post(
        tray, row=row.replace("foglamp-left", "foglamp-right"), do="count", note="many"
    )


def test_the_clock_started_twice_runs_once(demo):
    for _ in range(2):
        page = demo.post(FIT, do="run:1")
    assert "Stop the clock" in page
    assert demo.http.get("/jobs/5/record").text.count("Clock started") == 1
    assert "Start the clock" in demo.post(FIT, do="run:0")


def test_what_another_does_changes_the_state_that_is_asked_for(demo):
    before = demo.http.get("/jobs/5/seen").json["state"]
    demo.post(FIT, do=next_tick(demo.get(FIT)))
    after = demo.http.get("/jobs/5/seen").json["state"]
    assert before != after
    assert after in demo.get(FIT)
    assert demo.http.get("/jobs/99/seen").status_code == 404


def test_a_picture_is_kept_upright_small_and_without_its_origin(demo):
    status, page = send(demo, picture((3000, 2000), turned=True))
    assert status == 200
    assert "Picture before a step" in page
    kept = demo.http.get("/jobs/5/pictures/1.jpg")
    image = Image.open(io.BytesIO(kept.data))
    assert image.size == (1067, 1600)
    assert not image.getexif()
    assert (
        max(Image.open(io.BytesIO(demo.http.get("/jobs/5/pictures/1.jpg?small=1").data)).size)
        == 320
    )
    assert demo.http.get("/jobs/4/pictures/1.jpg").status_code == 404
    assert "/jobs/5/pictures/1.jpg" in demo.get("/jobs/5/sheet")


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (lambda: b"", "No picture was chosen"),
        (lambda: b"not a picture", "no picture that can be read"),
        (lambda: picture((40, 30), "GIF"), "no picture that can be read"),
        (lambda: picture((300, 200))[:400], "no picture that can be read"),
        (lambda: picture((5200, 5200), "PNG"), "more than 24 megapixels"),
    ],
)
def test_what_is_no_picture_is_refused_in_words(demo, data, said):
    status, page = send(demo, data())
    assert status == 200
    assert said in page
    assert "Picture before" not in page


def test_a_picture_may_be_larger_than_a_form_may(demo):
    assert send(demo, picture((900, 600)) + b"\0" * 2_000_000)[0] == 200
    assert send(demo, b"\0" * 27_000_000)[0] == 413


def test_the_seat_shows_what_it_does_to_the_beam(demo):
    seat = "/jobs/5/fog-left/fit/seat?key=foglamp-1-left&foglamp-1-left-stopped="
    page = demo.get(f"{seat}40+cw&foglamp-1-left-depth=26")
    assert page.count("<img") == 2
    assert "clock=40" in page
    assert re.search(r"Brightest point.*?−\d+ %", page)
    assert demo.get(f"{seat}sideways") == ""
    demo.get("/jobs/5/fog-left/fit/seat?key=nothing", 404)


def test_the_depth_by_caliper_is_held_against_the_base(demo):
    left = "foglamp-1-left"
    data = {"do": f"clock:{left}", f"{left}-stopped": "20 cw", f"{left}-depth": "28"}
    page = demo.post("/jobs/5/fog/fit", **data)
    assert "Emitters sit far off the filament's height" in page
    page = demo.post(
        "/jobs/5/fog/fit", **(data | {f"{left}-stopped": "21 cw", f"{left}-depth": ""})
    )
    assert "he collar was not preset" in page
    assert "far off the filament" not in page


def test_interlocks_are_asked_for_after_refit_by_the_markets_rule(booked):
    booked.post("/jobs/1/low/prove?pass=closed", do="absent:drl")
    for function in ("low", "high", "fog", "turn", "position", "marker", "hazard"):
        page = booked.post("/jobs/1/low/prove?pass=closed", do=f"row:{function}")
    assert "Front fog switches on and off by itself" in page
    assert "Daytime light" not in page
    page = booked.post("/jobs/1/low/prove?pass=closed", do="wrong:low-returns")
    assert "Not so: Low beam comes back at once" in page
    page = booked.post("/jobs/1/low/prove?pass=closed", do="right:*")
    assert page.count("As it should") == 7
    booked.post("/jobs/1/low/prove?pass=closed", 404, do="right:fog-out-with-high")
