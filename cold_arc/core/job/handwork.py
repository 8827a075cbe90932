"""The work at the car step by step: make safe, open, fit, plug in, prove, close; what may be done
now, what a panel must not close over.

The steps are the whole car's plan: what several lamps lie behind is opened once, and closed once
all work behind it is done and proved, in words of its own; what is never undone (an old bulb drawn
out) is not. Common practice, no published source.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from functools import cached_property

from cold_arc.core.car.keys import Key, SocketKey, UnitKey
from cold_arc.core.car.lamps import Side
from cold_arc.core.job import at_lamp, proofs, steps
from cold_arc.core.job.needed import CLOSE, needs
from cold_arc.core.job.needs import unmet
from cold_arc.core.job.progress import Progress
from cold_arc.core.job.record import Record
from cold_arc.core.job.step_order import (
    AT_CLOSING,
    CLOSES,
    IN_ONE_GO,
    LIVE_AGAIN_WHY,
    LIVE_WHY,
    SAFE,
    SAFE_AGAIN,
    SAFE_AGAIN_WHY,
    SAFE_WHY,
    TOUCHES,
    before_it,
    is_last,
    is_of_bulb,
    is_of_lamp,
    stands_as,
)
from cold_arc.core.job.steps import Step
from cold_arc.core.job.tray import tray_of
from cold_arc.core.units import say_count
from cold_arc.core.work import proof
from cold_arc.core.work.access import BATTERY, starter_parts
from cold_arc.core.work.composing import Opening
from cold_arc.core.work.extras import Extra
from cold_arc.core.work.fitting import FitStep
from cold_arc.core.work.tick import (
    MADE_LIVE,
    MADE_SAFE,
    PROVED_OPEN,
    SAFE_ONCE_MORE,
    TOOLS_OUT,
    Tick,
    TickKind,
)


class Handwork:
    """All steps of a job at the car, in order, and where they stand."""

    def __init__(self, record: Record) -> None:
        self.record = record

    @cached_property
    def steps(self) -> list[Step]:
        """Every step: made safe, extra work before, opened and fitted side by side, plugged in,
        proved, then closed in the exact reverse.
        """
        plan = self.record.plan
        return [
            *self._safe,
            *self._tools("out", "Lay out, and count"),
            *self._before,
            *self._open_and_fit(plan.openings),
            *(steps.closed("plug", opening) for opening in plan.plugged_in),
            *self._proofs(),
            *self._safe_again,
            *self._shut(plan.covers),
            *self._live_again,
            *self._shut(plan.bonnet),
            *self._tools("back", "Count back, none left in the bay"),
        ]

    @cached_property
    def _safe(self) -> list[Step]:
        """High voltage first: before anything of a lamp with a gas discharge bulb is touched."""
        lamps = [
            socket.of_unit for socket in self.record.sockets if self.record.is_gas_discharge(socket)
        ]
        return steps.of_battery("safe", lamps, MADE_SAFE, SAFE, SAFE_WHY, "high-voltage")

    @cached_property
    def _safe_again(self) -> list[Step]:
        """The battery off once more where proving undid it and a ballast or an airbag is near."""
        if "proved" not in needs()["made-safe"].undone_by:
            return []
        lamps = [
            socket.of_unit
            for socket in self.record.sockets
            if at_lamp.keeps_ballast(self.record, socket) or self._is_dead(socket.of_unit)
        ]
        return steps.of_battery("safe", lamps, SAFE_ONCE_MORE, SAFE_AGAIN, SAFE_AGAIN_WHY)

    @cached_property
    def _live_again(self) -> list[Step]:
        """The battery on once all is closed, where no way in says so in closing."""
        if any(opening.is_battery for opening in self.record.plan.openings):
            return []
        lamps = [unit for step in self._safe_again for unit in step.units]
        words = str(starter_parts()[BATTERY]["closing"])
        return steps.of_battery("live", lamps, MADE_LIVE, words, LIVE_AGAIN_WHY)

    def _is_dead(self, unit: UnitKey) -> bool:
        """Whether the way in to a unit takes the battery off."""
        return any(step.opens == BATTERY for step in self.record.ways.get(unit, ()))

    def is_live(self, unit: UnitKey) -> bool:
        """Whether proving a unit puts the battery on in the midst of the work, or a ballast."""
        sockets = at_lamp.sockets_of(self.record, unit)
        return self._is_dead(unit) or any(self.record.is_gas_discharge(key) for key in sockets)

    @cached_property
    def tools(self) -> list[str]:
        """Every tool of the car's work: of the ways in, of extra work, of a battery that is off
        for a ballast.
        """
        besides = [
            extra for key in self.record.units for extra in at_lamp.extra_work(self.record, key)
        ]
        every = [*self.record.plan.tools, *(tool for extra in besides for tool in extra.tools)]
        if self._safe or self._safe_again:
            every += starter_parts()[BATTERY]["tools"]
        return list(dict.fromkeys(every))

    def _tools(self, name: str, words: str) -> Iterator[Step]:
        """Every tool, out and back: once for the car."""
        units = tuple(self.record.ways) or tuple(self.record.units)
        if self.tools:
            ticks = tuple((key, Tick.of(TickKind.TOOLS, name)) for key in units)
            yield Step("tools", f"{words}: {', '.join(self.tools)}", ticks, units)

    @cached_property
    def _places(self) -> dict[str, int]:
        return {step.id: place for place, step in enumerate(self.steps)}

    def _open_and_fit(self, openings: Sequence[Opening]) -> Iterator[Step]:
        """What is opened, and each side's fitting once everything before it is open."""
        waiting = {side: [key for key in self.record.units if key.side is side] for side in Side}
        for number, opening in enumerate(openings):
            yield steps.opened(opening)
            to_come = _sides(openings[number + 1 :])
            for side in [side for side in waiting if side not in to_come]:
                yield from self._fitting(waiting.pop(side))
        for units in waiting.values():
            yield from self._fitting(units)

    def _fitting(self, units: Sequence[UnitKey]) -> Iterator[Step]:
        yield from self._extras("open", units)
        for unit in units:
            every = at_lamp.sockets_of(self.record, unit)
            yield from self._of_sockets("fit", every, is_of_lamp)
        for sockets in at_lamp.fitted_together(self.record, units):
            yield from self._of_sockets("fit", sockets, is_of_bulb)
        for unit in units:
            yield from self._of_sockets("fit", at_lamp.sockets_of(self.record, unit), is_last)

    def _of_sockets(
        self, kind: str, sockets: Sequence[SocketKey], wanted: Callable[[FitStep], bool]
    ) -> Iterator[Step]:
        """The fitting steps that are wanted of some sockets of one unit, each once for all."""
        together: dict[FitStep, list[SocketKey]] = {}
        for socket in sockets:
            for fit_step in filter(wanted, at_lamp.fit_steps(self.record, socket)):
                together.setdefault(fit_step, []).append(socket)
        yield from (steps.fitted(kind, fit_step, keys) for fit_step, keys in together.items())

    def _proofs(self) -> Iterator[Step]:
        """What each lamp gives, seen to work while it is open."""
        for unit in self.record.units:
            live = self.is_live(unit)
            words = f"Prove it open: {self.record.front.named(unit).lower()}"
            ticks = ((unit, PROVED_OPEN),)
            yield Step("prove", words, ticks, (unit,), "", LIVE_WHY if live else "")

    def _shut(self, openings: Sequence[Opening]) -> Iterator[Step]:
        for opening in openings:
            yield from self._closings(opening)

    def _closings(self, opening: Opening) -> Iterator[Step]:
        """A part closed, and before a cover what is looked at as it goes on."""
        cover = opening.step.cover
        for unit in opening.units if cover else ():
            yield from self._of_sockets(
                "seal",
                at_lamp.sockets_of(self.record, unit),
                lambda fit_step: cover in fit_step.when and fit_step.at_closing,
            )
        yield steps.closed("close", opening)

    def _extras(self, when: str, units: Sequence[UnitKey]) -> Iterator[Step]:
        for extra in at_lamp.extra_work_at(self.record, when, units):
            keys = self._asked(extra, self.record.units if extra.once else units)
            if extra.once and keys and keys[0] not in units:
                continue  # it was done with the side before
            for together in [keys][: len(keys)] if extra.once else [[key] for key in keys]:
                ticks = tuple((key, Tick.of(TickKind.EXTRA, extra.id)) for key in together)
                yield Step("extra", extra.text, ticks, tuple(together), extra.caution)

    def _asked(self, extra: Extra, units: Sequence[UnitKey]) -> list[UnitKey]:
        """The units some extra work was asked for that no step at Fit stands for."""
        asked = at_lamp.extra_work_at(self.record, extra.when, units).get(extra, [])
        return [key for key in asked if not at_lamp.at_fit(self.record, extra, key)]

    @cached_property
    def _ticked(self) -> dict[Key, set[Tick]]:
        keys: list[UnitKey | SocketKey] = [*self.record.units, *self.record.sockets]
        return {key: self.record.ticks(key) for key in keys}

    def done(self, step: Step) -> bool:
        """Whether a step is ticked for everything it is about; a part open for one lamp is open for
        all behind it.
        """
        if step.kind == "prove":
            return not self._unproved[step.units[0]]
        if step.opening is None:
            return all(name in self._ticked[key] for key, name in step.ticks)
        states = {self.record.part_state(key, number) for key, number in step.opening.ids.items()}
        if step.kind == "open":
            return "open" in states or states == {"closed"}
        return "closed" in states and "open" not in states

    def is_open(self, step: Step) -> bool:
        """Whether what a step opened or closed stands open."""
        return step.opening is not None and any(
            self.record.part_state(key, number) == "open"
            for key, number in step.opening.ids.items()
        )

    def is_shut(self, step: Step) -> bool:
        """Whether a step opened a part that is closed again, and could be opened once more."""
        opening = step.opening if step.kind == "open" else None
        return bool(
            opening and opening.step.comes_back and self.done(step) and not self.is_open(step)
        )

    def waits_for(self, step: Step) -> list[str]:
        """What must come before a step, in words; none: it can be done now."""
        if unsafe := self._unsafe(step):
            return unsafe
        if step.kind == "close":
            return self._keeps_open(step)
        if step.kind == "tools":
            waits = step.ticks[0][1] != TOOLS_OUT and not self._all_closed
            return ["Close everything first"] if waits else []
        if step in self._before:
            return []
        first = [
            f"First: {self._named(undone)}" for undone in self._undone(step, self._before_it(step))
        ]
        return first + (self._unread_clocking(step) if step.kind == "prove" else [])

    def together(self, shown: Sequence[Step], first: Step) -> list[Step]:
        """The steps of those *shown* that may be done in one go from a *first* one on: about the
        same sides, until all is closed, and waiting for nothing but one another; none where that
        one waits.
        """
        run: list[Step] = []
        for step in shown[shown.index(first) :]:
            if self.done(step):
                continue
            goes_along = step.sides == first.sides or {step.kind, first.kind} <= AT_CLOSING
            if not (step.kind in IN_ONE_GO and goes_along and self._could_follow(step, run)):
                break
            run.append(step)
        return run

    def _could_follow(self, step: Step, run: Sequence[Step]) -> bool:
        """Whether a step could be done once those of a *run* are, with all that was out back in."""
        if self._uncounted(step):
            return False
        if not run:
            return not self.waits_for(step)
        if self._unsafe(step) or step.kind == "tools" or not self._may_close(step):
            return False
        asked = set(self._before_it(step))
        before = self.steps[: self._places[step.id]]
        return all(
            asked.isdisjoint(stands_as(earlier)) or self.done(earlier) or earlier in run
            for earlier in before
        )

    def _may_close(self, step: Step) -> bool:
        """Whether nothing but what closes before it keeps a panel open; of any other step, yes."""
        if step.kind != "close" or step.opening is None:
            return True
        was_opened = self.done(steps.opened(step.opening))
        is_ready = not any(self._open_units[unit] for unit in step.units)
        return was_opened and is_ready and not self._loose_deeper(step)

    def _uncounted(self, step: Step) -> bool:
        """Whether something of what a step closes was never counted in hand."""
        closes = step.opening if step.kind in CLOSES else None
        return closes is not None and any(row.uncounted for row in tray_of(self.record, closes))

    def _unread_clocking(self, step: Step) -> list[str]:
        """Where a bulb locked is read before it is proved: what it takes to set it right undoes the
        proof.
        """
        sockets = [key for unit in step.units for key in at_lamp.sockets_of(self.record, unit)]
        return [
            f"{self.record.front.named(key)}: {why}"
            for key in sockets
            if at_lamp.needs_clocking(self.record, key)
            for why in at_lamp.clocking_wants(self.record, key)
        ]

    def _unsafe(self, step: Step) -> list[str]:
        """What must be made safe before a step touches its lamp."""
        before = self._safe if step.kind in TOUCHES else []
        again = self._safe_again if step.kind in ("seal", "close") else []
        return [
            f"First: {made.text}"
            for made in (*before, *again)
            if set(made.units) & set(step.units) and not self.done(made)
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
                for name in stands_as(step):
                    first.setdefault(name, place)
        return first

    def _keeps_open(self, step: Step) -> list[str]:
        """Why a panel must not be closed yet."""
        assert step.opening is not None
        words = [
            *self._first(step, "First", "seal", "plug", "live"),
            *self._first(step, "Close first", "close"),
        ]
        words += [text for place in self._loose_deeper(step) for text in self._loose_words[place]]
        if not self.done(steps.opened(step.opening)):
            return [*words, "It was never opened."]
        return words + [why for unit in step.units for why in self._open_units[unit]]

    def _waits_about(self, step: Step) -> Sequence[UnitKey]:
        """The lamps whose work a step waits for: its own; the battery on, and the bonnet over it,
        that of the whole car.
        """
        if step.puts_battery_on or (step.shuts_bonnet and self._battery_to_come):
            return self.record.units
        return step.units

    @cached_property
    def _battery_to_come(self) -> bool:
        return any(step.puts_battery_on for step in self.steps)

    def _before_it(self, step: Step) -> list[tuple[str, Key]]:
        """What stands before a step, about all it waits for."""
        return before_it(step, self._waits_about(step))

    def _first(self, step: Step, words: str, *kinds: str) -> list[str]:
        """The first step of some kinds not done yet that stands before one, in words."""
        about = self._waits_about(step)
        before = self._undone(step, [(kind, key) for key in about for kind in kinds])
        return [f"{words}: {self._named(undone)}" for undone in before]

    def _named(self, step: Step) -> str:
        """A step as others name it: with its socket, where its unit has more than one that is
        fitted.
        """
        key = step.ticks[0][0]
        if not isinstance(key, SocketKey) or not self._is_one_of_many(key):
            return step.text
        return f"{self.record.front.named(key)}: {step.text}"

    def _is_one_of_many(self, key: SocketKey) -> bool:
        return len(at_lamp.sockets_of(self.record, key.of_unit)) > 1

    def where(self, step: Step, among: Sequence[SocketKey]) -> str:
        """Where a step is done, among the sockets in hand: the side; which lamp where they are in
        several, which bulb where a lamp has several of them.
        """
        if len(step.sides) > 1:
            return "both sides"
        about = steps.bulb_of(step, among) or steps.lamp_of(step, among)
        return self.record.front.named(about).lower() if about else step.ticks[0][0].side.value

    def _loose_deeper(self, step: Step) -> list[int]:
        """The places of parts closed before this one with something of theirs missing."""
        here = self._places[step.id]
        loose = {place for key in step.units for place in self._loose.get(key, ())}
        return sorted(place for place in loose if place < here)

    @cached_property
    def _loose_words(self) -> dict[int, list[str]]:
        """What is missing from parts that are closed, by the place of their closing."""
        by_place = {
            place: [row.words for row in tray_of(self.record, step.opening) if row.loose]
            for place, step in enumerate(self.steps)
            if step.kind in CLOSES and step.opening is not None and self.done(step)
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
        """What is done before anything is opened: extra work, lenses restored while their lamps are
        shut, the new parts of both sides held against the old.
        """
        pairs = dict.fromkeys(unit.name for unit in self.record.units)
        return [
            *self._extras("before", self.record.units),
            *(
                step
                for unit in self.record.units
                for step in self._of_sockets(
                    "extra",  # nothing is kept waiting for it but proving
                    at_lamp.sockets_of(self.record, unit),
                    lambda fit_step: fit_step.first and fit_step.lamp,
                )
            ),
            *(
                step
                for name in pairs
                for step in self._of_sockets(
                    "fit",
                    [key for key in self.record.sockets if key.of_unit.name == name],
                    lambda fit_step: fit_step.first and not fit_step.lamp,
                )
            ),
        ]

    @cached_property
    def _open_units(self) -> dict[UnitKey, list[str]]:
        """What is not done and proved yet of each lamp."""
        return {key: list(self._still_open(key)) for key in self.record.units}

    def _still_open(self, unit: UnitKey) -> Iterator[str]:
        mine = [step for step in self.steps if step.kind in ("fit", "extra") and unit in step.units]
        if undone := [step for step in mine if not self.done(step)]:
            name, count = self.record.front.named(unit), say_count(len(undone), "step")
            yield f"{name}: {count} not done, first: {self._named(undone[0])}"
        for socket in at_lamp.sockets_of(self.record, unit):
            yield from self._unmet(socket)

    def _unmet(self, socket: SocketKey) -> Iterator[str]:
        """What a socket needs before its lamp closes, besides its steps."""
        name = self.record.front.named(socket if self._is_one_of_many(socket) else socket.of_unit)
        for lacking in unmet(self.record.once(Progress), CLOSE, socket):
            if lacking.need.id != "steps-done":
                yield f"{name}: {lacking.words}"

    @cached_property
    def _unproved(self) -> dict[UnitKey, list[proof.Cell]]:
        """What of each lamp was not seen to work while it is open."""
        return {
            unit: [
                cell
                for socket in at_lamp.sockets_of(self.record, unit)
                for cell in proofs.unproved_open(self.record, socket)
            ]
            for unit in self.record.units
        }

    def wants_proof(self, step: Step) -> bool:
        """Whether a panel stays open for functions that were not seen to work."""
        return step.kind == "close" and any(self._unproved[key] for key in step.units)


def _sides(openings: Sequence[Opening]) -> set[Side]:
    """The sides that have a lamp behind any of these."""
    return {key.side for opening in openings for key in opening.units}
