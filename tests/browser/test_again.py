"""A car from its quote to the year after, by hand: signed with a finger, its sheet and file, taken
in by another shop, looked at again there. Plan, work and aim in between go through their forms."""

import re

import pytest
from playwright.sync_api import expect

from tests.serving import serving
from tests.web.conftest import Client
from tests.web.test_walks import KINDS
from tests.web.walking import Walk


def sign_with_a_finger(page):
    field = page.locator(".sign-here")
    field.scroll_into_view_if_needed()
    box = field.bounding_box()
    at = (box["x"] + box["width"] / 4, box["y"] + box["height"] / 2)
    touch = {"pointerType": "touch", "isPrimary": True, "pointerId": 1, "button": 0, "buttons": 1}
    for kind, dx, dy in (("down", 0, 0), ("move", 60, -20), ("move", 120, 20), ("up", 120, 20)):
        place = {"clientX": at[0] + dx, "clientY": at[1] + dy}
        field.dispatch_event(f"pointer{kind}", touch | place)
    drawn = page.locator('[name="drawn"]').input_value()
    assert re.fullmatch(r"M\d+ \d+(L\d+ \d+){1,3}", drawn), drawn


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


@pytest.mark.thorough
def test_from_the_quote_to_the_year_after(start, open_page, tmp_path):
    server = start()
    walk = Walk(Client(tmp_path), KINDS["dual filament"], "Q-1")
    walk.come_in()
    walk.read("baseline")
    page = open_page(server, 820, 1180)
    page.goto(f"{server.url}{walk.path}/headlamp-1/match/quote?go=1")
    expect(page.locator(".predicting")).to_have_count(0)
    page.locator("[name=way]").first.check()
    page.locator("[name=tax]").fill("20")
    page.locator("[name=signed]").fill("R. Amsel")
    sign_with_a_finger(page)
    page.get_by_role("button", name="Sign", exact=True).click()
    expect(page.get_by_text("R. Amsel").first).to_be_visible()
    walk.match()
    walk.plan()
    walk.fit()
    assert "Since it left" not in walk.leave()
    page.goto(f"{server.url}{walk.path}/sheet")
    expect(page.get_by_role("heading", name="To know")).to_be_visible()
    with page.expect_download() as coming:
        page.goto(f"{server.url}{walk.path}/record")
        page.get_by_role("link", name="Q-1.zip").click()
    file = tmp_path / "carried.zip"
    coming.value.save_as(file)
    with serving(tmp_path / "other") as other:
        taken_in(open_page(other), other.url, file)


def taken_in(page, url, file):
    """Another shop takes the job in, and looks at the car again."""
    page.goto(f"{url}/shop/take-in")
    page.locator("#job-file").set_input_files(file)
    page.get_by_role("button", name="Look at it").click()
    page.get_by_role("button", name="Take them in").click()
    expect(page.get_by_text("1 of 1 taken in")).to_be_visible()
    page.get_by_role("link", name=re.compile("Q-1")).first.click()
    page.get_by_role("link", name="The car and its visits").click()
    page.get_by_role("button", name="Book the re-check").click()
    expect(page).to_have_url(re.compile("/headlamp/inspect"))
    expect(page.locator(".top-job")).to_contain_text("Q-1, re-check")
    page.goto("about:blank")
