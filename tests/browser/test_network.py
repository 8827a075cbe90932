"""A telephone in the shop's network: by the shop's own https it is lent its camera, and follows the
cut-off with it.
"""

import re
import stat
import urllib.request

import pytest
from playwright.sync_api import expect

from cold_arc.cli.network import certificate
from cold_arc.core.car.lamps import Side
from cold_arc.devices.wall_camera import LiveCamera
from tests.core.wallphoto.rendered import SETUPS, lit
from tests.serving import CHROMIUM, CHROMIUM_FLAGS

pytestmark = pytest.mark.browser
NAME = "bay-one.test"
LIVE = "/jobs/1/low/aim/live?lamp=low-left"


def film(path, aims=((0.0, 0.0),)):
    """What a telephone's camera sees, as the browser takes it in a camera's place: pictures in a
    row.
    """
    camera = LiveCamera(lit(SETUPS[0][0]), 10.0, 0.65, Side.LEFT)
    path.write_bytes(b"".join(camera.frame(aim) for aim in aims))
    return path


@pytest.fixture
def telephone(chromium, tmp_path):
    """A browser that has a camera, and finds the shop by its name on the network."""
    flags = [
        *CHROMIUM_FLAGS,
        "--use-fake-ui-for-media-stream",
        "--use-fake-device-for-media-stream",
        f"--use-file-for-fake-video-capture={film(tmp_path / 'wall.mjpeg')}",
        f"--host-resolver-rules=MAP {NAME} 127.0.0.1",
    ]
    browser = chromium.browser_type.launch(executable_path=CHROMIUM, args=flags)
    yield browser.new_context(ignore_https_errors=True, viewport={"width": 390, "height": 844})
    browser.close()


def named(server, scheme):
    return f"{scheme}://{NAME}:{server.port + (scheme == 'https')}"


def code_of(server):
    """As the Shop's page tells it at the shop's own machine. Its place counts: a form's random
    mark may look like a code.
    """
    shop = urllib.request.urlopen(f"{server.url}/shop").read().decode()
    return re.search(r"shop's code: <b>([A-Z2-7]{4}-[A-Z2-7]{4})</b>", shop)[1]


def test_a_telephone_is_led_to_its_camera_and_follows_the_cut_off(start, telephone):
    server = start("--network", "--allowed-host", NAME)
    page = telephone.new_page()
    page.goto(named(server, "http") + LIVE)
    page.get_by_role("button", name="This device's camera").click()
    page.get_by_role("link", name="Open this page on the secure address").click()
    page.get_by_label("The shop's code").fill("aaaa aaaa")
    page.get_by_role("button", name="Go on").click()
    expect(page.locator("main")).to_contain_text("not this shop's code")
    page.get_by_label("The shop's code").fill(code_of(server).lower())
    page.keyboard.press("Enter")
    expect(page).to_have_url(named(server, "https") + LIVE)
    page.wait_for_load_state()
    page.get_by_role("button", name="This device's camera").click()
    expect(page.locator("[data-live-stands]")).to_have_text(re.compile(r"−\d\.\d\d%"))
    stands = float(page.locator("[data-live-stands]").inner_text().replace("−", "-").rstrip("%"))
    assert stands == pytest.approx(-1.0, abs=0.5)
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    page.get_by_role("button", name="Record it as left").click()
    expect(page.locator("body")).to_contain_text("Recorded as the aim")


def test_without_https_a_telephone_is_told_how_to_get_it(start, telephone):
    server = start("--allowed-host", NAME)
    page = telephone.new_page()
    page.goto(named(server, "http") + LIVE)
    expect(page.locator("[data-live-refused]")).to_be_hidden()
    page.get_by_role("button", name="This device's camera").click()
    expect(page.locator("[data-live-refused]")).to_contain_text("--network")


def test_the_key_is_its_owners_alone_and_stays_the_same(tmp_path):
    held = certificate(tmp_path, [NAME])
    assert stat.S_IMODE(held.stat().st_mode) == 0o600
    before = held.read_bytes()
    assert certificate(tmp_path, [NAME]).read_bytes() == before
