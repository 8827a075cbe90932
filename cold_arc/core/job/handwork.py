"""The work at the car step by step: open, fit, prove, close; what may be done now, what a panel
must not close over.

The steps are the whole car's plan: what several lamps lie behind is opened once, and closed once
all work behind it is done and proved. Common practice, no published source.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property

from cold_arc.core.car.front import Key, SocketKey, UnitKey
from cold_arc.core.car.lamps import Present, Side
from cold_arc.core.job import timing, wants
from cold_arc.core.job.record import Record
from cold_arc.core.work import proof
from cold_arc.core.work.access import PLUG
from cold_arc.core.work.composing import Opening
from cold_arc.core.work.learning import Done, part_of


@dataclass(frozen=True)
class Step:
    """One step: what is ticked for which things once it is done; *opening* for what is opened or
    closed.
    """

    kind: str
    text: str
    ticks: tuple[tuple[Key, str], ...]
    units: tuple[UnitKey, ...]
    caution: str = ""
    why: str = ""
    check: str = ""
    opening: Opening | None = None

    @property
    def id(self) -> str:
        """What a form calls it: "open:headlamp-left:3"."""
        key, name = self.ticks[0]
        return f"{self.kind}:{key}:{name.partition(':')[2]}"

    def is_about(self, key: Key) -> bool:
        """Whether it is ticked for a unit or socket."""
        return any(about == key for about, _ in self.ticks)

    @property
    def sides(self) -> tuple[Side, ...]:
        """The sides it is about."""
        return tuple(side for side in Side if any(key.side is side for key, _ in self.ticks))


# What is done first at a lamp with a gas discharge bulb, and the kinds of steps that touch it.
SAFE = "Key out, lights off, battery off; wait five minutes"
SAFE_WHY = (
    "A ballast makes tens of kilovolts at ignition and holds a charge. The battery goes on again "
    "only to prove, hands off, every plug home."
)
TOUCHES = ("open", "fit", "extra")


def is_gas_discharge(record: Record, socket: SocketKey) -> bool:
    """Whether a socket holds a gas discharge bulb, or was made for one."""
    fitted, base = record.socket(socket), record.base(socket)
    return fitted.present is Present.HID or (base is not None and base.kind == "hid")


class Handwork:
    """All steps of a job at the car, in order, and where they stand."""

    def __init__(self, record: Record) -> None:
        self.record = record

    @cached_property
    def steps(self) -> list[Step]:
        """Every step: extra work before, then opened and fitted side by side, then closed in the
        exact reverse.
        """
        openings = self.record.plan.openings
        return [
            *self._safe,
            *self._tools("out", "Lay out, and count"),
            *self._extras("before", self.record.units),
            *self._open_and_fit(openings),
            *(_closing(opening) for opening in reversed(openings)),
            *self._tools("back", "Count back, none left in the bay"),
        ]

    @cached_property
    def _safe(self) -> list[Step]:
        """High voltage first: before anything of a lamp with a gas discharge bulb is touched."""
        units = tuple(
            dict.fromkeys(
                socket.of_unit
                for socket in self.record.sockets
                if is_gas_discharge(self.record, socket)
            )
        )
        ticks = tuple((key, "safe:off") for key in units)
        return [Step("safe", SAFE, ticks, units, "high-voltage", SAFE_WHY)] if units else []

    def _tools(self, name: str, words: str) -> Iterator[Step]:
        """Every tool, out and back: once for the car."""
        if tools := self.record.plan.tools:
            units = tuple(self.record.ways)
            yield Step(
                "tools",
                f"{words}: {', '.join(tools)}",
                tuple((key, f"tools:{name}") for key in units),
                units,
            )

    @cached_property
    def _places(self) -> dict[str, int]:
        return {step.id: place for place, step in enumerate(self.steps)}

    def _open_and_fit(self, openings: Sequence[Opening]) -> Iterator[Step]:
        """What is opened, and each side's fitting once everything before it is open."""
        waiting = {side: [key for key in self.record.units if key.side is side] for side in Side}
        for number, opening in enumerate(openings):
            yield _opened(opening)
            to_come = _sides(openings[number + 1 :])
            for side in [side for side in waiting if side not in to_come]:
                yield from self._fitting(waiting.pop(side))
        for units in waiting.values():
            yield from self._fitting(units)

    def _fitting(self, units: Sequence[UnitKey]) -> Iterator[Step]:
        yield from self._extras("open", units)
        for socket in self.record.sockets:
            if socket.of_unit in units:
                for fit_step in wants.fit_steps(self.record, socket):
                    ticks = ((socket, f"fit:{fit_step.id}"),)
                    yield Step(
                        "fit",
                        fit_step.text,
                        ticks,
                        (socket.of_unit,),
                        fit_step.caution,
                        fit_step.why,
                        fit_step.check,
                    )

    def _extras(self, when: str, units: Sequence[UnitKey]) -> Iterator[Step]:
        for extra, every in self.record.extras_asked(when, units).items():
            keys = [key for key in every if not wants.at_fit(self.record, extra, key)]
            for together in [keys][: len(keys)] if extra.once else [[key] for key in keys]:
                ticks = tuple((key, f"extra:{extra.id}") for key in together)
                yield Step("extra", extra.text, ticks, tuple(together), extra.caution)

    @cached_property
    def _ticked(self) -> dict[Key, set[str]]:
        keys: list[UnitKey | SocketKey] = [*self.record.units, *self.record.sockets]
        return {key: self.record.ticks(key) for key in keys}

    def done(self, step: Step) -> bool:
        """Whether a step is ticked for everything it is about; a part open for one lamp is open for
        all behind it.
        """
        if step.opening is None:
            return all(name in self._ticked[key] for key, name in step.ticks)
        opened, closed = (self._lamps(step.opening, tick) for tick in ("route", "close"))
        if step.kind == "open":
            return opened == set(step.units) or bool(opened - closed)
        return bool(opened) and opened <= closed

    def _lamps(self, opening: Opening, tick: str) -> set[UnitKey]:
        """The lamps behind a part for which a step was ticked."""
        return {
            key for key, number in opening.ids.items() if f"{tick}:{number}" in self._ticked[key]
        }

    def waits_for(self, step: Step) -> list[str]:
        """What must come before a step, in words; none: it can be done now."""
        if unsafe := self._unsafe(step):
            return unsafe
        if step.kind == "close":
            return self._keeps_open(step)
        if step.kind == "tools":
            waits = step.ticks[0][1] != "tools:out" and not self._all_closed
            return ["Close everything first"] if waits else []
        if step in self._before:
            return []
        before: list[tuple[str, Key]] = [("open", key) for key in step.units]
        if step.kind == "fit":
            before += [("fit", step.ticks[0][0])]
        return [f"First: {undone.text}" for undone in self._undone(step, before)]

    def _unsafe(self, step: Step) -> list[str]:
        """What must be made safe before a step touches its lamp."""
        return [
            f"First: {safe.text}"
            for safe in self._safe
            if step.kind in TOUCHES and set(safe.units) & set(step.units) and not self.done(safe)
        ]

    @property
    def _all_closed(self) -> bool:
        return all(self.done(step) for step in self.steps if step.kind == "close")

    def _undone(self, step: Step, before: Sequence[tuple[str, Key]]) -> list[Step]:
        """The first step not done yet, of some kinds about some things, that stands before
        *step*.
        """
        here = self._places[step.id]
        first = min((self._first_undone.get(key, here) for key in before), default=here)
        return [self.steps[first]] if first < here else []

    @cached_property
    def _first_undone(self) -> dict[tuple[str, Key], int]:
        """The first step not done yet, by kind and what it is about: the lamps of a part, the
        socket of a fitting.
        """
        first: dict[tuple[str, Key], int] = {}
        for place, step in enumerate(self.steps):
            if not self.done(step):
                for key in [step.ticks[0][0]] if step.kind == "fit" else step.units:
                    first.setdefault((step.kind, key), place)
        return first

    def _keeps_open(self, step: Step) -> list[str]:
        """Why a panel must not be closed yet."""
        assert step.opening is not None
        deeper = self._undone(step, [("close", key) for key in step.units])
        words = [f"Close first: {undone.text}" for undone in deeper]
        words += [text for place in self._loose_deeper(step) for text in self._loose_words[place]]
        if not self.done(_opened(step.opening)):
            return [*words, "It was never opened."]
        return words + [why for unit in step.units for why in self._open_units[unit]]

    def _loose_deeper(self, step: Step) -> list[int]:
        """The places of parts closed before this one with something of theirs missing."""
        here = self._places[step.id]
        loose = {place for key in step.units for place in self._loose.get(key, ())}
        return sorted(place for place in loose if place < here)

    @cached_property
    def _loose_words(self) -> dict[int, list[str]]:
        """What is missing from parts that are closed, by the place of their closing."""
        by_place = {
            place: _not_back(wants.tray_of(self.record, step.opening))
            for place, step in enumerate(self.steps)
            if step.kind == "close" and step.opening is not None and self.done(step)
        }
        return {place: words for place, words in by_place.items() if words}

    @cached_property
    def _loose(self) -> dict[UnitKey, list[int]]:
        by_unit: dict[UnitKey, list[int]] = {}
        for place in self._loose_words:
            for key in self.steps[place].units:
                by_unit.setdefault(key, []).append(place)
        return by_unit

    @cached_property
    def _before(self) -> list[Step]:
        """What is done before anything is opened."""
        return list(self._extras("before", self.record.units))

    @cached_property
    def _open_units(self) -> dict[UnitKey, list[str]]:
        """What is not done and proved yet of each lamp."""
        return {key: list(self._still_open(key)) for key in self.record.units}

    def _still_open(self, unit: UnitKey) -> Iterator[str]:
        name = f"{self.record.front.words(unit)} {unit.side.value}"
        sockets = [key for key in self.record.sockets if key.of_unit == unit]
        yield from (f"{name}: {why}" for why in self._unfitted(unit))
        for socket in sockets:
            if wants.needs_clocking(self.record, socket):
                yield from (f"{name}: {why}" for why in wants.clocking_wants(self.record, socket))
        yield from self._unproved(unit, sockets)
        yield from (f"{name}: {why}" for why in wants.checks_wanted(self.record, sockets))

    def _unfitted(self, unit: UnitKey) -> Iterator[str]:
        """The steps at a unit that are not done, by their number and the first."""
        mine = [step for step in self.steps if step.kind in ("fit", "extra") and unit in step.units]
        if undone := [step for step in mine if not self.done(step)]:
            yield f"{len(undone)} steps not done, first: {undone[0].text}"

    def _unproved(self, unit: UnitKey, sockets: Sequence[SocketKey]) -> Iterator[str]:
        """Functions of one lamp that were not seen to work while it is open."""
        given = {
            function.value
            for key in sockets
            for function in self.record.front.socket(key).functions
        }
        given -= self.record.absent_functions()
        results = wants.board(self.record, "open")
        cells = proof.cells(name for name in proof.FUNCTIONS if name in given)
        bad = [
            cell
            for cell in cells
            if cell.side == unit.side.value and results.get(cell) not in proof.GOOD_RESULTS
        ]
        if bad:
            more = f", and {len(bad) - 1} more" if len(bad) > 1 else ""
            yield f"Not proved open: {bad[0].words}{more}"

    def wants_proof(self, step: Step) -> bool:
        """Whether a panel stays open for functions behind it that were not seen to work."""
        sockets = {
            key: [socket for socket in self.record.sockets if socket.of_unit == key]
            for key in step.units
        }
        return step.kind == "close" and any(
            any(self._unproved(key, them)) for key, them in sockets.items()
        )


