"""Lamps drawn at every height and slope: judged by every rule, taped, turned by their screws."""

from __future__ import annotations

from dataclasses import replace
from random import Random

from cold_arc.core.aim import adjusters, combined, judging, rims, rules, shop_rules, taping
from cold_arc.core.aim.rules import OutsideRuleError
from cold_arc.core.car.lamps import Function, Side
from cold_arc.core.law import markets
from cold_arc.core.units import UnitSystem
from tests.standing.drawn import Answers, between, some

HEIGHTS = (0.3, 0.5, 0.559, 0.6, 0.79, 0.8, 0.805, 0.85, 0.86, 0.9, 0.91, 0.914, 0.95, 0.99, 1.0)
HIGHER = (1.01, 1.2, 1.22, 1.3, 1.37, 1.4)
SLOPES = (-0.04, -0.026, -0.02, -0.0125, -0.01, -0.005, -0.0049, 0.0, 0.008, 0.02)
MARKS = (None, -0.01, -0.013, -0.02, -0.03)


def answers() -> Answers:
    """Everything aim is asked."""
    for name, rule in rules.built_in().items():
        yield from _of_rule(name, rule)
    for market in markets():
        for function in Function:
            found = [rule.id for rule in rules.rules_for(market, function)]
            yield f"rules {market} {function}", found
    random = Random(13)
    for number in range(60):
        yield from _floor(random, number)
        yield from _together(random, number)
    for number in range(140):
        yield from _screws(random, number)
    for number in range(30):
        yield from _of_rims(random, number)
        yield from _of_shop(random, number)


def _target(rule: rules.AimRule, height: float, mark: float | None) -> object:
    try:
        target = rules.target_for(rule, height, mark)
    except OutsideRuleError as error:
        return str(error)
    bands = [target.keep, target.set, target.sideways]
    return [bands, target.nominal, [band and [band.words, band.middle] for band in bands]]


def _of_rule(name: str, rule: rules.AimRule) -> Answers:
    yield f"rule {name}", [rule, [band.upto_m for band in rule.bands]]
    for height in (*HEIGHTS, *HIGHER):
        yield f"{name} at {height}", [_target(rule, height, mark) for mark in MARKS]
        yield f"{name} steeper at {height}", rules.steeper_target(rule, height)
        yield f"{name} words at {height}", [judging.height_words(rule, height, m) for m in MARKS]
    target = rule.bands[0].target
    for system in UnitSystem:
        for slope in SLOPES:
            yield (
                f"{name} {system} {slope}",
                [
                    judging.judge(target, slope, 7.62, system),
                    judging.judge_sideways(target, slope, 10.0, system),
                    judging.parallel(slope, -0.01, 10.0, system),
                    [target.keep.excess(slope), target.sideways_excess(slope)],
                ],
            )
    yield f"{name} marked", [judging.mark_used(mark, rule.sources) for mark in MARKS]
    yield f"{name} simulated", [judging.simulated_words(so) for so in (True, False)]


def _floor(random: Random, number: int) -> Answers:
    floor = taping.Floor(
        rear_m=between(random, -0.02, 0.02, 3),
        front_m=between(random, -0.02, 0.02, 3),
        wall_m=between(random, -0.02, 0.02, 3),
        rear_right_m=some(random, None, 0.012),
        front_right_m=some(random, None, -0.004),
        wall_right_m=some(random, None, 0.02),
    )
    if random.random() < 0.3:
        floor = taping.LEVEL
    spacing = some(random, 1.2, None)
    target = rules.built_in()[random.choice(list(rules.built_in()))].bands[0].target
    lamps = {side: taping.TapedLamp(between(random, 0.5, 1.1), target) for side in Side}
    if random.random() < 0.3:
        lamps.pop(Side.LEFT)
    yield (
        f"floor {number}",
        [
            [floor.pitch, floor.lean, floor.twist_m, floor.level, floor.by_side],
            [floor.at_lamp_m(0.6), floor.at_wall_m(-0.6)],
            list(taping.floor_findings(floor)),
            [taping.height_on_wall_m(0.65, slope, 10.0, floor, 0.6) for slope in SLOPES[:4]],
            [taping.lamp_right_m(side, spacing) for side in Side],
        ],
    )
    for system in UnitSystem:
        tapes = taping.taping(lamps, spacing, some(random, 10.0, 7.62), system, floor)
        yield f"tape {number} {system}", list(tapes)


