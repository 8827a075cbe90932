"""Sources drawn for sockets drawn: judged, ranked, offered as ways to go."""

from __future__ import annotations

from dataclasses import replace
from random import Random

from cold_arc.core.car import bases
from cold_arc.core.car.bases import MeasuredBulb
from cold_arc.core.car.condition import FINISHES, UnitCondition, Verdict
from cold_arc.core.car.front import Socket
from cold_arc.core.car.keys import SocketKey
from cold_arc.core.car.lamps import Function, Holds, Optic, Present, Side, Traffic
from cold_arc.core.electrical import FEEDS, SupplyFacts
from cold_arc.core.law import markets
from cold_arc.core.light.filters import CLEAR, TINTS
from cold_arc.core.light_source import CHOICES, LISTS, LightSource
from cold_arc.core.match import (
    Setting,
    choice,
    doubt,
    experience,
    heat,
    judge,
    light,
    modelled,
    needs_override,
    options,
    prediction,
    weighing,
)
from cold_arc.core.match.prediction import Outlook, Prediction, Sensitivity, Try
from cold_arc.core.match.ranking import CRITERIA, Judged, rank, score
from tests.standing.drawn import Answers, between, some

COUNT, FIELD = 120, 6
FUNCTIONS = {
    "single": [(Function.LOW,), (Function.HIGH,), (Function.FOG,), (Function.DRL,)],
    "dual": [(Function.LOW, Function.HIGH)],
    "signal": [(Function.TURN,), (Function.POSITION,), (Function.DRL,)],
}
WELL_KNOWN = ("H7", "H4", "H11", "D2S", "D1S", "9005", "W5W", "PY21W", "H1", "P21/5W", "S2")


def source(random: Random, base: str) -> LightSource:
    """A light source for a base."""
    kind = some(random, "bulb", *CHOICES["kind"])
    watts = between(random, 2, 60, 1)
    picked = {name: some(random, *CHOICES[name]) for name in CHOICES if name != "kind"}
    gives = random.sample(sorted(LISTS["functions"]), random.randint(0, 3))
    return LightSource(
        name=f"Drawn {random.randint(1, 999)}",
        kind=kind,
        base=some(random, base, "H7", "") if kind != "assembly" else "",
        watts=watts,
        claimed_lm=between(random, 30 * watts, 240 * watts, 0),
        supply_min_v=some(random, 9.0, 5.0, 11.5, 18.0),
        supply_max_v=some(random, 16.0, 32.0, 13.0),
        price=between(random, 5, 400, 0),
        cct_k=some(random, 6000.0, None, 3000.0, 4300.0, 8000.0),
        chroma_x=some(random, None, 0.32, 0.48),
        chroma_y=some(random, None, 0.33, 0.47),
        faces=some(random, 2, None, 1, 3, 4),
        gap_mm=some(random, 1.5, None, 0.2, 2.2, 3.0, 4.5),
        width_mm=some(random, 1.5, None, 3.0),
        emitter_mm=some(random, 4.5, None, 2.0, 8.0),
        lcl_mm=some(random, 25.0, None, 23.5, 24.6, 26.8, 31.0),
        off_axis_mm=some(random, 0.1, None, -0.4, 1.1),
        rows=some(random, 1, 2),
        dip_shield=random.random() < 0.4,
        tail_mm=some(random, 40.0, None, 25.0, 55.0, 70.0),
        tail_width_mm=some(random, 36.0, None, 44.0, 58.0),
        plug=some(random, "", base, "2-pin"),
        adapters=some(random, (), ("H11",), (base,)),
        ip=some(random, None, 20, 54, 67),
        earth_insulated=random.random() < 0.3,
        monitor_proof=random.random() < 0.5,
        pwm_proof=random.random() < 0.5,
        warranty_years=some(random, 2.0, 0.0, 5.0),
        life_h=some(random, None, 20_000.0),
        approval=some(random, "", "E9 drawn"),
        functions=tuple(gives),
        modes=tuple(random.sample(sorted(LISTS["modes"]), random.randint(0, 2))),
        coding=random.random() < 0.2,
        connectors=some(random, "", "2-pin"),
        marks_at=some(random, "", "on the rim"),
        **picked,
    )


