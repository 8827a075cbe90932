"""A lamp's wall read in the browser: its housing from the picture as it came, what Match makes of
it, how the new bulb sits from the picture after; turned back by the Dial, and confirmed.
"""

import re
from dataclasses import replace

import pytest
from playwright.sync_api import expect

from cold_arc.core.beam import model
from cold_arc.core.car.keys import parse_key
from cold_arc.core.car.lamps import Side
from cold_arc.core.match import measuring, wall_reading
from cold_arc.devices.wall_camera import Shot, before_the_wall, photograph
from cold_arc.store import jobs
from cold_arc.store.database import open_database
from tests.core.inverse.lamps import drawn_lamp

pytestmark = [pytest.mark.browser, pytest.mark.thorough]
LOW_LEFT, WALL = parse_key("low-left"), (7.62, 0.72)
TURNED_DEG, READ_MS = 15.0, 240_000


def set_up(folder):
    """What was lit in the demo's first lamp as it came, and after; its aim changed between."""
    with open_database(folder)() as session:
        job = jobs.load(session, 1)
    present, chosen = measuring.setups(job.record, job.booking, LOW_LEFT, "right")
    return present, chosen, wall_reading.turned_since(job.record, LOW_LEFT)


def taken(beam):
    """A photograph of a beam on the wall, its printed target hung up."""
    shot = Shot(1600, 1200, exposure=-0.3)
    pose = before_the_wall(*WALL)
    return photograph(beam, pose, shot, (), *WALL, (0.0, 0.0), Side.LEFT).jpeg()


def read_wall(page, url, beam, phase, begin):
    """A picture sent, measured, read and kept, by hand; the page it was read on, in words."""
    page.goto(f"{url}/jobs/1/low/aim/photo")
    form = page.locator(".photo-form")
    form.get_by_text("Left", exact=True).click()
    form.get_by_text(phase, exact=True).click()
    page.get_by_label("Distance, lamp to wall").fill("7.62 m")
    picture = {"name": "wall.jpg", "mimeType": "image/jpeg", "buffer": taken(beam)}
    page.locator("#photo-file").set_input_files(picture)
    page.get_by_role("button", name="Measure it").click()
    page.get_by_role("link", name=re.compile("^Read (this lamp|how the bulb)")).click()
    page.get_by_role("button", name=begin).click()
    expect(page.locator(".predicting progress")).to_be_visible()
    expect(page.locator(".predicting progress")).to_have_count(0, timeout=READ_MS)
    shown = page.locator("#work").inner_text()
    page.get_by_role("button", name=re.compile("^Keep it")).click()
    expect(page.locator("#work")).to_contain_text("Kept with this lamp")
    return shown


def test_a_housing_is_read_predicted_in_and_a_turned_bulb_set_right(serve, open_page):
    server = serve()
    model.warm()
    present, chosen, turned = set_up(server.folder)
    lamp = drawn_lamp(present, 5)
    page = open_page(server)
    shown = read_wall(page, server.url, lamp.beam(present), "As found", "Read this housing")
    assert "hot spot" in shown
    page.goto(f"{server.url}/jobs/1/low/match?go=1")
    expect(page.locator("#work")).to_contain_text("read from its wall")
    after = lamp.turned(*turned)
    askew = after.beam(replace(chosen, clock=TURNED_DEG))
    shown = read_wall(page, server.url, askew, "As left", "Read how the bulb sits")
    assert "do not look to 3 and 9" in shown
    page.goto(f"{server.url}/jobs/1/low/fit")
    expect(page.locator("#side")).to_contain_text("do not look to 3 and 9")
    page.locator("#headlamp-1-left-stopped").fill("0")
    page.locator("#headlamp-1-left-stopped").press("Enter")
    expect(page.locator("#side")).not_to_contain_text("do not look to 3 and 9")
    shown = read_wall(page, server.url, after.beam(chosen), "As left", "Read how the bulb sits")
    assert "It sits as it should" in shown
