"""Progress: where each unit, socket and beam of a job stands, what is done, what is next, what
waits.

A stage is finished by a `Passed` entry about its things. Going back (`Reopened`) opens a stage and
all after it for the sockets behind what is reopened, and for those that share a lamp or a beam with
them from that thing on; the entries made there stay. A socket goes
through the stages by the things it shares in: its unit, itself, the beams it gives, and the car. A
stage of the car is finished for the sockets that stand at it, so that fog lamps go on while a
headlamp waits for parts.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property

from cold_arc.core.car.keys import Key, SocketKey
from cold_arc.core.job.entries.stages import Passed, Reopened
from cold_arc.core.job.record import Record
from cold_arc.core.job.stages import About, Stage, Status


@dataclass(frozen=True)
class Summary:
    """A stage at a glance: where each thing stands, and *waits*: the first that waits, and the
    stage and thing it waits for. A stage of the car has its sockets as things."""

    stage: Stage
    standing: dict[Key, Status]
    waits: tuple[Key, Stage, Key] | None

    @property
    def total(self) -> int:
        """How many things it has."""
        return len(self.standing)

    @property
    def done(self) -> int:
        """How many are finished, skipped ones too."""
        return sum(status in (Status.DONE, Status.SKIPPED) for status in self.standing.values())

    @property
    def skipped(self) -> int:
        """How many were skipped."""
        return sum(status is Status.SKIPPED for status in self.standing.values())

    @property
    def next(self) -> Key | None:
        """The first that can be worked on now."""
        return next((key for key, status in self.standing.items() if status is Status.OPEN), None)


class Progress:
    """The standing of everything worked on in one record."""

    def __init__(self, record: Record) -> None:
        self.record = record
        self._statuses: dict[tuple[Stage, Key], Status] = {}

    @cached_property
    def _passed(self) -> dict[tuple[Stage, Key], Passed]:
        """The passes that hold, by stage and thing."""
        held: dict[tuple[Stage, Key], Passed] = {}
        for entry in self.record.entries:
            if isinstance(entry.payload, Passed):
                held |= {(Stage(entry.payload.stage), key): entry.payload for key in entry.about}
            elif isinstance(entry.payload, Reopened):
                back_to = Stage(entry.payload.stage).number
                opened = self._opened_by(entry.about, back_to)
                held = {
                    (stage, key): passed
                    for (stage, key), passed in held.items()
                    if not self._hangs_on(opened, stage, key)
                }
        return held

    def _opened_by(self, about: Iterable[Key], back_to: int) -> dict[SocketKey, int]:
        """From which stage on each socket is open, once some things of a stage are opened again:
        with a lamp or a beam that several share, those others too, from there.
        """
        opened = {socket: back_to for key in about for socket in self.sockets_behind(key)}
        for stage in Stage:
            for key in self.things(stage):
                if self._hangs_on(opened, stage, key):
                    for socket in self.sockets_behind(key):
                        opened.setdefault(socket, stage.number)
        return opened

    def _hangs_on(self, opened: dict[SocketKey, int], stage: Stage, key: Key) -> bool:
        """Whether a thing of a stage is open, since one of its sockets is from there or before."""
        return any(
            socket in opened and opened[socket] <= stage.number
            for socket in self.sockets_behind(key)
        )

    def sockets_behind(self, key: Key) -> Sequence[SocketKey]:
        """The sockets worked on that a unit, a socket or a beam is made of."""
        return self._behind.get(key, ())

    @cached_property
    def _behind(self) -> dict[Key, list[SocketKey]]:
        behind: dict[Key, list[SocketKey]] = {}
        for socket in self.record.sockets:
            keys: list[Key] = [socket, socket.of_unit, *self.record.front.beams_of(socket)]
            for key in keys:
                behind.setdefault(key, []).append(socket)
        return behind

    def shares(self, socket: SocketKey, stage: Stage) -> list[Key]:
        """The things of a stage one socket shares in: for a stage of the car, itself."""
        if stage.about is About.UNIT:
            return [socket.of_unit]
        if stage.about is About.BEAM:
            return [
                beam for beam in self.record.front.beams_of(socket) if beam.function.is_road_beam
            ]
        return [socket]

    def things(self, stage: Stage, among: Iterable[SocketKey] | None = None) -> list[Key]:
        """The things of a stage, in order, of all sockets worked on or of those *among* them."""
        wanted = set(self.record.sockets if among is None else among)
        every: dict[About, Sequence[Key]] = {
            About.UNIT: self.record.units,
            About.BEAM: self.record.road_beams,
        }
        return [
            key
            for key in every.get(stage.about, self.record.sockets)
            if not wanted.isdisjoint(self.sockets_behind(key))
        ]

    def passed(self, stage: Stage, key: Key) -> Passed | None:
        """How a stage was finished for a thing, if it was."""
        return self._passed.get((stage, key))

    @cached_property
    def _current(self) -> dict[SocketKey, Stage | None]:
        return {socket: self._find_current(socket) for socket in self.record.sockets}

    def _find_current(self, socket: SocketKey) -> Stage | None:
        return next((stage for stage in Stage if self._open_shares(socket, stage)), None)

    def _open_shares(self, socket: SocketKey, stage: Stage) -> list[Key]:
        return [key for key in self.shares(socket, stage) if self.passed(stage, key) is None]

    def current(self, socket: SocketKey) -> Stage | None:
        """The stage a socket is at: the first it shares an open thing of; None when all ten are
        finished.
        """
        return self._current[socket]

    def status(self, stage: Stage, key: Key) -> Status:
        """Where a thing stands at a stage: open once every socket behind it has finished all
        before.
        """
        known = self._statuses.get((stage, key))
        if known is None:
            known = self._statuses[stage, key] = self._status(stage, key)
        return known

    def _status(self, stage: Stage, key: Key) -> Status:
        if passed := self.passed(stage, key):
            return Status.SKIPPED if passed.reason else Status.DONE
        return Status.AHEAD if self.waits_for(stage, key) else Status.OPEN

    def waits_for(self, stage: Stage, key: Key) -> tuple[Stage, Key] | None:
        """The earliest thing a thing of a stage waits for, if any."""
        held = [
            (at, self._open_shares(socket, at)[0])
            for socket in self.sockets_behind(key)
            if (at := self.current(socket)) and at.number < stage.number
        ]
        return min(held, key=lambda pair: pair[0].number) if held else None

    def open_things(self, stage: Stage, among: Iterable[SocketKey] | None = None) -> list[Key]:
        """The things of a stage that can be worked on now."""
        return [key for key in self.things(stage, among) if self.status(stage, key) is Status.OPEN]

    def summary(self, stage: Stage, among: Iterable[SocketKey] | None = None) -> Summary:
        """A stage at a glance."""
        standing = {key: self.status(stage, key) for key in self.things(stage, among)}
        waiting = next((key for key, status in standing.items() if status is Status.AHEAD), None)
        held = self.waits_for(stage, waiting) if waiting else None
        return Summary(stage, standing, (waiting, *held) if waiting and held else None)

    @property
    def waits_on(self) -> Stage | None:
        """The stage the job waits on: the earliest of its sockets; None when handed over."""
        open_stages = [stage for socket in self.record.sockets if (stage := self.current(socket))]
        return min(open_stages, key=lambda stage: stage.number) if open_stages else None

    def words(self, key: Key) -> str:
        """A thing with its side: "Low beam, left"."""
        return f"{self.record.front.words(key)}, {key.side.value}"
