"""The command `cold-arc`: serve a shop or the demo; back it up and check it; compute a beam;
compare readings; say what a rule asks of an aim; measure a photograph of the wall."""

from __future__ import annotations

import argparse
import sys

from cold_arc.cli import aim, beam, compare, files, keep, meter, photo, read, serve, sheet


def main(arguments: list[str] | None = None) -> int:
    """Runs the command; returns its exit code."""
    parser = argparse.ArgumentParser(
        prog="cold-arc", description="Headlight retrofit, measured and recorded."
    )
    commands = parser.add_subparsers(required=True, metavar="command")
    serve.add_commands(commands)
    beam.add_command(commands)
    compare.add_command(commands)
    meter.add_command(commands)
    aim.add_command(commands)
    photo.add_command(commands)
    read.add_commands(commands)
    keep.add_commands(commands)
    files.add_commands(commands)
    sheet.add_command(commands)
    options = parser.parse_args(arguments)
    try:
        return int(options.run(options))
    except (OSError, ValueError) as error:
        print(f"cold-arc: {error}", file=sys.stderr)
        return 1
