"""A meter on a serial line, or a recording of one: lines of text, each a display.

A line is one JSON object as :func:`cold_arc.devices.meter.parse` takes it, or plain text: a figure
and what stands with it, as in ``410.2``, ``41.0 lx x10``, ``38 fc hold`` or ``OL``. Lines that are
neither are left out.
"""

from __future__ import annotations

import json
import re
from collections.abc import Iterable, Iterator

from cold_arc.devices.meter import Display, DisplayError, parse

BAUD = 9600
LONGEST_LINE = 200
SILENT_S = 2.0
_PLAIN = re.compile(
    r"(?P<value>\d+(?:\.\d+)?|OL)\s*(?P<unit>lx|fc)?\s*(?:x(?P<range>10{0,2}))?\s*(?P<hold>hold)?",
    re.I,
)


def displays(lines: Iterable[bytes | str]) -> Iterator[Display]:
    """The display of every line that is one."""
    for line in lines:
        text = line.decode("ascii", "replace") if isinstance(line, bytes) else line
        if (display := _display(text.strip()[:LONGEST_LINE])) is not None:
            yield display


def _display(text: str) -> Display | None:
    if text.startswith("{"):
        try:
            return parse(json.loads(text))
        except (DisplayError, ValueError, RecursionError):
            return None
    match = _PLAIN.fullmatch(text)
    if match is None:
        return None
    over = match["value"].upper() == "OL"
    values = {
        "unit": (match["unit"] or "lx").lower(),
        "range": float(match["range"] or 1),
        "hold": bool(match["hold"]),
    }
    try:
        return parse(values | ({"overload": True} if over else {"value": float(match["value"])}))
    except DisplayError:
        return None


def open_line(address: str, baud: int = BAUD) -> Iterator[bytes]:
    """The lines of a serial port ("/dev/ttyUSB0", "COM3", "loop://"); OSError where it can't be
    opened, or was unplugged."""
    import serial

    with serial.serial_for_url(address, baudrate=baud, timeout=SILENT_S) as port:
        while True:
            line = port.readline()
            if line:
                yield line
