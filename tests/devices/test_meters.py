"""Meters: the simulated one against the beam it reads, the feed, lines of a serial port; what is
refused.
"""

import io
import json
import math
import threading
from http.server import BaseHTTPRequestHandler, HTTPServer

import pytest
import serial
from hypothesis import given
from hypothesis import strategies as st

from cold_arc.cli import main
from cold_arc.core.beam import derived
from cold_arc.core.beam.report import beam_of
from cold_arc.core.beam.setup import SetUp
from cold_arc.core.units import FOOT_CANDLE_LX
from cold_arc.devices.feed import FRESH_S, Feed
from cold_arc.devices.meter import Display, DisplayError, parse
from cold_arc.devices.serial_line import displays, open_line
from cold_arc.devices.simulated import NOISE, SETTLE_S, SimulatedLamp, SimulatedMeter, hidden


class Clock:
    """A clock turned by hand."""

    def __init__(self):
        self.now = 1000.0

    def __call__(self):
        return self.now


@pytest.fixture
def clock():
    return Clock()


def own_beam():
    """The beam that is metered; remembered."""
    return beam_of(SetUp("reflector", "H7"))


def meter(clock, **lamp):
    made = SimulatedMeter(SimulatedLamp(own_beam(), **lamp), 10.0, seed="one", clock=clock)
    clock.now += 60
    return made


def settled(made, clock, right, down):
    made.move(right, down)
    clock.now += 10 * SETTLE_S
    return made.display()


def test_it_reads_the_beam_where_its_head_is_held(clock):
    made = meter(clock)
    for right, down in ((0.3, 0.25), (0.0, 0.15), (-0.6, -0.1)):
        shown = settled(made, clock, right, down)
        true = derived.meter_lux(own_beam(), right, down, 10.0, made.kind.head_mm)
        assert shown.lux == pytest.approx(true, rel=made.kind.total / 2 + 4 * NOISE, abs=0.1)
        assert shown.steady


def test_an_aim_of_its_own_moves_the_light(clock):
    off = meter(clock, right_deg=1.0, up_deg=-0.5)
    moved = settled(
        off, clock, 10 * math.tan(math.radians(1.0)), 0.15 + 10 * math.tan(math.radians(0.5))
    )
    straight = settled(meter(clock), clock, 0.0, 0.15)
    assert moved.lux == pytest.approx(straight.lux, rel=0.03)


def test_the_display_takes_a_moment_to_settle(clock):
    made = meter(clock)
    bright = settled(made, clock, 0.3, 0.25).lux
    made.move(-0.6, -0.3)
    at_once = made.display()
    assert at_once.lux == pytest.approx(bright, rel=0.05)
    assert not at_once.steady
    clock.now += 10 * SETTLE_S
    assert made.display().lux < bright / 20


def test_hold_range_unit_overload(clock):
    made = meter(clock, bright=20.0)
    made.move(0.3, 0.25)
    clock.now += 5
    over = made.display()
    assert over.overload
    assert over.lux is None
    assert over.typed == ""
    made.range = 10
    ranged = made.display()
    assert ranged.value * 10 == pytest.approx(ranged.lux)
    assert ranged.value == round(ranged.value, 1)
    made.hold(True)
    held = made.display()
    made.move(0, 0)
    clock.now += 5
    assert made.display().value == held.value
    assert made.display().hold
    made.hold(False)
    made.unit = "fc"
    feet = made.display()
    assert feet.lux == pytest.approx(feet.value * 10 * FOOT_CANDLE_LX)


def test_the_source_warms_up_from_when_it_is_switched_on(clock):
    made = SimulatedMeter(
        SimulatedLamp(own_beam(), fades=((0.05, 10.0), (0.15, 100.0))), 10.0, clock=clock
    )
    place = (0.3, 0.25)
    cold, warm = made.reading_at(0.0, place), made.reading_at(2000.0, place)
    assert cold / warm == pytest.approx(1.2, rel=0.03)
    clock.now += 500
    assert made.lit_s == 500


def test_the_rooms_own_light_is_in_it(clock):
    made = meter(clock)
    made.ambient_lx = 40.0
    assert settled(made, clock, 0.0, -3.0).lux == pytest.approx(40, rel=0.05)


def test_the_same_lamp_moment_and_place_show_the_same(clock):
    one, other = meter(clock), meter(clock)
    clock.now = 2000.0
    assert one.reading_at(77.0, (0.1, 0.1)) == other.reading_at(77.0, (0.1, 0.1))
    assert hidden("3 low-left") == hidden("3 low-left") != hidden("3 low-right")


