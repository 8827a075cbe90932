"""Entries that the kept jobs have none of, as they may be told of any job. All are invented."""

from __future__ import annotations

import datetime as dt
from dataclasses import replace
from random import Random

from cold_arc.core.aim.rims import Rim
from cold_arc.core.beam.setup import SetUp
from cold_arc.core.car.bases import MeasuredBulb
from cold_arc.core.car.condition import UnitCondition
from cold_arc.core.car.keys import BeamKey, Key
from cold_arc.core.car.lamps import Side
from cold_arc.core.electrical import SupplyFacts
from cold_arc.core.inverse.housing import figure_names
from cold_arc.core.inverse.seat import HYPOTHESES, SEATED
from cold_arc.core.job.entries.aim import (
    AdjustersTold,
    Aimed,
    OriginalsDeleted,
    RimSet,
    WallPhotographed,
)
from cold_arc.core.job.entries.book_in import OldBulbMeasured
from cold_arc.core.job.entries.fit import ClockRan, Pictured
from cold_arc.core.job.entries.inspect import Inspected
from cold_arc.core.job.entries.kind import AimPhase, Payload, Phase
from cold_arc.core.job.entries.later import Claimed, HoursLit
from cold_arc.core.job.entries.match import Quoted, QuotedWay, Refused, Supplied
from cold_arc.core.job.entries.plan import ExtraWork, Ordered, PlanKept
from cold_arc.core.job.entries.prove import FaultFound, FaultSought, RearDone
from cold_arc.core.job.entries.readings import (
    Eyed,
    Rastered,
    Read,
    ShootOutEnded,
    Tried,
    WarmRead,
    WarmStarted,
)
from cold_arc.core.job.entries.stages import Reopened
from cold_arc.core.job.entries.wall_read import Explanation, ReadFigure, SeatRead, housing_read
from cold_arc.core.job.record import Record
from cold_arc.core.metering.by_eye import Patch
from cold_arc.core.metering.readings import WallReading
from cold_arc.core.work.diagnosis import faults
from tests.core.match.foretold import lamp_of_kind

DAY = dt.date(2026, 11, 20)
LIT = SetUp()
NAMES = figure_names(LIT)
SURE = tuple(
    tuple(0.01 * (row == column) for column in range(len(NAMES))) for row in range(len(NAMES))
)
HOUSING = housing_read(replace(lamp_of_kind(LIT), covariance=SURE, left_pct=12.0), 0.08, 1)
SEAT = SeatRead(
    1,
    tuple(ReadFigure(name, 4.0, 1.0) for name in SEATED),
    tuple(
        Explanation(each.id, 0.5 ** (place + 1), each.words)
        for place, each in enumerate(HYPOTHESES)
    ),
    "Turn it back.",
)
WAYS = (
    QuotedWay("bulb", "LED bulb", "Drawn 1", 50.0, 60.0, 45.0, "brighter", "listed only"),
    QuotedWay("assembly", "Assembly", "", 300.0, None, 90.0, "", ""),
)
SYMPTOM, TEST = next(iter(faults().symptoms)), next(iter(faults().tests))


def _reading(point: str, lux: float, **more: object) -> WallReading:
    return WallReading(point, lux, 10.0, 13.2, meter="b", **more)  # type: ignore[arg-type]


