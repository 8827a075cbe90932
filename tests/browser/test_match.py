"""Match in the browser: bases found by eye, four candidates compared on a hazy reflector, one
chosen; many at once.
"""

import re
import time
from dataclasses import replace

import pytest
from playwright.sync_api import expect

from cold_arc.demo.shelf import SHELF
from cold_arc.store import catalogue
from cold_arc.store.database import open_database
from tests.browser.hands import press
from tests.thorough import thorough

pytestmark = pytest.mark.browser


@pytest.mark.parametrize(
    ("answers", "typed", "base"),
    [
        (["One bulb does low and high", "Round metal flange"], {}, "H4"),
        (["Socket at a right angle", "Dark tip"], {"Rim across, without tabs": "22 mm"}, "9006"),
        (["Painted shield", "No box", "No such mark"], {}, "D2R"),
    ],
)
def test_a_base_is_found_by_what_can_be_seen(demo, open_page, answers, typed, base):
    page = open_page(demo)
    page.goto(f"{demo.url}/bases")
    for label, text in typed.items():
        page.get_by_label(label).fill(text)
        expect(page).to_have_url(re.compile("diameter=22"))
    for words in answers:
        page.locator("label", has_text=words).click()
        expect(
            page.locator("label", has_text=words).locator("xpath=preceding-sibling::input")
        ).to_be_checked()
    expect(page.locator(".narrowed")).to_contain_text("1 of 32 base agrees")
    expect(page.locator(".base-card h2")).to_contain_text(base)
    assert page.locator(".base-card svg").get_attribute("aria-label").startswith(base)


def test_contradictory_answers_are_pointed_out_and_taken_back(demo, open_page):
    page = open_page(demo)
    page.goto(f"{demo.url}/bases?printed=H7&beams=dual")
    expect(page.locator(".findings").first).to_contain_text("contradicts the other answers")
    page.get_by_label("Code on the old bulb").fill("")
    expect(page.locator(".narrowed")).to_contain_text("4 of 32 bases agree")


def test_an_answer_pressed_while_the_one_before_it_arrives_is_not_lost(demo, open_page):
    page, held, let_go = open_page(demo), [], []

    def hold(route):
        if let_go:
            route.continue_()
        else:
            held.append(route)

    page.goto(f"{demo.url}/bases")
    page.route("**/bases?*", hold)
    page.locator("label", has_text="Painted shield").click()
    page.wait_for_timeout(300)  # it is asked at once, and again a little later
    page.locator("label", has_text="No box").hover()
    page.mouse.down()
    let_go.append(True)
    with page.expect_response(lambda response: "/bases?" in response.url) as answered:
        held[-1].continue_()
    answered.value.finished()
    page.wait_for_timeout(100)
    page.mouse.up()
    for words in ("Painted shield", "No box"):
        answer = page.locator("label", has_text=words).locator("xpath=preceding-sibling::input")
        expect(answer).to_be_checked()
    expect(page.locator(".narrowed")).to_contain_text("11 of 32")


def test_four_candidates_are_compared_on_a_hazy_reflector_and_one_is_chosen(serve, open_page):
    server = serve()
    page = open_page(server)
    page.goto(f"{server.url}/jobs/2/low/match")
    expect(page.locator(".predicting")).to_have_count(0)
    expect(page.locator("#side")).to_contain_text("a bulb never improves a pattern")
    expect(page.locator(".ranking-pick b").first).to_contain_text("Marrow")
    for name in ("Marrow projector unit 11", "Sableline H11 slim", "Longreach 11", "Triad 11"):
        page.get_by_role("checkbox", name=f"{name} side by side").check()
    page.get_by_role("button", name="Side by side, up to 4").click()
    columns = page.locator(".beside-one")
    expect(columns).to_have_count(4)
    expect(columns.filter(has_text="Triad 11")).to_contain_text("Does not suit")
    assert page.locator(".beside-one .wall").count() == 4
    assert page.locator(".beside-one .section.close").count() == 3
    for picture in page.locator(".beside-one image").all():
        assert page.request.get(server.url + picture.get_attribute("href")).ok
    wipe = columns.first.locator("[data-wipe]")
    wipe.fill("50")
    assert float(columns.first.locator(".wipe-rect").get_attribute("width")) > 10
    page.locator(".beside-one", has_text="Sableline H11 slim").get_by_role(
        "link", name="Go with this one"
    ).click()
    expect(page.get_by_role("radio", name="Sableline H11 slim")).to_be_checked()
    page.locator(".match-choose summary").click()
    page.get_by_label("Why this one").fill("Truest of the bulbs, after restoring the lens")
    page.get_by_role("button", name="Record choice").click()
    expect(page.locator(".match-choose")).to_contain_text("it can't be chosen silently")
    assert page.get_by_label("Why this one").input_value().startswith("Truest")
    page.get_by_text("Fit it all the same, with a reason").click()
    page.get_by_label("Reason to go against it").fill("Trial on private ground first")
    page.get_by_text("The customer was told what the law says").click()
    page.locator("label.accept", has_text="Glare endangers others").click()
    page.get_by_role("button", name="Record choice").click()
    expect(page.locator(".remark").first).to_contain_text("Recorded: Sableline H11 slim")
    expect(page.locator(".history")).to_contain_text("Chosen: Sableline H11 slim")


