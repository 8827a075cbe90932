"""`cold-arc meter`: feeds a meter on a serial line, or a recording of one, to the shop that is
being served.

Examples: cold-arc meter --serial /dev/ttyUSB0 --token TOKEN
          cold-arc meter --play recording.txt --token TOKEN
The token stands on the shop's page. Lines: docs/readings.md.
"""

from __future__ import annotations

import argparse
import json
import time
import urllib.error
import urllib.request
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from cold_arc.devices.meter import Display
from cold_arc.devices.serial_line import BAUD, displays, open_line

EVERY_S, PATIENCE_S = 0.25, 20.0
# The shop is near: never through a proxy.
_DIRECT = urllib.request.build_opener(urllib.request.ProxyHandler({}))


def add_commands(commands: Any) -> None:
    """Adds `meter`."""
    parser: argparse.ArgumentParser = commands.add_parser(
        "meter",
        help="feed a lux meter to the shop",
        description=__doc__,
        formatter_class=argparse.RawDescriptionHelpFormatter,
    )
    source = parser.add_mutually_exclusive_group(required=True)
    source.add_argument("--serial", metavar="PORT", help="a serial port such as /dev/ttyUSB0")
    source.add_argument("--play", type=Path, metavar="FILE", help="a recording, a line a display")
    parser.add_argument("--baud", type=int, default=BAUD)
    parser.add_argument(
        "--every",
        type=float,
        default=EVERY_S,
        metavar="SECONDS",
        help="time between a recording's lines",
    )
    parser.add_argument(
        "--to", default="http://127.0.0.1:8451", metavar="ADDRESS", help="where the shop is served"
    )
    parser.add_argument("--token", required=True, help="as the shop's page shows it")
    parser.set_defaults(run=_run)


def _run(options: argparse.Namespace) -> int:
    sent = 0
    try:
        for display in displays(_lines(options)):
            _send(options, display)
            sent += 1
    except KeyboardInterrupt:
        pass
    print(f"{sent} displays sent.")
    return 0


def _lines(options: argparse.Namespace) -> Iterator[bytes]:
    if options.serial:
        yield from open_line(options.serial, options.baud)
        return
    for line in options.play.read_bytes().splitlines():
        yield line
        time.sleep(max(0.0, options.every))


def _send(options: argparse.Namespace, display: Display) -> None:
    payload = {
        name: value
        for name, value in display.plain().items()
        if name not in ("lux", "typed", "steady")
    }
    payload = {name: value for name, value in payload.items() if value is not None}
    request = urllib.request.Request(
        f"{options.to.rstrip('/')}/meter",
        json.dumps(payload).encode(),
        {"Content-Type": "application/json", "Authorization": f"Bearer {options.token}"},
    )
    try:
        with _DIRECT.open(request, timeout=PATIENCE_S):
            return
    except urllib.error.HTTPError as error:
        raise ValueError(
            f"The shop refused it: {error.read().decode(errors='replace').strip()[:200]}"
        ) from error
    except urllib.error.URLError as error:
        raise ValueError(f"The shop does not answer at {options.to} ({error.reason}).") from error
