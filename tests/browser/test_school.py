"""A round of the school in the browser: by keys, by touch on a telephone, left and gone on with."""

import math
import re

import pytest
from playwright.sync_api import expect

from cold_arc.core.school.exercise import Posed
from cold_arc.core.school.rounds import A_ROUND
from cold_arc.school.making import make
from cold_arc.store import school
from cold_arc.store.database import open_database, writing
from tests.browser.hands import press
from tests.browser.test_accessible import AXE, RULES
from tests.school.test_exercises import right_answer
from tests.thorough import THOROUGH, usual

pytestmark = pytest.mark.browser
ROUND = "cd" * 8
# A round of each kind of exercise that has a surface of its own, and of options.
SKILLS = (
    *("tell.law", "line.edge", "collar.preset", "screws.two", "fault.search", "meter.place"),
    *("take.six", "track.again"),
)


@pytest.fixture
def posed(shop, empty_folder):
    """Poses a question in the shop that is served."""

    def pose(skill, number=1, level=2, seed=5):
        with writing(open_database(empty_folder)()) as session:
            school.pose(session, "", ROUND, number, Posed(skill, level, seed), None)
            session.commit()
        return make(Posed(skill, level, seed))

    return pose


TYPED = ("line", "collar")


def typed(exercise, answer):
    """The field an answer is typed into, and what is typed."""
    if exercise.posed.kind == "line":
        return "stands", f"{float(answer) * 100:+.3f} %"
    return "turned", f"{float(answer):.0f}"


def answer_by_keys(page, exercise):
    """Answers rightly by keys alone, once the question is there: a server begun anew readies
    itself first.
    """
    expect(page.locator(".school-sure")).to_be_visible()
    answer = right_answer(exercise)
    if exercise.posed.kind in TYPED:
        type_into(page, *typed(exercise, answer))
    elif exercise.posed.kind == "screws":
        turn_by_keys(page, answer)
    elif exercise.posed.kind == "take":
        for act in answer.split(";"):
            take(page, act, by_keys=True)
    elif exercise.posed.kind == "fault":
        made, _, cause = answer.partition("|")
        for count, _ in enumerate(made.split(","), 1):
            chosen = made.split(",")[:count]
            page.locator(f'[href$="made={",".join(chosen)}"]').focus()
            press(page, "Enter", re.escape(f"made={','.join(chosen)}"))
        choose(page, exercise, cause)
    else:
        for option in answer.split(","):
            choose(page, exercise, option)
    press(page, "k")


def type_into(page, name, text):
    page.locator(f"[name={name}]").focus()
    page.keyboard.type(text)
    page.keyboard.press("Escape")


def take(page, act, by_keys):
    """One act before the wall; it is done once the page's answer ends with it."""
    if act.startswith("="):
        page.locator("[name=lux]").fill(f"{act[1:]} lx")
        button = page.get_by_role("button", name="Write down")
    else:
        button = page.locator(f'.school-meter [name=act][value="{act}"]')
    if by_keys:
        (page.locator("[name=lux]") if act.startswith("=") else button).focus()
        page.keyboard.press("Enter")
    else:
        button.click()
    expect(page.locator('.school-meter [name="made"]')).to_have_value(
        re.compile(rf"{re.escape(act)}$")
    )


def turn_by_keys(page, answer):
    for count, move in enumerate(answer.split(";"), 1):
        height, side = move.split(",")
        type_into(page, "height", height)
        type_into(page, "side", side)
        press(page, "t")
        expect(page.locator(".school-screws tbody tr")).to_have_count(count + 1)


def choose(page, exercise, option):
    number = [known.id for known in exercise.options].index(option) + 1
    press(page, str(number))


@pytest.mark.parametrize("skill", usual(SKILLS, ("line.edge", "screws.two", "meter.place")))
def test_each_surface_is_answered_by_keyboard_alone(shop, posed, open_page, skill):
    exercise = posed(skill)
    page = open_page(shop)
    page.goto(f"{shop.url}/school/{ROUND}/1")
    answer_by_keys(page, exercise)
    expect(page.locator(".school-judged h2")).to_have_text("Right")
    press(page, "m", f"/school/{ROUND}/2")
    expect(page.locator(".school-place")).to_contain_text("2 of 10")


@pytest.mark.thorough
def test_a_round_of_ten_by_keyboard_left_and_come_back_to(shop, empty_folder, open_page):
    page = open_page(shop)
    page.goto(f"{shop.url}/school")
    press(page, "m", r"/school/\w{16}/1$")
    round_id = page.url.split("/")[-2]
    for number in range(1, A_ROUND + 1):
        if number == 4:  # somebody comes to the counter
            press(page, "h", r"/$")
            page.goto(f"{shop.url}/school")
            press(page, "m", f"/school/{round_id}/4")
        with open_database(empty_folder)() as session:
            asked = school.question(session, round_id, number).posed
        answer_by_keys(page, make(asked))
        expect(page.locator(".school-judged h2")).to_have_text("Right")
        press(page, "m", rf"/school/{round_id}(/{number + 1})?$")
    expect(page.locator("h1")).to_have_text("10 of 10 right")


