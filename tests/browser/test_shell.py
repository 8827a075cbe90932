"""The shell: keys, themes, sizes, drafts, undo."""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.hands import press
from tests.thorough import thorough

pytestmark = pytest.mark.browser
STAGES = [
    "book-in",
    "inspect",
    "baseline",
    "match",
    "plan",
    "fit",
    "prove",
    "aim",
    "verify",
    "hand-over",
]


def test_keys(demo, open_page):
    page = open_page(demo)
    page.goto(f"{demo.url}/jobs/4/low/aim")
    press(page, "?")
    expect(page.get_by_role("dialog")).to_contain_text("Main action at the bottom")
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_be_hidden()
    page.keyboard.press("d")
    expect(page.locator("html")).to_have_attribute("data-bs-theme", "light")
    page.keyboard.press("d")
    expect(page.locator("html")).to_have_attribute("data-bs-theme", "dark")
    press(page, "3", "low/baseline")
    expect(page.locator("h1")).to_contain_text("Baseline")
    press(page, "]", r"headlamp-1/match")
    expect(page.locator("h1")).to_contain_text("Match")
    press(page, "[", "low/baseline")
    press(page, "l", "low-left/baseline")
    press(page, "b", "low/baseline")
    press(page, "0", "all/hand-over")
    expect(page.locator("h1")).to_contain_text("Hand over")
    press(page, "i")
    expect(page.locator(".pref[name=units]")).to_have_text("in · ft")
    expect(page).to_have_url(re.compile("all/hand-over"))
    press(page, "h", f"{demo.url}/$")
    expect(page.locator("h1")).to_have_text("Jobs")
    press(page, "n", "jobs/new")
    expect(page.locator("h1")).to_contain_text("Book in")


def test_a_key_pressed_at_once_on_a_page_just_opened_is_heard(demo, open_page):
    """The pages' script listens before anything can be seen, however long the rest takes to
    load.
    """
    page = open_page(demo)
    page.route("**/htmx.min.js*", lambda route: None)  # asked for, never answered
    page.goto(f"{demo.url}/jobs/4/low/verify", wait_until="commit")
    page.locator(".scopes a").last.wait_for()
    page.keyboard.press("l")
    page.wait_for_url(re.compile("low-left/verify"), wait_until="commit")


def test_keys_do_nothing_inside_a_field(demo, open_page):
    page = open_page(demo)
    page.goto(f"{demo.url}/jobs/4/low/aim")
    page.get_by_label("Cut-off stands").press_sequentially("d3?u")
    expect(page.get_by_label("Cut-off stands")).to_have_value("d3?u")
    expect(page.locator("html")).to_have_attribute("data-bs-theme", "dark")
    expect(page.locator("h1")).to_contain_text("Aim")


def test_a_car_is_booked_in_by_keyboard_alone(shop, open_page):
    page = open_page(shop)
    page.goto(shop.url)
    press(page, "n", "jobs/new")
    page.get_by_role("button", name="Two single bulbs a side").focus()
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="Two single bulbs a side")).to_be_focused()
    page.get_by_role("checkbox", name="Low beam, Left · driver").focus()
    page.keyboard.press("Space")
    expect(page.locator("#work-headlamp-1-right")).not_to_be_checked()
    expect(page.locator("#work-headlamp-1-left")).to_be_checked()
    page.get_by_label("Customer reference").focus()
    page.keyboard.type("K-1")
    page.keyboard.press("Tab")
    page.keyboard.type("Velmar")
    page.keyboard.press("Enter")
    expect(page.locator(".facts")).to_contain_text("Velmar")
    press(page, "2", "inspect")
    press(page, "e")
    page.keyboard.press("Space")
    page.keyboard.press("ArrowRight")
    page.keyboard.press("Enter")
    expect(page.locator(".verdict")).to_contain_text("Restore")
    press(page, "u")
    expect(page.locator(".verdict")).to_have_count(0)
    expect(page.locator(".history .undone")).to_contain_text("Inspected")


