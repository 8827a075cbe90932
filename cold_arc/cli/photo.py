"""`cold-arc photo WALL.jpg`: a photograph of one lamp's beam on the wall, measured.

marks.json is a list of {"px": [x, y], "wall_cm": [x, y]}: wall x right from the lamp's centre line,
y up from the floor. Several pictures of one wall, exposed differently, are merged; marks are then
on the middle one of them. Example: cold-arc photo wall.jpg --marks marks.json --distance 7.62m
--lamp-height 0.72m --json
"""

from __future__ import annotations

import argparse
import json
from pathlib import Path
from typing import Any

from cold_arc.cli.aim import length_m
from cold_arc.core.car.lamps import Function, Traffic
from cold_arc.core.light.cut_off import LineRead
from cold_arc.core.wallphoto.camera import MOST_MARKS, PhotoMark
from cold_arc.core.wallphoto.directions import Subject
from cold_arc.core.wallphoto.measure import MeasuredPhoto, Spot, measure
from cold_arc.core.wallphoto.merging import in_order, picture_of
from cold_arc.core.wallphoto.picture import PhotoUnusableError
from cold_arc.formats.photo import MOST_BYTES, PhotoError, read_pixels

MOST_MARKS_BYTES, DECIMALS = 100_000, 4


def add_commands(commands: Any) -> None:
    """Adds `photo`."""
    parser: argparse.ArgumentParser = commands.add_parser(
        "photo",
        help="measure a photograph of a beam on the wall",
        description=__doc__,
        formatter_class=argparse.RawDescriptionHelpFormatter,
    )
    parser.add_argument(
        "photo", type=Path, nargs="+", metavar="WALL.jpg", help="one, or a series of exposures"
    )
    parser.add_argument("--marks", type=Path, required=True, metavar="marks.json")
    parser.add_argument("--distance", required=True, help="from lamp to wall, like 7.62m or 25 ft")
    parser.add_argument(
        "--lamp-height", required=True, help="the lamp's centre above the floor, like 0.72m"
    )
    beams = (Function.LOW, Function.FOG, Function.HIGH)
    parser.add_argument("--function", type=Function, choices=beams, default=Function.LOW)
    parser.add_argument(
        "--traffic",
        type=Traffic,
        choices=tuple(Traffic),
        default=Traffic.RIGHT,
        help="the side traffic keeps to",
    )
    parser.add_argument(
        "--line",
        choices=[line.value for line in LineRead],
        help="what of the beam is read: its straight part away from the kerb (usual of low beam), "
        "on the kerb's side (VOR), level all across (fog), its hot spot (high)",
    )
    parser.add_argument("--json", action="store_true", help="print one JSON object")
    parser.set_defaults(run=_run)


def _run(options: argparse.Namespace) -> int:
    subject = Subject(
        length_m(options.distance, "distance", 1.0, 40.0),
        length_m(options.lamp_height, "lamp-height", 0.1, 3.0),
        options.function,
        options.traffic,
        line=LineRead(options.line) if options.line else None,
    )
    marks = read_marks(options.marks)
    try:
        series = [read_pixels(picture_bytes(path)) for path in options.photo]
        measured = measure(
            picture_of([series[index] for index in in_order(series)]), marks, subject
        )
    except (PhotoUnusableError, PhotoError) as error:
        raise ValueError(str(error)) from error
    summary = said(measured)
    print(json.dumps(summary, allow_nan=False) if options.json else _in_words(summary))
    return 0


def picture_bytes(path: Path) -> bytes:
    """A picture's file; ValueError for one too large."""
    if path.stat().st_size > MOST_BYTES:
        raise ValueError(f"{path.name} is larger than {MOST_BYTES // 1_000_000} MB.")
    return path.read_bytes()


def read_marks(path: Path) -> list[PhotoMark]:
    """The marks of a file; ValueError, in words, for what is none."""
    if path.stat().st_size > MOST_MARKS_BYTES:
        raise ValueError(f"{path.name} is too large for a list of marks.")
    try:
        rows = json.loads(path.read_text(encoding="utf-8"))
        marks = [PhotoMark(_pair(row["px"]), _pair(row["wall_cm"])) for row in rows]
    except (ValueError, TypeError, KeyError, RecursionError) as error:
        form = '[{"px": [x, y], "wall_cm": [x, y]}, …]'
        raise ValueError(f"{path.name} is no list of marks like {form}.") from error
    if len(marks) > MOST_MARKS:
        raise ValueError(f"{path.name} has more than {MOST_MARKS} marks.")
    return marks


def _pair(value: Any) -> tuple[float, float]:
    across, up = value
    if any(
        isinstance(coordinate, bool) or not isinstance(coordinate, int | float)
        for coordinate in (across, up)
    ):
        raise TypeError(value)
    return float(across), float(up)


def _round(value: float | None) -> float | None:
    return None if value is None else round(value, DECIMALS) + 0.0


def _spot(spot: Spot | None) -> dict[str, float | None] | None:
    return {"h_deg": _round(spot.h_deg), "v_deg": _round(spot.v_deg)} if spot else None


def said(measured: MeasuredPhoto) -> dict[str, Any]:
    """A measurement as one JSON object."""
    return {
        "cutoff_v_deg": _round(measured.cutoff_v_deg),
        "cutoff_slope_pct": _round(measured.cutoff_slope_pct),
        "roll_deg": _round(measured.roll_deg),
        "elbow": _spot(measured.elbow),
        "hot_spot": _spot(measured.hot_spot),
        "sharpness_g": _round(measured.sharpness_g),
        "stray_pct": _round(measured.stray_pct),
        "uncertainty": {name: _round(value) for name, value in measured.uncertainty.items()},
        "line": measured.line,
        "warnings": [*measured.shape, *measured.warnings],
    }


def _in_words(summary: dict[str, Any]) -> str:
    worth = summary["uncertainty"]
    lines = []
    if summary["cutoff_v_deg"] is not None:
        doubt = worth["cutoff_v_deg"]
        lines.append(
            f"Cut-off {summary['cutoff_v_deg']:+.2f}° ± {doubt:.2f}°, "
            f"{summary['cutoff_slope_pct']:+.2f} %"
        )
        lines.append(
            f"Roll {summary['roll_deg']:+.2f}° ± {worth['roll_deg']:.2f}°, sharpness G "
            f"{summary['sharpness_g']:.2f}"
        )
    for name, word in (("elbow", "Elbow"), ("hot_spot", "Hot spot")):
        if spot := summary[name]:
            doubts = worth[f"{name}_h_deg"], worth[f"{name}_v_deg"]
            lines.append(
                f"{word} {spot['h_deg']:+.2f}° ± {doubts[0]:.2f}° right, "
                f"{spot['v_deg']:+.2f}° ± {doubts[1]:.2f}° up"
            )
    return "\n".join([*lines, *summary["warnings"]])
