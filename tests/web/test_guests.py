"""Devices of the shop's network: asked for the shop's code once, known from then on."""

import re

import cv2
import numpy as np
import pytest

from cold_arc.cli.network import qr_code
from cold_arc.web.app import NAMES_NOW
from cold_arc.web.shell.guests import SECURE_PORT, ask_for_code
from tests.web.conftest import Client

AWAY = {"REMOTE_ADDR": "192.0.2.7"}
SECURE = {"base_url": "https://localhost", "environ_base": AWAY}


@pytest.fixture
def network(demo):
    """The demo with its network let in, and its code."""
    return demo, ask_for_code(demo.app)


def test_nothing_is_shown_or_kept_for_a_device_that_is_not_known(network):
    shop, _ = network
    for path in (
        "/",
        "/jobs/1/low/aim",
        "/shop",
        "/jobs/1/sheet",
        "/calendar.ics",
        "/bench/beam.png",
        "/no-such-page",
    ):
        answer = shop.http.get(path, environ_base=AWAY)
        assert (answer.status_code, answer.location.partition("?")[0]) == (303, "/code"), path
    answer = shop.http.post(
        "/shop", data={"shop_name": "Theirs", "dark_bay": "0"}, environ_base=AWAY
    )
    assert answer.status_code == 401
    assert "asked once" in answer.text
    assert "Theirs" not in shop.get("/shop")
    sheet = f"{shop.app.static_url_path}/css/base.css"
    assert shop.http.get(sheet, environ_base=AWAY).status_code == 200
    assert (
        shop.http.post("/meter", json={}, environ_base=AWAY).status_code == 401
    )  # by its own token


def test_the_shops_own_machine_is_never_asked_but_by_https(network):
    shop, code = network
    assert code in shop.get("/shop")
    assert shop.http.get("/shop", base_url="https://localhost").status_code == 303


def let_in(shop, code, client=None, to="/"):
    """Tells the code on the secure address."""
    client = client or shop.app.test_client()
    return client, client.post("/code", data={"to": to, "code": code}, **SECURE)


@pytest.mark.parametrize("spaced", [str, str.lower, lambda code: f" {code.replace('-', ' ')} "])
def test_the_code_is_asked_once_however_it_is_written(network, spaced):
    shop, code = network
    first = shop.http.get("/jobs/1/low/aim?lamp=low-left", **SECURE)
    assert "/jobs/1/low/aim?lamp=low-left" in shop.http.get(first.location, **SECURE).text
    wanted = "/jobs/1/low/aim?lamp=low-left"
    client, answer = let_in(shop, spaced(code), to=wanted)
    assert (answer.status_code, answer.location) == (303, wanted)
    assert client.get(wanted, **SECURE).status_code == 200
    kept = answer.headers["Set-Cookie"]
    assert "Secure" in kept
    assert "HttpOnly" in kept


def test_on_a_plain_address_the_code_is_not_taken(network):
    shop, code = network
    shop.app.config[SECURE_PORT] = 8441
    asked = shop.http.get("/code?to=/shop", environ_base=AWAY)
    assert asked.location == "https://localhost:8441/code?to=/shop"
    client = shop.app.test_client()
    answer = client.post("/code", data={"code": code}, environ_base=AWAY)
    assert answer.status_code == 403
    assert "secure address" in answer.text
    assert client.get("/shop", environ_base=AWAY).status_code == 303


def test_preferences_are_secure_where_the_page_was(shop):
    for secure, base in ((True, "https://localhost"), (False, "http://localhost")):
        answer = shop.http.post("/preferences", data={"theme": "day", "back": "/"}, base_url=base)
        assert ("Secure" in answer.headers["Set-Cookie"]) is secure


def test_a_wrong_code_is_said_beside_it_and_leads_nowhere_else(network, caplog):
    shop, code = network
    for wrong in ("", "AAAA-AAAA", code[:-1], f"{code}A"):
        answer = shop.http.post("/code", data={"code": wrong, "to": "/shop"}, **SECURE)
        assert answer.status_code == 422, wrong
        assert 'value="/shop"' in answer.text
    assert "a wrong code was told from 192.0.2.7" in caplog.text
    _, answer = let_in(shop, code, to="//elsewhere.example/")
    assert answer.location == "/"


def test_a_device_is_thrown_out_and_the_others_stay(network):
    shop, code = network
    tablet, telephone = (let_in(shop, code)[0] for _ in range(2))
    numbers = re.findall(r'value="out:(\d+)"', shop.get("/shop"))
    assert len(numbers) == 2
    assert "1 device thrown out" in shop.post("/shop/network", do=f"out:{numbers[0]}")
    states = [client.get("/shop", **SECURE).status_code for client in (tablet, telephone)]
    assert states == [200, 303]  # the newest stands first in the list
    assert "1 device thrown out" in shop.post("/shop/network", do="out:")
    assert tablet.get("/shop", **SECURE).status_code == 303


def test_a_renewed_code_lets_nobody_in_by_the_old_one(network):
    shop, code = network
    known, _ = let_in(shop, code)
    assert code not in shop.post("/shop/network", do="renew")
    assert let_in(shop, code)[1].status_code == 422
    assert known.get("/shop", **SECURE).status_code == 200
    assert shop.http.post("/shop/network", data={"do": "nothing"}).status_code == 404


def test_a_calendars_address_shows_its_days_and_nothing_else_until_it_is_renewed(network):
    shop, code = network
    address = re.search(r"/calendar\.ics\?token=[\w-]+", shop.get("/shop"))[0]
    assert code not in address
    assert shop.http.get(address, environ_base=AWAY).mimetype == "text/calendar"
    token = address.partition("?")[2]
    assert shop.http.get(f"/shop?{token}", environ_base=AWAY).status_code == 303
    shop.post("/shop/network", do="calendar")
    assert shop.http.get(address, environ_base=AWAY).status_code == 303


def test_another_shops_cookie_or_none_asked_for(network, tmp_path):
    shop, code = network
    other = Client(tmp_path / "other")
    assert ask_for_code(other.app) != code
    assert ask_for_code(Client(shop.folder).app) == code
    unasked = Client(tmp_path / "third")
    assert unasked.http.get("/shop", environ_base=AWAY).status_code == 200
    assert unasked.http.get("/code", environ_base=AWAY).status_code == 404


def test_a_new_address_of_this_machine_is_met_without_a_restart(shop):
    moved = {"base_url": "http://192.0.2.44"}
    assert shop.http.get("/", **moved).status_code == 400
    shop.app.config[NAMES_NOW] = lambda: ["192.0.2.44"]
    assert shop.http.get("/", **moved).status_code == 200
    assert shop.http.get("/", base_url="http://192.0.2.45").status_code == 400


def test_the_qr_code_holds_the_address():
    """Read back by another part of OpenCV, as a telephone's camera would."""
    rows = qr_code("https://192.0.2.44:8441/").splitlines()
    lit = {"█": (1, 1), "▀": (1, 0), "▄": (0, 1), " ": (0, 0)}
    modules = np.array([[lit[sign][part] for sign in row] for row in rows for part in (0, 1)])
    picture = np.kron(modules * 255, np.ones((8, 8))).astype(np.uint8)
    assert cv2.QRCodeDetector().detectAndDecode(picture)[0] == "https://192.0.2.44:8441/"
