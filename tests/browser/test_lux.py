"""Lux in the browser: a baseline by keys with the simulated meter, a slip caught, a shoot-out, a
warm-up run left.
"""

import re
import subprocess
import sys

import pytest
from playwright.sync_api import expect

from cold_arc.core.job.entries.readings import Read, Tried, Warmed
from cold_arc.store import jobs
from cold_arc.store.database import open_database
from tests.browser.hands import press

pytestmark = pytest.mark.browser


@pytest.fixture
def quick(start, monkeypatch):
    """The demo on a server of its own, whose simulated lamps live sixty times as fast."""
    monkeypatch.setenv("COLD_ARC_PACE", "60")
    return start()


def record(server, job_id):
    with open_database(server.folder)() as session:
        return jobs.load(session, job_id).record


def take_meter(page):
    """The simulated meter is chosen by keys: it is the last of three."""
    page.locator("[data-meter-device]").focus()
    page.keyboard.press("End")
    expect(page.locator("[data-meter-value]")).to_have_text(re.compile(r"\d"))


def steady(page):
    expect(page.locator("[data-meter-said]")).not_to_contain_text("settling")


@pytest.mark.thorough
def test_a_baseline_with_the_simulated_meter_by_keyboard_alone(quick, open_page):
    """Job 3, gas discharge: the brightest point is searched, walked to and recorded, then every
    other place.
    """
    page = open_page(quick)
    page.goto(f"{quick.url}/jobs/3/low-left/baseline")
    page.locator("#distance").focus()
    page.keyboard.press("Control+A")
    page.keyboard.type("10 m")
    page.goto(f"{quick.url}/jobs/3/low-left/baseline?at=peak-low-left")
    take_meter(page)
    page.locator("[data-head]").focus()
    page.keyboard.press("ArrowRight")
    page.keyboard.press("Shift+ArrowDown")
    expect(page.locator("#across-low-left")).to_have_value("1.0 cm right")
    said = page.locator("[data-meter-search]")
    page.wait_for_timeout(2200)
    steady(page)
    for _ in range(9):
        page.keyboard.press("p")
        expect(said).to_have_text(re.compile("Read here next|Found"))
        if "Found" in said.inner_text():
            break
        page.wait_for_timeout(2200)
        steady(page)
        said.evaluate("(element) => { element.textContent = ''; }")
    expect(said).to_contain_text("Found")
    page.wait_for_timeout(2200)
    steady(page)
    page.keyboard.press(" ")
    expect(page.locator("[data-meter-said]")).to_contain_text("held")
    before = len(record(quick, 3).all(Read))
    page.keyboard.press("Enter")
    expect(page.locator("[data-undo]")).to_contain_text("Read before: brightest point")
    for place in ("further down", "to the left"):
        page.wait_for_timeout(2500)
        steady(page)
        expect(page.locator("[data-head]")).to_be_focused()
        page.keyboard.press("Enter")
        expect(page.locator("[data-undo]")).to_contain_text(f"Read before: {place}")
    taken = record(quick, 3).all(Read)
    assert len(taken) == before + 3
    assert all(read.reading.meter == "simulated" for read in taken[-3:])
    assert taken[-3].reading.candela >= max(read.reading.candela for read in taken[-2:])


@pytest.mark.thorough
def test_the_head_is_dragged_and_a_named_place_is_not_left_unseen(quick, open_page):
    page = open_page(quick)
    page.goto(f"{quick.url}/jobs/1/low-left/verify?at=edge-low-left")
    take_meter(page)
    box = page.locator("[data-head]").bounding_box()
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 60, y + 40, steps=4)
    page.mouse.up()
    page.keyboard.press("Enter")
    expect(page.locator("[data-meter-search]")).to_contain_text("take a free place")
    page.keyboard.press("Home")
    page.wait_for_timeout(2500)
    page.keyboard.press("Enter")
    expect(page.locator("[data-undo]")).to_contain_text("Read after: just under the cut-off")


def test_a_slip_at_verify_is_caught_and_taken_back_by_a_tap(quick, open_page):
    page = open_page(quick)
    page.goto(f"{quick.url}/jobs/1/low-right/verify?at=edge-low-right")
    field = page.locator("[data-reading]")
    field.fill("2.7")
    page.get_by_role("button", name="Record reading").click()
    doubts = page.locator(".doubts")
    expect(doubts).to_contain_text("Not saved yet")
    expect(doubts).to_contain_text("a hundred times too low")
    expect(field).to_have_value("2.7")
    count = len(record(quick, 1).all(Read))
    doubts.get_by_role("button", name=re.compile("it is 270")).click()
    expect(field).to_have_value("270 lx x1")
    page.get_by_role("button", name="Record reading").click()
    expect(page.locator("[data-undo]")).to_contain_text("270")
    assert len(record(quick, 1).all(Read)) == count + 1


