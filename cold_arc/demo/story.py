"""How the demo's cars are written: one job's record as it would have happened."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterable
from dataclasses import replace

from sqlalchemy.orm import Session

from cold_arc.core.car.front import Front
from cold_arc.core.car.keys import BeamKey, Key, SocketKey, UnitKey
from cold_arc.core.car.lamps import Function, Side, Traffic
from cold_arc.core.job.entries.book_in import Booking
from cold_arc.core.job.entries.fit import FastenerBack, Ticked
from cold_arc.core.job.entries.kind import Payload, Phase
from cold_arc.core.job.entries.plan import Routed
from cold_arc.core.job.entries.prove import Interlocked, Proved
from cold_arc.core.job.entries.readings import Read, ShootOutEnded, Tried
from cold_arc.core.job.entries.stages import Passed
from cold_arc.core.job.handwork import Handwork
from cold_arc.core.job.progress import Progress
from cold_arc.core.job.proofs import interlocks_asked
from cold_arc.core.job.record import Record
from cold_arc.core.job.stages import Stage
from cold_arc.core.job.tray import tray
from cold_arc.core.metering import readings
from cold_arc.core.metering.readings import WallReading
from cold_arc.core.work import access, proof
from cold_arc.demo.cars import known_ways
from cold_arc.store import jobs

Turn = tuple[str, float, dict[str, float]]


class Story:
    """Writes one job's record as it would have happened, an entry every few minutes."""

    def __init__(
        self,
        session: Session,
        booking: Booking,
        front: Front,
        work: Iterable[SocketKey],
        days_ago: int,
    ) -> None:
        self.session, self.sockets = session, list(work)
        self.units = list(dict.fromkeys(key.of_unit for key in self.sockets))
        self.clock = jobs.now().replace(hour=9, minute=0, second=0, microsecond=0) - dt.timedelta(
            days=days_ago
        )
        self.job_id = jobs.open_job(session, booking, front, self.sockets, self.clock)

    def add(self, payload: Payload, *about: Key) -> None:
        """One more entry, about some things or (none named) the whole car."""
        self.clock += dt.timedelta(minutes=4)
        jobs.append(self.session, self.job_id, payload, about, self.clock)

    def finish(self, *stages: Stage, sockets: Iterable[SocketKey] = ()) -> None:
        """Finishes stages for everything of some sockets, or of all."""
        progress = Progress(self.record())
        for stage in stages:
            self.add(Passed(stage.value), *progress.things(stage, sockets or self.sockets))

    def read(
        self,
        phase: Phase,
        key: BeamKey,
        set_up: WallReading,
        values: dict[str, float],
        traffic: Traffic,
    ) -> None:
        """Readings at named points, taken as *set_up* says."""
        for point, lux in values.items():
            across, drop = readings.place(point, set_up.distance_m, traffic, key.function)
            if point == "peak":
                across, drop = set_up.across_m, set_up.drop_m
            taken = replace(set_up, point=point, lux=lux, across_m=across, drop_m=drop)
            self.add(Read(phase, f"{lux:g}", taken), key)

    def shoot_out(
        self, key: BeamKey, set_up: WallReading, own: dict[str, float], turns: Iterable[Turn]
    ) -> None:
        """Sources one after another in one lamp: each reads *own* times its factor, places of its
        own times theirs.
        """
        for number, (source, factor, places) in enumerate(turns):
            for point, lux in own.items():
                across, drop = readings.place(point, set_up.distance_m, Traffic.RIGHT, key.function)
                read = round(lux * factor * places.get(point, 1.0), 1)
                taken = replace(set_up, point=point, lux=read, across_m=across, drop_m=drop)
                self.add(Tried(number, source, f"{read:g}", taken), key)
        self.add(ShootOutEnded(), key)

    def route(self, name: str, *units: UnitKey) -> None:
        """A way in of the core's or the garage's, under ids of its own."""
        ways = (*access.starter_ways(), *(way for _, way in known_ways()))
        way = next(way for way in ways if way.name == name)
        record = self.record()
        first = (
            max((step.id for route in record.all(Routed) for step in route.steps), default=0) + 1
        )
        self.add(Routed(way.name, access.renumbered(way.steps, first)), *(units or self.units))

    def record(self) -> Record:
        """The record so far."""
        self.session.flush()
        self.session.expire_all()
        job = jobs.load(self.session, self.job_id)
        assert job is not None
        return job.record

    def tick_all(self) -> None:
        """Every step at Fit, in order: made safe, opened, extra work, fitted, plugged in."""
        self._tick("safe:off", "tools:out", "extra", "open", "fit", "plug")

    def close_up(self) -> None:
        """Every part closed again, with all that held it."""
        self._tick("safe:again", "seal", "close", "tools:back")
        self.fasteners_back()

    def _tick(self, *kinds: str) -> None:
        for step in Handwork(self.record()).steps:
            if step.kind in kinds or step.ticks[0][1] in kinds:
                for key, name in step.ticks:
                    self.add(Ticked(name), key)

    def fasteners_back(self) -> None:
        """Everything in the tray back in the car."""
        for key in self.units:
            for row in tray(self.record(), key):
                if row.loose:
                    self.add(
                        FastenerBack(
                            row.step,
                            row.fasteners.kind,
                            row.count,
                            place=row.fasteners.place,
                        ),
                        key,
                    )

    def prove(self, stage_pass: str, functions: Iterable[str]) -> None:
        """Every cell of these functions works."""
        for cell in proof.cells(functions):
            self.add(Proved(stage_pass, cell.function, Side(cell.side), cell.engine, "works"))
        if stage_pass == "closed":
            for interlock in interlocks_asked(Progress(self.record())):
                self.add(Interlocked(stage_pass, interlock.id, True))


def pair_of(function: Function) -> tuple[BeamKey, BeamKey]:
    return BeamKey(function, Side.LEFT), BeamKey(function, Side.RIGHT)


def both(unit: str, number: int = 1) -> tuple[SocketKey, SocketKey]:
    return SocketKey(unit, number, Side.LEFT), SocketKey(unit, number, Side.RIGHT)


def due_in(days: int) -> dt.date:
    return dt.date.today() + dt.timedelta(days=days)
