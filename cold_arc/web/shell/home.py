"""Home: jobs by what is due next, with each lamp's stage at a glance."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

from flask import Blueprint, abort, render_template, request

from cold_arc.store import board
from cold_arc.store.board import ANY, LANES, WHICH, JobCard
from cold_arc.web.forms.plain_numbers import whole
from cold_arc.web.shell.db import session

bp = Blueprint("home", __name__)
AT_A_GLANCE, A_PAGE, CLOSED_SHOWN = 12, 48, 30
LONGEST_ASKED = 80


@dataclass(frozen=True)
class Lane:
    """One lane as shown: some of its cards, and how many there are."""

    name: str
    cards: list[JobCard]
    count: int


@bp.get("/")
def page() -> str:
    """The board of open jobs and the list of those handed over last; or the jobs that were looked
    for.
    """
    today = dt.date.today()
    text, which = request.args.get("q", "")[:LONGEST_ASKED], request.args.get("which", ANY)
    if text.strip() or "which" in request.args:
        which = which if which in WHICH else ANY
        cards = board.found(session(), text, which, today, A_PAGE)
        return render_template(
            "home.html", found=cards, text=text, which=which, kinds=WHICH, most=A_PAGE
        )
    counted = {name: board.count(session(), name, today) for name in LANES}
    lanes = [
        Lane(name, board.lane(session(), name, today, AT_A_GLANCE), count)
        for name, count in counted.items()
        if count
    ]
    closed = board.handed_over(session(), CLOSED_SHOWN)
    to_recheck = board.to_recheck(session(), today, AT_A_GLANCE)
    return render_template(
        "home.html",
        lanes=lanes,
        closed=closed,
        to_recheck=to_recheck,
        warranty_ends=board.warranty_ends(session(), today, AT_A_GLANCE),
        lane_numbers=LANES.index,
        text="",
        which="",
        kinds=WHICH,
    )


@bp.get("/jobs/lane/<int:number>")
def lane(number: int) -> str:
    """One lane whole, a page at a time."""
    if number >= len(LANES):
        abort(404)
    today, name, shown = (
        dt.date.today(),
        LANES[number],
        max(whole(request.args.get("page")) or 1, 1),
    )
    count = board.count(session(), name, today)
    cards = board.lane(session(), name, today, A_PAGE, (shown - 1) * A_PAGE)
    pages = max(1, -(-count // A_PAGE))
    return render_template(
        "lane.html", lane=Lane(name, cards, count), number=number, shown=shown, pages=pages
    )
