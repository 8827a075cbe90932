"""The demo's cars whose work hangs in no bulb: rings renewed, a daytime light the car never had,
the maker's LED lamps changed for a whole lamp.
"""

from __future__ import annotations

from sqlalchemy.orm import Session

from cold_arc.core.car import front_building as fronts
from cold_arc.core.car.condition import UnitCondition
from cold_arc.core.car.lamps import Drive, Function, Holds, Optic, Present, Traffic
from cold_arc.core.electrical import SupplyFacts
from cold_arc.core.job.entries.book_in import Booking, Identified
from cold_arc.core.job.entries.inspect import AsItCameShown, DamageSeen, Inspected
from cold_arc.core.job.entries.kind import Phase
from cold_arc.core.job.entries.match import (
    Chosen,
    LeadLaid,
    Supplied,
    SwitchingPlanned,
    WiresMapped,
)
from cold_arc.core.job.stages import Stage
from cold_arc.core.metering.readings import WallReading
from cold_arc.core.wiring.leads import Lead, LeadPart, MappedWire, Switching, WireMap
from cold_arc.demo.shelf import SHELF
from cold_arc.demo.story import Story, both, due_in, pair_of


def _rings(session: Session) -> None:
    """A coupe whose rings went dark, at Fit: wires found, what was broken before signed."""
    rings = both("daytime")
    booking = Booking(
        "TL-331", "Velmar", "Sabel", Drive.LEFT, "un", year=2012, wishes=("looks",),
        complaint="Both rings yellow, the left one dark.", due=due_in(1),
    )  # fmt: skip
    story = Story(session, booking, fronts.made("projector-low", ["drl"]), rings, days_ago=2)
    hangs = Identified(
        Optic.PLAIN, "", Present.LED, Holds.MODULE, "2-pin, grey", "grey/red, brown",
        "3 screws T20", "round, 96 mm",
    )  # fmt: skip
    story.add(hangs, *rings)
    story.add(Inspected(UnitCondition(haze=0, strip_dead=False)), *story.units)
    story.add(DamageSeen("daytime-left", "guide", "upper one"))
    story.add(DamageSeen("bumper-right", "scratch", "lower corner"))
    story.add(AsItCameShown("M. Ferrand"))
    story.finish(Stage.BOOK_IN, Stage.INSPECT)
    ring = SHELF["Tarn ring, white"]
    story.add(Chosen(ring, "Two wires, its own driver.", "Ines Corvane"), *rings)
    wires = (
        MappedWire("drl", "grey/red", "yellow", "light"),
        MappedWire("position", "grey", "white", "light"),
        MappedWire("ground", "brown", "black", "meter"),
    )
    story.add(WiresMapped(WireMap(wires, "dark", "crimp")), *rings)
    story.add(
        LeadLaid(Lead((LeadPart("driver", "2-pin", "click", 0.25, "body"),), 0.2)),
        *rings,
    )
    story.finish(Stage.MATCH)
    story.route("From the front, nothing to open")
    story.finish(Stage.PLAN)


def _never_had(session: Session) -> None:
    """A pick-up that gets daytime lights, planned: from a named slot, switched by the key."""
    lights = both("daytime")
    booking = Booking(
        "TL-332", "Orlo", "Hask", Drive.LEFT, "un", year=2006, wishes=("brighter",),
        complaint="Wants daytime lights for the trip north.", due=due_in(4),
    )  # fmt: skip
    story = Story(session, booking, fronts.made("signals-only", ["drl"]), lights, days_ago=1)
    story.add(Identified(Optic.PLAIN, "", None, Holds.NOTHING), *lights)
    story.add(Inspected(UnitCondition(haze=0)), *story.units)
    story.finish(Stage.BOOK_IN, Stage.INSPECT)
    pair = SHELF["Sill daytime pair"]
    story.add(Chosen(pair, "8 W a side, a relay with it.", "Ines Corvane"), *lights)
    feed = SupplyFacts(
        run_m=2.5, slot="switched", slot_name="F17", slot_a=10, tap_loads=1, air_c=70
    )
    story.add(Supplied(feed), *lights)
    story.add(SwitchingPlanned(Switching("key", ("low",), relay=True)), *lights)
    wires = (
        MappedWire("drl", "slot F17", "red", "meter"),
        MappedWire("ground", "body", "black", "light"),
    )
    story.add(WiresMapped(WireMap(wires, "kills", "crimp")), *lights)
    story.finish(Stage.MATCH)


def _whole(session: Session) -> None:
    """An estate with the maker's LED lamps, one of them wet, matched with a whole lamp."""
    every = (*both("headlamp"), *both("headlamp", 2), *both("headlamp", 3))
    booking = Booking(
        "TL-333", "Kestrin", "Vale", Drive.LEFT, "un", year=2019, wishes=("life",),
        complaint="Water in the left lamp, its daytime light dark.", due=due_in(6),
    )  # fmt: skip
    story = Story(session, booking, fronts.made("led-whole"), every, days_ago=1)
    story.add(
        Identified(
            Optic.SEALED, "", Present.LED, Holds.LAMP, "14-pin, lever", "", "4 bolts T30",
            "slim, for traffic on the right",
        ),
        *every,
    )  # fmt: skip
    left, right = story.units
    story.add(Inspected(UnitCondition(haze=1, condensation="drops", strip_dead=True)), left)
    story.add(Inspected(UnitCondition(haze=1)), right)
    story.add(DamageSeen("headlamp-left", "crack", "rear, by the vent"))
    story.finish(Stage.BOOK_IN, Stage.INSPECT)
    set_up = WallReading("peak", 0, 7.62, 13.6, ambient_lx=0.3, drop_m=0.13)
    for function, values in (
        (Function.LOW, {"peak": 410.0, "edge": 260.0, "stray": 4.0}),
        (Function.HIGH, {"peak": 900.0, "edge": 700.0}),
    ):
        for key in pair_of(function):
            story.read(Phase.BEFORE, key, set_up, values, Traffic.RIGHT)
    story.finish(Stage.BASELINE)
    lamp = SHELF["Fellside full LED lamp"]
    story.add(
        Chosen(lamp, "Switchback, same outline.", "Ines Corvane", accepted=("glare",)),
        *every,
    )


CARS = (_rings, _never_had, _whole)