def _together(random: Random, number: int) -> Answers:
    known = list(rules.built_in().values())
    low, high = (
        combined.Stands(between(random, -0.03, 0.01, 4), random.choice(known).bands[0].target)
        for _ in range(2)
    )
    both = combined.moves(low, high)
    yield (
        f"together {number}",
        [
            [low.room, high.room, both],
            both and combined.best_move(low, both),
            combined.judge_together(low, high, 10.0, some(random, *UnitSystem)),
            combined.second_to_low(judging.judge(low.target, low.slope, 10.0, UnitSystem.METRIC)),
        ],
    )


def _screws(random: Random, number: int) -> Answers:
    """Screws with play, coupled, dead or near their end, turned a few times and read."""
    does = [some(random, 0.004, 0.008, 0.0), some(random, 0.0005, 0.002, 0.0)]
    moves = []
    for _ in range(random.randint(1, 6)):
        turns = [some(random, 0.0, 1.0, -1.5, 0.5, 3.0, 9.0, -12.0) for _ in range(2)]
        up = does[0] * turns[0] + does[1] * turns[1] + random.gauss(0, 2e-4)
        right = 0.004 * turns[1] + random.gauss(0, 2e-4)
        read = some(random, round(right, 5), None)
        goes_on = random.random() < 0.9
        moves.append(adjusters.Move((turns[0], turns[1]), round(up, 5), read, goes_on))
    response = adjusters.fit(moves)
    up, right = between(random, -0.02, 0.02, 4), some(random, None, 0.003)
    turned = adjusters.next_turns(response, up, right)
    target = rules.built_in()["un-r48-low"].bands[0].target
    yield (
        f"screws {number}",
        [
            [[axis.does, axis.sd, axis.off, axis.scatter] for axis in response.axes],
            [response.tried, response.net, response.way],
            [[response.is_known(screw), response.is_dead(screw)] for screw in (0, 1)],
            [[turn, turn.in_all, turn.words] for turn in turned],
            adjusters.advice(moves, target, up, right),
            [move.along(screw) for move in moves for screw in (0, 1)],
        ],
    )
    yield f"turns {number}", adjusters.say_turns(between(random, -4, 4, 3))


def _of_rims(random: Random, number: int) -> Answers:
    stands = {
        side: rims.Rim(
            between(random, 0, 6, 1),
            between(random, 0, 6, 1),
            some(random, 178.0, 110.0),
            some(random, *rims.BUBBLES),
        )
        for side in Side
    }
    yield f"rims {number}", [rims.rim_findings(stands), [r.toe_out_deg for r in stands.values()]]


def _of_shop(random: Random, number: int) -> Answers:
    rule = random.choice(list(rules.built_in().values()))
    copied = shop_rules.copy_of(rule)
    first = copied.bands[0]
    band = replace(
        first,
        set_low=some(random, first.set_low, -0.02, -0.11, 0.01),
        keep_low=some(random, first.keep_low, None, -0.03),
        upto_m=some(random, first.upto_m, 0.8, None),
    )
    bands = some(random, (band, *copied.bands[1:]), (band,), (), (band,) * 7)
    sideways = some(random, copied.sideways, (0.01, -0.01), (-0.02, 0.02))
    own = replace(copied, bands=bands, sideways=sideways, name=some(random, "Ours", " "))
    try:
        own.check()
        yield f"shop's rule {number}", [copied, own.as_rule("own")]
    except shop_rules.ShopRuleError as error:
        yield f"shop's rule {number}", [copied, str(error), error.band]
