"""The demo: an invented garage, its shelf, and five cars at different stages. All names and figures are made up."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterable
from dataclasses import replace
from pathlib import Path

from sqlalchemy.orm import Session

from cold_arc.core import access, proof, readings
from cold_arc.core.condition import LampCondition
from cold_arc.core.electrical import SupplyFacts
from cold_arc.core.lamps import Drive, Function, Housing, LampKey, Present, Side
from cold_arc.core.readings import WallReading
from cold_arc.core.record import (
    Aimed,
    Booking,
    Chosen,
    Clocked,
    FastenerBack,
    Identified,
    Inspected,
    NotOnCar,
    Passed,
    Payload,
    Proved,
    Read,
    Routed,
    Supplied,
    Ticked,
)
from cold_arc.core.stages import Stage, steps_to_tick, tray
from cold_arc.demo.shelf import SHELF
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
    catalogue.set_setting(session, "shop_contact", "Unit 4, Tallow Lane, Brackenford · bay open after dusk")
    for source in SHELF.values():
        catalogue.add_light_source(session, source)
    for car in (_nearly_done, _hazy, _gas_discharge, _vintage, _fog):
        car(session)


class Story:
    """Writes one job's record as it would have happened, an entry every few minutes."""

    def __init__(self, session: Session, booking: Booking, keys: Iterable[LampKey], days_ago: int) -> None:
        self.session, self.keys = session, list(keys)
        self.clock = jobs.now().replace(hour=9, minute=0, second=0, microsecond=0) - dt.timedelta(days=days_ago)
        self.job_id = jobs.open_job(session, booking, self.keys, self.clock)

    def add(self, payload: Payload, *keys: LampKey, whole_job: bool = False) -> None:
        """One more entry, for some lamps (all of the job when none is named)."""
        self.clock += dt.timedelta(minutes=4)
        lamps = () if whole_job else keys or self.keys
        jobs.append(self.session, self.job_id, payload, lamps, self.clock)

    def finish(self, *stages: Stage, keys: Iterable[LampKey] = ()) -> None:
        """Finishes stages for some lamps."""
        for stage in stages:
            self.add(Passed(stage.value), *keys)

    def read(self, phase: str, key: LampKey, set_up: WallReading, values: dict[str, float], traffic: str) -> None:
        """Readings at named points, taken as *set_up* says."""
        for point, lux in values.items():
            across, drop = readings.place(point, set_up.distance_m, traffic)
            if point == "peak":
                across, drop = set_up.across_m, set_up.drop_m
            taken = replace(set_up, point=point, lux=lux, across_m=across, drop_m=drop)
            self.add(Read(phase, f"{lux:g}", taken), key)

    def route(self, name: str, *keys: LampKey) -> None:
        """A starter route, under ids of its own."""
        starter = next(route for route in access.starter_routes() if route.name == name)
        record = self.record()
        first = max((step.id for route in record.all(Routed) for step in route.steps), default=0) + 1
        self.add(Routed(starter.name, access.renumbered(starter.steps, first)), *keys)

    def record(self) -> jobs.Record:
        """The record so far."""
        self.session.expire_all()
        job = jobs.load(self.session, self.job_id)
        assert job is not None
        return job.record

    def tick_all(self, keys: Iterable[LampKey]) -> None:
        """Every step at Fit, in order."""
        for key in keys:
            for step in steps_to_tick(self.record(), key):
                self.add(Ticked(step), key)

    def fasteners_back(self, keys: Iterable[LampKey]) -> None:
        """Everything in the tray back in the car."""
        for key in keys:
            for row in tray(self.record(), key):
                self.add(FastenerBack(row.step, row.fasteners.kind, row.fasteners.count), key)

    def prove(self, stage_pass: str, functions: Iterable[str]) -> None:
        """Every cell of these functions works."""
        for cell in proof.cells(functions):
            self.add(Proved(stage_pass, cell.function, Side(cell.side), cell.engine, "works"), whole_job=True)


def _pair(function: Function) -> tuple[LampKey, LampKey]:
    return LampKey(function, Side.LEFT), LampKey(function, Side.RIGHT)