def test_what_is_typed_survives_leaving_the_page(shop, open_page):
    page = open_page(shop)
    page.goto(f"{shop.url}/jobs/new")
    page.get_by_label("Customer reference").fill("K-9")
    page.get_by_role("button", name="Vintage pair").click()
    expect(page.get_by_role("button", name="Vintage pair")).to_have_attribute(
        "aria-pressed", "true"
    )
    expect(page.get_by_label("Customer reference")).to_have_value("K-9")
    page.get_by_label("Make").fill("Orlo")
    page.goto(shop.url)
    page.goto(f"{shop.url}/jobs/new")
    expect(page.get_by_label("Customer reference")).to_have_value("K-9")
    expect(page.get_by_label("Make")).to_have_value("Orlo")
    page.get_by_role("button", name="Vintage pair").click()
    expect(page.get_by_role("button", name="Vintage pair")).to_have_attribute(
        "aria-pressed", "true"
    )
    page.get_by_role("button", name="Book in").click()
    expect(page.locator(".facts")).to_contain_text("K-9")
    page.goto(f"{shop.url}/jobs/new")
    expect(page.get_by_label("Customer reference")).to_have_value("")


def test_an_error_stands_beside_its_field_and_the_text_stays(demo, open_page):
    page = open_page(demo)
    page.goto(f"{demo.url}/jobs/2/low/baseline")
    page.get_by_label("Distance to the wall").fill("far")
    page.locator("#peak-low-left").fill("bright")
    page.get_by_role("button", name="Record reading").click()
    expect(page.locator("#distance-error")).to_contain_text("is not a length")
    expect(page.locator("#peak-low-left-error")).to_contain_text("is not a reading")
    expect(page.locator("#peak-low-left")).to_have_value("bright")
    page.get_by_label("Distance to the wall").fill("")
    page.locator("#peak-low-left").fill("")


# How wide the work is on a desk's screen, at least, and there.
DESK_PX, WORK_AT_DESK_PX = 1280, 920
WORK_PX = (
    "() => { const work = document.querySelector('#work'); const style = getComputedStyle(work);"
    " return work.clientWidth - parseFloat(style.paddingLeft) - parseFloat(style.paddingRight); }"
)


@pytest.mark.parametrize(("width", "height"), [(1280, 800), thorough(1024, 768), (390, 844)])
def test_every_stage_fits_the_screen(demo, open_page, width, height):
    page = open_page(demo, width, height)
    for stage in STAGES:
        page.goto(f"{demo.url}/jobs/1/low/{stage}")
        assert page.evaluate("document.documentElement.scrollWidth") <= width, stage
        expect(page.locator("[data-main]").last).to_be_in_viewport()
        small = page.evaluate(
            "[...document.querySelectorAll('.btn:not(.btn-sm), .cell, .scopes a, .strip-cell')]"
            ".filter(e => e.offsetHeight && e.offsetHeight < 44).map(e => e.textContent.trim())"
        )
        assert small == [], stage
        assert width < DESK_PX or page.evaluate(WORK_PX) >= WORK_AT_DESK_PX, stage


def test_sockets_on_the_face_lead_to_their_beams(demo, open_page):
    page = open_page(demo)
    page.goto(f"{demo.url}/jobs/4/low/aim")
    page.get_by_role("button", name="Front of the car").click()
    page.get_by_role("link", name=re.compile("Low and high beam, Right · driver, at Aim")).click()
    expect(page).to_have_url(re.compile("low-right/aim"))
    expect(page.locator("h1")).to_contain_text("Low beam, Right · driver")
    page.get_by_role("link", name="High beam, both sides").click()
    expect(page.locator("h1")).to_contain_text("High beam, both sides")


def test_the_theme_changes_in_place_and_is_remembered(demo, open_page):
    page = open_page(demo)
    page.goto(f"{demo.url}/jobs/2/low/inspect")
    page.get_by_text("2 Yellowed").click()
    page.keyboard.press("d")
    expect(page.locator("html")).to_have_attribute("data-bs-theme", "light")
    expect(page.get_by_label("2 Yellowed")).to_be_checked()
    page.reload()
    expect(page.locator("html")).to_have_attribute("data-bs-theme", "light")
