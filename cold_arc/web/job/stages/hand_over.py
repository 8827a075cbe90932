"""Stage 10, Hand over: the customer sheet, and the close of the job."""

from __future__ import annotations

import datetime as dt
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from flask import Blueprint, render_template
from flask_wtf import FlaskForm
from wtforms import BooleanField, DateField, StringField, TextAreaField
from wtforms.validators import Length, Optional, ValidationError

from cold_arc.core import law
from cold_arc.core.car.front import BeamKey, SocketKey
from cold_arc.core.car.lamps import Function, Side
from cold_arc.core.findings import Finding
from cold_arc.core.job import needs
from cold_arc.core.job.entries.aim import WallPhotographed
from cold_arc.core.job.entries.fit import Pictured
from cold_arc.core.job.entries.hand_over import HandedOver
from cold_arc.core.job.entries.match import Chosen
from cold_arc.core.job.entries.stages import Passed
from cold_arc.core.job.facts import wired
from cold_arc.core.job.outcome import (
    AIM_PHASES,
    aim_verdict,
    balance_findings,
    compare,
    dazzle,
    readied,
)
from cold_arc.core.job.record import Record
from cold_arc.core.job.stages import About, Stage
from cold_arc.core.metering.readings import POINTS
from cold_arc.core.work.access import cautions
from cold_arc.store.catalogue import setting
from cold_arc.web.forms import fields
from cold_arc.web.job.stage_page import StagePage, open_stage
from cold_arc.web.job.wall_light import record_wall
from cold_arc.web.parts.wall import Wall
from cold_arc.web.scope import Scope
from cold_arc.web.shell.db import session

bp = Blueprint("hand_over", __name__)
RECHECK_DAYS = 90
CUSTOMER_CAUTIONS = ("glare", "eyes", "law", "mercury")


class HandOverForm(FlaskForm):
    """What is said and agreed at the end."""

    technician = StringField("Technician", [fields.needed("Sign with your name."), Length(max=60)])
    cautions = fields.several("Cautions told", {})
    law_told = BooleanField("The law note was read out and accepted")
    old_parts_kept = BooleanField("Old bulbs or lamps went back to the customer", default=True)
    recheck = DateField("Re-check on", [fields.needed("Set a date to look at it again.")])
    warranty_end = DateField("Warranty ends", [Optional()])
    switching = TextAreaField("Switching, changed", [Length(max=300)])
    note = TextAreaField("What to watch, notes", [Length(max=500)])
    marks = StringField("Approval marks read on the new lamps", [Length(max=120)])

    def validate_recheck(self, field: Any) -> None:
        """A re-check lies ahead."""
        if field.data and field.data < dt.date.today():
            raise ValidationError("The re-check must not lie in the past.")

    def validate_law_told(self, field: Any) -> None:
        """The law note is not optional."""
        if not field.data:
            raise ValidationError("Read the law note to the customer, then tick this.")

    def handed_over(self) -> HandedOver:
        """The entry entered."""
        return HandedOver(
            technician=self.technician.data.strip(),
            cautions=tuple(self.cautions.data),
            law_told=self.law_told.data,
            old_parts_kept=self.old_parts_kept.data,
            recheck=self.recheck.data,
            warranty_end=self.warranty_end.data,
            switching=(self.switching.data or "").strip(),
            note=(self.note.data or "").strip(),
            marks=(self.marks.data or "").strip(),
        )


def _cautions(page: StagePage) -> list[str]:
    """The cautions to tell: mercury's where an arc tube holds it."""
    bases = (page.record.base(key) for key in page.record.sockets)
    has_mercury = any(base is not None and base.contains_mercury for base in bases)
    return [key for key in CUSTOMER_CAUTIONS if key != "mercury" or has_mercury]


def _defaults(page: StagePage) -> dict[str, Any]:
    handed_over = page.record.latest(HandedOver)
    if handed_over:
        return vars(handed_over)
    today = dt.date.today()
    years = [
        chosen.source.warranty_years
        for key in page.record.sockets
        if (chosen := page.record.latest(Chosen, key)) and chosen.source
    ]
    warranty = today + dt.timedelta(days=round(365.25 * min(years))) if years else None
    return {"recheck": today + dt.timedelta(days=RECHECK_DAYS), "warranty_end": warranty}