def _due(days: int) -> dt.date:
    return dt.date.today() + dt.timedelta(days=days)


def _nearly_done(session: Session) -> None:
    """A halogen projector pair, fitted, proved and aimed; the after readings are still to take."""
    low = _pair(Function.LOW)
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
        due=_due(0),
    )
    story = Story(session, booking, low, days_ago=2)
    story.add(Identified(Housing.PROJECTOR, "H7", Present.HALOGEN))
    story.add(Inspected(LampCondition(haze=0, room_mm=62, opening_mm=58)))
    before = WallReading("peak", 0, 7.62, 13.4, ambient_lx=0.4, drop_m=0.14)
    left = {"peak": 236, "edge": 171, "below": 88, "left": 61, "right": 66, "stray": 2.1}
    right = {"peak": 228, "edge": 166, "below": 84, "left": 63, "right": 60, "stray": 2.3}
    story.finish(Stage.BOOK_IN, Stage.INSPECT)
    story.read("before", low[0], before, left, "right")
    story.read("before", low[1], before, right, "right")
    story.finish(Stage.BASELINE)
    story.add(
        Chosen(
            SHELF["Sableline H7 slim"],
            "Thin two-faced bulb, same light centre, fits under the cap.",
            "Ines Corvane",
            "Show car on trade plates. The customer was told.",
            off_road=True,
            accepted=("law", "glare", "hot", "fan"),
        )
    )
    story.finish(Stage.MATCH)
    story.route("Move the air box, then the cap")
    story.finish(Stage.PLAN)
    story.tick_all(low)
    story.add(Clocked(18.0, "18 cw"), low[0])
    story.add(Clocked(2.0, "2 cw"), low[0])
    story.add(Clocked(-3.0, "3 ccw"), low[1])
    story.finish(Stage.FIT)
    for function in ("fog", "drl"):
        story.add(NotOnCar(function), whole_job=True)
    story.prove("open", ["low"])
    story.fasteners_back(low)
    story.prove("closed", ["low", "high", "turn", "position", "marker", "hazard"])
    story.finish(Stage.PROVE)
    for key, found, aimed in ((low[0], -0.0052, -0.0128), (low[1], -0.0214, -0.0121)):
        story.add(Aimed("found", "un-r48-low", 0.66, 10.0, found, f"{found:.2%}", spacing_m=1.24), key)
        story.add(Aimed("left", "un-r48-low", 0.66, 10.0, aimed, f"{aimed:.2%}", spacing_m=1.24, turns=1.5), key)
    story.finish(Stage.AIM)
    after = replace(before, volts=13.9, settled=True)
    story.read(
        "after",
        low[0],
        after,
        {"peak": 671, "edge": 489, "below": 240, "left": 172, "right": 181, "stray": 4.2},
        "right",
    )
    story.read("after", low[1], after, {"peak": 655}, "right")


def _hazy(session: Session) -> None:
    """A hazy reflector pair, just looked at."""
    low = _pair(Function.LOW)
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
        due=_due(3),
    )
    story = Story(session, booking, low, days_ago=1)
    story.add(Identified(Housing.REFLECTOR, "H11", Present.HALOGEN))
    story.finish(Stage.BOOK_IN)
    story.add(
        Inspected(
            LampCondition(haze=3, seating="wobble", room_mm=48, opening_mm=52, replacement_price=310, labour_rate=60)
        )
    )


def _gas_discharge(session: Session) -> None:
    """An HID projector pair waiting for its choice."""
    low = _pair(Function.LOW)
    booking = Booking(
        "TL-316",
        "Talvia",
        "Serin",
        Drive.LEFT,
        "us",
        year=2012,
        wishes=("life", "match"),
        complaint="Right lamp goes pink, then off.",
        due=_due(-1),
    )
    story = Story(session, booking, low, days_ago=4)
    story.add(Identified(Housing.PROJECTOR, "D2S", Present.HID))
    story.add(Inspected(LampCondition(haze=1, room_mm=71, opening_mm=60)))
    story.finish(Stage.BOOK_IN, Stage.INSPECT)
    set_up = WallReading("peak", 0, 7.62, 13.8, ambient_lx=0.3, range_factor=10, drop_m=0.1)
    story.read("before", low[0], set_up, {"peak": 540, "edge": 410, "stray": 3.0}, "right")
    story.read("before", low[1], set_up, {"peak": 210, "edge": 150, "stray": 2.0}, "right")
    story.finish(Stage.BASELINE)