def _sides(openings: Sequence[Opening]) -> set[Side]:
    """The sides that have a lamp behind any of these."""
    return {key.side for opening in openings for key in opening.units}


def _not_back(rows: Iterable[wants.TrayRow]) -> list[str]:
    """What of a tray is missing, in words."""
    return [
        f"{row.loose} {row.fasteners.kind}, {row.fasteners.place}: not back"
        for row in rows
        if row.loose
    ]


def _opened(opening: Opening) -> Step:
    return _of_opening("open", "route", opening, opening.step.text)


def _closing(opening: Opening) -> Step:
    return _of_opening("close", "close", opening, f"Back: {opening.step.text}")


def _of_opening(kind: str, tick: str, opening: Opening, text: str) -> Step:
    ticks = tuple((key, f"{tick}:{number}") for key, number in opening.ids.items())
    return Step(kind, text, ticks, opening.units, opening.step.caution, opening=opening)


def done_of(record: Record) -> list[Done]:
    """What each part that was opened and closed again took, and how many of its fasteners broke."""
    work, spent = Handwork(record), timing.actual_min(record)
    return [
        _took(record, step.opening, timing.opening_min(spent, step.opening))
        for step in work.steps
        if step.kind == "close" and step.opening is not None and work.done(step)
    ]


def _took(record: Record, opening: Opening, spent_min: float | None) -> Done:
    """What one part took, counted for a first side, and its fasteners."""
    share = opening.minutes / opening.step.minutes if opening.step.minutes else 1.0
    rows = [row for row in wants.tray_of(record, opening) if row.fasteners.kind != PLUG]
    return Done(
        part_of(opening.step),
        opening.step.minutes,
        spent_min / share if spent_min is not None else None,
        sum(row.fasteners.count for row in rows),
        sum(row.said.broken for row in rows),
    )
