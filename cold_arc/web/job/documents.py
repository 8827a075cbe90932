"""A job's documents for paper: the customer's sheet, the workshop's, the card for the glove box.

Each is made from what the pages show; `cold_arc.formats.document` sets it.
"""

from __future__ import annotations

import io
import re
from collections.abc import Callable, Iterator, Mapping

import segno
from flask import Blueprint, Response, abort

from cold_arc.core.car.lamps import Side
from cold_arc.core.findings import Finding
from cold_arc.core.job.entries.fit import Pictured
from cold_arc.core.job.stages import Stage
from cold_arc.core.metering.comparing import Gain
from cold_arc.core.metering.readings import words
from cold_arc.core.references import say
from cold_arc.core.units import (
    say_candela,
    say_degrees,
    say_distance,
    say_percent,
    say_slope,
)
from cold_arc.formats.document import (
    PAPERS,
    Document,
    DocumentPart,
    DrawnLine,
    DrawnWall,
    Part,
    PictureOf,
    TableOf,
    to_pdf,
)
from cold_arc.store import catalogue, pictures
from cold_arc.web.forms.fields import unit_system
from cold_arc.web.job.proof import Stamp, stamp_of
from cold_arc.web.job.sheet import CustomerSheet
from cold_arc.web.job.sheet_rows import BeamRow, SheetBeam, SheetPair, SocketRow
from cold_arc.web.job.stage_page import open_stage
from cold_arc.web.job.workshop import workshop_parts
from cold_arc.web.parts.wall import Wall
from cold_arc.web.scope import Scope
from cold_arc.web.shell.db import session
from cold_arc.web.shell.filters import say_date
from cold_arc.web.shell.signing_key import as_signed

bp = Blueprint("documents", __name__)
PLACE = re.compile(r"(-?[\d.]+) (-?[\d.]+)")
STAMP_DOT = 6


@bp.get("/jobs/<int:job_id>/documents/<kind>-<paper>.pdf")
def pdf(job_id: int, kind: str, paper: str) -> Response:
    """One document of a job as PDF."""
    if kind not in DOCUMENTS or paper not in PAPERS:
        abort(404)
    sheet = CustomerSheet(open_stage(job_id, Scope(), Stage.HAND_OVER))
    name = f"{kind}-{job_id}.pdf"
    headers = {"Content-Disposition": f'inline; filename="{name}"', "Cache-Control": "no-store"}
    return Response(made(sheet, kind, paper), mimetype="application/pdf", headers=headers)


def made(sheet: CustomerSheet, kind: str, paper: str) -> bytes:
    """One document; KeyError for a kind or a paper that is not known."""
    document = DOCUMENTS[kind](sheet)
    return as_signed(to_pdf(document, "card" if kind == "card" else paper), document.title)


def whole(
    sheet: CustomerSheet,
    title: str,
    sections: Iterator[DocumentPart],
    signed: tuple[str, ...] | None = None,
) -> Document:
    """A document of a job with its head, its facts and its foot."""
    booking, opened = sheet.page.job.booking, sheet.page.job.opened_at.date()
    shop = (catalogue.setting(session(), name) for name in ("shop_name", "shop_contact"))
    stamp, end = stamp_of(sheet.page.job), sheet.handed_over
    return Document(
        f"{title} · {booking.reference}",
        " · ".join(filter(None, shop)),
        (
            ("Reference", booking.reference),
            ("Vehicle", ", ".join(filter(None, (booking.vehicle, booking.plate)))),
            ("Booked in", say_date(opened)),
            *((("Technician", end.technician),) if end else ()),
        ),
        tuple(section for section in sections if section.parts),
        stamp.promise if stamp else "",
        _drawn(stamp),
        sheet.signed if signed is None else signed,
    )


def _drawn(stamp: Stamp | None) -> bytes:
    if stamp is None:
        return b""
    out = io.BytesIO()
    segno.make_qr(stamp.words, error="m").save(out, kind="png", scale=STAMP_DOT, border=2)
    return out.getvalue()


def customer(sheet: CustomerSheet) -> Document:
    """What the customer takes home."""
    return whole(sheet, "Customer sheet", _customer(sheet))


