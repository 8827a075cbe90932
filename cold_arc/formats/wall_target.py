"""A wall target as files: PDF over several sheets, full size, with join marks and a bar of 10 cm;
SVG as one.
"""

from __future__ import annotations

import io
from collections.abc import Iterable
from html import escape

from reportlab.lib.units import cm
from reportlab.pdfgen.canvas import Canvas

from cold_arc.core.wallphoto import wall_target
from cold_arc.core.wallphoto.wall_target import (
    Paper,
    PaperBox,
    PaperLine,
    Shape,
    Sheet,
    WallTarget,
    bar,
    joins,
)

FONT, DASH_CM = "Helvetica", 0.3
# What the printers' standard fonts have no sign for.
PLAIN = str.maketrans({"−": "-", "\u00a0": " ", "\u202f": " "})


def to_pdf(target: WallTarget, paper: Paper) -> bytes:
    """The target on as many sheets as it takes, each to be printed at its own size."""
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(paper.width * cm, paper.height * cm), invariant=True)
    canvas.setTitle(target.title.translate(PLAIN))
    shapes = list(target.shapes())
    for sheet in wall_target.sheets(paper):
        _page(canvas, target, sheet, paper, shapes)
        canvas.showPage()
    canvas.save()
    return out.getvalue()


def _page(
    canvas: Canvas, target: WallTarget, sheet: Sheet, paper: Paper, shapes: list[Shape]
) -> None:
    """One sheet: its part of the target inside its edges, its name and a bar in the edge below."""
    canvas.setFont(FONT, 7)
    scale = "print at 100 %, without scaling; the bar is 10 cm"
    foot = f"{sheet.name} · {target.title} · {scale}".translate(PLAIN)
    canvas.drawString((paper.edge + 11.5) * cm, 0.45 * cm, foot)
    canvas.saveState()
    canvas.translate(paper.edge * cm, 0.6 * cm)
    _draw(canvas, (shape for shape in bar(0.0, 0.0) if isinstance(shape, PaperLine)))
    canvas.restoreState()
    canvas.saveState()
    inside = canvas.beginPath()
    inside.rect(paper.edge * cm, paper.edge * cm, sheet.width * cm, sheet.height * cm)
    canvas.clipPath(inside, stroke=0)
    canvas.translate((paper.edge - sheet.x) * cm, (paper.edge - sheet.y) * cm)
    canvas.setStrokeGray(0.6)
    _draw(canvas, joins(sheet, paper))
    canvas.setStrokeGray(0.0)
    _draw(canvas, shapes)
    canvas.restoreState()


def _draw(canvas: Canvas, shapes: Iterable[Shape]) -> None:
    for shape in shapes:
        if isinstance(shape, PaperLine):
            canvas.setDash([DASH_CM * cm] if shape.dashed else [])
            canvas.setLineWidth(shape.width * cm)
            canvas.line(shape.x1 * cm, shape.y1 * cm, shape.x2 * cm, shape.y2 * cm)
        elif isinstance(shape, PaperBox):
            canvas.rect(
                shape.x * cm, shape.y * cm, shape.width * cm, shape.height * cm, stroke=0, fill=1
            )
        else:
            canvas.setFont(FONT, shape.size * cm)
            canvas.drawString(shape.x * cm, shape.y * cm, shape.text.translate(PLAIN))


def to_svg(target: WallTarget) -> str:
    """The target as one SVG, its size in centimetres."""
    left, top = -wall_target.HALF_WIDTH_CM, -wall_target.TOP_CM
    width, height = 2 * wall_target.HALF_WIDTH_CM, wall_target.TOP_CM - wall_target.BOTTOM_CM
    shapes = "\n".join(_svg(shape) for shape in target.shapes())
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:g}cm" height="{height:g}cm" '
        f'viewBox="{left:g} {top:g} {width:g} {height:g}" font-family="{FONT}, sans-serif">\n'
        f"<title>{escape(target.title)}</title>\n{shapes}\n</svg>\n"
    )


def _svg(shape: Shape) -> str:
    if isinstance(shape, PaperLine):
        dash = f' stroke-dasharray="{DASH_CM:g}"' if shape.dashed else ""
        places = (
            f'x1="{shape.x1:.3f}" y1="{-shape.y1:.3f}" x2="{shape.x2:.3f}" y2="{-shape.y2:.3f}"'
        )
        return f'<line {places} stroke="#000" stroke-width="{shape.width:g}"{dash}/>'
    if isinstance(shape, PaperBox):
        return (
            f'<rect x="{shape.x:.3f}" y="{-shape.y - shape.height:.3f}" width="{shape.width:.3f}" '
            f'height="{shape.height:.3f}"/>'
        )
    return (
        f'<text x="{shape.x:.3f}" y="{-shape.y:.3f}" '
        f'font-size="{shape.size:g}">{escape(shape.text)}</text>'
    )
