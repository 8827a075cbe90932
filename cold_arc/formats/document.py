"""Documents that leave the shop, as PDF: a title, facts, sections of sentences, tables, pictures
and drawn lines, on A4, Letter or a card for the glove box.

Text can be searched, fonts are embedded, colours are told apart in grey too (a dash, not a hue).
Set by ReportLab's Platypus in its own Bitstream Vera.
"""

from __future__ import annotations

import io
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cache
from html import escape
from pathlib import Path
from typing import Any

import reportlab
from PIL import Image as Pillow
from reportlab.lib import colors
from reportlab.lib.pagesizes import A4, LETTER
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import (
    CondPageBreak,
    Flowable,
    Image,
    KeepInFrame,
    KeepTogether,
    Paragraph,
    SimpleDocTemplate,
    Spacer,
    Table,
    TableStyle,
)

PAPERS = {"a4": A4, "letter": LETTER, "card": (105 * mm, 74 * mm)}
FONT, BOLD = "Vera", "Vera-Bold"
# What the font has no sign for.
PLAIN = str.maketrans(
    {
        "→": "to",
        "⅛": " 1/8",
        "⅜": " 3/8",
        "⅝": " 5/8",
        "⅞": " 7/8",
        "⅓": " 1/3",
        "⅔": " 2/3",
        "\u202f": "\u00a0",
        "\u2011": "-",
    }
)
BORDER_MM, CARD_BORDER_MM = 16, 6
# A heading stands with so much of what is under it, or on the next page.
ROOM_MM = 35
INK, QUIET = colors.black, colors.Color(0.35, 0.35, 0.35)


@dataclass(frozen=True)
class TableOf:
    """A table: its head, and rows of as many cells."""

    head: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]


@dataclass(frozen=True)
class PictureOf:
    """A picture (JPEG or PNG) and what it shows."""

    data: bytes
    caption: str


@dataclass(frozen=True)
class DrawnLine:
    """A line through points, cm; *dashed*: as found."""

    points: tuple[tuple[float, float], ...]
    dashed: bool


@dataclass(frozen=True)
class DrawnWall:
    """A part of a wall drawn to scale: its edges (left, top, right, bottom; cm, down positive), the
    lines on it, where the lamps' axes meet it, and what it shows.
    """

    frame: tuple[float, float, float, float]
    lines: tuple[DrawnLine, ...]
    lamps: tuple[tuple[float, float], ...]
    caption: str


@dataclass(frozen=True)
class DrawnSign:
    """A signature as it was drawn: its strokes, each points right and down on a field of
    `SIGN_FIELD`, and by whom.
    """

    strokes: tuple[tuple[tuple[float, float], ...], ...]
    caption: str


SIGN_FIELD, SIGN_MM = (600.0, 160.0), 60.0
Part = str | TableOf | PictureOf | DrawnWall | DrawnSign | tuple[PictureOf, ...]


@dataclass(frozen=True)
class DocumentPart:
    """A heading and what stands under it; a sentence may begin with a word and a colon in bold:
    "**Left**: …".
    """

    heading: str
    parts: tuple[Part, ...]


@dataclass(frozen=True)
class Document:
    """A document: who gives it (*head*), its *title*, *facts* by name, *sections*, what stands at
    its foot, a *stamp* (PNG) beside that, and lines to be signed.
    """

    title: str
    head: str
    facts: tuple[tuple[str, str], ...]
    sections: tuple[DocumentPart, ...]
    foot: str = ""
    stamp: bytes = b""
    signed: tuple[str, ...] = ()


@cache
def _fonts() -> None:
    folder = Path(reportlab.__file__).parent / "fonts"
    pdfmetrics.registerFont(TTFont(FONT, folder / "Vera.ttf"))
    pdfmetrics.registerFont(TTFont(BOLD, folder / "VeraBd.ttf"))
    pdfmetrics.registerFontFamily(FONT, normal=FONT, bold=BOLD, italic=FONT, boldItalic=BOLD)


def to_pdf(document: Document, paper: str = "a4") -> bytes:
    """The document on paper; KeyError for a paper that is not known."""
    _fonts()
    size, small = PAPERS[paper], paper == "card"
    border = (CARD_BORDER_MM if small else BORDER_MM) * mm
    out = io.BytesIO()
    template = SimpleDocTemplate(
        out,
        pagesize=size,
        leftMargin=border,
        rightMargin=border,
        topMargin=border,
        bottomMargin=border,
        title=document.title,
        author=document.head,
        lang="en",
        initialFontName=FONT,
        invariant=1,
    )
    story = list(_story(document, template.width, small))
    if small:  # whatever is told, a card is one card
        story = [KeepInFrame(template.width - 12, template.height - 12, story, mode="shrink")]
    page = _page(document, small)
    template.build(story, onFirstPage=page, onLaterPages=page)
    return out.getvalue()


