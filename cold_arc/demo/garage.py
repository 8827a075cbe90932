"""The demo: an invented garage, its shelf, and eight cars at different stages. All names and
figures are made up.
"""

from __future__ import annotations

import math
from dataclasses import replace
from pathlib import Path

from sqlalchemy.orm import Session

from cold_arc.core.aim.taping import CHECKS
from cold_arc.core.car import front_building as fronts
from cold_arc.core.car.condition import UnitCondition
from cold_arc.core.car.lamps import Drive, Function, Optic, Present, Traffic
from cold_arc.core.electrical import SupplyFacts
from cold_arc.core.job.entries.aim import Aimed, Readied
from cold_arc.core.job.entries.book_in import Booking, Identified
from cold_arc.core.job.entries.fit import Clocked
from cold_arc.core.job.entries.inspect import Inspected
from cold_arc.core.job.entries.kind import AimPhase, Phase
from cold_arc.core.job.entries.match import Chosen, Supplied
from cold_arc.core.job.entries.plan import Ordered, PlannedFor, Routed
from cold_arc.core.job.entries.prove import NotOnCar
from cold_arc.core.job.entries.readings import Warmed
from cold_arc.core.job.stages import Stage
from cold_arc.core.metering.readings import WallReading
from cold_arc.core.metering.shoot_out import OWN
from cold_arc.demo.came_back import last_season
from cold_arc.demo.cars import known_ways
from cold_arc.demo.shelf import SHELF
from cold_arc.demo.story import Story, both, due_in, pair_of
from cold_arc.demo.without_bulbs import CARS as WITHOUT_BULBS
from cold_arc.store import catalogue, jobs
from cold_arc.store.database import open_database

MARKER = "demo"


def load_once(folder: Path) -> bool:
    """Loads the demo into *folder* unless it is there already; True when it was loaded."""
    sessions = open_database(folder)
    (folder / MARKER).touch()
    with sessions.begin() as session:
        if catalogue.setting(session, "demo_loaded"):
            return False
        _load(session)
        catalogue.set_setting(session, "demo_loaded", jobs.now().isoformat())
    return True


def _load(session: Session) -> None:
    catalogue.set_setting(session, "shop_name", "Tallow Lane Lampworks")
    for name, stories in (
        ("latitude", "47.2"),
        ("longitude", "9.4"),
        ("zone", "Europe/Vienna"),
    ):  # Brackenford is invented
        catalogue.set_setting(session, f"place_{name}", stories)
    catalogue.set_setting(
        session, "shop_contact", "Unit 4, Tallow Lane, Brackenford · bay open after dusk"
    )
    catalogue.set_setting(session, "currency", "EUR")
    for source in SHELF.values():
        catalogue.add_light_source(session, source)
    for vehicle, way in known_ways():
        unit = f"{way.unit}-{way.side}" if way.side else way.unit
        catalogue.save_route(session, Routed(way.name, way.steps), vehicle, unit)
    for car in (_nearly_done, _hazy, _gas_discharge, _vintage, _fog, *WITHOUT_BULBS, last_season):
        car(session)


