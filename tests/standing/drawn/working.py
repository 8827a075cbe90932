"""Ways in, nights, faults and days of work drawn: composed, chosen, timed, proved, asked about."""

from __future__ import annotations

import datetime as dt
from dataclasses import replace
from random import Random

from cold_arc.core.car import bases
from cold_arc.core.car.keys import UnitKey
from cold_arc.core.car.lamps import Holds, Side
from cold_arc.core.law import markets
from cold_arc.core.work import (
    access,
    choosing,
    clocking,
    composing,
    dark,
    diagnosis,
    extras,
    fitting,
    interlocks,
    learning,
    offering,
    proof,
    schedule,
    seating,
    when,
)
from cold_arc.core.work.tick import Tick, TickKind
from tests.standing.drawn import Answers, between, some
from tests.standing.drawn.matching import condition, setting, source

PLACES = (
    dark.ShopPlace(52.5, 13.4, "Europe/Berlin"),
    dark.ShopPlace(69.6, 18.9, "Europe/Oslo"),
    dark.ShopPlace(-41.3, 174.8, "Pacific/Auckland"),
    dark.ShopPlace(1.9, -157.4, "Pacific/Kiritimati"),
)


def answers() -> Answers:
    """Everything the work is asked."""
    random = Random(17)
    yield from _nights()
    yield from _fitted(random)
    yield from _ways(random)
    yield from _days(random)
    yield from _faults(random)
    yield from _proved(random)
    yield from _seats(random)
    yield from _of_each_side(Random(18))
    yield "extras", [extras.extras(), extras.fit_minutes(), extras.renew_minutes()]
    yield "minutes", [extras.cure_minutes(), extras.stage_minutes(), access.caution_names()]


def _nights() -> Answers:
    for place in PLACES:
        for day in (dt.date(2026, month, 21) for month in range(1, 13)):
            noon = dt.datetime.combine(day, dt.time(12, 5), dt.UTC)
            night = dark.night(place, day)
            minutes = [at and round(at.timestamp() / 60) for at in (night.dusk, night.dawn)]
            yield (
                f"night {place.zone} {day}",
                [
                    [minutes, night.always_dark],
                    [dark.is_dark(place, noon), dark.say_dark(place, False, noon)],
                    when.dark_from(place, False, day),
                ],
            )
    yield (
        "dark bay",
        [dark.say_dark(None, bay, dt.datetime(2026, 3, 1, 12, tzinfo=dt.UTC)) for bay in (0, 1)],
    )
    yield "dark from", [when.dark_from(None, bay, dt.date(2026, 3, 1)) for bay in (False, True)]
    years = [dt.date(year, 6, 1) for year in (1999, 2000, 2100, 2101)]
    yield "planned", [when.is_planned(day) for day in years]


def _fitted(random: Random) -> Answers:
    for number in range(80):
        lamp, seen = setting(random), some(random, condition(random), None)
        bulb = some(random, source(random, lamp.base.name if lamp.base else ""), None)
        over = random.sample(["cap", "boot", "door"], random.randint(0, 2))
        yield (
            f"fit {number}",
            [
                sorted(fitting.tags(lamp.socket, seen, bulb, over)),
                [[step.id, step.text] for step in fitting.steps(lamp.socket, seen, bulb, over)],
                fitting.seat_of(lamp.base),
            ],
        )
    for kind in TickKind:
        for step in fitting.all_steps():
            tick = Tick.of(kind, step.id)
            yield (
                f"tick {tick}",
                [
                    [tick.kind, tick.name, tick.part],
                    [fitting.disturbance(tick), fitting.puts_in(tick)],
                ],
            )
    yield "covers", fitting.cover_checks()
    rings = (None, 2.0, 2.4, 2.5, 2.8)
    yield "o-ring", [fitting.o_ring_fault(one, other) for one in rings for other in rings]


def _some_ways(random: Random) -> dict[UnitKey, tuple[access.RouteStep, ...]]:
    known = access.starter_ways()
    units = [UnitKey(name, side) for name in ("headlamp", "foglamp") for side in Side]
    return {
        unit: some(random, random.choice(known).steps, random.choice(known).steps, ())
        for unit in random.sample(units, random.randint(1, 4))
    }


