"""Two lamps of a car planned in the browser, and the whole car composed of them, by keyboard."""

import re

import pytest
from playwright.sync_api import expect

pytestmark = pytest.mark.browser


def load(page, route):
    """Chooses a way in by keys, where none is yet."""
    page.get_by_role("button", name=route).first.focus()
    page.keyboard.press("Enter")
    expect(page.locator(".plan-totals b").first).to_have_text(route)


def test_two_lamps_behind_one_liner_door_by_keyboard(serve, open_page):
    server = serve()
    page = open_page(server)
    for unit in ("headlamp", "foglamp"):
        page.goto(f"{server.url}/jobs/5/{unit}/plan")
        if unit == "foglamp":
            page.locator(".route-choice > summary").focus()
            page.keyboard.press("Enter")
            offered = page.get_by_role("button", name="Wheel-liner door").first
            expect(offered).to_contain_text(
                "Adds 10 min to this car"
            )  # 6 for a side, 4.5 for the second
        load(page, "Wheel-liner door")
    whole = page.get_by_role("link", name="The whole car")
    expect(whole).to_contain_text("28 min in all, 12 min less than one by one")
    whole.focus()
    page.keyboard.press("Enter")
    expect(page).to_have_url(re.compile("/plan/whole$"))
    opened, closed = page.locator("ol.route").all()
    assert opened.locator("li", has_text="Open the door").count() == 2
    assert opened.locator("li", has_text="dust cap").count() == 4
    named = (
        "lines => lines.map(line => line.firstChild.textContent.trim() + "
        "line.querySelector('.badge').textContent)"
    )
    steps = [it.locator(".route-text").evaluate_all(named) for it in (opened, closed)]
    assert len(steps[0]) == 16
    back = {"Turn the wheels": "Wheels straight", "Open the door": "Liner door shut"}
    back |= {"Reach in": "Cap on"}
    coming_back = [line for line in steps[0] if line.startswith(tuple(back))]
    assert len(steps[1]) == len(coming_back) == 8  # an old bulb is never drawn out again
    for line, closing in zip(coming_back[::-1], steps[1], strict=True):
        assert closing.startswith(
            next(words for name, words in back.items() if line.startswith(name))
        )
    expect(page.locator("#work")).to_contain_text("No way in yet: Indicator unit.")


def test_two_lamps_and_a_polish_on_one_car(serve, open_page):
    """What is proposed is taken; the coat cures beside the rest; the day is planned and stands in
    the shop's day.
    """
    server = serve()
    page = open_page(server)
    page.goto(f"{server.url}/jobs/5/headlamp/plan")
    load(page, "Lower grille and lamp frame")
    page.goto(f"{server.url}/jobs/5/foglamp/plan")
    page.locator(".route-choice > summary").focus()
    page.keyboard.press("Enter")
    proposed = page.locator(".route-card.proposed")
    expect(proposed).to_contain_text(
        re.compile("Through the lower grille.*The least time: 5.min", re.DOTALL)
    )
    proposed.focus()
    page.keyboard.press("Enter")
    expect(page.locator(".plan-totals b").first).to_have_text("Through the lower grille")
    page.get_by_role("link", name="The whole car").click()
    expect(page.locator(".timeline")).to_be_visible()
    hands = page.locator(".plan-totals p", has_text="Hands in all").locator("b")
    before = hands.inner_text()
    polish = page.get_by_label("Restore the lens, Headlamp left")
    polish.focus()
    page.keyboard.press("Space")
    expect(polish).to_be_checked()
    page.get_by_role("button", name="Record extra work").press("Enter")
    expect(hands).not_to_have_text(before)
    expect(page.locator(".time-cure")).to_have_count(3)  # and both fog lamps, hazed: Fit asks
    assert page.locator(".time-cure title").first.text_content().startswith("1 Restore the lens")
    page.get_by_role("button", name="Plan for this day").press("Enter")
    expect(page.get_by_role("button", name="Take it off")).to_be_visible()
    expect(page.locator("#work")).to_contain_text(
        re.compile(r"Dark\s+from\s+\d+:\d\d\.\s+From\s+\d+:\d\d,\s+the\s+wall\s+from")
    )
    page.get_by_role("link", name="The day", exact=True).click()
    expect(page.locator(".day-cars").first).to_contain_text("TL-322")
