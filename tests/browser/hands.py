"""What a hand does in the browser, in step with the pages."""

import re


def press(page, key, leads_to=None):
    """A key on a page that is all there; then the page it leads to, all there."""
    page.wait_for_load_state()
    page.keyboard.press(key)
    if leads_to:
        page.wait_for_url(re.compile(leads_to))
