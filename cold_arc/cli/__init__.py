"""The command `cold-arc`: serve a shop or the demo; back it up and check it; compute a beam;
compare readings; say what a rule asks of an aim; measure a photograph of the wall."""

from __future__ import annotations

import argparse
import sys
from importlib import import_module

# Which module of this package each command is in: only the asked one is read in, for the rest of
# the program takes seconds.
MODULES = {
    **dict.fromkeys(("serve", "demo"), "serve"),
    **dict.fromkeys(("backup", "check"), "keep"),
    **dict.fromkeys(("export", "tables", "import"), "files"),
    **dict.fromkeys(("read", "seat"), "read"),
    **{name: name for name in ("beam", "compare", "meter", "aim", "photo", "sheet")},
}


def main(arguments: list[str] | None = None) -> int:
    """Runs the command; returns its exit code."""
    given = sys.argv[1:] if arguments is None else arguments
    parser = argparse.ArgumentParser(
        prog="cold-arc", description="Headlight retrofit, measured and recorded."
    )
    commands = parser.add_subparsers(required=True, metavar="command")
    asked = MODULES.get(given[0]) if given else None
    for module in [asked] if asked else dict.fromkeys(MODULES.values()):
        import_module(f"cold_arc.cli.{module}").add_commands(commands)
    options = parser.parse_args(given)
    try:
        return int(options.run(options))
    except (OSError, ValueError) as error:
        print(f"cold-arc: {error}", file=sys.stderr)
        return 1
