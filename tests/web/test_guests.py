"""Devices of the shop's network: asked for the shop's code once, known from then on."""

import pytest

from cold_arc.web.shell.guests import ask_for_code
from tests.web.conftest import Client

AWAY = {"REMOTE_ADDR": "192.0.2.7"}


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


@pytest.mark.parametrize("spaced", [str, str.lower, lambda code: f" {code.replace('-', ' ')} "])
def test_the_code_is_asked_once_however_it_is_written(network, spaced):
    shop, code = network
    first = shop.http.get("/jobs/1/low/aim?lamp=low-left", environ_base=AWAY)
    assert "/jobs/1/low/aim?lamp=low-left" in shop.http.get(first.location, environ_base=AWAY).text
    told = {"to": "/jobs/1/low/aim?lamp=low-left", "code": spaced(code)}
    answer = shop.http.post("/code", data=told, environ_base=AWAY)
    assert (answer.status_code, answer.location) == (303, told["to"])
    assert shop.http.get(told["to"], environ_base=AWAY).status_code == 200


def test_a_wrong_code_is_said_beside_it_and_leads_nowhere_else(network):
    shop, code = network
    for wrong in ("", "AAAA-AAAA", code[:-1], f"{code}A"):
        answer = shop.http.post("/code", data={"code": wrong, "to": "/shop"}, environ_base=AWAY)
        assert answer.status_code == 422, wrong
        assert 'value="/shop"' in answer.text
    answer = shop.http.post(
        "/code", data={"code": code, "to": "//elsewhere.example/"}, environ_base=AWAY
    )
    assert answer.location == "/"


def test_a_calendar_shows_the_code_in_its_address(network):
    shop, code = network
    assert f"/calendar.ics?code={code}" in shop.get("/shop")
    assert (
        shop.http.get(f"/calendar.ics?code={code}", environ_base=AWAY).mimetype == "text/calendar"
    )
    assert shop.http.get(f"/shop?code={code}", environ_base=AWAY).status_code == 303


def test_another_shops_cookie_or_none_asked_for(network, tmp_path):
    shop, code = network
    other = Client(tmp_path / "other")
    assert ask_for_code(other.app) != code
    assert ask_for_code(Client(shop.folder).app) == code
    unasked = Client(tmp_path / "third")
    assert unasked.http.get("/shop", environ_base=AWAY).status_code == 200
    assert unasked.http.get("/code", environ_base=AWAY).status_code == 404
