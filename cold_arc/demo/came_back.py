"""A car of the demo that left a season ago with LED low beams, and is due to be looked at again."""

from __future__ import annotations

import datetime as dt
from dataclasses import replace

from sqlalchemy.orm import Session

from cold_arc.core.aim.taping import CHECKS
from cold_arc.core.car import front_building as fronts
from cold_arc.core.car.condition import UnitCondition
from cold_arc.core.car.lamps import Drive, Function, Optic, Present, Traffic
from cold_arc.core.job.entries.aim import Aimed, Readied
from cold_arc.core.job.entries.book_in import Booking, Identified
from cold_arc.core.job.entries.fit import Clocked
from cold_arc.core.job.entries.hand_over import HandedOver, TestDriven
from cold_arc.core.job.entries.inspect import Inspected
from cold_arc.core.job.entries.kind import AimPhase, Phase
from cold_arc.core.job.entries.match import Chosen
from cold_arc.core.job.entries.prove import NotOnCar
from cold_arc.core.job.stages import Stage
from cold_arc.core.metering.readings import WallReading
from cold_arc.demo.shelf import SHELF
from cold_arc.demo.story import Story, both, due_in, pair_of
from cold_arc.store import jobs

DAYS_AGO, FITTED = 92, "Sableline H7 slim"


def last_season(session: Session) -> None:
    """A halogen projector pair converted, aimed, read and handed over."""
    low, bulbs = pair_of(Function.LOW), both("headlamp")
    booking = Booking(
        "TL-287",
        "Ostrel",
        "Fenwick",
        Drive.LEFT,
        "un",
        road_use=False,
        year=2016,
        wishes=("brighter",),
        complaint="Dim on the moor road.",
        plate="BK 287 F",
        vin="WXY0F21A0G0002870",
    )
    story = Story(session, booking, fronts.made("projector-low", ["turn"]), bulbs, DAYS_AGO)
    story.add(Identified(Optic.PROJECTOR, "H7", Present.HALOGEN), *bulbs)
    story.add(Inspected(UnitCondition(haze=0, room_mm=66, opening_mm=58)), *story.units)
    before = WallReading("peak", 0, 10.0, 13.6, ambient_lx=0.2, drop_m=0.2, meter="b", wall="bay 2")
    read = {"peak": 214, "edge": 158, "below": 196, "stray": 2.1}
    story.finish(Stage.BOOK_IN, Stage.INSPECT)
    for beam in low:
        story.read(Phase.BEFORE, beam, before, read, Traffic.RIGHT)
    story.finish(Stage.BASELINE)
    reason = "Thin two-faced bulb, same light centre, fits under the cap."
    override = "Show car on trade plates. The customer was told."
    accepted = ("law", "glare", "hot", "fan")
    story.add(Chosen(SHELF[FITTED], reason, "Ines Corvane", override, True, accepted), *bulbs)
    story.finish(Stage.MATCH)
    story.route("Move the air box, then the cap")
    story.finish(Stage.PLAN)
    story.tick_all()
    for bulb in bulbs:
        story.add(Clocked(1.0, "1 cw"), bulb)
    story.finish(Stage.FIT)
    for function in ("fog", "drl"):
        story.add(NotOnCar(function))
    story.prove("open", ["low"])
    story.close_up()
    story.prove("closed", ["low", "high", "turn", "position", "marker", "hazard"])
    story.finish(Stage.PROVE)
    story.add(Readied(tuple(CHECKS)), *low)
    for beam, left in zip(low, (-0.0124, -0.0119), strict=True):
        aim = Aimed(AimPhase.LEFT, "un-r48-low", 0.68, 10.0, left, f"{left:.2%}", spacing_m=1.22)
        story.add(replace(aim, phase=AimPhase.FOUND, slope=-0.0071, typed="-0.71%"), beam)
        story.add(replace(aim, turns=1.0), beam)
    story.finish(Stage.AIM)
    for beam in low:
        after = {"peak": 318, "edge": 236, "below": 291, "stray": 2.4}
        story.read(Phase.AFTER, beam, replace(before, volts=13.8), after, Traffic.RIGHT)
    story.finish(Stage.VERIFY)
    _hand_over(story)
    jobs.set_closed(session, story.job_id, True, story.clock)


def _hand_over(story: Story) -> None:
    """Driven, told, handed over; to come back in these days."""
    story.add(TestDriven("Ines Corvane", 20.0, "lake road"))
    warranty = dt.date.today() + dt.timedelta(days=638)
    story.add(HandedOver("Ines Corvane", ("glare", "eyes", "law"), True, True, due_in(1), warranty))
    story.finish(Stage.HAND_OVER)
