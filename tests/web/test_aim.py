"""The aim page and the wall to tape out: in or out, by which height, read alone or together."""

from cold_arc.core.car import front_building as fronts
from cold_arc.web.job import front_builder
from tests.web.conftest import BOOKING, identification

# The left lamp of the demo's car whose one bulb gives low and high beam, as left.
OF_ONE_BULB = {
    "rule": "uk-inspection-low",
    "lamp": "low-left",
    "height": "74 cm",
    "distance": "5 m",
    "phase": "left",
}


def test_aim_says_in_or_out_and_how_far_to_turn(booked):
    aim = {"rule": "un-r48-low", "lamp": "low-left", "height": "65 cm", "distance": "10 m"}
    page = booked.post("/jobs/1/low/aim", phase="found", stands="0.3%", **aim)
    assert "Out: 2.0 cm, 0.20 %, too high." in page
    page = booked.post("/jobs/1/low/aim", phase="left", stands="0.8%", turns="1", **aim)
    assert "Turn the height screw ⅞ turn clockwise to stand mid-band" in page
    page = booked.post("/jobs/1/low/aim", phase="left", stands="12 cm", turns="0.9", **aim)
    assert "Left, as left: In." in page


def test_low_and_high_of_one_bulb_are_read_together(demo):
    page = demo.post(
        "/jobs/4/low/aim",
        stands="6 cm",
        other_stands="2 cm up",
        other_sideways="3 cm right",
        **OF_ONE_BULB,
    )
    assert "Left: Low and high beam are both in." in page
    assert "Left, high beam, as left: In." in page
    assert "2.0 cm above lamp height" in page
    page = demo.post(
        "/jobs/4/high/aim",
        **OF_ONE_BULB | {"rule": "high-centred", "lamp": "high-left"},
        other_stands="1.2%",
    )
    assert "Left, as left: In." in page
    assert "6.0 cm below lamp height · −1.20" in page.replace("\xa0", " ")


def test_a_height_that_the_other_beams_rule_does_not_let_its_mark_have_is_said_beside_it(shop):
    shop.post("/jobs/new", **BOOKING | {"front": front_builder.write(fronts.made("dual"))})
    shop.post("/jobs/1/all/book-in", **identification("H4"))
    aim = {"height": "74 cm", "distance": "10 m", "phase": "left"}
    shop.post(
        "/jobs/1/low/aim", rule="un-r48-low", lamp="low-left", stands="12 cm", mark="1.2%", **aim
    )
    high = aim | {"rule": "high-centred", "lamp": "high-left", "height": "1.1 m"}
    page = shop.post("/jobs/1/high/aim", status=422, other_stands="12 cm down", **high)
    assert "UN R48, low beam lets no maker mark −1.2 % for a lamp 1.10 m high." in page
    assert 'value="12 cm down"' in page
    shop.post("/jobs/1/high/aim", stands="1 cm up", **high)  # high beam alone has one


def test_two_bulbs_on_one_adjuster_are_read_together_once_it_is_told(demo):
    aim = {
        "lamp": "low-left",
        "height": "66 cm",
        "distance": "10 m",
        "phase": "left",
        "stands": "12 cm",
    }
    assert "Does one adjuster move both?" in demo.get("/jobs/1/low/aim")
    assert "High beam stands" not in demo.get("/jobs/1/low/aim")
    page = demo.post("/jobs/1/low/aim/adjusters", shared="1")
    assert "One adjuster moves low and high beam of this lamp." in page
    page = demo.post("/jobs/1/low/aim", rule="un-r48-low", other_stands="16 cm up", **aim)
    assert "Move both 2.7 cm down" in page.replace("\xa0", " ")
    page = demo.post("/jobs/1/low/aim/adjusters", shared="0")
    assert "High beam stands" not in page
    demo.post("/jobs/1/low/aim/adjusters", status=404, shared="perhaps")
    demo.post("/jobs/4/low/aim/adjusters", status=404, shared="1")  # one bulb: nothing to ask


def test_how_far_aside_without_how_high_is_asked_about(demo):
    for typed in (
        {},
        {"other_sideways": "3 cm"},
        {"stands": "6 cm", "other_sideways": "3 cm"},
        {"sideways": "1 cm"},
    ):
        page = demo.post("/jobs/4/low/aim", status=422, **OF_ONE_BULB, **typed)
        assert page.count("Say where it stands.") == 1, typed
    aim = OF_ONE_BULB | {"rule": "un-r48-low"}
    assert "Say where it stands." in demo.post(
        "/jobs/1/low/aim", status=422, **aim, other_stands="6 cm"
    )


def test_a_lamp_is_read_by_its_own_height_alone(demo):
    """The maker's mark is no choice for the left lamp's height; the right lamp is read all the
    same.
    """
    aim = {
        "rule": "un-r48-low",
        "lamp": "low-right",
        "height": "74 cm",
        "right_height": "1.02 m",
        "distance": "10 m",
    }
    page = demo.post("/jobs/1/low/aim", **aim, phase="left", stands="17 cm", mark="1.7%")
    assert "Set to the maker's own mark on the lamp, −1.7 %." in page
    assert "lets no maker mark" in demo.post("/jobs/1/low/aim/wall", status=422, **aim, mark="1.7%")


def test_what_to_tape_is_told_in_tape_measure_words(demo):
    assert "Tape and target" in demo.get("/jobs/1/low/aim")
    page = demo.get(
        "/jobs/1/low/aim/wall"
    )  # as the lamps were aimed last: 0.66 m high, 1.24 m apart, at 10 m
    assert "from the floor 53.5 cm" in page
    assert "from the car's centre line 62.0 cm left" in page
    wall = "/jobs/1/low/aim/wall"
    asked = {
        "rule": "un-r48-low",
        "height": "0.66 m",
        "distance": "10 m",
        "spacing": "",
        "rear": "0",
        "front": "26",
    }
    asked |= {"wall": "0", "wheelbase": "2.6 m", "overhang": "0.8 m"}
    assert "look at the heights again" in demo.post(wall, 422, **(asked | {"front": "260"}))
    assert "is not a length" in demo.post(wall, 422, **(asked | {"height": "tall"}))
    assert "from the floor 66.9 cm" in demo.post(wall, **asked)  # 53.5 + 2.6 + 0.8 + 10
    assert "Nothing here is aimed" in demo.get("/jobs/5/turn/aim/wall")