def of_a_beam(random: Random) -> list[Payload]:
    """What is told of one beam."""
    lux = random.uniform(40, 400)
    phase, aim_phase = random.choice(list(Phase)), random.choice(list(AimPhase))
    grid = tuple(
        _reading(
            f"free-{n + 1}", lux * (1 + n % 3), across_m=0.4 * (n % 4) - 0.6, drop_m=0.1 * (n // 4)
        )
        for n in range(12)
    )
    slope, sideways = random.uniform(-0.02, 0.0), random.choice([None, 0.002, -0.004])
    turn = random.randint(0, 3)
    return [
        Eyed(turn, random.choice(["own", "Thin"]), Patch("dark", 2.0, -1.5)),
        Rastered(phase, "wall.csv", grid),
        WarmStarted(phase),
        WarmRead(phase, "210", lux),
        WallPhotographed(aim_phase, (1,), 10.0, 0.64, 1200, 900),
        OriginalsDeleted(1, 1),
        HOUSING,
        SEAT,
        Read(Phase.BEFORE, "x", _reading("peak", lux, lens=random.choice(["cleaned", "restored"]))),
        Read(Phase.BEFORE, "x", _reading("edge", lux / 2, lens="restored")),
        Tried(turn, random.choice(["own", "Thin", "Wide"]), "x", _reading("peak", lux)),
        Tried(turn, random.choice(["own", "Thin", "Wide"]), "x", _reading("edge", lux / 2)),
        ShootOutEnded(),
        Aimed(aim_phase, "un-r48-low", 0.64, 10.0, slope, "", sideways=sideways, turns=1.5),
        Aimed(aim_phase, "un-r48-low", 0.64, 10.0, slope / 2, "", turns=-0.5, turns_side=1.0),
    ]


def of_a_socket(random: Random) -> list[Payload]:
    """What is told of one socket."""
    return [
        Refused("Drawn 2", "too thick", "Ines"),
        Claimed("Thin", ("dead", "fan"), random.choice(["open", "refused"])),
        OldBulbMeasured(MeasuredBulb(28.0, 33.0, length_mm=60.0, tail_mm=20.0)),
        Supplied(SupplyFacts(pwm_hz=200.0, pwm_duty=0.8, run_m=3.0, slot="switched", slot_a=10.0)),
        Supplied(
            SupplyFacts(
                monitored_w=30.0, feed_at="in", feed_volts=12.4, feed_for="drl", feed_w=12.0
            )
        ),
        FaultSought(SYMPTOM, ((TEST, 0),), ("fuse",)),
        FaultFound(SYMPTOM, "fuse", random.random() < 0.5),
        Quoted(WAYS, random.choice(["bulb", "assembly"]), 20.0, "R. Oster"),
        Reopened(random.choice(["match", "fit", "prove", "aim"])),
        Pictured(2, random.choice(list(Phase)), note="clip"),
    ]


def of_a_unit(random: Random) -> list[Payload]:
    """What is told of one lamp."""
    worn = UnitCondition(haze=2, mirror="dull", room_mm=45.0, opening_mm=50.0, labour_rate=60.0)
    return [
        RimSet(Rim(1.0, 3.5, 178.0, "quarter")),
        AdjustersTold(random.random() < 0.7),
        ExtraWork(
            tuple(random.sample(["polish", "small", "decoder", "resistor", "drl-feed", "cap"], 3))
        ),
        Ordered("lens", DAY, random.random() < 0.5),
        Inspected(worn),
        Reopened("inspect"),
    ]


def of_the_job(random: Random) -> list[Payload]:
    """What is told of the whole."""
    return [
        ClockRan(random.random() < 0.5),
        PlanKept(40.0, 60.0, ("Liner door", "Cap"), 4),
        RearDone(
            "brake", random.choice(list(Side)), "P21W", "LED", random.choice(["works", "dark"])
        ),
        HoursLit(random.uniform(10, 900)),
    ]


def told(record: Record, random: Random) -> tuple[frozenset[Key], Payload]:
    """One of them, and what of a job it is about."""
    about = random.choice(["beam", "beam", "socket", "unit", "job"])
    if about == "beam" and record.beams:
        lit = [beam for beam in record.beams if beam.function.is_road_beam] or record.beams
        beam: BeamKey = random.choice(lit)
        return frozenset([beam]), random.choice(of_a_beam(random))
    if about == "socket":
        return frozenset([random.choice(record.sockets)]), random.choice(of_a_socket(random))
    if about == "unit":
        return frozenset([random.choice(record.units)]), random.choice(of_a_unit(random))
    return frozenset(), random.choice(of_the_job(random))


def every() -> list[Payload]:
    """One of each."""
    random = Random(23)
    parts = (of_a_beam, of_a_socket, of_a_unit, of_the_job)
    return [payload for part in parts for payload in part(random)]
