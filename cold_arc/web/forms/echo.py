"""How typed text is understood, answered live while it is typed."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, abort, render_template, request

from cold_arc.core import units
from cold_arc.core.light import photometry
from cold_arc.core.metering import readings
from cold_arc.web.forms import fields
from cold_arc.web.forms.fields import QUANTITIES

bp = Blueprint("echo", __name__)


@bp.get("/echo/<quantity>")
def understood(quantity: str) -> str:
    """How typed text is understood: a fragment, live. The query's *name* says which parameter holds
    the text.
    """
    asked = QUANTITIES.get(quantity) or abort(404)
    field = request.args.get("name", "")
    text = request.args.get(field, "")
    if not text.strip():
        return ""
    context, system = _context(), fields.unit_system()
    try:
        value = asked.read(text, system, context)
        words = asked.say(value, system, context)
    except units.NotUnderstoodError as error:
        return render_template(
            "fragments/echo.html", error=str(error), meanings=error.meanings, field=field
        )
    if asked is fields.READING:
        words = f"{words} · {_candela(value, field, context)}"
    return render_template("fragments/echo.html", words=words)


def _context() -> dict[str, object]:
    """The distance and the meter's range beside the text, where they are there and understood."""
    factor = request.args.get("range_factor", "1")
    context: dict[str, object] = {"range_factor": factor if factor in fields.RANGE_FACTORS else "1"}
    for name, beside in (("distance", fields.WALL_DISTANCE), ("ambient", fields.AMBIENT)):
        try:
            context[name] = beside.read(request.args.get(name, ""), fields.unit_system(), context)
        except units.NotUnderstoodError:
            context[name] = None
    return context


def _candela(lux: float, field: str, context: dict[str, Any]) -> str:
    """Candela behind a reading, once the distance is known."""
    if not context["distance"]:
        return "give the distance for candela"
    across, drop = readings.place(field.partition("-")[0], context["distance"])
    net = max(lux - (context["ambient"] or 0.0), 0.0)
    return units.say_candela(photometry.candela(net, context["distance"], across, drop))