def _nearly_done(session: Session) -> None:
    """A halogen projector pair, fitted, proved and aimed; the after readings are still to take."""
    low, bulbs = pair_of(Function.LOW), both("headlamp")
    booking = Booking(
        "TL-318",
        "Velmar",
        "Dorin",
        Drive.LEFT,
        "un",
        road_use=False,
        year=2015,
        wishes=("brighter", "whiter"),
        complaint="Can't see the verge on the lake road.",
        due=due_in(0),
    )
    story = Story(
        session, booking, fronts.made("projector-low", ["turn", "position"]), bulbs, days_ago=2
    )
    story.add(Identified(Optic.PROJECTOR, "H7", Present.HALOGEN), *bulbs)
    story.add(Inspected(UnitCondition(haze=0, room_mm=62, opening_mm=58)), *story.units)
    before = WallReading(
        "peak", 0, 7.62, 13.4, ambient_lx=0.4, drop_m=0.14, meter="b", wall="bay 2"
    )
    left = {"peak": 236, "edge": 171, "below": 221, "left": 138, "right": 198, "stray": 4.1}
    right = {"peak": 228, "edge": 166, "below": 214, "left": 141, "right": 190, "stray": 4.3}
    story.finish(Stage.BOOK_IN, Stage.INSPECT)
    story.read(Phase.BEFORE, low[0], before, left, Traffic.RIGHT)
    story.read(Phase.BEFORE, low[1], before, right, Traffic.RIGHT)
    story.finish(Stage.BASELINE)
    story.shoot_out(
        low[0],
        before,
        left,
        [
            (OWN, 1.0, {}),
            ("Sableline H7 slim", 1.46, {"edge": 1.02, "below": 0.97}),
            ("Sableline H7 slim, warm", 1.41, {"edge": 0.99, "right": 1.03}),
            ("Skywash H7", 1.18, {"left": 0.62, "stray": 1.3}),
            ("Quadrant 7 four-face", 0.66, {"peak": 0.8, "stray": 2.4}),
            (OWN, 0.985, {}),
        ],
    )
    story.add(
        Chosen(
            SHELF["Sableline H7 slim"],
            "Thin two-faced bulb, same light centre, fits under the cap.",
            "Ines Corvane",
            "Show car on trade plates. The customer was told.",
            off_road=True,
            accepted=("law", "glare", "hot", "fan"),
        ),
        *bulbs,
    )
    story.finish(Stage.MATCH)
    story.route("Move the air box, then the cap")
    story.finish(Stage.PLAN)
    story.tick_all()
    story.add(Clocked(18.0, "18 cw"), bulbs[0])
    story.add(Clocked(2.0, "2 cw"), bulbs[0])
    story.add(Clocked(-3.0, "3 ccw"), bulbs[1])
    story.finish(Stage.FIT)
    for function in ("fog", "drl"):
        story.add(NotOnCar(function))
    story.prove("open", ["low"])
    story.close_up()
    story.prove("closed", ["low", "high", "turn", "position", "marker", "hazard"])
    story.finish(Stage.PROVE)
    story.add(Readied(tuple(CHECKS)), *low)
    for key, as_found, aimed in ((low[0], -0.0052, -0.0128), (low[1], -0.0214, -0.0121)):
        story.add(
            Aimed(
                AimPhase.FOUND,
                "un-r48-low",
                0.66,
                10.0,
                as_found,
                f"{as_found:.2%}",
                spacing_m=1.24,
            ),
            key,
        )
        story.add(
            Aimed(
                AimPhase.LEFT,
                "un-r48-low",
                0.66,
                10.0,
                aimed,
                f"{aimed:.2%}",
                spacing_m=1.24,
                turns=1.5,
            ),
            key,
        )
    story.finish(Stage.AIM)
    after = replace(before, volts=13.9, settled=True)
    story.read(
        Phase.AFTER,
        low[0],
        after,
        {"peak": 388, "edge": 281, "below": 361, "left": 226, "right": 322, "stray": 6.2},
        Traffic.RIGHT,
    )
    story.read(Phase.AFTER, low[1], after, {"peak": 379}, Traffic.RIGHT)
    warm = tuple(
        (float(at), float(round(388 * (1 + 0.11 * math.exp(-at / 95))))) for at in range(0, 600, 15)
    )
    story.add(Warmed(Phase.AFTER, warm), low[0])
    story.add(PlannedFor(due_in(0), 16 * 60 + 30))


def _hazy(session: Session) -> None:
    """A hazy reflector pair, just looked at."""
    bulbs = both("headlamp")
    booking = Booking(
        "TL-321",
        "Kestrin",
        "Ode",
        Drive.RIGHT,
        "uk",
        year=2009,
        wishes=("brighter",),
        complaint="Lamps gone yellow; failed its inspection on aim.",
        tampered="Clear coat from a can, left side",
        due=due_in(3),
    )
    story = Story(session, booking, fronts.made("two-singles", ["turn"]), bulbs, days_ago=1)
    story.add(Identified(Optic.REFLECTOR, "H11", Present.HALOGEN), *bulbs)
    story.finish(Stage.BOOK_IN)
    story.add(
        Inspected(
            UnitCondition(
                haze=3,
                seating="wobble",
                room_mm=48,
                opening_mm=52,
                replacement_price=310,
                labour_rate=60,
            )
        ),
        *story.units,
    )


def _gas_discharge(session: Session) -> None:
    """An HID projector pair waiting for its choice."""
    low, bulbs = pair_of(Function.LOW), both("headlamp")
    booking = Booking(
        "TL-316",
        "Talvia",
        "Serin",
        Drive.LEFT,
        "us",
        year=2012,
        wishes=("life", "match"),
        complaint="Right lamp goes pink, then off.",
        due=due_in(-1),
    )
    story = Story(
        session, booking, fronts.made("projector-low", ["fog", "turn"]), bulbs, days_ago=4
    )
    story.add(Identified(Optic.PROJECTOR, "D2S", Present.HID), *bulbs)
    story.add(Inspected(UnitCondition(haze=1, room_mm=71, opening_mm=60)), *story.units)
    story.finish(Stage.BOOK_IN, Stage.INSPECT)
    set_up = WallReading(
        "peak", 0, 7.62, 13.8, ambient_lx=0.3, range_factor=10, drop_m=0.1, meter="b", wall="bay 2"
    )
    story.read(
        Phase.BEFORE, low[0], set_up, {"peak": 540, "edge": 410, "stray": 8.0}, Traffic.RIGHT
    )
    story.read(
        Phase.BEFORE, low[1], set_up, {"peak": 210, "edge": 150, "stray": 3.4}, Traffic.RIGHT
    )
    story.finish(Stage.BASELINE)
    story.route("Wheel off, liner back")
    story.add(Ordered("Right ballast, used, tested", due_in(2)))
    story.add(PlannedFor(due_in(0), 13 * 60))