def _customer(sheet: CustomerSheet) -> Iterator[DocumentPart]:
    yield DocumentPart("Since it left", tuple(sheet.since))
    yield DocumentPart("As it came", tuple(sheet.as_it_came))
    yield DocumentPart("Lenses", tuple(sheet.lenses))
    for pair in sheet.pairs:
        yield _pair(pair, sheet)
    yield DocumentPart("Pictures", (tuple(_pictures(sheet)),) if sheet.pictures else ())
    photographs = tuple(_photographs(sheet))
    yield DocumentPart("Aim, from photographs of the wall", (photographs,) if photographs else ())
    yield DocumentPart("Caution", tuple(map(_finding, sheet.dazzles)))
    yield DocumentPart("Left against right", tuple(map(_finding, sheet.balance)))
    yield DocumentPart("At the rear, done along the way", tuple(sheet.rear))
    yield DocumentPart("Accepted by the customer", tuple(sheet.accepted))
    if sheet.handed_over:
        yield from _end(sheet)
    else:
        yield DocumentPart(
            "Not completed", ("What was agreed at the end is recorded at Hand over.",)
        )


def _finding(finding: Finding) -> str:
    parts = (finding.number, finding.limit, finding.advice)
    return f"{finding.words} {'; '.join(filter(None, parts))} ({say(finding.sources)})"


def _end(sheet: CustomerSheet) -> Iterator[DocumentPart]:
    yield DocumentPart("To know", tuple(_to_know(sheet)))
    yield DocumentPart("Open as it left", tuple(sheet.standing))
    yield DocumentPart("Not done, and why", tuple(sheet.skipped))
    yield DocumentPart("Dates", tuple(f"**{name}**: {say_date(day)}" for name, day in sheet.dates))


def _to_know(sheet: CustomerSheet) -> Iterator[str]:
    yield from map(_finding, sheet.law)
    yield from (f"**{name}**: {text}" if name else text for name, text in sheet.notes)


def _pair(pair: SheetPair, sheet: CustomerSheet) -> DocumentPart:
    side = f", {pair.only_side.value}" if pair.only_side else ""
    return DocumentPart(f"{pair.words}{side}", tuple(_of_pair(pair, sheet)))


def _of_pair(pair: SheetPair, sheet: CustomerSheet) -> Iterator[Part]:
    for side, row in pair.fitted:
        yield f"**{side}**: {_fitted(row)}" if side else _fitted(row)
    if pair.wired:
        yield f"Put in along its wiring: {'; '.join(pair.wired)}."
    yield from pair.leads
    for beam in pair.beams:
        yield from _of_beam(beam)


def _of_beam(beam: SheetBeam) -> Iterator[Part]:
    if beam.wall:
        yield _wall(beam.wall, beam.words)
    if beam.points:
        yield _gains(beam)
    for side, row in beam.sides.items():
        if row.has_outcome:
            yield f"**{side.value.capitalize()}**: {_outcome(row)}"
    if beam.readied:
        yield f"Checked before aiming: {', '.join(beam.readied)}."


def _fitted(row: SocketRow) -> str:
    can, remarks = f" {row.abilities}." if row.abilities else "", " ".join(row.remarks)
    return f"Was: {row.was}. Fitted: {row.now}{row.besides}.{can} {remarks}".strip()


def _outcome(row: BeamRow) -> str:
    text = f"{row.comparison.verdict}. " if row.comparison.gains else ""
    if row.as_left and row.aim:
        left = row.as_left
        text += (
            f"Aim as left {say_slope(left.slope, left.distance_m, unit_system())} at "
            f"{say_distance(left.distance_m, unit_system())}: "
            f"{'; '.join((row.aim.text.lower().rstrip('.'), row.aim.limit))} "
            f"({say(row.aim.sources)})"
        )
    return text


