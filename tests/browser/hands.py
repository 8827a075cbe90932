"""What a hand does in the browser, in step with the pages."""

import re

from playwright.sync_api import expect


def press(page, key, leads_to=None):
    """A key on a page that is all there; then the page it leads to, all there."""
    page.wait_for_load_state()
    page.keyboard.press(key)
    if leads_to:
        page.wait_for_url(re.compile(leads_to))


def tick_all(page):
    """The large button of Fit until it offers nothing more that can be done now; what may be told
    in one go, in one go.
    """
    while page.locator("button[data-tick]").count():
        waiting = page.locator(".ticks .done").count()
        together = page.locator(".step-together li").count()
        button = ".step-together button" if together else "button[data-tick]"
        page.locator(button).click()
        expect(page.locator(".ticks .done")).to_have_count(waiting + max(together, 1))