def _law_findings(page: StagePage) -> list[Finding]:
    """The market's word on everything chosen."""
    road_use = page.job.booking.road_use
    kinds = {
        (chosen.source.kind, road_use and not chosen.off_road)
        for key in page.record.sockets
        if (chosen := page.record.latest(Chosen, key)) and chosen.source
    }
    handed_over = page.record.latest(HandedOver)
    marks = handed_over.marks if handed_over else ""
    return [law.judge(page.market, kind, on_road, marks) for kind, on_road in sorted(kinds)]


def _dazzles(page: StagePage) -> list[Finding]:
    """A caution for each beam that dazzles as it is."""
    dazzling = (
        (beam, finding)
        for beam in page.record.road_beams
        if (finding := dazzle(page.record, beam)) is not None
    )
    return [finding.named(page.progress.words(beam)) for beam, finding in dazzling]


def _is_replaced(record: Record) -> bool:
    """Whether any part of the car was replaced, so that there is an old one."""
    chosen = (record.latest(Chosen, key) for key in record.sockets)
    return any(choice and choice.source for choice in chosen)


def _has_assembly(page: StagePage) -> bool:
    """Whether a whole lamp was chosen for a road, whose own marks it goes by."""
    chosen = (page.record.latest(Chosen, key) for key in page.record.sockets)
    return page.job.booking.road_use and any(
        choice and choice.source and choice.source.kind == "assembly" and not choice.off_road
        for choice in chosen
    )


@bp.route("/jobs/<int:job_id>/<scope:scope>/hand-over", methods=["GET", "POST"])
def page(job_id: int, scope: Scope) -> Any:
    """Completes the customer sheet."""
    page = open_stage(job_id, scope, Stage.HAND_OVER)
    form = HandOverForm(data=_defaults(page))
    form.cautions.choices = [(key, cautions()[key]) for key in _cautions(page)]
    if form.validate_on_submit():
        return page.save(form.handed_over(), about=())
    return page.render(
        [*_dazzles(page), *_law_findings(page)],
        ["glare"],
        form=form,
        has_assembly=_has_assembly(page),
        is_replaced=_is_replaced(page.record),
        said=page.record.latest(HandedOver),
        sheet=_socket_rows(page),
    )


def _socket_rows(page: StagePage) -> list[dict[str, Any]]:
    """What the sheet says of each socket and the beams it gives."""
    return [_socket_row(page, key) for key in page.record.sockets]


def _socket_row(page: StagePage, key: SocketKey) -> dict[str, Any]:
    beams = [beam for beam in page.record.front.beams_of(key) if beam.function.is_road_beam]
    return {
        "key": key,
        "words": page.record.front.words(key),
        "socket": page.record.socket(key),
        "chosen": page.record.latest(Chosen, key),
        "beams": [_beam_row(page, beam) for beam in beams],
        "wired": [part.words for part in wired(page.record, key)],
    }


def _beam_row(page: StagePage, beam: BeamKey) -> dict[str, Any]:
    as_left = page.record.aimed(beam, "left", practised=False)
    return {
        "key": beam,
        "words": beam.function.label,
        "comparison": compare(page.record, beam),
        "as_left": as_left,
        "dazzle": dazzle(page.record, beam),
        "aim": as_left and aim_verdict(page.record, beam, as_left, fields.unit_system()),
    }


@dataclass(frozen=True)
class SheetBeam:
    """One function of a pair of sockets on the sheet: each side's row, the Wall before and after,
    what was checked before aiming."""

    words: str
    sides: dict[Side, dict[str, Any]]
    points: list[str]
    wall: Wall | None
    readied: tuple[str, ...]


@dataclass(frozen=True)
class SheetPair:
    """The sockets of one name on the sheet: each side's row, once where both are alike."""

    words: str
    rows: list[dict[str, Any]]
    beams: list[SheetBeam]

    @property
    def wired(self) -> list[str]:
        """What was put in along their wiring, each once with how many."""
        counted = Counter(words for row in self.rows for words in row["wired"])
        return [f"{count} × {words}" if count > 1 else words for words, count in counted.items()]

    @property
    def fitted(self) -> list[tuple[str, dict[str, Any]]]:
        """What was fitted, by side; said once where both sides got the same."""
        first = self.rows[0]
        alike = all(_was_and_is(row) == _was_and_is(first) for row in self.rows)
        return (
            [("", first)]
            if alike
            else [(row["key"].side.value.capitalize(), row) for row in self.rows]
        )


