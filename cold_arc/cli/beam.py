"""`cold-arc beam`: one set-up's beam as numbers (JSON) and, if asked, as a file.

Example: cold-arc beam --housing reflector --base H11 --source led --clock 20 --json
"""

from __future__ import annotations

import argparse
import json
from dataclasses import Field, fields, replace
from pathlib import Path
from typing import Any

from cold_arc.core.beam import derived
from cold_arc.core.beam.report import beam_of, report_of, report_on, yardstick_for
from cold_arc.core.beam.setup import FACTS, OF_THE_LAMP, Fact, SetUp, SetUpError
from cold_arc.core.inverse.housing import FittedLamp, foretold_doubts
from cold_arc.formats import WRITERS, fitted_lamp, write_beam

# A set-up's fields that tell of its source; a fitted housing tells the rest.
OF_SOURCE = tuple(f.name for f in fields(SetUp) if f.name not in (*OF_THE_LAMP, "focus"))
# A fitted housing's figures come by its file.
OPTIONS = tuple(field.name for field in fields(SetUp) if field.name != "pattern")


def add_commands(commands: Any) -> None:
    """Adds `beam`, an option for every field of a set-up."""
    parser: argparse.ArgumentParser = commands.add_parser(
        "beam",
        help="compute a beam",
        description=__doc__,
        formatter_class=argparse.RawDescriptionHelpFormatter,
    )
    add_options(parser, OPTIONS)
    parser.add_argument(
        "--housing-file",
        type=Path,
        metavar="fitted.json",
        help="a housing fitted by “cold-arc read”, in place of a typical one",
    )
    parser.add_argument("--out", type=Path, help=f"write the beam to FILE: {', '.join(WRITERS)}")
    parser.add_argument("--json", action="store_true", help="print one JSON object")
    parser.set_defaults(run=_run)


def add_options(
    parser: argparse.ArgumentParser, names: tuple[str, ...], **defaults: object
) -> None:
    """An option for each of a set-up's fields that are named, with other *defaults*."""
    for field in fields(SetUp):
        if field.name in names:
            _add_option(parser, field)
    parser.set_defaults(**defaults)


def setup_of(options: argparse.Namespace, names: tuple[str, ...]) -> SetUp:
    """The set-up of the options that are named; ValueError, naming the option, for none."""
    try:
        return SetUp(**{name: getattr(options, name) for name in names})
    except SetUpError as error:
        raise ValueError(f"--{error.field.replace('_', '-')}: {error}") from error


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
    setup = setup_of(options, OPTIONS)
    if options.housing_file:
        _refuse_told_twice(setup)
        lamp = fitted_lamp.from_json(options.housing_file.read_bytes())
        setup = replace(lamp.setup, **{name: getattr(setup, name) for name in OF_SOURCE})
        beam, numbers = lamp.beam(setup), _fitted_numbers(lamp, setup)
    else:
        beam, numbers = beam_of(setup), report_of(setup).plain()
    if options.out:
        write_beam(beam, options.out, f"{setup.base} {setup.source} in {setup.housing}")
    if options.json:
        print(json.dumps(numbers))
    else:
        for name, value in numbers.items():
            print(f"{name}: {_plain(value)}")
    return 0


def _refuse_told_twice(setup: SetUp) -> None:
    """ValueError for an option that a housing's file tells."""
    usual = SetUp()
    for name in (*OF_THE_LAMP, "focus"):
        if getattr(setup, name) != getattr(usual, name):
            raise ValueError(f"--{name.replace('_', '-')}: the housing's file tells it.")


def _fitted_numbers(lamp: FittedLamp, setup: SetUp) -> dict[str, Any]:
    """A beam's numbers in a fitted housing, with the standard uncertainty of three of them."""
    beam = lamp.beam(setup)
    kept = derived.fidelity(beam, lamp.beam(setup.reference()))
    report = report_on(beam, setup.traffic, yardstick_for(setup), kept)
    return report.plain() | {"uncertainty": foretold_doubts(lamp, setup)}


def _plain(value: Any) -> str:
    return f"{value:.4g}" if isinstance(value, float) else json.dumps(value)