def supply(random: Random) -> SupplyFacts:
    """What is known of a feed."""
    return SupplyFacts(
        monitored_w=some(random, None, 5.0, 21.0, 40.0),
        pwm_hz=some(random, None, 100.0, 200.0),
        pwm_duty=some(random, None, 0.4, 0.9, 1.0),
        run_m=some(random, None, 2.5, 6.0),
        wire_mm2=some(random, None, 0.75, 2.5),
        feed_at=some(random, "", "in", "out"),
        feed_volts=some(random, None, 3.0, 12.4, 85.0),
        slot=some(random, "", "switched", "live"),
        tap_loads=some(random, None, 1, 2),
        fuse_a=some(random, None, 5.0, 15.0),
        resistor_on=some(random, "", "metal", "plastic"),
        feed_for=some(random, "", *FEEDS),
        feed_w=some(random, None, 5.0, 18.0),
        slot_a=some(random, None, 5.0, 20.0),
    )


def condition(random: Random) -> UnitCondition:
    """A unit as it was looked at."""
    return UnitCondition(
        haze=some(random, 0, 1, 2, 3),
        condensation=some(random, "none", "mist", "drops"),
        crack=some(random, "none", "lens"),
        mirror=some(random, "good", "dull", "peeling"),
        seating=some(random, "firm", "wobble", "broken-tab"),
        strip_dead=random.random() < 0.1,
        room_mm=some(random, 60.0, None, 38.0, 42.0, 90.0),
        opening_mm=some(random, 60.0, None, 38.0, 50.0),
        patient=random.random() < 0.3,
        replacement_price=some(random, None, 80.0, 420.0),
        labour_rate=some(random, 60.0, None),
        lens=some(random, "plastic", "glass"),
        opened=random.random() < 0.1,
        tint=some(random, CLEAR, *TINTS),
        finish=some(random, "", *FINISHES),
    )


def setting(random: Random) -> Setting:
    """A socket in its unit and its car."""
    base = bases.find(some(random, *WELL_KNOWN))
    assert base is not None
    what = random.choice(FUNCTIONS.get(base.beams, FUNCTIONS["single"]))
    holds = some(random, Holds.BULB, *Holds) if random.random() < 0.4 else Holds.BULB
    side = some(random, *Side)
    present = Present.HID if base.kind == "hid" else some(random, Present.HALOGEN, *Present)
    socket = Socket(
        SocketKey("headlamp", 1, side),
        what,
        some(random, Optic.REFLECTOR, *Optic),
        base.name if holds is Holds.BULB else None,
        present,
        holds,
        plug=some(random, "", "2-pin"),
    )
    return Setting(
        socket=socket,
        base=base if holds is Holds.BULB else None,
        condition=some(random, condition(random), None),
        volts=some(random, 12, 6, 24),
        earth_positive=random.random() < 0.1,
        market=some(random, *markets()),
        road_use=random.random() < 0.8,
        supply=supply(random),
        others=some(random, (), (("High beam", 3200.0), ("Daytime", 6000.0))),
        ballast_cause=some(random, "", "bulb", "ballast", "off-supply"),
        renewed=some(random, (), (("housing", 120.0),), (("seal", None),)),
    )


def foretold(random: Random, flux: float = 1.0) -> Prediction:
    """A beam in numbers."""
    return Prediction(
        peak_cd=between(random, 8000, 40_000, 0) * flux,
        edge_cd=between(random, 3000, 20_000, 0) * flux,
        spread_deg=between(random, 20, 60, 1),
        stray_cd=between(random, 50, 1500, 0),
        above=some(random, 0.015, None, 0.05, 0.14),
        shadow=some(random, 0.0, 0.2, 0.6),
        de_boer=between(random, 1.5, 8, 1),
        eye_lux=between(random, 0.05, 2),
        kept=some(random, 0.8, None, 0.4, 0.98),
        reach_m=between(random, 40, 120, 0),
    )


def seat_tries(random: Random) -> Sensitivity:
    """What a seat a little off does."""
    at = ((-1, 0), (1, 0), (0, -10), (0, 10))
    lost = [between(random, 0.4, 1.05) for _ in at]
    above = [some(random, 0.02, None, 0.09) for _ in at]
    tries = zip(at, lost, above, strict=True)
    return Sensitivity(tuple(Try(*where, share, stray) for where, share, stray in tries))


def answers() -> Answers:
    """Each pair judged; each field of them ranked and offered."""
    random = Random(7)
    judged: list[Judged] = []
    for number in range(COUNT):
        lamp = setting(random)
        bulb = source(random, lamp.base.name if lamp.base else "")
        match = judge(bulb, lamp)
        yield f"judge {number}", [match.findings, match.law, match.verdict, match.level]
        yield f"choice {number}", _chosen(match, lamp, bulb)
        yield f"light {number}", [light.chroma(bulb), light.own_through_tint(lamp)]
        yield f"heat {number}", [heat.warmth(bulb), doubt.of_source(bulb)]
        yield f"modelled {number}", _modelled(lamp, bulb)
        yield f"suits {number}", weighing.suiting({1: bulb}, lamp.socket, lamp.base)
        judged.append(_judged(random, match, number))
        if len(judged) == FIELD:
            yield from _field(random, number, judged, lamp)
            judged = []
    yield from _measured(random)
    yield from _against_old(Random(8))


