"""`cold-arc export`, `import`, `tables`: jobs as one open file, or as tables for a spreadsheet,
beside a running server.

Example: cold-arc export TL-318 --to tl-318.zip
"""

from __future__ import annotations

import argparse
import json
import os
import sys
from dataclasses import asdict
from pathlib import Path
from typing import Any

from cold_arc.cli.folder import shop_folder
from cold_arc.core.job.tables import TABLES
from cold_arc.core.units import say_count
from cold_arc.formats import job_file, spreadsheet
from cold_arc.store import job_files, jobs, shop_file
from cold_arc.store import tables as store_tables
from cold_arc.store.database import open_database, writing
from cold_arc.web.job.files import WORDS, with_beside

# Predicted beams take the model some tenths of a second each: a whole shop goes without.
MOST_WITH_BEAMS = 20


def add_commands(commands: Any) -> None:
    """Adds `export` and `import`."""
    export = commands.add_parser("export", help="write jobs to one open file")
    export.add_argument(
        "jobs", nargs="*", metavar="JOB", help="references (every job, and the shop itself)"
    )
    export.add_argument("--to", type=Path, required=True, metavar="FILE.zip")
    export.add_argument("--json", action="store_true", help="print one JSON object")
    export.set_defaults(run=_export)
    tables = commands.add_parser("tables", help="write tables over all jobs, for a spreadsheet")
    tables.add_argument("--to", type=Path, required=True, metavar="FOLDER")
    tables.add_argument("--json", action="store_true", help="print one JSON object")
    tables.set_defaults(run=_tables)
    taken = commands.add_parser("import", help="take jobs in from such a file")
    taken.add_argument("file", type=Path, metavar="FILE.zip")
    taken.add_argument("--dry-run", action="store_true", help="show what it holds, change nothing")
    taken.add_argument("--json", action="store_true", help="print one JSON object")
    taken.set_defaults(run=_import)


def _export(options: argparse.Namespace) -> int:
    part = options.to.with_name(options.to.name + ".part")
    with open_database(shop_folder())() as session:
        try:
            numbers = job_files.numbers_of(session, options.jobs)
        except KeyError as error:
            raise ValueError(f"No job has the reference {error.args[0]}.") from error

        every = with_beside(session, numbers, len(numbers) <= MOST_WITH_BEAMS)
        try:
            with part.open("wb") as to:
                shop = None if options.jobs else shop_file.filed_shop(session)
                for done in job_file.write(to, every, len(numbers), jobs.now(), shop):
                    _show(done, len(numbers))
            os.replace(part, options.to)
        finally:
            part.unlink(missing_ok=True)
    size = options.to.stat().st_size
    summary = {"file": str(options.to), "jobs": len(numbers), "bytes": size}
    written = f"{say_count(len(numbers), 'job')} written to {options.to}"
    print(json.dumps(summary) if options.json else written)
    return 0


def _tables(options: argparse.Namespace) -> int:
    options.to.mkdir(parents=True, exist_ok=True)
    written = {}
    with open_database(shop_folder())() as session:
        for name, table in TABLES.items():
            path = options.to / f"{name}.csv"
            with path.open("wb") as to:
                lines = spreadsheet.lines(table.columns, store_tables.rows(session, table))
                written[str(path)] = sum(bool(to.write(line)) for line in lines) - 1
    reports = (f"{say_count(rows, 'row')} written to {path}" for path, rows in written.items())
    print(json.dumps({"tables": written}) if options.json else "\n".join(reports))
    return 0


def _show(done: int, every: int) -> None:
    if sys.stderr.isatty():
        print(f"\r{done} of {every}", end="" if done < every else "\n", file=sys.stderr)


def _import(options: argparse.Namespace) -> int:
    with open_database(shop_folder())() as session:
        shop = job_file.read_shop(options.file) or {}
        if options.dry_run:
            incoming = job_files.look(session, job_file.read(options.file))
            besides = shop_file.held(shop)
        else:
            writing(session)
            incoming, count = [], job_file.count(options.file)
            for taken in job_files.take_in(session, job_file.read(options.file)):
                incoming.append(taken)
                _show(len(incoming), count)
            besides = shop_file.take_in(session, shop)
            session.commit()
    if options.json:
        listed = [asdict(each) for each in incoming]
        summary = {"dry_run": options.dry_run, "jobs": listed, "shop": asdict(besides)}
        print(json.dumps(summary))
        return 0
    for each in incoming:
        print(
            f"{each.reference}, {each.vehicle}: {each.entries} entries, {each.pictures} pictures; "
            f"{WORDS[each.state]}"
        )
    if besides.words:
        print(f"{'In it besides' if options.dry_run else 'New besides'}: {besides.words}")
    return 0
