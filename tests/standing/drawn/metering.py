"""Readings drawn: compared, doubted, joined, searched, let warm up, tried in turns."""

from __future__ import annotations

from dataclasses import replace
from random import Random

from cold_arc.core.beam.report import beam_of
from cold_arc.core.beam.setup import SetUp
from cold_arc.core.car.lamps import Function, Traffic
from cold_arc.core.metering import (
    by_eye,
    comparing,
    differing,
    meaning,
    peak,
    readings,
    shoot_out,
    slips,
    uncertainty,
    warming,
)
from cold_arc.core.metering.differing import SourceChange
from cold_arc.core.metering.meters import meters
from cold_arc.core.metering.raster import RasterError, raster
from cold_arc.core.metering.readings import LENSES, WallReading
from tests.standing.drawn import Answers, between, some
from tests.standing.plainly import Fitted

COUNT = 40
BEAMS = (Function.LOW, Function.HIGH, Function.FOG)
METERS = sorted(set(meters()) - {"simulated"})


def reading(random: Random, point: str, lux: float) -> WallReading:
    """One place read, mostly as it should be."""
    repeats = some(random, 1, 2, 3, 6)
    return WallReading(
        point,
        round(lux, 1),
        some(random, 10.0, 7.62, 7.65, 2.5, 25.0),
        some(random, 13.2, 13.3, 12.4, 13.5, 10.2),
        ambient_lx=some(random, 0.0, 0.3, 1.4, lux * 0.2),
        range_factor=some(random, 1.0, 10.0, 100.0),
        across_m=some(random, 0.0, 0.3, -1.1),
        drop_m=some(random, 0.0, 0.2, -0.1),
        settled=random.random() < 0.9,
        meter=some(random, "", *meters()),
        wall=some(random, "", "Bay 1", "Bay 2"),
        height_m=some(random, None, 0.64, 0.7),
        lens=some(random, "found", *LENSES) if random.random() < 0.3 else "found",
        other_lamp=random.random() < 0.1,
        repeats=repeats,
        spread=between(random, 0, 0.1, 3) if repeats > 1 else None,
    )


def taken(random: Random, scale: float = 1.0) -> dict[str, WallReading]:
    """The places of one beam."""
    usual = {"peak": 210.0, "edge": 120.0, "below": 90.0, "left": 40.0, "right": 60.0, "stray": 3.0}
    kept = [name for name in usual if random.random() < 0.9]
    jitter = {name: scale * usual[name] * between(random, 0.8, 1.2) for name in kept}
    return {name: reading(random, name, lux) for name, lux in jitter.items()}


def change(random: Random) -> SourceChange:
    """What changed between before and after."""
    return SourceChange(
        random.random() < 0.7,
        random.random() < 0.2,
        some(random, *BEAMS),
        random.random() < 0.8,
        random.random() < 0.8,
    )


def answers() -> Answers:
    """Everything readings are asked."""
    yield from _of_places()
    random = Random(11)
    for number in range(COUNT):
        before = taken(random)
        after = taken(random, between(random, 0.6, 4.0))
        changed = change(random)
        yield from _pair(number, before, after, changed)
        yield from _alone(number, before, changed.function)
        yield (
            f"slips {number}",
            slips.slips(
                before, slips.KnownBeam(None, changed.function, volts=some(random, None, 13.2))
            ),
        )
        yield from _turns(random, number, changed)
    yield from _warming(random)
    yield from _patches(random)
    yield from _searched(random)
    yield from _rasters(random)


def _of_places() -> Answers:
    for function in BEAMS:
        yield f"points {function}", [readings.points(function), readings.needed(function)]
        for traffic in Traffic:
            for point in (*readings.POINTS, "free-3"):
                yield (
                    f"place {function} {traffic} {point}",
                    [
                        readings.direction(point, traffic, function),
                        readings.place(point, 10.0, traffic, function),
                        readings.unread_place(point, 7.62, function),
                        readings.words(point, function),
                    ],
                )
    names = ("peak", "free-1", "free-0", "free-123456", "elbow", "")
    yield "is a point", [readings.is_point(name) for name in names]
    for name, kind in meters().items():
        yield f"meter {name}", [kind, [kind.full_scale_lx(factor) for factor in (1, 10, 100)]]
    yield "few readings", [uncertainty.few_readings(count) for count in range(1, 30)]
    yield "differs", [differing.differs(13.2, 13.2 + step, 0.2) for step in (0.1, 0.2, 0.201)]
    for stray in (0.0, 40.0, 250.0, 625.0, 1400.0, 9000.0):
        yield f"at the eye {stray}", [meaning.at_the_eye(stray), meaning.at_the_eye(stray).word]
        yield f"reach {stray}", [meaning.reach_m(stray, limit) for limit in (0.25, 1.0, 3.0)]


