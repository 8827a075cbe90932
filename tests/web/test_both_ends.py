"""Both ends of a job: damage tapped and signed before the first screw, the rear done along the way,
and what the sheet says of them.
"""

import io

import cv2
import numpy as np
import pytest

from cold_arc.core.car import damage
from cold_arc.core.car.front_building import made, ready_made
from cold_arc.core.job import carwork
from cold_arc.core.job.entries.inspect import DamageSeen
from cold_arc.core.job.entries.kind import ImplausibleError
from cold_arc.core.job.entries.prove import RearDone
from cold_arc.core.work.schedule import schedule
from cold_arc.store import jobs
from cold_arc.web.parts.front_drawing import WIDTH, drawn_front, outline_of
from tests.web.test_walks import KINDS
from tests.web.walking import Walk

DAMAGE, REAR = "/jobs/2/low/inspect/damage", "/jobs/2/low/prove/rear"
GUIDE = {"place": "headlamp-left", "what": "guide", "note": "upper one"}


def record(client, number):
    with client.app.extensions["cold_arc_sessions"]() as session:
        return jobs.load(session, number).record


def sheet(client, number):
    return client.get(f"/jobs/{number}/sheet")


def test_damage_is_told_with_its_place_and_stands_on_the_sheet(demo):
    page = demo.post(DAMAGE, do="damage:", **GUIDE)
    assert "Headlamp left: guide or tab broken (upper one)" in page
    assert "Headlamp left: guide or tab broken (upper one)." in sheet(demo, 2)


def test_from_book_in_what_works_and_how_the_car_came_are_a_press_away(demo):
    """Before anything is identified: what was broken before is never the shop's."""
    page = demo.get("/jobs/5/all/book-in")
    for where in ("prove?pass=arrival", "inspect/damage"):
        address = f"/jobs/5/all/{where}"
        assert f'href="{address}"' in page
        assert demo.http.get(address).status_code == 200
    demo.post("/jobs/5/all/inspect/damage", do="damage:", **GUIDE)
    assert "Headlamp left: guide or tab broken (upper one)." in sheet(demo, 5)


def test_what_is_told_twice_stands_once_and_taken_back_is_gone(demo):
    demo.post(DAMAGE, do="damage:", **GUIDE)
    demo.post(DAMAGE, do="damage:", **(GUIDE | {"note": "lower one"}))
    page = demo.get(DAMAGE)
    assert page.count("guide or tab broken (") == 1
    page = demo.post(DAMAGE, do="off:headlamp-left:guide")
    assert "guide or tab broken (" not in page
    demo.post(DAMAGE, 404, do="off:headlamp-left:guide")


@pytest.mark.parametrize(
    ("form", "words"),
    [
        ({"what": "guide"}, "This is needed."),
        ({"place": "headlamp-left"}, "Say what it is."),
        ({"place": "roof", "what": "dent"}, "Not a valid choice."),
    ],
)
def test_half_told_damage_is_asked_back(demo, form, words):
    assert words in demo.post(DAMAGE, 422, do="damage:", **form)


def test_a_signature_holds_until_more_is_told(demo):
    demo.post(DAMAGE, do="damage:", **GUIDE)
    unsigned = "What was wrong as it came is not signed."
    assert unsigned in demo.get(DAMAGE)
    assert "Who signed?" in demo.post(DAMAGE, 422, do="sign:", signed=" ")
    page = demo.post(DAMAGE, do="sign:", signed="R. Okello")
    assert "Signed by R. Okello." in page
    assert unsigned not in page
    assert "signed by R. Okello." in sheet(demo, 2)
    demo.post(DAMAGE, do="damage:", place="grille", what="crack", note="")
    assert unsigned in demo.get(DAMAGE)


def test_fit_says_before_the_first_screw_that_nobody_signed(demo):
    """A car not yet taken apart; one under work is not asked any more."""
    for number, asked in ((2, True), (1, False)):
        demo.post(f"/jobs/{number}/low/inspect/damage", do="damage:", **GUIDE)
        assert ("is not signed" in demo.get(f"/jobs/{number}/low/fit")) is asked


