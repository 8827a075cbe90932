"""Exercises on what leaves the shop: whether a car may, and what its customer is told."""

from __future__ import annotations

from random import Random

from cold_arc.core import law
from cold_arc.core.aim import judging
from cold_arc.core.aim.rules import AimRule, rules_for
from cold_arc.core.beam import findings as beam_findings
from cold_arc.core.car import condition
from cold_arc.core.car.condition import HAZE_GRADES, UnitCondition
from cold_arc.core.car.lamps import Function
from cold_arc.core.findings import Finding, Level
from cold_arc.core.law import Market, markets
from cold_arc.core.school.exercise import (
    AnswerOption,
    Exercise,
    FactsShown,
    Posed,
    by_level,
    lettered,
)
from cold_arc.core.school.skills import kinds
from cold_arc.core.units import UnitSystem, say_percent
from cold_arc.core.work.interlocks import interlocks, wanted

DISTANCE_M, HEIGHT_M = 10.0, 0.65
KINDS = {
    "bulb": "LED bulb in the lamp it came with",
    "assembly": "Whole LED lamp, approved",
    "projector": "LED projector put into the opened lamp",
}
# Marks as such lamps bear them, by market (UN R112 and CFR 571.108, from memory).
MARKS = {"un": "E4 02 HCR", "uk": "E4 02 HCL", "us": "DOT HR"}
REASONS = {
    "leave.fine": "It may leave",
    "leave.law": "No: the law of its market",
    "leave.glare": "No: it dazzles",
    "leave.aim": "No: it is out of aim",
}
# How far out of a limit, as a share of it, by level: the harder, the nearer.
BEYOND, USUAL_SHARE = (1.0, 0.7, 0.45, 0.3, 0.2), 0.02


def leave(posed: Posed) -> Exercise:
    """May this car leave: law, glare and aim as the core judges them; one of them stops it, or
    none.
    """
    luck, level = posed.luck, posed.level
    market = markets()[luck.choice(list(markets()))]
    kind, marks = _fitted(market, luck, posed.skill == "leave.law")
    beyond = by_level(level, BEYOND)
    rule = rules_for(market.id, Function.LOW)[0]
    slope = _slope(rule, luck, beyond, posed.skill == "leave.aim")
    share = _share(luck, beyond, posed.skill == "leave.glare")
    judged = {
        "leave.law": law.judge(market, kind, True, marks),
        "leave.glare": next(beam_findings.above(share, USUAL_SHARE)),
        "leave.aim": judging.judge(rule.target(HEIGHT_M), slope, DISTANCE_M, UnitSystem.METRIC),
    }
    stops = [key for key, finding in judged.items() if finding.level is Level.STOP]
    right = stops[0] if stops else "leave.fine"
    facts = (
        ("Driven in", market.name),
        ("Fitted", KINDS[kind] + (f", marked {marks}" if marks else "")),
        ("Above the cut-off", f"{say_percent(share, 1)} of the beam; {_usual()}"),
        ("Cut-off", f"{say_percent(slope, 2)}, lamp {HEIGHT_M:g} m high; keep {_keep(rule)}"),
    )
    return Exercise(
        posed,
        kinds()["leave"].ask,
        FactsShown(facts),
        (),
        tuple(AnswerOption(key, text, key) for key, text in REASONS.items()),
        frozenset({right}),
        why=_why(judged, stops),
    )


def _why(judged: dict[str, Finding], stops: list[str]) -> str:
    if not stops:
        return "; ".join(finding.text.rstrip(".") for finding in judged.values())
    finding = judged[stops[0]]
    return f"{finding.text} {finding.number}".strip()


def _usual() -> str:
    return f"{say_percent(USUAL_SHARE, 1)} with the nominal source"


def _keep(rule: AimRule) -> str:
    return rule.target(HEIGHT_M).keep.words


def _fitted(market: Market, luck: Random, unlawful: bool) -> tuple[str, str]:
    """A kind of part the market's rule stops, or lets go by its marks."""
    stopped = [kind for kind in KINDS if market.notes[kind].road == "no"]
    if unlawful:
        return luck.choice(stopped), ""
    return "assembly", MARKS[market.id]