def _pair(number, before, after, changed) -> Answers:  # type: ignore[no-untyped-def]
    compared = comparing.compare(before, after, changed)
    yield f"compare {number}", [compared, compared.verdict, compared.overall]
    yield f"gains {number}", [_said(gain) for gain in compared.gains.values()]
    both = sorted(set(before) & set(after))
    pairs = [(before[name], after[name]) for name in both]
    yield f"refusal {number}", differing.refusal(pairs, changed)
    yield f"differences {number}", list(differing.differences(pairs, changed))
    if both:
        one, other = before[both[0]], after[both[0]]
        yield f"gain {number}", comparing.gain(one, other, changed)
        yield f"balance {number}", comparing.balance(one, other, changed.function)
        yield f"breaks {number}", shoot_out.breaks(one, other)
    overall = compared.overall
    ratio = overall.ratio if overall else None
    yield (
        f"lumens {number}",
        [
            meaning.lumens_finding(ratio, 0.1, lumens, claimed)
            for lumens in (None, 1500.0)
            for claimed in (1400.0, 3000.0, 6000.0)
        ],
    )


def _said(gain: comparing.Gain) -> list[object]:
    said = comparing.say_gain(gain)
    return [gain.relative, gain.ratio, gain.uncertainty, gain.verdict, said, gain.budget.largest]


def _alone(number: int, before, function: Function) -> Answers:  # type: ignore[no-untyped-def]
    for name, each in before.items():
        doubted = uncertainty.of_reading(each, True, function)
        yield (
            f"reading {number} {name}",
            [
                [each.net_lux, each.candela, each.candela_at(13.2, True), each.is_simulated],
                [doubted.standard, doubted.expanded, doubted.largest, doubted.of(True)],
                [uncertainty.fall_off(each, function), uncertainty.display_step_lx(each)],
                [readings.least_stray_cd(each), readings.held_at(each, 10.0, function)],
                readings.reading_findings(each),
            ],
        )
        again = [each, replace(each, lux=each.lux * 1.03), replace(each, lux=each.lux * 0.99)]
        other = replace(each, volts=each.volts + 1, lux=each.lux * 2)
        orders = (again[:2], again, again[::-1], [other, *again], [*again, other])
        yield f"joined {number} {name}", list(map(readings.joined, orders))
    yield f"glare {number}", meaning.glare_finding(before.get("stray"))
    for yardstick in ("un-r112", "un-r19-f3", "us-108"):
        try:
            yield (
                f"nearest {number} {yardstick}",
                [meaning.by_nearest(before, yardstick, traffic) for traffic in Traffic],
            )
        except KeyError as error:
            yield f"nearest {number} {yardstick}", str(error)
    yield f"volts {number}", slips.usual_volts(before.values())


def _turns(random: Random, number: int, changed: SourceChange) -> Answers:
    names = ["own", "Alpha", "Beta", "Gamma", "own"][: random.randint(2, 5)]
    turns = [
        shoot_out.SourceTurn(
            name, {place: _same_protocol(each) for place, each in taken(random, scale).items()}
        )
        for name, scale in zip(names, (1.0, 1.9, 1.85, 2.6, 1.04), strict=False)
    ]
    shaped = some(random, None, {"peak": 21_000.0, "edge": 12_000.0, "below": 9_000.0})
    result = shoot_out.shoot_out(turns, changed, shaped)
    yield f"shoot-out {number}", result
    if result is not None:
        pairs = shoot_out.any_two(result)
        yield f"any two {number}", [pairs, [pair.differs for pair in pairs]]
        yield f"of a shoot-out {number}", shoot_out.shoot_out_findings(result)
        yield f"for whom {number}", shoot_out.for_whom(result, some(random, None, result))
        yield f"drift {number}", shoot_out.say_drift(result.drift)