def test_rear_bulbs_are_named_fitted_and_proved(demo):
    told = {"function": "brake", "side": "both", "base": "p21w", "fitted": "Red one", "result": ""}
    assert "Switch it on and say" in demo.post(REAR, 422, **told)
    assert "is the cap of S1, S2" in demo.post(REAR, 422, **(told | {"base": "BA20d"}))
    page = demo.post(REAR, **(told | {"result": "works"}))
    assert "Brake light left, P21W: Red one, works." in page
    page = demo.post(REAR, **(told | {"side": "left", "result": "dark"}))
    assert page.count("<li>Brake light left") == 1
    assert "Brake light right, P21W: Red one, works." in sheet(demo, 2)


def test_a_rear_lamp_that_is_dark_is_open_as_the_car_leaves(demo):
    lamps = KINDS["wedges and bayonets"]
    walk = Walk(demo, lamps, "W-7")
    walk.whole()
    number = int(walk.path.rpartition("/")[2])
    told = {"function": "tail", "side": "left", "base": "P21/5W", "fitted": "Red two"}
    demo.post(f"/jobs/{number}/all/prove/rear", **told, result="dark")
    demo.post(f"/jobs/{number}/all/prove/rear", **(told | {"side": "right"}), result="works")
    shown = sheet(demo, number)
    standing = shown[shown.index("Open as it left") :]
    assert "Tail light left, P21/5W: Red two, dark." in standing
    assert "Tail light right" not in standing


def test_no_record_holds_damage_or_a_rear_lamp_that_is_none():
    for wrong in (
        DamageSeen("roof", "dent"),
        DamageSeen("low-left", "dent"),
        DamageSeen("grille", "bent"),
        RearDone("brake", "left", "X99", "one", "works"),
        RearDone("brake", "left", "P21W", "", "works"),
        RearDone("brake", "left", "P21W", "one", "glows"),
    ):
        with pytest.raises(ImplausibleError):
            wrong.must_hold()


def test_every_ready_made_front_is_drawn_with_all_its_lamps_mirrored_and_inside():
    looks = set()
    for name in ready_made():
        front = made(name, ["fog", "drl", "turn"])
        drawing = drawn_front(front)
        assert {place.id for place in drawing.places} == set(damage.places(front))
        by_id = {place.id: place for place in drawing.lamps}
        for unit in front.units:
            left, right = by_id[f"{unit.id}-left"], by_id[f"{unit.id}-right"]
            assert left.x + left.width + right.x == pytest.approx(WIDTH)
            assert left.x >= 0
            assert left.y + left.height <= drawing.height
            assert left.outline == outline_of(unit)
        looks.add(tuple((p.outline, p.bowls) for p in drawn_front(made(name)).lamps))
    assert len(looks) >= 7


def test_a_picture_is_kept_as_it_came_and_one_that_is_none_is_said(demo):
    assert "field-error" in demo.post(DAMAGE, 422, do="picture:")
    image = np.full((60, 80, 3), 90, np.uint8)
    jpeg = cv2.imencode(".jpg", image)[1].tobytes()
    page = demo.post(DAMAGE, do="picture:", picture=(io.BytesIO(jpeg), "clip.jpg"))
    assert "As it came, picture 1" in page
    assert "/pictures/" in sheet(demo, 2)


def test_an_opened_lamp_cures_before_it_is_proved(demo):
    lamps = KINDS["a lamp opened for a ring"]
    walk = Walk(demo, lamps, "W-6")
    walk.come_in()
    walk.match()
    walk.plan()
    number = int(walk.path.rpartition("/")[2])
    of_job = record(demo, number)
    slots = {slot.task.id: slot for slot in schedule(carwork.tasks(of_job, of_job.plan), 2)}
    fits = [slot for name, slot in slots.items() if name.startswith("fit-")]
    assert all(slot.task.cures == 720 for slot in fits)
    assert slots["prove-open"].start >= max(slot.cured for slot in fits)


def test_an_old_lamps_rim_is_told_by_straight_edge_and_level(demo):
    rims = "/jobs/4/low/aim"
    told = {
        "part": "rim",
        "lamp": "low-left",
        "inner": "2",
        "outer": "6",
        "across": "172",
        "bubble": "level",
    }
    page = demo.post(rims, **told)
    assert "Left: It looks outwards." in page
    assert "Left: It does not lean forward." in page
    page = demo.post(rims, **(told | {"outer": "2.5", "bubble": "quarter"}))
    assert "it looks outwards" not in page
    page = demo.post(rims, 422, **(told | {"bubble": "", "outer": "7"}))
    assert "Say where it stands." in page
    assert 'value="7"' in page
    demo.post("/jobs/2/low/aim", 404, **told)
