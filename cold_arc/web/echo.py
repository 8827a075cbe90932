"""How typed text is understood, answered live while it is typed."""

from __future__ import annotations

from flask import Blueprint, render_template, request

from cold_arc.core import photometry, readings, units
from cold_arc.web import fields

bp = Blueprint("echo", __name__)


@bp.get("/echo/<kind>")
def understood(kind: str) -> str:
    """How typed text is understood: a fragment, live. *name* says which parameter holds the text."""
    text = request.args.get(request.args.get("name", ""), "")
    if not text.strip():
        return ""
    try:
        words = _echo(kind, text[:60])
    except ValueError as error:
        return render_template("fragments/echo.html", error=str(error))
    return render_template("fragments/echo.html", words=words)


def _echo(kind: str, text: str) -> str:
    if kind == "reading":
        return _echo_reading(text)
    if kind == "slope":
        distance_m = fields.parse_distance(request.args.get("distance", ""))
        if distance_m <= 0:
            raise units.NotUnderstood("Give the distance first.")
        return units.say_slope(
            units.parse_slope(text, distance_m, fields.bare_offset()), distance_m, fields.unit_system()
        )
    if kind == "clock":
        return units.say_clock_angle(units.parse_clock_angle(text))
    if kind == "distance":
        metres = fields.parse_distance(text)
        return f"{units.say_number(metres, 4)} m, {units.say_number(metres / units.FOOT_M, 4)} ft"
    raise units.NotUnderstood("That is not something to understand.")


def _echo_reading(text: str) -> str:
    """Lux, and candela once the distance is known."""
    factor = request.args.get("range_factor", "1")
    lux = units.parse_illuminance(text, float(factor) if factor in {"1", "10", "100"} else 1.0)
    try:
        distance_m = fields.parse_distance(request.args.get("distance", ""))
        ambient = units.parse_illuminance(request.args.get("ambient", "") or "0")
        return f"{units.say_lux(lux)} · {_held_candela(lux - ambient, distance_m)}"
    except ValueError:
        return f"{units.say_lux(lux)} · give the distance for candela"


def _held_candela(lux: float, distance_m: float) -> str:
    point = request.args.get("name", "").partition("-")[0]
    across, drop = readings.place(point, distance_m)
    return units.say_candela(photometry.candela(max(lux, 0.0), distance_m, across, drop))
