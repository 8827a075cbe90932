"""A lamp aimed in the browser: simulated screws turned as told, a photograph marked and read, a
live camera.
"""

import re

import pytest
from playwright.sync_api import expect

from cold_arc.devices.simulated_screws import SimulatedScrews
from cold_arc.devices.wall_camera import Pose, Shot, photograph
from tests.browser.test_accessible import AXE, RULES
from tests.core.wallphoto.rendered import SETUPS, ideal, lit

pytestmark = pytest.mark.browser
FRACTIONS = {"⅛": 0.125, "¼": 0.25, "⅜": 0.375, "½": 0.5, "⅝": 0.625, "¾": 0.75, "⅞": 0.875}
SAID = re.compile(
    r"Turn the (height|side) screw (\d*)([⅛¼⅜½⅝¾⅞]?) turns? (clockwise|anticlockwise)"
)


def told(page):
    """The turns the page asks for, by screw."""
    turns = {"height": 0.0, "side": 0.0}
    for screw, whole, part, way in SAID.findall(page.locator("#side").inner_text()):
        turns[screw] = (int(whole or 0) + FRACTIONS.get(part, 0.0)) * (
            1 if way == "clockwise" else -1
        )
    return turns


def record(page, phase, screws, turns=None):
    """Types where the beam stands and what was turned, and records it."""
    before = page.locator("[data-undo]").inner_text()
    page.locator(".aim-form").get_by_text("Left", exact=True).click()
    page.locator(".aim-form").get_by_text(phase, exact=True).click()
    page.get_by_label("Cut-off stands").fill(f"{screws.up * 100:+.2f}%")
    page.get_by_label("Sideways").fill(
        f"{abs(screws.right) * 1000:.1f} cm {'right' if screws.right > 0 else 'left'}"
    )
    for label, screw in (("Height screw turned", "height"), ("Side screw turned", "side")):
        page.get_by_label(label).fill(f"{turns[screw]:g}" if turns and turns[screw] else "")
    page.get_by_role("button", name="Record aim").click()
    expect(page.get_by_label("Cut-off stands")).to_have_value("")
    expect(page.locator("[data-undo]")).not_to_have_text(before)


@pytest.mark.thorough
def test_a_lamp_is_aimed_in_at_most_four_rounds_by_turning_as_told(serve, open_page):
    """The UK's rule for a lamp at 0.7 m: −0.5 to −2.0 %, sideways from the centre line to 2 %
    left.
    """
    server = serve()
    page = open_page(server)
    page.goto(f"{server.url}/jobs/2/low-left/aim")
    page.locator(".set-up summary").click()
    page.get_by_label("Lamp height").fill("70 cm")
    page.get_by_label("Distance, lamp to wall").fill("10 m")
    screws, turns = SimulatedScrews(), {"height": 1.0, "side": 1.0}
    record(page, "As found", screws)
    for _round in range(4):
        screws.turn(turns["height"], turns["side"])
        record(page, "As left", screws, turns)
        turns = told(page)
        if not any(turns.values()):
            break
    assert -0.02 <= screws.up <= -0.005
    assert -0.02 <= screws.right <= 0.0
    expect(page.locator("#side")).to_contain_text("Left, as left: In.")


CROSSES = [(-130.0, 120.0), (130.0, 120.0), (-130.0, 15.0), (130.0, 15.0)]


def put(page, number, px):
    """Drags a mark near a place of the photograph, and moves it the rest by arrow keys."""
    mark, box = page.locator("[data-mark]").nth(number), page.locator(".photo").bounding_box()
    scale = box["width"] / float(page.locator(".photo").get_attribute("viewBox").split()[2])
    start = mark.locator("circle").nth(1).bounding_box()
    page.mouse.move(start["x"] + start["width"] / 2, start["y"] + start["height"] / 2)
    page.mouse.down()
    page.mouse.move(box["x"] + (px[0] + 0.5) * scale, box["y"] + (px[1] + 0.5) * scale, steps=4)
    page.mouse.up()
    for axis, keys in enumerate((("ArrowLeft", "ArrowRight"), ("ArrowUp", "ArrowDown"))):
        stands = float(mark_place(page, number)[axis])
        for _ in range(round(abs(px[axis] - stands) * 10)):
            page.keyboard.press(f"Alt+{keys[px[axis] > stands]}")


def mark_place(page, number):
    return page.locator(f"[name=marks-{number}-px]").input_value().split(",")


def test_a_photograph_is_sent_marked_and_read(serve, open_page, tmp_path):
    """Its cut-off within 0.05° of what the definition says of the beam itself; marked by mouse and
    by keys.

    Its file is as large as a telephone's, so that what serves the pages lets it through.
    """
    server = serve()
    it = photograph(
        lit(SETUPS[0][0]), Pose(0.3, 1.3, 6.5, tilt_deg=-3.0), Shot(1600, 1200), CROSSES, 7.62, 0.72
    )
    (tmp_path / "wall.jpg").write_bytes(it.jpeg() + bytes(8_000_000))
    page = open_page(server, 1280, 1400)
    page.goto(f"{server.url}/jobs/1/low/aim")
    page.get_by_role("link", name="From a photograph").click()
    page.get_by_label("Distance, lamp to wall").fill("25 ft")
    page.get_by_label("Lamp's axis above the floor").fill("72 cm")
    page.locator("#photo-file").set_input_files(tmp_path / "wall.jpg")
    page.get_by_role("button", name="Measure it").click()
    expect(page.locator("[data-mark]")).to_have_count(4, timeout=60_000)  # it stands back
    page.locator(".photo").scroll_into_view_if_needed()
    for number, mark in enumerate(it.marks):
        put(page, number, mark.px)
        assert [float(at) for at in mark_place(page, number)] == pytest.approx(mark.px, abs=0.2)
    expect(page.locator("[data-glass]")).to_have_class(re.compile("shown"))
    page.get_by_role("button", name="Measure by these marks").click()
    told = page.locator(".photo-says tr", has_text="Cut-off").first
    expect(told).to_contain_text("±")
    figure = float(told.locator("td").first.inner_text().replace("−", "-").rstrip("°"))
    assert figure == pytest.approx(ideal(*SETUPS[0]).cutoff_v_deg, abs=0.05)
    page.evaluate(AXE)
    found = page.evaluate(
        '(rules) => axe.run(document, {runOnly: rules, resultTypes: ["violations"]})', RULES
    )
    assert [fault["id"] for fault in found["violations"]] == []
    page.get_by_role("button", name="Record it as").click()
    expect(page).to_have_url(re.compile("/aim$"))
    expect(page.locator(".aim-lines")).to_contain_text(f"{figure:.2f}°".replace("-", "−"))


def test_a_screw_is_turned_under_a_live_camera(serve, open_page):
    server = serve()
    page = open_page(server)
    page.goto(f"{server.url}/jobs/2/low/aim/live")
    page.get_by_role("button", name="Simulated camera").click()
    expect(page.locator("[data-live-words]")).to_contain_text("too high")
    expect(page.locator("[data-live-rate]")).to_contain_text("a second")
    line = page.locator("[data-live-line]").get_attribute("transform")
    for _ in range(11):
        page.locator('[data-screw="height,0.25"]').click()
    expect(page.locator("[data-live-words]")).to_contain_text("In.")
    assert page.locator("[data-live-line]").get_attribute("transform") != line
    page.get_by_role("button", name="Record it as left").click()
    expect(page.locator("#side")).to_contain_text("Left, as left: In.")