def _ways(random: Random) -> Answers:
    for way in access.starter_ways():
        steps = way.steps
        yield (
            f"way {way.name} {way.unit}",
            [
                [[step.text, step.closing_words, step.comes_back, step.held] for step in steps],
                [[group.words for group in step.fasteners] for step in steps],
                [access.minutes_one_side(steps), access.minutes_both(steps), access.tools(steps)],
                [access.stands_behind(steps, number) for number in range(len(steps))],
                [[s.id for s in access.moved(steps, steps[-1].id, by)] for by in (-1, -2, 1)],
                [s.id for s in access.in_order(steps[::-1])],
                [s.id for s in access.renumbered(steps, 40)],
                [access.still_off(step) for step in steps],
                [access.said_for(step, {step.opens: "ring"}).text for step in steps],
            ],
        )
    for number in range(40):
        ways = _some_ways(random)
        plan = composing.compose(ways)
        yield (
            f"plan {number}",
            [
                [
                    [o.step.text, o.place, o.units, o.minutes, o.ids, o.owners]
                    for o in plan.openings
                ],
                [plan.minutes, plan.one_by_one, plan.tools, plan.people, plan.risk, plan.plugs],
                [plan.fasteners, plan.spares, [o.step.id for o in plan.closing]],
            ],
        )
        tried = _some_ways(random)
        yield f"adds {number}", composing.added_by(ways, tried)
        yield from _offered(random, number, ways)


def _offered(random: Random, number: int, ways) -> Answers:  # type: ignore[no-untyped-def]
    done = [
        learning.Done(
            learning.part_of(step),
            step.minutes,
            some(random, step.minutes * 1.5, None),
            random.randint(0, 6),
            random.randint(0, 2),
        )
        for steps in ways.values()
        for step in steps
    ]
    learnt = learning.learnt(done)
    yield (
        f"learnt {number}",
        [
            [learnt, [known.minutes(8.0) for known in learnt.values()]],
            [known.spare_share(0.2) for known in learnt.values()],
            [[s.minutes for s in learning.with_learnt(steps, learnt)] for steps in ways.values()],
            composing.compose(ways).spares_with({p: k.spare_share for p, k in learnt.items()}),
        ],
    )
    units = [UnitKey("headlamp", side) for side in Side]
    prefers = some(random, "time", "risk")
    ground = offering.Ground(units, ways, learnt, prefers)
    known = [
        offering.KnownWay(way.name, way.name, way.steps, way.note, way.side)
        for way in random.sample(access.starter_ways(), 4)
    ]
    known += [replace(known[0], value=side, side=side) for side in ("left", "right")]
    offers = [ground.offer(way) for way in known]
    yield (
        f"offers {number}",
        [
            [[offer.cost, offer.cost.risk, offer.one_side] for offer in offers],
            [[offer.way.value, offer.why, offer.cost.adds] for offer in ground.proposed(offers)],
            choosing.propose([offer.cost for offer in offers], prefers),
        ],
    )


def _of_each_side(random: Random) -> Answers:
    """Several ways of one side each, for a pair of lamps and for one alone."""
    for number in range(20):
        steps = [way.steps for way in random.sample(access.starter_ways(), 4)]
        ways = {UnitKey("headlamp", side): each for side, each in zip(Side, steps, strict=False)}
        for units in (list(ways), list(ways)[:1]):
            ground = offering.Ground(units, ways, {}, some(random, "time", "risk"))
            known = [
                offering.KnownWay(f"{side}-{place}", f"way {place}", each, "", side.value)
                for place, (side, each) in enumerate(zip([*Side, *Side], steps, strict=True))
            ]
            offers = [ground.offer(way) for way in known]
            best = [[offer.way.value, offer.why] for offer in ground.proposed(offers)]
            yield f"each side {number} {len(units)}", best


