"""What templates may call: the core's ways of saying numbers, and the words of its enums."""

from __future__ import annotations

import datetime as dt

from flask import Flask, g, url_for

from cold_arc.core import references, units
from cold_arc.core.beam.derived import yardsticks
from cold_arc.core.car.lamps import Function, Side, side_words
from cold_arc.core.job.stages import Stage
from cold_arc.core.match.doubt import Range
from cold_arc.core.work.access import cautions
from cold_arc.web.forms.fields import live
from cold_arc.web.parts.front_drawing import ready_drawings
from cold_arc.web.shell.place import dark_said, shop_currency


def register(app: Flask) -> None:
    """Adds filters and globals to the app's templates."""
    for name in ("candela", "lux", "volts", "mm", "percent", "number", "degrees", "clock_angle"):
        app.add_template_filter(getattr(units, f"say_{name}"), name)
    app.add_template_filter(lambda metres: units.say_offset(metres, g.system), "offset")
    app.add_template_filter(lambda metres: units.say_distance(metres, g.system), "distance")
    app.add_template_filter(
        lambda slope, distance_m: units.say_slope(slope, distance_m, g.system), "slope"
    )
    app.add_template_filter(lambda text: units.say_example(text, g.system), "example")
    app.add_template_filter(references.say, "cited")
    app.add_template_filter(_candelas, "candelas")
    app.add_template_filter(
        lambda candela: units.say_candela(candela).rpartition(units.NBSP)[0], "figure"
    )
    app.add_template_filter(say_thousands, "thousands")
    app.add_template_filter(units.say_count, "counted")
    app.add_template_filter(units.lowered, "lowered")
    app.add_template_filter(units.raised, "raised")
    app.add_template_filter(say_date, "date")
    app.add_template_filter(say_fact, "fact")
    app.add_template_filter(say_moment, "moment")
    app.add_template_filter(units.say_minutes, "minutes")
    app.add_template_filter(lambda price: units.say_price(price, shop_currency()), "price")
    app.add_template_global(side_words)
    app.add_template_global(ready_drawings)
    app.add_template_global(dark_said)
    app.add_template_global(live, "live_echo")
    app.add_template_global(yardsticks)
    app.add_template_global(lambda: list(Stage), "all_stages")
    app.add_template_global(lambda: list(Function), "all_functions")
    app.add_template_global(lambda: list(Side), "all_sides")
    app.add_template_global(cautions, "caution_texts")
    app.add_template_global(lambda path: url_for("static", filename=path), "static")


def say_fact(value: object) -> str:
    """A stored fact in plain words."""
    if value is None or value == "":
        return "not told"
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, list):
        return (
            ", ".join(say_fact(part) for part in value if not isinstance(part, dict))
            or f"{len(value)} in all"
        )
    return units.write_figure(value) if isinstance(value, float) else str(value)


def say_date(day: dt.date | None) -> str:
    """A day in words: "24 Nov 2026"."""
    return f"{day.day} {day:%b %Y}" if day else "no date"


def say_thousands(value: float) -> str:
    """A large number short, for a column of them: "56.4 k"."""
    return f"{value / 1000:.1f}\u00a0k" if value >= 1000 else f"{value:.0f}"


def say_moment(moment: dt.datetime) -> str:
    """A moment in the machine's own time zone."""
    local = moment.astimezone()
    return f"{local.day} {local:%b %H:%M}"


def _candelas(candelas: Range) -> str:
    """A range of candela, to two figures, as doubtful as it is; from a thousand on in
    kilocandela.
    """
    scale, unit = (1000, "kcd") if candelas.high >= 1000 else (1, "cd")
    low, high = (units.say_number(end / scale, 2) for end in (candelas.low, candelas.high))
    return f"{low} to {high}{units.NBSP}{unit}"
