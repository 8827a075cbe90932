"""The work at the car of whole jobs of different kinds, by keys alone on a screen as narrow as a
telephone's; what stands before and after it is told by forms. Common practice, no published source.
"""

import pytest
from playwright.sync_api import expect

from tests.web.conftest import Client
from tests.web.test_walks import KINDS
from tests.web.walking import NEEDED, Walk

pytestmark = pytest.mark.browser


def press_through(page, until):
    """The key of the step under hand, again and again, until a step begins with some words, or none
    is left; the steps, in order."""
    steps, tick = [], page.locator("button[data-tick]")
    while tick.count() and not (until and heading(page).startswith(until)):
        steps.append(heading(page))
        under_hand = page.locator(f'button[data-tick][value="{tick.get_attribute("value")}"]')
        page.keyboard.press("t")
        expect(under_hand).to_have_count(0)
        page.wait_for_load_state()
    return steps


def heading(page):
    return page.locator(".step-now h2").inner_text()


@pytest.mark.thorough
@pytest.mark.parametrize("kind", KINDS)
def test_the_work_at_the_car_by_keys_on_a_telephone(serve, open_page, kind):
    server, lamps = serve(), KINDS[kind]
    walk = Walk(Client(server.folder), lamps, "W-1")
    walk.come_in()
    walk.read("baseline")
    walk.match()
    walk.plan()
    page = open_page(server, 390, 844)
    page.goto(f"{server.url}{walk.path}/all/fit")
    inside = press_through(page, "Prove it open")
    walk.clock()
    page.goto(f"{server.url}{walk.path}/all/prove?pass=open")
    proved = press_through(page, "")
    page.goto(f"{server.url}{walk.path}/all/fit")
    closed = press_through(page, "")
    assert inside
    assert proved
    assert closed
    assert len(set(proved)) == len(proved)
    for socket in lamps.sockets:
        fit = f"{server.url}{walk.path}/{socket}/fit"
        page.goto(fit)
        expect(page.locator(".action-missing")).to_contain_text(NEEDED)
        page.keyboard.press("m")
        expect(page).not_to_have_url(fit)
        page.goto(fit)
        expect(page.get_by_role("button", name="Reopen Fit")).to_be_visible()
    assert "W-1" in walk.leave()
    page.goto(f"{server.url}{walk.path}/sheet")
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
