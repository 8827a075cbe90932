"""A car that comes back, by hand: known by its plate while it is typed, looked at again in a few
presses."""

import re

from playwright.sync_api import expect


def test_a_plate_typed_at_book_in_leads_to_the_car_and_its_re_check(serve, open_page):
    server = serve()
    page = open_page(server)
    page.goto(f"{server.url}/jobs/new")
    page.get_by_label("Plate").fill("bk 287f")
    page.get_by_label("Vehicle number").focus()
    page.get_by_role("link", name="Look at it").click()
    expect(page.get_by_role("heading", name=re.compile("Ostrel Fenwick"))).to_be_visible()
    page.get_by_role("button", name="Book the re-check").click()
    expect(page).to_have_url(re.compile("/headlamp/inspect"))
    expect(page.get_by_role("button", name="Undo")).to_have_count(0)
    page.goto(f"{server.url}/?which=recheck")
    expect(page.get_by_text("No such job")).to_be_visible()