def _vintage(session: Session) -> None:
    """A 6 V, positive-earth saloon on the wall."""
    low, high, bulbs = pair_of(Function.LOW), pair_of(Function.HIGH), both("headlamp")
    booking = Booking(
        "TL-309",
        "Brannock",
        "40 Saloon",
        Drive.RIGHT,
        "uk",
        year=1952,
        volts=6.0,
        earth_positive=True,
        wishes=("brighter", "life"),
        complaint="Candles. Only drives to meets, but at dusk.",
        due=due_in(9),
    )
    story = Story(session, booking, fronts.made("vintage", ["turn"]), bulbs, days_ago=6)
    story.add(Identified(Optic.LENS_OPTIC, "H4", Present.HALOGEN), *bulbs)
    story.add(
        Inspected(UnitCondition(haze=0, mirror="dull", room_mm=85, opening_mm=70)), *story.units
    )
    story.finish(Stage.BOOK_IN, Stage.INSPECT)
    set_up = WallReading("peak", 0, 5.0, 6.4, ambient_lx=0.5, drop_m=0.06)
    for key in (*low, *high):
        story.read(Phase.BEFORE, key, set_up, {"peak": 118, "edge": 71, "stray": 6.5}, Traffic.LEFT)
    story.finish(Stage.BASELINE)
    story.add(
        Chosen(
            SHELF["Hearthlight six H4"],
            "Made for 6 V, insulated body, shield under the low row.",
            "Bram Oster",
            "Owner keeps it for meets; told that an inspection can fail it. The customer was told.",
            accepted=("law", "glare"),
        ),
        *bulbs,
    )
    story.finish(Stage.MATCH)
    story.route("Vintage: rim, lens and mirror")
    story.finish(Stage.PLAN)
    story.tick_all()
    for bulb in bulbs:
        story.add(Clocked(0.0, "0"), bulb)
    story.finish(Stage.FIT)
    for function in ("fog", "drl", "marker", "hazard"):
        story.add(NotOnCar(function))
    story.prove("open", ["low", "high"])
    story.close_up()
    story.prove("closed", ["low", "high", "turn", "position"])
    story.finish(Stage.PROVE)
    for key, slope in zip(low, (-0.031, -0.009), strict=True):
        story.add(
            Aimed(
                AimPhase.FOUND,
                "uk-inspection-low",
                0.74,
                5.0,
                slope,
                f"{slope:.2%}",
                spacing_m=0.98,
            ),
            key,
        )
    story.add(PlannedFor(due_in(0), 17 * 60))


def _fog(session: Session) -> None:
    """A van with fog lamps to plan, turn signals to match and small position bulbs booked in."""
    beams, fog, turn, position = (
        pair_of(Function.FOG),
        both("foglamp"),
        both("indicator"),
        both("headlamp", 2),
    )
    front = fronts.made("dual", ["position", "turn", "fog"])
    booking = Booking(
        "TL-322",
        "Orlo",
        "Carter",
        Drive.LEFT,
        "un",
        year=2018,
        wishes=("brighter", "looks"),
        complaint="Wants yellow fogs for the pass.",
        due=due_in(5),
    )
    story = Story(session, booking, front, (*fog, *turn, *position), days_ago=1)
    story.add(Identified(Optic.REFLECTOR, "H16", Present.HALOGEN), *fog)
    story.add(
        Inspected(UnitCondition(haze=1, room_mm=55, opening_mm=50)), *(key.of_unit for key in fog)
    )
    story.finish(Stage.BOOK_IN, Stage.INSPECT, sockets=fog)
    set_up = WallReading("peak", 0, 6.1, 13.6, ambient_lx=0.4, drop_m=0.12)
    for key in beams:
        story.read(
            Phase.BEFORE,
            key,
            set_up,
            {"peak": 118, "edge": 92, "below": 60, "stray": 3.0},
            Traffic.RIGHT,
        )
    story.finish(Stage.BASELINE, sockets=fog)
    story.add(Supplied(SupplyFacts(monitored_w=12, pwm_hz=100, pwm_duty=0.85)), *fog)
    story.add(
        Chosen(
            SHELF["Saffron 16 fog"],
            "Yellow as wished, two thin faces, 16 W.",
            "Ines Corvane",
            "Used on private land at the quarry only. The customer was told.",
            off_road=True,
            accepted=("law", "glare", "hot"),
        ),
        *fog,
    )
    story.finish(Stage.MATCH, sockets=fog)
    story.route("Under-tray, from below", *(key.of_unit for key in fog))
    story.add(Identified(Optic.PLAIN, "PY21W", Present.FILAMENT), *turn)
    story.add(Inspected(UnitCondition(haze=0)), *(key.of_unit for key in turn))
    story.finish(Stage.BOOK_IN, Stage.INSPECT, sockets=turn)
    story.add(Identified(Optic.PLAIN, "W5W", Present.FILAMENT), *position)