def _page(document: Document, small: bool) -> Any:
    def draw(canvas: Canvas, template: SimpleDocTemplate) -> None:
        canvas.setViewerPreference("DisplayDocTitle", "true")
        if small:
            return
        canvas.saveState()
        canvas.setFont(FONT, 7)
        canvas.setFillColor(QUIET)
        canvas.drawString(template.leftMargin, 8 * mm, _clean(document.title))
        right = template.pagesize[0] - template.rightMargin
        canvas.drawRightString(right, 8 * mm, f"{canvas.getPageNumber()}")
        canvas.restoreState()

    return draw


def _clean(text: str) -> str:
    return text.translate(PLAIN)


def _styles(small: bool) -> dict[str, ParagraphStyle]:
    size = 6.5 if small else 9
    body = ParagraphStyle("body", fontName=FONT, fontSize=size, leading=size * 1.35, textColor=INK)
    return {
        "body": body,
        "quiet": ParagraphStyle("quiet", parent=body, textColor=QUIET, fontSize=size - 1),
        "cell": ParagraphStyle("cell", parent=body, fontSize=size - 0.7, leading=size * 1.2),
        "title": ParagraphStyle(
            "title", parent=body, fontName=BOLD, fontSize=size * 1.7, leading=size * 2.1
        ),
        "heading": ParagraphStyle(
            "heading",
            parent=body,
            fontName=BOLD,
            fontSize=size * 1.2,
            leading=size * 1.6,
            spaceBefore=size * 0.6,
        ),
    }


def _story(document: Document, width: float, small: bool) -> Iterator[Flowable]:
    styles = _styles(small)
    if document.head:
        yield Paragraph(_rich(document.head), styles["quiet"])
    yield Paragraph(_rich(document.title), styles["title"])
    yield Spacer(1, 2 * mm if not small else mm)
    if document.facts:
        yield _facts(document.facts, width, styles)
    for section in document.sections:
        parts = [flowable for part in section.parts for flowable in _part(part, width, styles)]
        yield CondPageBreak(ROOM_MM * mm if not small else 0)
        yield Paragraph(_rich(section.heading), styles["heading"])
        yield from parts
    yield from _end(document, width, styles)


def _rich(text: str) -> str:
    """A sentence with its bold beginning."""
    if text.startswith("**") and "**" in text[2:]:
        strong, rest = text[2:].split("**", 1)
        return f"<b>{escape(_clean(strong))}</b>{escape(_clean(rest))}"
    return escape(_clean(text))


def _facts(
    facts: Sequence[tuple[str, str]], width: float, styles: dict[str, ParagraphStyle]
) -> Flowable:
    rows = [
        [Paragraph(_rich(name), styles["quiet"]), Paragraph(_rich(value), styles["body"])]
        for name, value in facts
    ]
    table = Table(rows, colWidths=[0.25 * width, 0.75 * width], hAlign="LEFT")
    table.setStyle(TableStyle([("VALIGN", (0, 0), (-1, -1), "TOP"), *_tight()]))
    return table


def _tight() -> list[Any]:
    sides = ("LEFTPADDING", "RIGHTPADDING", "TOPPADDING", "BOTTOMPADDING")
    font = ("FONTNAME", (0, 0), (-1, -1), FONT)
    return [font, *((side, (0, 0), (-1, -1), 1.5) for side in sides)]


def _part(part: Part, width: float, styles: dict[str, ParagraphStyle]) -> Iterator[Flowable]:
    if isinstance(part, str):
        yield Paragraph(_rich(part), styles["body"])
    elif isinstance(part, TableOf):
        yield _table(part, width, styles)
    elif isinstance(part, PictureOf):
        yield _pictures((part,), 0.6 * width, styles)
    elif isinstance(part, DrawnWall):
        yield KeepTogether(
            [WallDrawing(part, width), Paragraph(_rich(part.caption), styles["quiet"])]
        )
    elif isinstance(part, DrawnSign):
        yield KeepTogether([SignDrawing(part), Paragraph(_rich(part.caption), styles["quiet"])])
    else:
        for start in range(0, len(part), 2):
            yield _pictures(part[start : start + 2], width, styles)