def _same_protocol(each: WallReading) -> WallReading:
    lens, settled = "found", True
    return replace(each, distance_m=10.0, meter="b", lens=lens, other_lamp=False, settled=settled)


def _warming(random: Random) -> Answers:
    for number in range(40):
        fast, slow = between(random, -0.1, 0.2), some(random, 0.0, 0.1, -0.05)
        tau_fast, tau_slow = between(random, 6, 40, 0), between(random, 90, 280, 0)
        last, step = between(random, 25, 500, 0), some(random, 2.0, 5.0)
        times = [step * count for count in range(1, int(last / step))]
        light = [
            round(
                300 * (1 + fast * 2.71828 ** (-t / tau_fast) + slow * 2.71828 ** (-t / tau_slow))
                + random.gauss(0, 0.4),
                1,
            )
            for t in times
        ]
        run = warming.warm_up(list(zip(times, light, strict=True)))
        yield (
            f"warm-up {number}",
            run
            and [
                *map(Fitted, (run.cold_lx, run.settled_lx, run.fade, run.progress)),
                run.settled,
                [finding.id for finding in warming.warm_up_findings(run)],
            ],
        )


def _patches(random: Random) -> Answers:
    for number in range(15):
        sources = ["own", "Alpha", "Beta"][: random.randint(1, 3)]
        patches = {
            name: [
                by_eye.Patch(
                    some(random, *by_eye.LOOKS),
                    some(random, 3.0, 4.5, -6.0, 5.1, -0.5, 0.0),
                    some(random, -2.0, -3.9, 1.0, -0.5, 0.0),
                )
                for _ in range(random.randint(0, 3))
            ]
            for name in sources
        }
        yield (
            f"patches {number}",
            [
                by_eye.patch_findings(patches),
                [[patch.words for patch in each] for each in patches.values()],
            ],
        )


def _searched(random: Random) -> Answers:
    likeness = peak.Likeness(beam_of(SetUp("reflector", "H7")))
    yield "hot spot", [*likeness.peak, likeness.flat_deg]
    at = [(0.0, -1.3), (1.0, -1.3), (0.5, -0.9), (1.8, -1.6), (-0.5, -2.0)]
    light = [between(random, 9000, 21_000, 0) for _ in at]
    read = [peak.Taken(*where, candela) for where, candela in zip(at, light, strict=True)]
    for count in range(len(read) + 1):
        looked = peak.search(likeness, read[:count])
        yield (
            f"search {count}",
            [
                *map(Fitted, (looked.h_deg, looked.v_deg, looked.sure_deg)),
                looked.found,
            ],
        )
    for number in range(24):
        before = {name: _same_protocol(each) for name, each in taken(random).items()}
        turned = {
            name: replace(each, lux=round(each.lux * some(random, 1.0, 10.0, 0.1), 2))
            for name, each in before.items()
        }
        if random.random() < 0.3 and {"left", "right"} <= turned.keys():
            left, right = turned["left"].lux, turned["right"].lux
            turned["left"] = replace(turned["left"], lux=right)
            turned["right"] = replace(turned["right"], lux=left)
        known = slips.KnownBeam(likeness, Function.LOW, volts=13.2)
        yield f"slips of a known beam {number}", slips.slips(turned, known)


def _rasters(random: Random) -> Answers:
    for count in (5, 9, 25):
        read = tuple(
            replace(
                reading(random, f"free-{place + 1}", between(random, 5, 200, 0)),
                across_m=-1.0 + 0.5 * (place % 5),
                drop_m=0.1 * (place // 5),
                distance_m=10.0,
            )
            for place in range(count)
        )
        try:
            rastered = raster(read)
            yield (
                f"raster {count}",
                [
                    [rastered, rastered.peak, rastered.frame, rastered.count],
                    [rastered.holds(h, v) for h, v in ((0.0, -1.0), (8.0, 0.0), (0.0, 1.0))],
                    rastered.nearest(1.0, -1.0),
                    meaning.by_raster(rastered, "un-r112"),
                    rastered.beam().intensity if count > 10 else None,
                ],
            )
        except RasterError as error:
            yield f"raster {count}", str(error)