def _slope(rule: AimRule, luck: Random, beyond: float, out: bool) -> float:
    """Where the cut-off stands: inside what the rule keeps, or out by a share of its width."""
    keep = rule.target(HEIGHT_M).keep
    low = keep.low if keep.low > -1 else keep.high - 0.02
    width = keep.high - low
    if not out:
        return round(low + width * luck.uniform(0.15, 0.85), 4)
    above = round(keep.high + beyond * width * 0.5, 4)
    return above if luck.random() < 0.5 or keep.low <= -1 else round(low - beyond * width * 0.5, 4)


def _share(luck: Random, beyond: float, dazzles: bool) -> float:
    """How much of the beam stands above the cut-off: plainly too much, or little."""
    limit = max(beam_findings.DAZZLE_SHARE, USUAL_SHARE + beam_findings.LITTLE_SHARE)
    return round(limit * (1 + beyond) if dazzles else luck.uniform(0.012, 0.028), 4)


def tell(posed: Posed) -> Exercise:
    """What is told: what the core's own finding says of the case, among what it says of others."""
    by_skill = {"tell.law": _tell_law, "tell.lens": _tell_lens, "tell.together": _tell_together}
    return by_skill[posed.skill](posed, posed.luck)


def _asked(
    posed: Posed,
    facts: tuple[tuple[str, str], ...],
    right: str,
    others: list[str],
    luck: Random,
) -> Exercise:
    """A question of statements: *right* among *others*, as many as the level has."""
    luck.shuffle(others)
    options, letter = lettered([right, *others[: 1 + posed.level]], right, luck)
    return Exercise(
        posed,
        kinds()["tell"].ask,
        FactsShown(facts),
        (),
        options,
        frozenset({letter}),
        why=right,
    )


def _tell_law(posed: Posed, luck: Random) -> Exercise:
    market = markets()[luck.choice(list(markets()))]
    kind = luck.choice(list(KINDS))
    right = _note(market, kind)
    others = {_note(other, part) for other in markets().values() for part in KINDS} - {right}
    facts = (("Driven in", market.name), ("To be fitted", KINDS[kind]))
    return _asked(posed, facts, right, sorted(others), luck)


def _note(market: Market, kind: str) -> str:
    return market.notes[kind].text


def _tell_lens(posed: Posed, luck: Random) -> Exercise:
    lens = luck.choice(("plastic", "plastic", "glass"))
    grade = luck.choice([grade for grade in HAZE_GRADES if grade])
    right = _lens_words(grade, lens)
    every = {_lens_words(other, kind) for other in HAZE_GRADES if other for kind in condition.LENS}
    facts = (("Lens", condition.LENS[lens]), ("State", HAZE_GRADES[grade]))
    return _asked(posed, facts, right, sorted(every - {right}), luck)


def _lens_words(grade: int, lens: str) -> str:
    """What the lens's own finding advises."""
    seen = UnitCondition(haze=grade, lens=lens)
    return next(
        finding.advice for finding in condition.findings(seen) if finding.number == f"grade {grade}"
    )


FUNCTIONS = ("low", "high", "fog", "drl", "turn", "position", "hazard")


def _tell_together(posed: Posed, luck: Random) -> Exercise:
    market = markets()[luck.choice(list(markets()))]
    asked = wanted(market.id, FUNCTIONS)
    right = luck.choice(asked).text
    texts = {interlock.text for interlock in asked}
    others = [
        other.text
        for other in interlocks().values()
        if "fog" in other.needs and not other.modes and other.text not in texts
    ]
    others += MYTHS_TOGETHER
    facts = (
        ("Driven in", market.name),
        ("It has", "low and high beam, fog lamps, daytime light, turn signals, position light"),
    )
    return _asked(posed, facts, right, others, luck)


# What is said in shops and is nowhere the rule (common practice, no published source).
MYTHS_TOGETHER = [
    "Fog lamps may be wired to flash with the turn signals",
    "Daytime light must stay at full light beside low beam",
    "The tell-tale for high beam may be left out where the light is white",
    "Position light goes out with low beam, to save the battery",
    "High beam on one side is enough, since LED is brighter",
    "Hazard flashes only with the key on",
]
