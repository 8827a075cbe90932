"""`cold-arc sheet`: a job's documents as PDF, beside a running server.

Example: cold-arc sheet TL-318 --kind customer --paper a4 --to sheet.pdf
"""

from __future__ import annotations

import argparse
import json
from pathlib import Path
from typing import Any

from cold_arc.cli.folder import shop_folder
from cold_arc.formats.document import PAPERS
from cold_arc.store import job_files
from cold_arc.store.database import open_database
from cold_arc.web.app import create_app
from cold_arc.web.job.documents import DOCUMENTS
from cold_arc.web.shell.signing_key import ELSEWHERE, PASSWORD

SIGN_HELP = f"sign with this key (the shop's own, where it has one; its password in {PASSWORD})"


def add_commands(commands: Any) -> None:
    """Adds `sheet`."""
    parser = commands.add_parser("sheet", help="a job's documents as PDF")
    parser.add_argument("job", metavar="JOB", help="its reference")
    parser.add_argument("--kind", choices=("quote", *DOCUMENTS), default="customer")
    papers = tuple(paper for paper in PAPERS if paper != "card")
    parser.add_argument("--paper", choices=papers, default="a4")
    parser.add_argument("--to", type=Path, required=True, metavar="FILE.pdf")
    parser.add_argument("--sign-with", type=Path, metavar="KEY.p12", help=SIGN_HELP)
    parser.add_argument("--json", action="store_true", help="print one JSON object")
    parser.set_defaults(run=_sheet)


def _sheet(options: argparse.Namespace) -> int:
    with open_database(shop_folder())() as session:
        try:
            numbers = job_files.numbers_of(session, [options.job])
        except KeyError as error:
            raise ValueError(f"No job has the reference {options.job}.") from error
    if len(numbers) > 1:
        raise ValueError(f"{len(numbers)} jobs have the reference {options.job}.")
    paper = "card" if options.kind == "card" else options.paper
    address = f"/jobs/{numbers[0]}/documents/{options.kind}-{paper}.pdf"
    if options.kind == "quote":
        address = f"/jobs/{numbers[0]}/all/match/quote-{paper}.pdf?go=1"
    app = create_app(shop_folder())
    if options.sign_with:
        app.config[ELSEWHERE] = str(options.sign_with)
    answer = app.test_client().get(address)
    if answer.status_code != 200:
        raise ValueError(f"{options.job} can't be put on paper.")
    options.to.write_bytes(answer.data)
    summary = {"file": str(options.to), "kind": options.kind, "paper": paper}
    summary |= {"bytes": len(answer.data)}
    print(json.dumps(summary) if options.json else f"Written to {options.to}")
    return 0
