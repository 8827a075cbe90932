"""`cold-arc compare BEFORE.csv AFTER.csv`: two files of readings, place by place, in candela, with
uncertainty.

Columns: point,x_cm,y_cm,lux,range,distance_m,volts,ambient_lx,unit (docs/readings.md).
Example: cold-arc compare before.csv after.csv --was halogen --now led --json
"""

from __future__ import annotations

import argparse
import json
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path
from typing import Any

from cold_arc.core.car.lamps import Traffic
from cold_arc.core.findings import Level
from cold_arc.core.metering import comparing
from cold_arc.core.metering.comparing import Gain, say_gain
from cold_arc.core.metering.differing import SourceChange
from cold_arc.core.metering.meters import UNKNOWN, meters
from cold_arc.core.metering.readings import PLACES, WallReading
from cold_arc.formats.photometric import MalformedFileError
from cold_arc.formats.readings import ReadFile, read_csv

SOURCES = ("halogen", "hid", "led")


def add_commands(commands: Any) -> None:
    """Adds `compare`."""
    parser: argparse.ArgumentParser = commands.add_parser(
        "compare",
        help="compare two files of readings",
        description=__doc__,
        formatter_class=argparse.RawDescriptionHelpFormatter,
    )
    parser.add_argument("before", type=Path, metavar="BEFORE.csv")
    parser.add_argument("after", type=Path, metavar="AFTER.csv")
    parser.add_argument("--beam", choices=tuple(PLACES), default="low")
    parser.add_argument("--traffic", type=Traffic, choices=tuple(Traffic), default=Traffic.RIGHT)
    parser.add_argument(
        "--was",
        choices=SOURCES,
        default="halogen",
        help="the source before: a filament's light follows its supply",
    )
    parser.add_argument("--now", choices=SOURCES, default="led", help="the source after")
    parser.add_argument(
        "--meter", choices=tuple(meters()), default=UNKNOWN, help="the meter's class"
    )
    parser.add_argument("--json", action="store_true", help="print one JSON object")
    parser.set_defaults(run=_run)


def _run(options: argparse.Namespace) -> int:
    before, after = (_read(path, options) for path in (options.before, options.after))
    was, now = (_by_point(file, options.meter) for file in (before, after))
    change = SourceChange(
        options.was == "halogen",
        options.now == "halogen",
        options.beam,
        colour_changed=options.was != options.now,
    )
    comparison = comparing.compare(was, now, change)
    if not comparison.gains:
        raise ValueError(
            f"No point stands in both files: {', '.join(was)} before, {', '.join(now)} after."
        )
    summary = _said(comparison, was, now, before.warnings, after.warnings)
    print(json.dumps(summary, allow_nan=False) if options.json else _in_words(comparison, summary))
    return 0


def _read(path: Path, options: argparse.Namespace) -> ReadFile:
    try:
        return read_csv(path.read_bytes(), options.beam, options.traffic)
    except MalformedFileError as error:
        raise ValueError(f"{path.name}, {error}.") from error


def _by_point(file: ReadFile, meter: str) -> dict[str, WallReading]:
    return {name: replace(reading, meter=meter) for name, reading in file.by_point().items()}


def _said(
    comparison: comparing.Comparison,
    was: dict[str, WallReading],
    now: dict[str, WallReading],
    before: tuple[str, ...],
    after: tuple[str, ...],
) -> dict[str, Any]:
    findings = [
        f"{finding.text} {finding.number}".strip()
        for finding in comparison.findings
        if finding.level in (Level.CAUTION, Level.STOP)
    ]
    stated = [f"before: {text}" for text in before] + [f"after: {text}" for text in after]
    return {
        "points": {name: _plain(gain) for name, gain in comparison.gains.items()},
        "overall": _plain(comparison.overall) if comparison.overall else None,
        "corrections": _corrections(comparison),
        "warnings": [
            *stated,
            *_unpaired(was, now),
            *_without_light(comparison, was, now),
            *findings,
        ],
    }


def _unpaired(was: dict[str, WallReading], now: dict[str, WallReading]) -> Iterator[str]:
    """The places read at one time only."""
    yield from (f"{name} was read before only" for name in was if name not in now)
    yield from (f"{name} was read after only" for name in now if name not in was)


def _without_light(
    comparison: comparing.Comparison, was: dict[str, WallReading], now: dict[str, WallReading]
) -> Iterator[str]:
    """The places that had no light before, and readings that the room's own light swallowed."""
    for name, gain in comparison.gains.items():
        if gain.ratio is None:
            yield f"{name}: no light before, so no ratio"
    for phase, taken in (("before", was), ("after", now)):
        for name, reading in taken.items():
            if reading.ambient_lx and reading.lux <= reading.ambient_lx:
                yield f"{name} {phase}: no more than the ambient light"


def _corrections(comparison: comparing.Comparison) -> list[str]:
    """Everything that differed and was corrected, in words, each once."""
    made = [
        f"{finding.text} {finding.number}. {finding.advice}"
        for finding in comparison.findings
        if finding.advice.startswith("Correction used")
    ]
    return [
        *made,
        *dict.fromkeys(
            f"{name}: {gain.correction}"
            for name, gain in comparison.gains.items()
            if gain.correction
        ),
    ]


def _plain(gain: Gain) -> dict[str, float | None]:
    """A gain as numbers; *uncertainty_pct*: k = 2, in points of per cent of the gain."""
    return {
        "before_cd": gain.before_cd,
        "after_cd": gain.after_cd,
        "ratio": gain.ratio,
        "gain_pct": None if gain.relative is None else 100 * gain.relative,
        "uncertainty_pct": None if gain.uncertainty is None else 100 * gain.uncertainty,
    }


def _in_words(comparison: comparing.Comparison, summary: dict[str, Any]) -> str:
    gains = [
        *comparison.gains.items(),
        *([("overall", comparison.overall)] if comparison.overall else []),
    ]
    lines = [
        (
            f"{name}: {gain.before_cd:.0f} cd to {gain.after_cd:.0f} cd, {say_gain(gain)} "
            f"({gain.verdict})"
        )
        for name, gain in gains
    ]
    lines += [f"correction: {text}" for text in summary["corrections"]]
    return "\n".join([*lines, *(f"warning: {text}" for text in summary["warnings"])])