def _days(random: Random) -> Answers:
    for number in range(40):
        tasks = [
            schedule.Task(
                f"t{place}",
                "Do",
                between(random, 3, 40, 0),
                some(random, 1, 2),
                some(random, 0.0, 60.0),
                tuple(f"t{before}" for before in range(place) if random.random() < 0.3),
                tuple(f"t{before}" for before in range(place) if random.random() < 0.1),
                random.random() < 0.2,
            )
            for place in range(random.randint(1, 8))
        ]
        for people in (2, 3):
            slots = schedule.schedule(tasks, people, some(random, 0.0, 120.0))
            yield (
                f"day {number} {people}",
                [
                    [[slot.task.id, slot.start, slot.by, slot.end, slot.cured] for slot in slots],
                    [schedule.ends(slots), schedule.hands(slots)],
                ],
            )
        visits = [
            when.Visit(
                f"v{car}",
                between(random, 480, 900, 0),
                between(random, 20, 200, 0),
                some(random, 20.0, 0.0),
                some(random, 1, 2),
            )
            for car in range(random.randint(1, 4))
        ]
        down = some(random, 990.0, 0.0)
        yield (
            f"visits {number}",
            [
                when.line_up(visits, down),
                when.too_many(visits, down, 2),
                [[v.ready, v.wall_from(down), v.ends(down)] for v in visits],
                when.best_start(between(random, 10, 500, 0), some(random, None, 0.0, 990.0)),
            ],
        )


def _faults(random: Random) -> Answers:
    known = diagnosis.faults()
    for symptom in known.symptoms:
        case = diagnosis.Case(symptom)
        for step in range(4):
            promised = diagnosis.promises(case)
            yield (
                f"fault {symptom} {step}",
                [
                    diagnosis.beliefs(case),
                    [[each.test.id, each.bits, each.settles, each.rate] for each in promised],
                    [diagnosis.left(case), diagnosis.verdict(case), case.minutes],
                ],
            )
            if not promised:
                break
            test = promised[0].test
            case = case.answered(test.id, random.randrange(len(test.answers)))
        tried = replace(case, tried=tuple(random.sample(sorted(known.causes), 1)))
        yield f"fault {symptom} tried", [diagnosis.beliefs(tried), diagnosis.verdict(tried)]


def _proved(random: Random) -> Answers:
    cells = proof.cells(proof.FUNCTIONS)
    yield "cells", [cell.words for cell in cells]
    yield "next", [proof.next_result(now) for now in (None, *proof.RESULTS)]
    for number in range(20):
        marked = {cell: random.choice(list(proof.RESULTS)) for cell in random.sample(cells, 6)}
        yield (
            f"proved {number}",
            [
                list(proof.findings(marked)),
                len(proof.untested(cells, marked)),
            ],
        )
    for name in ("H7", "H4", "W5W", "P21W", "P21/5W", "S2", "D2S", "PAR46", None):
        base = bases.find(name) if name else None
        yield (
            f"turning {name}",
            [proof.turning(base, holds, kills) for holds in Holds for kills in (False, True)],
        )
    for market in markets():
        functions = ["low", "high", "fog", "drl", "turn"]
        there = interlocks.wanted(market, functions, ["switchback"])
        yield (
            f"interlocks {market}",
            [
                [each.id for each in there],
                [each.id for each in interlocks.wanted(market, functions[:1])],
                interlocks.findings({each.id: random.random() < 0.5 for each in there}),
            ],
        )


def _seats(random: Random) -> Answers:
    for number in range(40):
        stopped, again = between(random, -200, 200, 0), between(random, -25, 25, 0)
        first = clocking.preset(stopped, some(random, 1, 2, 3))
        yield (
            f"clocking {number}",
            [first, first.finding, clocking.second_reading(first, clocking.preset(again))],
        )
        base = bases.find(some(random, "H7", "H4", "H11", "D2S", "W5W"))
        assert base is not None
        in_projector = random.random() < 0.4
        depth = between(random, -2, 2)
        yield (
            f"seated {number}",
            [
                seating.seated(depth, base, in_projector),
                seating.emitters_at(25.0 + depth, base, in_projector, "Off.", "Far.")
                if base.lcl_mm
                else None,
            ],
        )
