"""The working surface: the first act on the first screen, labels that make room, wall work by keys
and by drag.
"""

import re

import pytest
from playwright.sync_api import expect

from tests.thorough import thorough

pytestmark = pytest.mark.browser

SIZES = [(1280, 800), thorough(1024, 768), thorough(820, 1180), (390, 844)]
# What one does first at each stage; the job is one that has work there.
FIRST_ACTS = {
    "/jobs/5/all/book-in": "#work .btn-check + .btn",
    "/jobs/2/low/inspect": "#work .btn-check + .btn",
    "/jobs/3/low/baseline": "#work [data-reading]",
    "/jobs/2/low/match?look=5": "#work .looked .ranking-pick",
    "/jobs/5/fog/plan": "#work .route-card, #work .route .btn",
    "/jobs/2/low/fit": "#work [data-tick]",
    "/jobs/4/low/prove": "#work .cell",
    "/jobs/1/low/aim": "#work #stands",
    "/jobs/1/low/verify": "#work [data-reading]",
    "/jobs/1/low/hand-over": "#work .btn, #work .sum-lamp",
}
BOX = (
    "(element) => { const box = element.getBoundingClientRect(); return [box.x, box.y, box.right, "
    "box.bottom]; }"
)


@pytest.mark.parametrize(("width", "height"), SIZES)
def test_the_first_act_is_on_the_first_screen(demo, open_page, width, height):
    page = open_page(demo, width, height)
    for path, act in FIRST_ACTS.items():
        page.goto(demo.url + path)
        expect(page.locator("h1")).to_be_visible()
        bar = page.locator(".action-bar").bounding_box()
        box = page.locator(act).locator("visible=true").first.bounding_box()
        assert box["y"] >= 0, path
        assert box["y"] + box["height"] <= bar["y"], (
            f"{path}: the first act ends at {box}, the bar begins at {bar}"
        )
        head = page.locator(".track").bounding_box()
        assert head["y"] + head["height"] <= 97, path
        assert page.evaluate("document.documentElement.scrollWidth") <= width, path


@pytest.mark.parametrize(
    "path",
    [
        "/jobs/1/low/verify",
        thorough("/jobs/1/low/aim"),
        thorough("/jobs/3/low/baseline"),
        "/jobs/4/low/aim",
        thorough("/bench?source=led&points=1"),
    ],
)
@pytest.mark.parametrize(("width", "height"), [thorough(1280, 800), (390, 844)])
def test_no_label_on_a_wall_covers_another(demo, open_page, path, width, height):
    page = open_page(demo, width, height)
    page.goto(demo.url + path)
    page.locator("[data-wall]").first.wait_for()
    texts = page.locator("[data-wall]").first.locator("text:not(.middle):not(.end)")
    boxes = [(it.text_content(), it.evaluate(BOX)) for it in texts.all()]
    assert boxes
    for index, (one, (left, top, right, bottom)) in enumerate(boxes):
        for other, (left2, top2, right2, bottom2) in boxes[index + 1 :]:
            across, down = (
                min(right, right2) - max(left, left2),
                min(bottom, bottom2) - max(top, top2),
            )
            # Lines of one label stand close by design; two labels never share ground.
            assert across <= 1 or down <= 0.35 * (bottom - top), f"{one} covers {other}"


# Left traffic: the kerb, and with it the bright side, is on the left.
READ = {"peak": "212", "edge": "95", "below": "200", "left": "190", "right": "52", "stray": "6"}


def test_a_baseline_is_read_by_keyboard_alone(serve, open_page):
    """Six places of both lamps: under 30 key presses besides the figures, the set-up included."""
    server = serve()
    page = open_page(server)
    page.goto(f"{server.url}/jobs/2/low/baseline")
    pressed = 0

    def key(name):
        nonlocal pressed
        pressed += 1
        page.keyboard.press(name)

    key("e")
    expect(page.locator("#peak-low-left")).to_be_focused()
    page.keyboard.type(READ["peak"])
    while page.evaluate("document.activeElement.name") != "distance":
        key("Tab")
    page.keyboard.type("10 m")
    key("Enter")
    for side in ("left", "right"):
        for point in ("peak", "edge", "below", "left", "right", "stray"):
            if (side, point) == ("left", "peak"):
                continue
            expect(page.locator(f"#{point}-low-{side}")).to_be_focused()
            page.keyboard.type(READ[point])
            key("Enter")
    expect(page.locator(".strip-cell span.warm")).to_have_count(12)
    assert pressed < 30


def test_the_cut_off_is_dragged_and_nudged(serve, open_page):
    server = serve()
    page = open_page(server)
    page.goto(f"{server.url}/jobs/4/low/aim")
    handle = page.locator("[data-drag] .handle")
    stands = page.get_by_label("Cut-off stands")
    handle.wait_for()
    box = handle.bounding_box()
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 40, y + 30, steps=6)
    page.mouse.up()
    dragged = stands.input_value()
    assert re.fullmatch(r"\d+\.\d cm down", dragged)
    assert page.locator("[name=sideways]").input_value().endswith("right")
    page.get_by_role("button", name="Down", exact=True).click()
    lower = float(stands.input_value().split()[0]) - float(dragged.split()[0])
    assert lower == pytest.approx(0.5, abs=0.11)
    expect(page.locator("#stands-echo")).to_contain_text("below lamp height")
    page.get_by_text("As left", exact=True).first.click()
    page.get_by_role("button", name="Record aim").click()
    expect(page.locator("[data-undo]")).to_contain_text("Aim as left")


def test_a_job_is_found_as_one_types(demo, open_page):
    page = open_page(demo)
    page.goto(demo.url)
    page.keyboard.press("/")
    page.keyboard.type("h11 kestrin")
    expect(page.locator("#jobs .card-job")).to_have_count(1)
    expect(page.locator("#jobs .card-job")).to_contain_text("TL-321")
    page.locator("#find").fill("")
    page.locator("label", has_text="Wall work next").click()
    expect(page.locator("#jobs .lane h2")).to_contain_text("Wall work next")
    for card in page.locator("#jobs .card-stage").all():
        assert card.inner_text()


def test_the_record_is_a_drawer_and_the_front_opens_large(demo, open_page):
    page = open_page(demo)
    page.goto(f"{demo.url}/jobs/1/low/aim")
    expect(page.locator("#record")).to_be_hidden()
    page.keyboard.press("v")
    expect(page.locator("#record .history li").first).to_be_visible()
    page.get_by_role("button", name="Close the record").click()
    expect(page.locator("#record")).to_be_hidden()
    page.locator(".face-open").click()
    expect(page.locator("#car-front .face")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.locator("#car-front")).to_be_hidden()
