"""`cold-arc beam`: one set-up's beam as numbers (JSON) and, if asked, as a file.

Example: cold-arc beam --housing reflector --base H11 --source led --clock 20 --json
"""

from __future__ import annotations

import argparse
import json
from dataclasses import Field, fields
from pathlib import Path
from typing import Any

from cold_arc.core.beam.report import beam_of, report_of
from cold_arc.core.beam.setup import FACTS, Fact, SetUp, SetUpError
from cold_arc.formats import WRITERS, write_beam


def add_command(commands: Any) -> None:
    """Adds `beam`, an option for every field of a set-up."""
    parser: argparse.ArgumentParser = commands.add_parser(
        "beam",
        help="compute a beam",
        description=__doc__,
        formatter_class=argparse.RawDescriptionHelpFormatter,
    )
    for field in fields(SetUp):
        _add_option(parser, field)
    parser.add_argument("--out", type=Path, help=f"write the beam to FILE: {', '.join(WRITERS)}")
    parser.add_argument("--json", action="store_true", help="print one JSON object")
    parser.set_defaults(run=_run)


def _add_option(parser: argparse.ArgumentParser, field: Field[Any]) -> None:
    """One field's option, from what is known of it."""
    option, fact = "--" + field.name.replace("_", "-"), FACTS.get(field.name, Fact(""))
    if field.type == "bool":
        parser.add_argument(option, action="store_true")
    elif fact.within is not None:
        help_text = " ".join(
            filter(None, ("degrees" if fact.unit == "°" else fact.unit, fact.help))
        )
        kind = int if fact.within.whole else float
        parser.add_argument(option, type=kind, default=field.default, help=help_text)
    else:
        parser.add_argument(
            option, default=field.default, choices=fact.choices and tuple(fact.choices)
        )


def _run(options: argparse.Namespace) -> int:
    try:
        setup = SetUp(**{field.name: getattr(options, field.name) for field in fields(SetUp)})
    except SetUpError as error:
        raise ValueError(f"--{error.field.replace('_', '-')}: {error}") from error
    if options.out:
        write_beam(beam_of(setup), options.out, f"{setup.base} {setup.source} in {setup.housing}")
    numbers = report_of(setup).plain()
    if options.json:
        print(json.dumps(numbers))
    else:
        for name, value in numbers.items():
            print(f"{name}: {_plain(value)}")
    return 0


def _plain(value: Any) -> str:
    return f"{value:.4g}" if isinstance(value, float) else json.dumps(value)
