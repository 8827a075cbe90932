"""`cold-arc read`: the housing of one lamp from a picture of its beam on the wall; `cold-arc seat`:
how a bulb sits in it, from the picture after.

Example: cold-arc read before.jpg --marks marks.json --distance 7.62m --lamp-height 0.72m
--housing reflector --base H7 --reading "236 lx @ 0, 64" --save fitted.json --json
"""

from __future__ import annotations

import argparse
import json
import re
import sys
from dataclasses import replace
from pathlib import Path
from typing import Any

from cold_arc.cli.aim import length_m
from cold_arc.cli.beam import OF_SOURCE, add_options, setup_of
from cold_arc.cli.photo import picture_bytes, read_marks
from cold_arc.core.aim.taping import FARTHEST_APART_M, NEAREST_APART_M
from cold_arc.core.beam.setup import SetUp, SetUpError
from cold_arc.core.car.lamps import Function
from cold_arc.core.inverse.housing import FittedLamp, fit_lamp
from cold_arc.core.inverse.light_map import LampBeside, LightMap, of_picture
from cold_arc.core.inverse.seat import Seat, fit_seat
from cold_arc.core.wallphoto.directions import Subject
from cold_arc.core.wallphoto.isolux import LuxReading
from cold_arc.core.wallphoto.merging import in_order, picture_of
from cold_arc.core.wallphoto.picture import PhotoUnusableError
from cold_arc.formats import fitted_lamp
from cold_arc.formats.light_maps import ENDINGS, read_map, write_map
from cold_arc.formats.photo import PhotoError, read_pixels
from cold_arc.formats.photometric import MalformedFileError

# What is told of a lamp that is read.
OF_LAMP = ("housing", "base", "traffic", "high", "rated_volts", "volts", "haze")
READING = re.compile(r"\s*([\d.]+)\s*(?:lx)?\s*@\s*([+-]?[\d.]+)\s*,\s*([+-]?[\d.]+)\s*", re.ASCII)
OTHER_LAMP = re.compile(r"(.+?)\s*(left|right)")
MOST_LUX, FARTHEST_CM = 1e6, 4000.0
DECIMALS = 4


def add_commands(commands: Any) -> None:
    """Adds `read` and `seat`."""
    read = _parser(commands, "read", "this lamp's housing from a picture of the wall", _read)
    add_options(read, OF_LAMP)
    read.add_argument(
        "--other-lamp",
        metavar="DISTANCE SIDE",
        help="the other lamp of the pair was lit too: how far away it is, and on which side, seen "
        "from the driver's seat, like “1.2m right”",
    )
    read.add_argument("--save", type=Path, metavar="fitted.json", help="keep the housing")
    seat = _parser(commands, "seat", "how a bulb sits, from a picture of the wall", _seat)
    seat.add_argument("--housing-file", type=Path, metavar="fitted.json", required=True)
    add_options(seat, OF_SOURCE, source="led")


def _parser(commands: Any, name: str, words: str, run: Any) -> argparse.ArgumentParser:
    parser: argparse.ArgumentParser = commands.add_parser(
        name,
        help=words,
        description=__doc__,
        formatter_class=argparse.RawDescriptionHelpFormatter,
    )
    parser.add_argument(
        "picture",
        type=Path,
        nargs="+",
        metavar="WALL.jpg",
        help=f"a photograph, a series of exposures, or one map: {', '.join(ENDINGS)}",
    )
    parser.add_argument("--marks", type=Path, metavar="marks.json")
    parser.add_argument("--distance", help="from lamp to wall, like 7.62m or 25 ft")
    parser.add_argument("--lamp-height", help="the lamp's centre above the floor, like 0.72m")
    parser.add_argument(
        "--reading",
        metavar="LX @ X, Y",
        help="one reading of a meter and where on the wall, cm right of the lamp's centre line and "
        "up from the floor, like “236 lx @ 0, 64”",
    )
    parser.add_argument(
        "--save-map", type=Path, metavar="map.json", help=f"keep the map: {', '.join(ENDINGS)}"
    )
    parser.add_argument("--json", action="store_true", help="print one JSON object")
    parser.set_defaults(run=run)
    return parser


def _with_source(lamp: FittedLamp, options: argparse.Namespace) -> SetUp:
    """The lamp with the source of the options; ValueError, naming the option, for none."""
    try:
        return replace(lamp.setup, **{name: getattr(options, name) for name in OF_SOURCE})
    except SetUpError as error:
        raise ValueError(f"--{error.field.replace('_', '-')}: {error}") from error


def shown_progress(share: float) -> None:
    """How far it is, on a terminal; nothing where the output is read by a program."""
    if sys.stderr.isatty():
        print(f"\r{share:4.0%}", end="" if share < 1 else "\n", file=sys.stderr, flush=True)


def _read(options: argparse.Namespace) -> int:
    setup = setup_of(options, OF_LAMP)
    beside = _beside(options)
    lamp = fit_lamp(setup, _map(options, setup), shown_progress, beside).alone
    if options.save:
        options.save.write_text(fitted_lamp.to_json(lamp), encoding="utf-8")
    summary = {
        "housing": {name: _figure(*figure) for name, figure in lamp.figures.items()},
        "residual_pct": round(lamp.left_pct, DECIMALS),
        "notes": [*lamp.notes, *([] if lamp.absolute else [NO_READING])],
    }
    print(json.dumps(summary, allow_nan=False) if options.json else _lamp_words(summary))
    return 0