def test_a_candidate_is_chosen_by_keyboard_alone(serve, open_page):
    server = serve()
    page = open_page(server)
    page.goto(f"{server.url}/jobs/2/low/match")
    expect(page.locator(".predicting")).to_have_count(0)
    names = page.locator("#weighed .ranking-pick b").all_text_contents()
    unit = next(name for name in names[1:] if "unit" in name or "Unit" in name)
    page.locator("#weighed input[name=choice]:checked").focus()
    for name in names[1 : names.index(unit) + 1]:
        page.keyboard.press("ArrowDown")
        expect(page.locator(".choose-head h2")).to_contain_text(name)
        expect(page.locator(".candidate.looked b").first).to_contain_text(name)
    page.locator(".match-choose summary").focus()
    page.keyboard.press("Enter")
    page.keyboard.press("Tab")
    page.keyboard.type("Own optic, no opening of lamps")
    for _ in range(12):
        if page.evaluate("document.activeElement.textContent") == "Record choice":
            break
        page.keyboard.press("Tab")
    page.keyboard.press("Enter")
    expect(page.locator(".remark").first).to_contain_text(f"Recorded: {unit}")


def test_wiring_answers_as_one_types(demo, open_page):
    page = open_page(demo)
    page.goto(f"{demo.url}/jobs/3/low/match/wiring")
    page.get_by_label("Added feed, length one way").fill("3 m")
    expect(page.locator("#worked")).to_contain_text("mm² · AWG")
    page.get_by_text("Between ballast and bulb").click()
    expect(page.locator("#side")).to_contain_text("Never from the wire between ballast and bulb")
    page.get_by_label("Added feed, length one way").fill("far")
    expect(page.locator("#worked")).to_contain_text("Added feed, length one way:")
    assert page.get_by_label("Added feed, length one way").input_value() == "far"


def test_twenty_five_candidates_stream_in(serve, open_page, tmp_path):
    """All predicted within 4 s on a free machine; more is allowed where browser and server share a
    busy one.
    """
    server = serve()
    slim = SHELF["Sableline H11 slim"]
    with open_database(tmp_path).begin() as session:
        for number in range(17):
            shape = {"gap_mm": 1.2 + number * 0.05, "lcl_mm": 24.6 + number * 0.04}
            catalogue.add_light_source(session, replace(slim, name=f"Crowd {number}", **shape))
    page = open_page(server)
    started = time.monotonic()
    page.goto(f"{server.url}/jobs/2/low/match")
    expect(page.locator(".predicting")).to_contain_text("of 25 beams predicted")
    expect(page.locator(".predicting")).to_have_count(0, timeout=60_000)
    assert time.monotonic() - started < 60
    assert page.locator(".candidate-figures.cold").count() >= 25


@pytest.mark.parametrize(
    "path",
    [
        *("match", "match/wiring"),
        *map(thorough, ("match/options", "identify", "match/beside?id=5&id=7&id=8")),
    ],
)
@pytest.mark.parametrize(
    ("width", "height"), [thorough(1280, 800), thorough(1024, 768), (390, 844)]
)
def test_matchs_pages_fit_the_screen(demo, open_page, path, width, height):
    page = open_page(demo, width, height)
    page.goto(f"{demo.url}/jobs/2/low/{path}")
    assert page.evaluate("document.documentElement.scrollWidth") <= width


def test_a_failed_ballast_closes_a_school_and_a_bulb_is_refused(serve, open_page):
    server = serve()
    page = open_page(server)
    page.goto(f"{server.url}/jobs/3/low/match/options")
    page.get_by_text("Right lamp", exact=True).click()
    page.get_by_role("button", name="Record test").click()
    expect(page.locator(".field-error")).to_contain_text("Swap the bulbs first")
    page.get_by_text("The fault stayed on its side").click()
    page.get_by_label("Volts into its ballast").fill("12.6")
    page.get_by_role("button", name="Record test").click()
    expect(page.locator(".ballast-test summary").first).to_contain_text("not the bulb")
    expect(page.locator(".options-table")).to_contain_text("The ballast failed its test.")
    page.locator(".options-table a", has_text="Ownbox").click()
    expect(page.locator(".choose-head h2")).to_contain_text("Ownbox")
    press(page, "w")
    page.locator("#weight-price").fill("5")
    page.get_by_role("button", name="Keep these weights").click()
    expect(page.locator(".weights [role=status]")).to_have_text("Weights kept.")
    expect(page.locator("#weight-price")).to_have_value("5")
    page.locator(".match-choose summary").click()
    page.get_by_label("Why this one").fill("Ballast dead; not legal here")
    page.get_by_text("Refuse to fit it").click()
    page.get_by_role("button", name="Record choice").click()
    expect(page.locator(".match-looked")).to_contain_text("Refused: Ownbox D2 with driver")
    page.locator("[data-undo]").click()
    expect(page.locator(".match-looked")).not_to_contain_text("Refused")