def _was_and_is(row: dict[str, Any]) -> tuple[Any, ...]:
    """What was in a socket, and what was fitted."""
    socket = row["socket"]
    return socket.base, socket.optic, socket.present, row["chosen"]


def _skipped(page: StagePage) -> list[str]:
    """What was not done, of which lamps, and why."""
    lines: dict[str, None] = {}
    for entry in page.record.entries:
        passed = entry.payload
        if isinstance(passed, Passed) and passed.reason:
            stage = Stage(passed.stage)
            names = dict.fromkeys(page.record.front.words(key).lower() for key in entry.about)
            of = "" if stage.about is About.CAR else f", {', '.join(names)}"
            lines[f"{stage.label}{of}: {passed.reason}"] = None
    return list(lines)


def _standing(page: StagePage) -> list[str]:
    """What is not as it should be as the car leaves, but for dazzle, which is told by itself."""
    return [
        f"{page.progress.words(lacking.key)}: {lacking.words}"
        for lacking in needs.holds_leaving(page.progress)
        if lacking.need.id != "no-dazzle"
    ]


def _pairs(page: StagePage) -> list[SheetPair]:
    """What the sheet says, by pairs of sockets."""
    rows = _socket_rows(page)
    names = dict.fromkeys(row["key"].name for row in rows)
    return [_pair(page, [row for row in rows if row["key"].name == name]) for name in names]


def _pair(page: StagePage, rows: list[dict[str, Any]]) -> SheetPair:
    shown = [beam for row in rows for beam in row["beams"]]
    functions = dict.fromkeys(beam["key"].function for beam in shown)
    beams = [_sheet_beam(page, function, shown) for function in functions]
    return SheetPair(rows[0]["words"], rows, beams)


def _sheet_beam(page: StagePage, function: Function, shown: list[dict[str, Any]]) -> SheetBeam:
    """One function of a pair of lamps: its gains by side at the places read, its Wall."""
    by_side = {beam["key"].side: beam for beam in shown if beam["key"].function is function}
    read = set().union(*(beam["comparison"].gains for beam in by_side.values()))
    keys = [beam["key"] for beam in by_side.values()]
    wall, ready = record_wall(page, keys), readied(page.record, keys[0])
    points = [point for point in POINTS if point in read]
    return SheetBeam(function.label, by_side, points, wall, ready)


def _accepted(page: StagePage) -> list[str]:
    """The ids of every caution the customer accepted or was told, each once."""
    chosen = [record for key in page.record.sockets if (record := page.record.latest(Chosen, key))]
    handed_over = page.record.latest(HandedOver)
    ids = [key for record in chosen for key in record.accepted] + list(
        handed_over.cautions if handed_over else ()
    )
    return list(dict.fromkeys(ids))


def _photographs(page: StagePage) -> Iterator[tuple[BeamKey, WallPhotographed]]:
    """The newest photograph of the wall of each beam, as found and as left, that was measured."""
    for key in page.record.road_beams:
        for phase in AIM_PHASES:
            taken = [
                photograph
                for photograph in page.record.all(WallPhotographed, key)
                if photograph.phase == phase and photograph.found and not photograph.simulated
            ]
            yield from ((key, photograph) for photograph in taken[-1:])


@bp.get("/jobs/<int:job_id>/sheet")
def sheet(job_id: int) -> str:
    """The customer sheet, to print."""
    page = open_stage(job_id, Scope(), Stage.HAND_OVER)
    record = page.record
    return render_template(
        "sheet.html",
        page=page,
        pairs=_pairs(page),
        accepted=_accepted(page),
        balance=balance_findings(record, record.road_beams),
        law=_law_findings(page),
        is_replaced=_is_replaced(record),
        dazzles=_dazzles(page),
        said=record.latest(HandedOver),
        pictures=record.all(Pictured),
        photographs=list(_photographs(page)),
        skipped=_skipped(page),
        standing=_standing(page),
        shop=setting(session(), "shop_name", "Cold Arc"),
        contact=setting(session(), "shop_contact"),
    )