def _against_old(random: Random) -> Answers:
    """Bulbs held against the old one as it was measured."""
    for number in range(40):
        lamp = setting(random)
        if lamp.base is None:
            continue
        old = MeasuredBulb(24.0, between(random, 25, 30, 1), tail_mm=between(random, 30, 60, 0))
        base = replace(lamp.base, measured=old)
        match = judge(source(random, base.name), replace(lamp, base=base))
        yield f"against old {number}", [match.findings, match.verdict]


def _chosen(match, lamp, bulb) -> list[object]:  # type: ignore[no-untyped-def]
    ways = ("", choice.OVERRIDE, choice.OFF_ROAD, choice.REFUSE)
    return [
        choice.speaks_against(match, lamp),
        [choice.reason_wanted(way, match) for way in ways],
        [choice.must_be_told(way, match, lamp) for way in ways],
        choice.cautions_of(lamp, bulb),
        choice.cautions_of(lamp, None),
        [choice.housing_findings(None, verdict, bulb) for verdict in (None, *Verdict)],
        needs_override(bulb, lamp),
    ]


def _modelled(lamp: Setting, bulb: LightSource) -> list[object]:
    led = modelled.led_from(bulb, lamp.base) if lamp.base else None
    setups = [modelled.setup_of(lamp, lamp.function, bulb, traffic) for traffic in Traffic]
    return [led, setups, modelled.why_no_beam(lamp, lamp.function, bulb, Traffic.RIGHT)]


def _judged(random: Random, match, number: int) -> Judged:  # type: ignore[no-untyped-def]
    predicted = foretold(random, 1.6) if random.random() < 0.8 else None
    tried = seat_tries(random) if predicted and random.random() < 0.8 else None
    nominal = foretold(random) if random.random() < 0.9 else None
    return Judged(match, predicted, tried, nominal, 400.0, number)


def _field(random: Random, number: int, judged: list[Judged], lamp: Setting) -> Answers:
    for fails in (False, True):
        ranked = rank(judged, pattern_fails=fails)
        yield (
            f"rank {number} {fails}",
            [
                [each.judged.id, each.marks, each.score, each.reason, each.doubt, each.like]
                for each in ranked
            ],
        )
        compared = options.compare(lamp, ranked, 1 + fails, some(random, None, 12.0))
        yield (
            f"options {number} {fails}",
            [
                [way.kind.id, way.best and way.best.judged.id, way.minutes, way.parts, way.labour]
                for way in compared
            ],
        )
        yield f"ways {number} {fails}", [[way.cost, way.law, way.out] for way in compared]
    for each in judged:
        weights = {criterion.id: random.randint(0, 5) for criterion in CRITERIA}
        said = [[row.mark(each), row.say(each)] for row in CRITERIA]
        yield f"score {each.id}", [score(each, weights), said]
        if each.prediction and each.nominal:
            outlook = Outlook(each.prediction, each.sensitivity)
            tried = each.sensitivity
            yield (
                f"foretold {each.id}",
                [
                    prediction.findings(outlook, each.nominal),
                    [tried.loss, tried.stray, tried.forgiveness] if tried else None,
                    doubt.brighter(each.prediction, 1.3),
                    doubt.spread(each.prediction.peak_cd, 0.2),
                ],
            )


def _measured(random: Random) -> Answers:
    for number in range(20):
        gains = [_gain(random) for _ in range(random.randint(1, 5))]
        known = experience.known_of(gains)
        yield f"known {number}", known
        new, own = foretold(random, 1.5), foretold(random)
        if known is not None:
            borne = experience.borne_out(new, own, known)
            yield f"borne out {number}", borne
            bulb = replace(source(random, "H7"), cct_k=None)
            yield f"doubt {number}", doubt.of_prediction(bulb, None, known.doubt)
        pairs = [(between(random, 1, 3), between(random, 1, 3)) for _ in gains]
        yield f"agreement {number}", experience.agreement(pairs)


def _gain(random: Random) -> experience.MeasuredGain:
    places = random.sample(experience.COUNTED, random.randint(1, 6))
    ratios = {place: between(random, 0.7, 3.5) for place in places}
    doubted = some(random, 0.06, 0.001, 0.2)
    overall = between(random, 0.8, 3)
    return experience.MeasuredGain(
        "Drawn", "H7", "reflector", Function.LOW, ratios, overall, doubted
    )