def _vintage(session: Session) -> None:
    """A 6 V, positive-earth saloon on the wall."""
    lamps = (*_pair(Function.LOW), *_pair(Function.HIGH))
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
        due=_due(9),
    )
    story = Story(session, booking, lamps, days_ago=6)
    story.add(Identified(Housing.LENS_OPTIC, "H4", Present.HALOGEN))
    story.add(Inspected(LampCondition(haze=0, mirror="dull", room_mm=85, opening_mm=70)))
    story.finish(Stage.BOOK_IN, Stage.INSPECT)
    set_up = WallReading("peak", 0, 5.0, 6.4, ambient_lx=0.5, drop_m=0.06)
    for key in lamps:
        story.read("before", key, set_up, {"peak": 118, "edge": 71, "stray": 6.5}, "left")
    story.finish(Stage.BASELINE)
    story.add(
        Chosen(
            SHELF["Hearthlight six H4"],
            "Made for 6 V, insulated body, shield under the low row.",
            "Bram Oster",
            "Owner keeps it for meets; told that an inspection can fail it. The customer was told.",
            accepted=("law", "glare"),
        )
    )
    story.finish(Stage.MATCH)
    story.route("Vintage: rim, lens and mirror")
    story.finish(Stage.PLAN)
    story.tick_all(lamps)
    for key in lamps:
        story.add(Clocked(0.0, "0"), key)
    story.finish(Stage.FIT)
    for function in ("fog", "drl", "marker", "hazard"):
        story.add(NotOnCar(function), whole_job=True)
    story.prove("open", ["low", "high"])
    story.fasteners_back(lamps)
    story.prove("closed", ["low", "high", "turn", "position"])
    story.finish(Stage.PROVE)
    for key, slope in zip(_pair(Function.LOW), (-0.031, -0.009), strict=True):
        story.add(Aimed("found", "uk-inspection-low", 0.74, 5.0, slope, f"{slope:.2%}", spacing_m=0.98), key)


def _fog(session: Session) -> None:
    """A van with fog lamps to plan, turn signals to match and small position bulbs booked in."""
    fog, turn, position = _pair(Function.FOG), _pair(Function.TURN), _pair(Function.POSITION)
    booking = Booking(
        "TL-322",
        "Orlo",
        "Carter",
        Drive.LEFT,
        "un",
        year=2018,
        wishes=("brighter", "looks"),
        complaint="Wants yellow fogs for the pass.",
        due=_due(5),
    )
    story = Story(session, booking, (*fog, *turn, *position), days_ago=1)
    story.add(Identified(Housing.REFLECTOR, "H16", Present.HALOGEN), *fog)
    story.add(Inspected(LampCondition(haze=1, room_mm=55, opening_mm=50)), *fog)
    story.finish(Stage.BOOK_IN, Stage.INSPECT, keys=fog)
    set_up = WallReading("peak", 0, 6.1, 13.6, ambient_lx=0.4, drop_m=0.12)
    for key in fog:
        story.read("before", key, set_up, {"peak": 118, "edge": 92, "below": 60, "stray": 3.0}, "right")
    story.finish(Stage.BASELINE, keys=fog)
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
    story.finish(Stage.MATCH, keys=fog)
    story.route("Under-tray, from below", *fog)
    story.add(Identified(Housing.REFLECTOR, "PY21W", Present.FILAMENT), *turn)
    story.add(Inspected(LampCondition(haze=0)), *turn)
    story.finish(Stage.BOOK_IN, Stage.INSPECT, Stage.BASELINE, keys=turn)
    story.add(Identified(Housing.REFLECTOR, "W5W", Present.FILAMENT), *position)