def _table(part: TableOf, width: float, styles: dict[str, ParagraphStyle]) -> Flowable:
    head = [Paragraph(f"<b>{escape(_clean(cell))}</b>", styles["cell"]) for cell in part.head]
    rows = [[Paragraph(_rich(cell), styles["cell"]) for cell in row] for row in part.rows]
    columns = len(part.head)
    first = 0.34 if columns > 2 else 0.5
    widths = [first * width, *[(1 - first) * width / (columns - 1)] * (columns - 1)]
    table = Table([head, *rows], colWidths=widths, repeatRows=1, hAlign="LEFT")
    lines = ("LINEBELOW", (0, 0), (-1, -1), 0.3, QUIET)
    table.setStyle(TableStyle([("VALIGN", (0, 0), (-1, -1), "TOP"), lines, *_tight()]))
    return table


def _pictures(
    pictures: Sequence[PictureOf], width: float, styles: dict[str, ParagraphStyle]
) -> Flowable:
    each = width / max(len(pictures), 1) - 3 * mm
    row = [_picture(picture, each) for picture in pictures]
    captions = [Paragraph(_rich(picture.caption), styles["quiet"]) for picture in pictures]
    table = Table([row, captions], colWidths=[each + 3 * mm] * len(pictures), hAlign="LEFT")
    table.setStyle(TableStyle([("VALIGN", (0, 0), (-1, -1), "TOP"), *_tight()]))
    return table


def _picture(picture: PictureOf, width: float) -> Flowable:
    with Pillow.open(io.BytesIO(picture.data)) as opened:
        across, down = opened.size
    scale = min(width / across, 70 * mm / down)
    return Image(io.BytesIO(picture.data), across * scale, down * scale, hAlign="LEFT")


class SignDrawing(Flowable):
    """A signature, its strokes as lines."""

    def __init__(self, sign: DrawnSign) -> None:
        super().__init__()
        self.sign, self.scale = sign, SIGN_MM * mm / SIGN_FIELD[0]
        self.width, self.height = (side * self.scale for side in SIGN_FIELD)

    def draw(self) -> None:
        """Draws it."""
        canvas = self.canv
        canvas.setStrokeColor(INK)
        canvas.setLineWidth(1.0)
        for stroke in self.sign.strokes:
            path = canvas.beginPath()
            for place, (right, down) in enumerate(stroke):
                step = path.lineTo if place else path.moveTo
                step(right * self.scale, self.height - down * self.scale)
            canvas.drawPath(path)


class WallDrawing(Flowable):
    """A drawn wall to a width, the lines as found dashed, as left solid."""

    def __init__(self, wall: DrawnWall, width: float) -> None:
        super().__init__()
        left, top, right, bottom = wall.frame
        self.wall, self.scale = wall, width / (right - left)
        self.width, self.height = width, (bottom - top) * self.scale

    def draw(self) -> None:
        """Draws it."""
        canvas = self.canv
        canvas.setStrokeColor(QUIET)
        canvas.rect(0, 0, self.width, self.height)
        clip = canvas.beginPath()
        clip.rect(0, 0, self.width, self.height)
        canvas.clipPath(clip, stroke=0)
        for lamp in self.wall.lamps:
            across, up = self._at(lamp)
            canvas.setDash(1, 3)
            canvas.line(across, 0, across, self.height)
            canvas.setDash()
            canvas.circle(across, up, 2)
        canvas.setStrokeColor(INK)
        for line in self.wall.lines:
            canvas.setDash(*((4, 3) if line.dashed else ()))
            canvas.setLineWidth(1.0 if line.dashed else 1.8)
            first, *others = (self._at(point) for point in line.points)
            path = canvas.beginPath()
            path.moveTo(*first)
            for point in others:
                path.lineTo(*point)
            canvas.drawPath(path)

    def _at(self, point: tuple[float, float]) -> tuple[float, float]:
        """Where a place of the wall is drawn."""
        left, top, _, _ = self.wall.frame
        return (point[0] - left) * self.scale, self.height - (point[1] - top) * self.scale


def _end(document: Document, width: float, styles: dict[str, ParagraphStyle]) -> Iterator[Flowable]:
    if document.signed:
        yield Spacer(1, 12 * mm)
        cells = [[Paragraph(_rich(name), styles["quiet"]) for name in document.signed]]
        signed = Table(cells, colWidths=[width / len(document.signed)] * len(document.signed))
        signed.setStyle(TableStyle([("LINEABOVE", (0, 0), (-1, 0), 0.5, INK)]))
        yield signed
    foot = Paragraph(_rich(document.foot), styles["quiet"])
    if document.stamp:
        size = 20 * mm
        stamp = Image(io.BytesIO(document.stamp), size, size)
        table = Table([[stamp, foot]], colWidths=[size + 4 * mm, width - size - 4 * mm])
        table.setStyle(TableStyle([("VALIGN", (0, 0), (-1, -1), "MIDDLE"), *_tight()]))
        yield Spacer(1, 3 * mm)
        yield table
    elif document.foot:
        yield foot
