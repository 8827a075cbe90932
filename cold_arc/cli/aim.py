"""`cold-arc aim`: what a rule asks of a lamp's aim, in per cent and in centimetres on the wall.

Example: cold-arc aim --rule un-r48 --function low --height 0.72m --distance 10m --json
"""

from __future__ import annotations

import argparse
import json
import math
from typing import Any

from cold_arc.core.aim.rules import AimRule, SlopeBand, Target, built_in, target_for
from cold_arc.core.references import say
from cold_arc.core.units import NotUnderstoodError, UnitSystem, say_percent
from cold_arc.core.units.quantities import Distance, Mark

FUNCTIONS = ("low", "fog", "high")
FOG_CLASSES = {"F3": "un-r48-fog-f3", "B": "un-r48-fog-b"}
# A family of rules, and its rule for each function; fog's by the lamp's class.
RULES = {
    "un-r48": {"low": "un-r48-low", "high": "high-centred"},
    "uk-inspection": {"low": "uk-inspection-low", "high": "high-centred"},
    "us-vol": {"low": "us-vol", "fog": "us-fog", "high": "high-centred"},
    "us-vor": {"low": "us-vor", "fog": "us-fog", "high": "high-centred"},
}


def add_commands(commands: Any) -> None:
    """Adds `aim`."""
    parser: argparse.ArgumentParser = commands.add_parser(
        "aim",
        help="what a rule asks of a lamp's aim",
        description=__doc__,
        formatter_class=argparse.RawDescriptionHelpFormatter,
    )
    parser.add_argument("--rule", choices=tuple(RULES), required=True)
    parser.add_argument("--function", choices=FUNCTIONS, default="low")
    parser.add_argument("--height", required=True, help="the lamp's height, like 0.72m or 28 in")
    parser.add_argument("--distance", required=True, help="to the wall, like 10m or 25 ft")
    parser.add_argument(
        "--fog-class",
        choices=tuple(FOG_CLASSES),
        default="F3",
        help="of a front fog lamp after UN R48",
    )
    parser.add_argument("--mark", help="the slope the maker marks on the lamp, like 1.2%%")
    parser.add_argument("--json", action="store_true", help="print one JSON object")
    parser.set_defaults(run=_run)


def length_m(text: str, name: str, low: float, high: float) -> float:
    """A length as typed, m; ValueError, in words, for what is none or beyond its bounds."""
    quantity = Distance(low, high, id=name)
    try:
        return float(quantity.read(text, UnitSystem.METRIC, {}))
    except NotUnderstoodError as error:
        raise ValueError(f"{name}: {error}") from error


def _mark(text: str | None, distance_m: float) -> float | None:
    """A maker's mark as typed, down unless a sign or a word says otherwise; None without one."""
    if text is None:
        return None
    try:
        return Mark(id="mark").read(text, UnitSystem.METRIC, {"distance": distance_m})
    except NotUnderstoodError as error:
        raise ValueError(f"mark: {error}") from error


def rule_of(family: str, function: str, fog_class: str) -> AimRule:
    """The rule of a family for a function."""
    name = RULES[family].get(function) or FOG_CLASSES[fog_class]
    return built_in()[name]


def _run(options: argparse.Namespace) -> int:
    height_m = length_m(options.height, "height", 0.2, 2.5)
    distance_m = length_m(options.distance, "distance", 1.0, 40.0)
    rule = rule_of(options.rule, options.function, options.fog_class)
    target = target_for(rule, height_m, _mark(options.mark, distance_m))
    summary = _told(rule, target, distance_m)
    print(
        json.dumps(summary, allow_nan=False) if options.json else _in_words(rule, target, summary)
    )
    return 0


def _told(rule: AimRule, target: Target, distance_m: float) -> dict[str, Any]:
    return {
        "rule": rule.id,
        "set_pct": _pct(target.set),
        "limits_pct": _pct(target.keep),
        "drop_cm": {"set": _drop(target.set, distance_m), "limits": _drop(target.keep, distance_m)},
        "height_of": rule.height_of,
        "rule_source": say(target.sources),
    }


def _edge(value: float, scale: float) -> float | None:
    """One edge of a band; null where it is open."""
    return None if math.isinf(value) else round(value * scale, 4) + 0.0


def _pct(band: SlopeBand) -> list[float | None]:
    """A band in per cent, from the lower edge to the upper, up positive."""
    return [_edge(band.low, 100), _edge(band.high, 100)]


def _drop(band: SlopeBand, distance_m: float) -> list[float | None]:
    """The same edges as cm below the lamp's height on the wall."""
    return [_edge(-band.low, 100 * distance_m), _edge(-band.high, 100 * distance_m)]


def _in_words(rule: AimRule, target: Target, summary: dict[str, Any]) -> str:
    lines = [rule.name]
    for word, band, name in (("Set", target.set, "set"), ("Keep", target.keep, "limits")):
        edges = [f"{drop_cm:.1f} cm" for drop_cm in summary["drop_cm"][name] if drop_cm is not None]
        slope = say_percent(band.high, 2) if band.low == band.high else band.words
        lines.append(
            f"{word} {slope}: {' to '.join(dict.fromkeys(edges))} below the {rule.height_of}"
        )
    return "\n".join([*lines, summary["rule_source"]])
