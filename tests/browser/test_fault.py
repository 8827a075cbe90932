"""A fault found in the browser: polarity by keys, a pulsed supply by touch on a phone."""

import re

import pytest
from playwright.sync_api import expect

from cold_arc.devices.simulated_car import SimulatedCar

pytestmark = pytest.mark.browser


def offered(page):
    """The test offered, and the buttons of its answers; None once a cause is told."""
    first = page.locator("[data-tick]").first
    expect(first).to_be_visible()
    value = first.get_attribute("value")
    return value.split(":")[1] if value.startswith("answer:") else None


def test_a_polarity_fault_by_keyboard(serve, open_page):
    server = serve()
    page = open_page(server)
    page.goto(f"{server.url}/jobs/1/low-left/prove")
    page.get_by_role("link", name="Find a fault").focus()
    page.keyboard.press("Enter")
    page.get_by_role("link", name="Dark after fitting").focus()
    page.keyboard.press("Enter")
    car = SimulatedCar("polarity")
    for made in range(12):
        expect(page.locator("[name=made]")).to_have_value(str(made))
        test = offered(page)
        if test is None:
            break
        button = page.locator(f'[value="answer:{test}:{car.answer(test)}"]').first
        button.focus()
        page.keyboard.press("Enter")
    expect(page.locator(".step-now h2")).to_have_text("Plus and minus exchanged at the plug")
    page.keyboard.press("t")
    expect(page.locator("#work")).to_contain_text("Found on this car")
    expect(page.locator("[data-undo]")).to_contain_text("Fault cured")


def test_a_pulsed_supply_by_touch_on_a_phone(serve, open_page):
    server = serve()
    page = open_page(server, 390, 844)
    page.goto(f"{server.url}/jobs/1/low-left/prove/fault?symptom=flicker")
    car = SimulatedCar("pwm")
    for made in range(12):
        expect(page.locator("[name=made]")).to_have_value(str(made))
        test = offered(page)
        if test is None:
            break
        page.locator(f'.step-now [value="answer:{test}:{car.answer(test)}"]').click()
    expect(page.locator(".step-now h2")).to_have_text("Pulsed supply")
    expect(page.locator(".step-now")).to_contain_text(re.compile("Smoothing capacitor"))
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