@pytest.mark.thorough
def test_a_shoot_out_of_three_bulbs(quick, open_page):
    page = open_page(quick)
    page.goto(f"{quick.url}/jobs/3/low-left/shoot-out")
    turns = [("own", 1.0), ("Meadow", 1.6), ("Ridge", 2.3), ("Vale", 2.32), ("own", 0.99)]
    pattern = {"peak": 410, "edge": 225, "below": 360, "left": 180, "right": 305, "stray": 8}
    for number, (source, factor) in enumerate(turns):
        expect(page.locator(".shot-table tbody tr:not(.gain)")).to_have_count(number)
        page.get_by_label("or another, by name").fill("" if source == "own" else source)
        for place, lux in pattern.items():
            page.locator(f"#shot-{place}").fill(f"{lux * factor:.1f}")
        page.get_by_role("button", name="Record the turn").click()
    expect(page.locator(".shot-ranks li")).to_have_count(3)
    expect(page.locator(".shot-ranks li").first).to_contain_text("can’t be told apart")
    expect(page.locator(".shot-ranks li").last).to_contain_text("Meadow")
    expect(page.locator("#side")).to_contain_text("changed by −1.0 %")
    assert len(record(quick, 3).all(Tried)) == 30


@pytest.mark.thorough
def test_a_warm_up_run_is_left_and_come_back_to(quick, open_page):
    page = open_page(quick)
    page.goto(f"{quick.url}/jobs/1/low-left/warm-up?phase=after")
    page.get_by_text("simulated meter, to practise").last.click()
    page.get_by_role("button", name="Switch on, start the run").click()
    expect(page.locator("#warm-run")).to_contain_text("readings over")
    page.goto(quick.url)
    page.wait_for_timeout(3000)
    page.goto(f"{quick.url}/jobs/1/low-left/warm-up?phase=after")
    expect(page.locator("#warm-run")).to_contain_text("Settled:")
    expect(page.locator("#side")).to_contain_text("settled")
    page.get_by_role("button", name="Record the run").click()
    expect(page.locator("#warm-run")).to_contain_text("recorded")
    run = record(quick, 1).all(Warmed)[-1]
    assert len(run.samples) > 20


def test_the_pages_are_reached_by_keys(quick, open_page):
    page = open_page(quick)
    page.goto(f"{quick.url}/jobs/1/low/verify")
    page.get_by_role("link", name="Numbers and files").focus()
    press(page, "Enter", leads_to="/numbers")
    expect(page.locator(".numbers")).to_have_count(2)


def test_a_connected_meter_is_shown_held_and_recorded(quick, open_page, tmp_path):
    """A recording played to the shop by the command, as its page says."""
    page = open_page(quick)
    page.goto(f"{quick.url}/shop")
    token = page.locator(".command").inner_text().split("--token ")[1].strip()
    recording = tmp_path / "recording.txt"
    recording.write_text("".join(f"{300 + number % 2}.5 lx\n" for number in range(200)))
    command = [
        sys.executable,
        "-m",
        "cold_arc",
        "meter",
        "--play",
        str(recording),
        "--to",
        quick.url,
        "--token",
        token,
    ]
    with subprocess.Popen([*command, "--every", "0.2"], stdout=subprocess.DEVNULL) as played:
        page.goto(f"{quick.url}/jobs/1/low-right/verify?at=right-low-right")
        page.locator("[data-meter-device]").select_option("feed")
        expect(page.locator("[data-meter-value]")).to_have_text(re.compile(r"30\d\.5"))
        page.locator("[data-head]").focus()
        page.keyboard.press(" ")
        expect(page.locator("[data-meter-said]")).to_contain_text("held")
        page.keyboard.press("Enter")
        expect(page.locator("[data-undo]")).to_contain_text("Read after: to the right")
        assert played.poll() is None, "the meter's command gave up"
        played.terminate()
    taken = record(quick, 1).all(Read)[-1]
    assert 300 < taken.reading.lux < 302
    assert taken.reading.meter != "simulated"
