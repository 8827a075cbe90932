"""`cold-arc backup` and `cold-arc check`."""

from __future__ import annotations

import argparse
import json
from pathlib import Path
from typing import Any

from cold_arc.cli.folder import shop_folder

SHOWN = 20


def add_commands(commands: Any) -> None:
    """Adds `backup` and `check`."""
    backup = commands.add_parser(
        "backup", help="copy the shop's data while it is in use, and check the copy"
    )
    backup.add_argument("--into", type=Path, help="folder for the copy (backups beside the data)")
    backup.add_argument("--keep", type=int, help="how many copies to keep")
    backup.set_defaults(run=_backup)
    check = commands.add_parser(
        "check", help="look for damage in the shop's data, or in a copy of it"
    )
    check.add_argument("file", type=Path, nargs="?", help="a copy to look at (the data in use)")
    check.add_argument("--sheet", metavar="CODE", help="the record a printed sheet was made from")
    check.add_argument("--json", action="store_true", help="print one JSON object")
    check.set_defaults(run=_check)


def _backup(options: argparse.Namespace) -> int:
    from cold_arc.store.backup import KEPT, back_up

    keep = KEPT if options.keep is None else options.keep
    if keep < 1:
        raise ValueError("--keep must be 1 or more.")
    print(f"Backed up to {back_up(shop_folder(), options.into, keep)}")
    return 0


def _check(options: argparse.Namespace) -> int:
    if options.sheet is not None:
        return _check_sheet(options)
    if options.json:
        raise ValueError("--json goes with --sheet.")
    return _check_data(options)


def _check_sheet(options: argparse.Namespace) -> int:
    """Whether the record a sheet was printed from is unchanged; 1 where it is not, or not here."""
    from cold_arc.store import chain, jobs
    from cold_arc.store.database import open_database

    if options.file:
        raise ValueError("A sheet is checked against the data in use: leave the file out.")
    with open_database(shop_folder())() as session:
        sheet = chain.find(session, options.sheet)
        job = jobs.load(session, sheet.job_id) if sheet else None
    if sheet is None or job is None:
        raise ValueError(f"No record of this shop has the code {options.sheet}.")
    facts = {
        "job": job.booking.reference,
        "vehicle": job.booking.vehicle,
        "entries": sheet.entries,
        "since": sheet.since,
        "unchanged": not sheet.faults,
        "faults": sheet.faults,
    }
    word = "unchanged since" if not sheet.faults else " ".join(sheet.faults)
    print(
        json.dumps(facts)
        if options.json
        else f"{job.booking.reference}, {job.booking.vehicle}: {sheet.entries} entries then, "
        f"{sheet.since} added or undone since; {word}"
    )
    return 1 if sheet.faults else 0


def _check_data(options: argparse.Namespace) -> int:
    from cold_arc.store.damage import chain_faults, file_faults, picture_faults, unreadable
    from cold_arc.store.database import FILE_NAME

    path = options.file or shop_folder() / FILE_NAME
    if not path.exists() or path.stat().st_size == 0:
        raise ValueError(f"{path} is missing or empty.")
    if faults := file_faults(path) or picture_faults(path):
        print(*faults[:SHOWN], f"{path} is damaged. Put a backup in its place.", sep="\n")
        return 1
    changed, notes = chain_faults(path), unreadable(path)
    more = [f"this version cannot read {len(notes)} of what it holds"] if notes else []
    more += ["records in it are not as they were written"] if changed else []
    sound = "; ".join([f"{path} is sound", *more])
    print(*[*changed, *notes][:SHOWN], f"{sound}.", sep="\n")
    return 1 if changed else 0
