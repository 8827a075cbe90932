"""`cold-arc beam`: one set-up's beam as numbers (JSON) and, if asked, as a file.

Example: cold-arc beam --housing reflector --base H11 --source led --clock 20 --json
"""

from __future__ import annotations

import argparse
import json
from dataclasses import fields
from pathlib import Path
from typing import Any

from cold_arc.core.beam.setup import CHOICES, SetUp, SetUpError, beam_of, summary
from cold_arc.formats import WRITERS, write_beam

HELP = {
    "faces": "LED faces",
    "gap": "mm between opposite faces",
    "width": "mm, width of a row of chips",
    "length": "mm, lit length (default: the base's filament)",
    "rows": "rows of chips a face",
    "clock": "degrees clockwise from behind",
    "axial": "mm forward",
    "radial_x": "mm right",
    "radial_y": "mm up",
    "tilt": "degrees nose up",
    "flux": "lm (default: the base's rated flux)",
    "droop": "share of its flux an LED loses when warm",
    "haze": "lens haze, 0 to 1",
    "volts": "V, supply of a filament",
    "rated_volts": "V, what the lamp's bulb is made for: 6, 12 or 24",
    "focus": "mm, focus screw of a lens-optic lamp",
    "aim_v": "degrees up",
    "aim_h": "degrees right",
    "focal": "mm, focal length of the mirror, or of a projector's lens (default: as its kind)",
    "opening": "mm across the mirror, or a projector's lens (default: as its kind)",
    "opening_up": "mm up a reflector's mirror (default: as its kind)",
    "hole": "mm, radius of the bulb hole (default: as its kind)",
}


def add_command(commands: Any) -> None:
    """Adds `beam`, an option for every field of a set-up."""
    parser: argparse.ArgumentParser = commands.add_parser(
        "beam", help="compute a beam", description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter
    )
    for field in fields(SetUp):
        option = "--" + field.name.replace("_", "-")
        if field.type == "bool":
            parser.add_argument(option, action="store_true")
        elif field.name in HELP:
            kind = int if field.type == "int" else float
            parser.add_argument(option, type=kind, default=field.default, help=HELP[field.name])
        else:
            parser.add_argument(
                option, default=field.default, choices=tuple(CHOICES[field.name]) if field.name in CHOICES else None
            )
    parser.add_argument("--out", type=Path, help=f"write the beam to FILE: {', '.join(WRITERS)}")
    parser.add_argument("--json", action="store_true", help="print one JSON object")
    parser.set_defaults(run=_run)


def _run(options: argparse.Namespace) -> int:
    try:
        setup = SetUp(**{field.name: getattr(options, field.name) for field in fields(SetUp)})
    except SetUpError as error:
        raise ValueError(f"--{error.field.replace('_', '-')}: {error}") from error
    if options.out:
        write_beam(beam_of(setup), options.out, f"{setup.base} {setup.source} in {setup.housing}")
    numbers = summary(setup)
    if options.json:
        print(json.dumps(numbers))
    else:
        for name, value in numbers.items():
            print(f"{name}: {_plain(value)}")
    return 0


def _plain(value: Any) -> str:
    return f"{value:.4g}" if isinstance(value, float) else json.dumps(value)
