"""What a printed sheet is worth: the record's code on it, and the page that says what became of the
record since.
"""

from __future__ import annotations

from dataclasses import dataclass

import segno
from flask import Blueprint, render_template, request
from markupsafe import Markup

from cold_arc.core.job.chain import CodeError, code_of
from cold_arc.store import catalogue, chain, jobs
from cold_arc.web.shell.db import session

bp = Blueprint("proof", __name__)
DOT_PX = 3


@dataclass(frozen=True)
class Stamp:
    """A record's code as a sheet prints it, and as a picture a telephone reads; *entries*: how many
    it stands for.
    """

    code: str
    entries: int
    words: str
    picture: Markup

    @property
    def promise(self) -> str:
        """What it is worth, in words."""
        return (
            f"Record {self.code}, {self.entries} entries. The shop can show that nothing of it was "
            "changed since this was printed."
        )


def stamp_of(job: jobs.Job) -> Stamp | None:
    """The stamp of a record as it stands now; None where nothing is chained."""
    digest = chain.head(session(), job.id)
    if not digest:
        return None
    code = code_of(digest)
    shop = catalogue.setting(session(), "shop_name")
    words = " · ".join(filter(None, (shop, job.booking.reference, code)))
    drawn = segno.make_qr(words, error="m").svg_inline(scale=DOT_PX, border=2, light="#fff")
    return Stamp(code, len(job.entries), words, Markup(drawn))


@bp.get("/check")
def page() -> str:
    """What became of the record a sheet was printed from."""
    typed, wrong, record = request.args.get("code", "").strip(), "", None
    if typed:
        try:
            record = chain.find(session(), typed)
            wrong = "" if record else NOT_HERE
        except CodeError as error:
            wrong = str(error)
    job = jobs.load(session(), record.job_id) if record else None
    return render_template("check.html", typed=typed, wrong=wrong, record=record, job=job)


NOT_HERE = (
    "No record of this shop has this code. It is another shop's, it was mistyped, or the record it "
    "was printed from was written anew."
)