def test_by_touch_on_a_telephone_the_line_is_dragged_and_an_answer_tapped(shop, posed, open_page):
    exercise = posed("line.edge")
    page = open_page(shop, 390, 844)
    page.goto(f"{shop.url}/school/{ROUND}/1")
    handle = page.locator(".cut-drag .handle").bounding_box()
    wall = page.locator("[data-wall]").first
    across = wall.bounding_box()["width"]
    shown = [float(part) for part in wall.get_attribute("viewBox").split()]
    down_cm = -100 * exercise.shown.distance_m * math.tan(math.radians(exercise.shown.stands_deg))
    at = (handle["x"] + handle["width"] / 2, handle["y"] + handle["height"] / 2)
    page.mouse.move(*at)
    page.mouse.down()
    page.mouse.move(at[0], at[1] + down_cm * across / shown[2], steps=4)
    page.mouse.up()
    page.locator("button", has_text="I am sure").click()
    expect(page.locator(".school-judged h2")).to_have_text("Right")
    assert page.evaluate("document.documentElement.scrollWidth") <= 390


def tap_tests_and_options(page, answer):
    made, _, picked = answer.rpartition("|")
    tests = made.split(",") if made else []
    for count in range(1, len(tests) + 1):
        page.locator(f'[href$="made={",".join(tests[:count])}"]').click()
        page.wait_for_url(re.compile(re.escape(f"made={','.join(tests[:count])}")))
    for option in picked.split(","):
        page.locator(f'.school-answer label:has([value="{option}"])').click()


def answer_by_taps(page, exercise):
    """Answers rightly by touch, typing what is typed on a telephone too."""
    answer = right_answer(exercise)
    if exercise.posed.kind in TYPED:
        name, text = typed(exercise, answer)
        page.locator(f"[name={name}]").fill(text)
    elif exercise.posed.kind == "screws":
        for count, move in enumerate(answer.split(";"), 1):
            for name, turns in zip(("height", "side"), move.split(","), strict=True):
                page.locator(f"[name={name}]").fill(turns)
            page.get_by_role("button", name="Turn and read").click()
            expect(page.locator(".school-screws tbody tr")).to_have_count(count + 1)
    elif exercise.posed.kind == "take":
        for act in answer.split(";"):
            take(page, act, by_keys=False)
    else:
        tap_tests_and_options(page, answer)
    page.get_by_role("button", name="I think so").click()


@pytest.mark.thorough
def test_a_round_of_ten_by_touch_on_a_telephone(shop, empty_folder, open_page):
    page = open_page(shop, 390, 844)
    page.goto(f"{shop.url}/school")
    page.get_by_role("button", name="Ten minutes").click()
    page.wait_for_url(re.compile(r"/school/\w{16}/1$"))
    round_id = page.url.split("/")[-2]
    for number in range(1, A_ROUND + 1):
        with open_database(empty_folder)() as session:
            asked = school.question(session, round_id, number).posed
        assert page.evaluate("document.documentElement.scrollWidth") <= 390, asked
        answer_by_taps(page, make(asked))
        expect(page.locator(".school-judged h2")).to_have_text("Right")
        page.locator("[data-main]").click()
        page.wait_for_url(re.compile(rf"/school/{round_id}(/{number + 1})?$"))
    expect(page.locator("h1")).to_have_text("10 of 10 right")


@pytest.mark.parametrize("theme", ["night", "day"])
def test_a_question_and_its_answer_pass_the_accessibility_checker(shop, posed, open_page, theme):
    exercise = posed("meter.place")
    page = open_page(shop, watched=False)
    page.context.add_cookies([{"name": "theme", "value": theme, "url": shop.url}])
    page.goto(f"{shop.url}/school/{ROUND}/1")
    assert faults_of(page) == []
    answer_by_keys(page, exercise)
    expect(page.locator(".school-judged h2")).to_have_text("Right")
    assert faults_of(page) == []


def faults_of(page):
    page.evaluate(AXE)
    answer = page.evaluate("(rules) => axe.run(document, {runOnly: rules})", RULES)
    return [(fault["id"], fault["nodes"][0]["html"][:120]) for fault in answer["violations"]]


@pytest.mark.parametrize("skill", SKILLS if THOROUGH else ("meter.place", "screws.two"))
def test_every_question_fits_a_telephone_and_is_sent_from_the_first_screen(
    shop, posed, open_page, skill
):
    posed(skill)
    page = open_page(shop, 390, 844)
    page.goto(f"{shop.url}/school/{ROUND}/1")
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    for button in page.locator(".school-sure button").all():
        box = button.bounding_box()
        assert box["height"] >= 44
        assert box["y"] + box["height"] <= 844
