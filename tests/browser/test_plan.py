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
    server = serve("demo")
    page = open_page(server)
    for unit in ("headlamp", "foglamp"):
        page.goto(f"{server.url}/jobs/5/{unit}/plan")
        if unit == "foglamp":
            page.locator(".route-choice summary").focus()
            page.keyboard.press("Enter")
            offered = page.get_by_role("button", name="Wheel-liner door").first
            expect(offered).to_contain_text("Adds 10 min to this car")  # 6 for a side, 4.5 for the second
        load(page, "Wheel-liner door")
    whole = page.get_by_role("link", name="The whole car")
    expect(whole).to_contain_text("28 min in all, 7 min less than one by one")
    whole.focus()
    page.keyboard.press("Enter")
    expect(page).to_have_url(re.compile("/plan/whole$"))
    opened, closed = page.locator("ol.route").all()
    assert opened.locator("li", has_text="Open the door").count() == 2
    assert opened.locator("li", has_text="dust cap").count() == 4
    named = "lines => lines.map(line => line.firstChild.textContent.trim() + line.querySelector('.badge').textContent)"
    steps = [it.locator(".route-text").evaluate_all(named) for it in (opened, closed)]
    assert len(steps[0]) == 16
    assert steps[1] == steps[0][::-1]
    expect(page.locator("#work")).to_contain_text("No way in yet: Indicator unit.")