@pytest.mark.parametrize(
    ("told", "said"),
    [
        ("410", "body"),
        ({}, "value"),
        ({"value": -1}, "value"),
        ({"value": float("nan")}, "value"),
        ({"value": "410"}, "value"),
        ({"value": True}, "value"),
        ({"value": 10**9}, "value"),
        ({"value": 4, "unit": "cd"}, "unit"),
        ({"value": 4, "range": 7}, "range"),
        ({"value": 4, "hold": "yes"}, "hold"),
        ({"value": 4, "battery": 3}, "battery"),
        ({"value": 4, "model": "x"}, "model"),
    ],
)
def test_what_is_no_display_is_refused_in_words(told, said):
    with pytest.raises(DisplayError, match=said):
        parse(told)


def test_a_display_as_a_meter_sends_it():
    shown = parse({"value": 41.0, "unit": "lx", "range": 10, "hold": True, "battery": 0.4})
    assert shown == Display(41.0, "lx", 10.0, True, False, 0.4)
    assert (shown.lux, shown.typed) == (410.0, "41 lx x10")
    assert parse({"overload": True}).lux is None


def test_a_feed_forgets_what_is_old_and_keeps_a_run(clock):
    feed = Feed(clock)
    assert feed.display() is None
    for _ in range(5):
        feed.take(Display(400.0))
        clock.now += 1
    assert feed.display().lux == 400
    feed.take(Display(1.0, hold=True))
    assert [at for at, _ in feed.since(1001.0)] == [0.0, 1.0, 2.0, 3.0]
    clock.now += FRESH_S + 1
    assert feed.display() is None


@pytest.mark.parametrize(
    ("line", "lux"),
    [
        (b"410.2\r\n", 410.2),
        ("41.0 lx x10", 410.0),
        ("38 fc hold", 38 * FOOT_CANDLE_LX),
        ('{"value": 5, "range": 100}', 500.0),
        ("OL x100", None),
    ],
)
def test_lines_of_a_meter(line, lux):
    (shown,) = displays([line])
    assert shown.lux == (None if lux is None else pytest.approx(lux))


@pytest.mark.parametrize(
    "line",
    ["", "hello", "-4", "1,013", "nan", '{"value": "x"}', "{", "9" * 400, b"\xff\xfe", "41 x7"],
)
def test_other_lines_are_left_out(line):
    assert list(displays([line])) == []


@given(st.binary(max_size=80))
def test_noise_on_the_line_breaks_nothing(line):
    assert all(
        shown.lux is None or math.isfinite(shown.lux) for shown in displays(line.splitlines())
    )


def test_a_serial_port_is_read_line_by_line(monkeypatch):
    """pyserial's loop port gives back what is written to it."""
    port = serial.serial_for_url("loop://", timeout=1)
    port.write(b"12.5\r\nnoise\r\n13.0 x10\r\n")
    monkeypatch.setattr(serial, "serial_for_url", lambda *_, **__: port)
    shown = displays(open_line("loop://"))
    assert [next(shown).lux, next(shown).lux] == [12.5, 130.0]


def test_a_port_that_is_not_there_is_said_in_words(capsys):
    assert main(["meter", "--serial", "/dev/no-such-port", "--token", "x"]) == 1
    assert "no-such-port" in capsys.readouterr().err


class Shop(BaseHTTPRequestHandler):
    """A stand-in for the shop's end."""

    taken: list = []  # noqa: RUF012

    def do_POST(self):
        body = self.rfile.read(int(self.headers["Content-Length"]))
        good = self.headers["Authorization"] == "Bearer right"
        Shop.taken.append((self.path, json.load(io.BytesIO(body))))
        self.send_response(204 if good else 401)
        self.end_headers()
        if not good:
            self.wfile.write(b"not this shop's")

    def log_message(self, *_):
        pass


@pytest.fixture
def listening():
    Shop.taken = []
    server = HTTPServer(("127.0.0.1", 0), Shop)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    yield f"http://127.0.0.1:{server.server_port}"
    server.shutdown()
    server.server_close()


def test_a_recording_is_played_to_the_shop(listening, tmp_path, capsys):
    (tmp_path / "run.txt").write_text("410\nnothing\n41.5 lx x10 hold\n")
    played = ["meter", "--play", str(tmp_path / "run.txt"), "--every", "0", "--to", listening]
    assert main([*played, "--token", "right"]) == 0
    assert "2 displays sent" in capsys.readouterr().out
    assert [path for path, _ in Shop.taken] == ["/meter", "/meter"]
    assert Shop.taken[1][1] == {
        "value": 41.5,
        "unit": "lx",
        "range": 10.0,
        "hold": True,
        "overload": False,
    }
    assert main([*played, "--token", "wrong"]) == 1
    assert "The shop refused it: not this shop's" in capsys.readouterr().err


def test_a_shop_that_does_not_answer_is_said_in_words(tmp_path, capsys):
    (tmp_path / "run.txt").write_text("410\n")
    assert (
        main(
            [
                "meter",
                "--play",
                str(tmp_path / "run.txt"),
                "--to",
                "http://127.0.0.1:1",
                "--token",
                "x",
            ]
        )
        == 1
    )
    assert "does not answer" in capsys.readouterr().err