def _wall(wall: Wall, beam: str) -> DrawnWall:
    """The Wall as lines for paper."""
    frame = wall.frame
    as_found = [(mark.path, True) for mark in wall.found] + [(wall.found_line, True)]
    as_left = [(mark.path, False) for mark in wall.left] + [(wall.left_line, False)]
    lines = [DrawnLine(_points(path), dashed) for path, dashed in (*as_found, *as_left) if path]
    return DrawnWall(
        (frame.x, frame.y, frame.x + frame.width, frame.y + frame.height),
        tuple(line for line in lines if len(line.points) > 1),
        tuple((x, y) for x, y, _ in wall.lamps),
        f"{beam} on the wall at {say_distance(wall.distance_m, unit_system())}: as found dashed, "
        "as left solid; rings: the lamps' axes.",
    )


def _points(path: str) -> tuple[tuple[float, float], ...]:
    return tuple((float(x), float(y)) for x, y in PLACE.findall(path))


def _gains(beam: SheetBeam) -> TableOf:
    sides = list(beam.sides)
    head = [f"{beam.words}, measured"]
    for side in sides:
        head += [f"{side.value.capitalize()}, before", "after", "gain"]
    rows = (
        (_place(beam, point), *(cell for side in sides for cell in _gain(beam.sides, side, point)))
        for point in beam.points
    )
    return TableOf(tuple(head), tuple(rows))


def _place(beam: SheetBeam, point: str) -> str:
    function = next(iter(beam.sides.values())).key.function
    return words(point, function)


def _gain(sides: Mapping[Side, BeamRow], side: Side, point: str) -> tuple[str, str, str]:
    gain: Gain | None = sides[side].comparison.gains.get(point)
    if gain is None:
        return "–", "–", "–"
    change = "none before" if gain.relative is None else say_percent(gain.relative, 0, signed=True)
    doubt = f" ± {say_percent(gain.uncertainty)}" if gain.uncertainty is not None else ""
    return say_candela(gain.before_cd), say_candela(gain.after_cd), change + doubt


def _pictures(sheet: CustomerSheet) -> Iterator[PictureOf]:
    taken: Pictured
    for taken in sheet.pictures:
        data = pictures.picture(session(), sheet.page.job.id, taken.picture, small=False)
        if data is not None:
            yield PictureOf(data, taken.phase.capitalize())


def _photographs(sheet: CustomerSheet) -> Iterator[PictureOf]:
    for key, taken in sheet.photographs:
        data = taken.wall and pictures.picture(
            session(), sheet.page.job.id, taken.wall, small=False
        )
        if data and taken.found:
            stands = say_degrees(taken.found.aim_deg[0], 2, signed=True)
            yield PictureOf(data, f"{sheet.page.progress.words(key)}, as {taken.phase}: {stands}")


def workshop(sheet: CustomerSheet) -> Document:
    """The whole record, for the shelf."""
    return whole(sheet, "Workshop sheet", _workshop(sheet))


def _workshop(sheet: CustomerSheet) -> Iterator[DocumentPart]:
    yield from _customer(sheet)
    yield from workshop_parts(sheet)


def card(sheet: CustomerSheet) -> Document:
    """What lies in the glove box: what is fitted, how it is aimed, its marks, the day, the code."""
    end, booking = sheet.handed_over, sheet.page.job.booking
    lamps: list[tuple[str, str]] = []
    for pair in sheet.pairs:
        for side, row in pair.fitted:
            name = ", ".join(filter(None, (pair.words, side.lower())))
            lamps.append((name, f"{row.what}{row.marked}"))
        lamps += _aims(pair)
    made_of = whole(sheet, "Lamps of this car", iter(()))
    dates = (("Re-check", say_date(end.recheck)),) if end else ()
    vehicle = ", ".join(filter(None, (booking.vehicle, booking.plate)))
    shown = (("Vehicle", vehicle), ("Job", booking.reference), *lamps, *dates)
    return Document(made_of.title, made_of.head, shown, (), made_of.foot, made_of.stamp)


def _aims(pair: SheetPair) -> Iterator[tuple[str, str]]:
    for beam in pair.beams:
        aims = [
            f"{side.value} {say_slope(row.as_left.slope, row.as_left.distance_m, unit_system())}"
            for side, row in beam.sides.items()
            if row.as_left
        ]
        if aims:
            yield f"{beam.words}, aim as left", "; ".join(aims)


DOCUMENTS: dict[str, Callable[[CustomerSheet], Document]] = {
    "customer": customer,
    "workshop": workshop,
    "card": card,
}