def _beside(options: argparse.Namespace) -> LampBeside | None:
    """The other lamp, where it was lit too."""
    if not options.other_lamp:
        return None
    match = OTHER_LAMP.fullmatch(options.other_lamp.strip().lower())
    if match is None:
        raise ValueError("--other-lamp: like “1.2m right” or “4 ft left”.")
    if not options.distance:
        raise ValueError("--other-lamp needs --distance: how far it stands from the wall.")
    apart_m = length_m(match[1], "other-lamp", NEAREST_APART_M, FARTHEST_APART_M)
    away_m = length_m(options.distance, "distance", 1.0, 40.0)
    return LampBeside(apart_m if match[2] == "right" else -apart_m, away_m)


NO_READING = "Without a meter's reading its brightness is relative: candela can't be foretold."


def _seat(options: argparse.Namespace) -> int:
    lamp = fitted_lamp.from_json(options.housing_file.read_bytes())
    setup = _with_source(lamp, options)
    seat = fit_seat(lamp, setup, _map(options, setup), shown_progress)
    summary = _seat_said(seat)
    print(json.dumps(summary, allow_nan=False) if options.json else _seat_words(seat))
    return 0


SEAT_NAMES = {
    "clock": "clock_deg",
    "axial": "depth_mm",
    "radial_x": "right_mm",
    "radial_y": "up_mm",
    "tilt": "tilt_deg",
}


def _seat_said(seat: Seat) -> dict[str, Any]:
    figures = {option: _figure(*seat.figures[name]) for name, option in SEAT_NAMES.items()}
    hypotheses = [
        {
            "id": each.hypothesis.id,
            "probability": round(each.probability, DECIMALS),
            "words": each.words,
        }
        for each in seat.explained
    ]
    return {**figures, "hypotheses": hypotheses, "advice": seat.advice}


def _seat_words(seat: Seat) -> str:
    first = [f"{each.probability:.0%}  {each.words}" for each in seat.explained[:3]]
    return "\n".join([*first, seat.advice])


def _figure(value: float, standard: float) -> dict[str, float]:
    return {"value": round(value, DECIMALS), "standard": round(standard, DECIMALS)}


def _lamp_words(summary: dict[str, Any]) -> str:
    lines = [
        f"{name}: {figure['value']:.3g} ± {figure['standard']:.2g}"
        for name, figure in summary["housing"].items()
    ]
    return "\n".join([*lines, f"left over: {summary['residual_pct']:.1f} %", *summary["notes"]])


def _map(options: argparse.Namespace, setup: SetUp) -> LightMap:
    """The map of what was given, kept where that is asked."""
    ending = options.save_map.suffix.lower() if options.save_map else ""
    if options.save_map and ending not in ENDINGS:
        raise ValueError(f"--save-map: the ending must be one of {', '.join(ENDINGS)}.")
    light = _map_of(options, setup)
    if options.save_map:
        options.save_map.write_bytes(write_map(light, ending, options.picture[0].stem))
    return light


def _map_of(options: argparse.Namespace, setup: SetUp) -> LightMap:
    """The map of what was given: a file's, or photographs'."""
    first = options.picture[0]
    ending = first.suffix.lower()
    if ending in ENDINGS:
        if len(options.picture) > 1:
            raise ValueError("One map, or a series of photographs, not both.")
        try:
            return read_map(first.read_bytes(), ending, setup.traffic, setup.high)
        except MalformedFileError as error:
            raise ValueError(f"{first.name}, {error}.") from error
    return _photographed(options, setup)


def _photographed(options: argparse.Namespace, setup: SetUp) -> LightMap:
    missing = [name for name in ("marks", "distance", "lamp_height") if not getattr(options, name)]
    if missing:
        names = ", ".join(f"--{name.replace('_', '-')}" for name in missing)
        raise ValueError(f"A photograph needs {names}.")
    function = Function.FOG if setup.is_fog else Function.HIGH if setup.high else Function.LOW
    subject = Subject(
        length_m(options.distance, "distance", 1.0, 40.0),
        length_m(options.lamp_height, "lamp-height", 0.1, 3.0),
        function,
        setup.traffic,
    )
    try:
        series = [read_pixels(picture_bytes(path)) for path in options.picture]
        picture = picture_of([series[index] for index in in_order(series)])
        marks = read_marks(options.marks)
        return of_picture(picture, marks, subject, _reading(options.reading))
    except (PhotoUnusableError, PhotoError) as error:
        raise ValueError(str(error)) from error


def _reading(text: str | None) -> LuxReading | None:
    """A meter's reading as typed; ValueError for what is none."""
    if text is None:
        return None
    match = READING.fullmatch(text)
    if match is None:
        raise ValueError(f"reading: “{text}” is not like “236 lx @ 0, 64”.")
    lux, across, up = (float(part) for part in match.groups())
    if not 0 < lux <= MOST_LUX or max(abs(across), abs(up)) > FARTHEST_CM:
        raise ValueError("reading: no such light, or no such place on a wall.")
    return LuxReading(lux, (across, up))
