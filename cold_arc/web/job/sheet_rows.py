"""The lamps of the customer sheet as view objects: what was in each socket and what is now, its
beams measured and aimed, both sides once where they are alike.
"""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass

from cold_arc.core.car.front import Socket
from cold_arc.core.car.keys import BeamKey, SocketKey
from cold_arc.core.car.lamps import Side
from cold_arc.core.findings import Finding
from cold_arc.core.job.at_lamp import renewed
from cold_arc.core.job.entries.aim import Aimed
from cold_arc.core.job.entries.kind import AimPhase
from cold_arc.core.job.entries.later import FittedBefore
from cold_arc.core.job.entries.match import Chosen, renewed_words
from cold_arc.core.job.facts import (
    fitted_before,
    is_kept,
    leaves_with,
    leaves_with_words,
    switching_of,
    what_it_leaves_with,
    wired,
    wires_of,
)
from cold_arc.core.job.outcome import Comparison, aim_verdict, compare
from cold_arc.core.job.record import Record
from cold_arc.core.light_source import MODES, LightSource
from cold_arc.web.forms import fields
from cold_arc.web.job.stage_page import StagePage
from cold_arc.web.parts.wall import Wall


@dataclass(frozen=True)
class BeamRow:
    """What the sheet says of one beam."""

    key: BeamKey
    comparison: Comparison
    as_left: Aimed | None
    aim: Finding | None

    @property
    def words(self) -> str:
        """Its function."""
        return self.key.function.label

    @property
    def has_outcome(self) -> bool:
        """Whether anything was read or aimed."""
        return bool(self.comparison.gains or self.as_left)


@dataclass(frozen=True)
class SocketRow:
    """What the sheet says of one socket: what was in it, what was chosen for it; *what* it leaves
    with, in words; *now*: the same, and whether that *is_kept*.
    """

    key: SocketKey
    words: str
    socket: Socket
    chosen: Chosen | None
    beams: list[BeamRow]
    wired: list[str]
    renewed: list[str]
    identified: bool
    leads: list[str]
    before: FittedBefore | None
    leaves_with: LightSource | None
    what: str
    now: str
    is_kept: bool

    @property
    def was(self) -> str:
        """What was in it, as far as told."""
        if self.before:
            return f"{self.before.source.name}, in since {self.before.reference}"
        if not self.identified:
            return "not identified"
        optic = self.socket.optic
        shown = [optic.label.lower()] if optic and self.socket.holds_bulb else []
        return ", ".join([self.socket.words, *shown])

    @property
    def off_road(self) -> bool:
        """Whether what it leaves with is for such use alone, by this visit or by an earlier one."""
        source_entry = self.before if self.is_kept else self.chosen
        return source_entry is not None and source_entry.off_road

    @property
    def besides(self) -> str:
        """Its marks and what was put in new with it, as they follow its name."""
        return self.marked + (f", with {' and '.join(self.renewed)}" if self.renewed else "")

    @property
    def marked(self) -> str:
        """The marks its maker tells of what it leaves with; those read in hand are the law's."""
        approval = self.leaves_with.approval if self.leaves_with else ""
        return f", by its maker marked {approval}" if approval else ""

    @property
    def abilities(self) -> str:
        """What a whole lamp or a module can do besides, and where its marks stand."""
        if self.leaves_with is None:
            return ""
        can = [MODES[mode] for mode in self.leaves_with.modes]
        marks_at = self.leaves_with.marks_at
        can += [f"its marks stand {marks_at}"] if marks_at else []
        return "; ".join(can)

    @property
    def remarks(self) -> list[str]:
        """What must be said of the choice."""
        override = self.chosen.override if self.chosen else ""
        return ["For off-road or show use only."] * self.off_road + (
            [f"Recorded against a rule: {override}"] if override else []
        )

    @property
    def same(self) -> tuple[object, ...]:
        """What both sides must share to be said once."""
        return self.socket.words, self.socket.optic, self.renewed, self.chosen, self.before


@dataclass(frozen=True)
class SheetBeam:
    """One function of a pair of sockets: each side's row, the Wall before and after, the places
    read, what was checked before aiming.
    """

    words: str
    sides: dict[Side, BeamRow]
    points: list[str]
    wall: Wall | None
    readied: tuple[str, ...]


@dataclass(frozen=True)
class SheetPair:
    """The sockets of one name: each side's row, once where both are alike."""

    rows: list[SocketRow]
    beams: list[SheetBeam]

    @property
    def words(self) -> str:
        """The pair's name."""
        return self.rows[0].words

    @property
    def only_side(self) -> Side | None:
        """Its side, where it has one socket alone."""
        return self.rows[0].key.side if len(self.rows) == 1 else None

    @property
    def wired(self) -> list[str]:
        """What was put in along their wiring, each once with how many."""
        counted = Counter(words for row in self.rows for words in row.wired)
        return [f"{count} × {words}" if count > 1 else words for words, count in counted.items()]

    @property
    def leads(self) -> list[str]:
        """Their wires and their switching, each once."""
        return list(dict.fromkeys(line for row in self.rows for line in row.leads))

    @property
    def fitted(self) -> list[tuple[str, SocketRow]]:
        """What was fitted, by side; said once where both sides got the same."""
        first = self.rows[0]
        if all(row.same == first.same for row in self.rows):
            return [("", first)]
        return [(row.key.side.value.capitalize(), row) for row in self.rows]


def socket_rows(page: StagePage) -> list[SocketRow]:
    """What the sheet says of each socket and the beams it gives."""
    return [_socket_row(page.record, key) for key in page.record.sockets]


def _socket_row(record: Record, key: SocketKey) -> SocketRow:
    beams = [beam for beam in record.front.beams_of(key) if beam.function.is_road_beam]
    return SocketRow(
        key,
        record.front.words(key),
        record.socket(key),
        record.latest(Chosen, key),
        [_beam_row(record, beam) for beam in beams],
        [part.words for part in wired(record, key)],
        [renewed_words(what).lower() for what in sorted(renewed(record, key))],
        record.is_identified(key),
        _lead_lines(record, key),
        fitted_before(record, key),
        leaves_with(record, key),
        what_it_leaves_with(record, key),
        leaves_with_words(record, key),
        is_kept(record, key),
    )


def _lead_lines(record: Record, key: SocketKey) -> list[str]:
    """What the sheet says of a socket's wires and how its lamp is switched."""
    wires, switching = wires_of(record, key), switching_of(record, key)
    joined = [f"Wires, car to new: {wires.words}"] if wires.wires else []
    return joined + ([f"Switched: {switching.words}."] if switching else [])


def _beam_row(record: Record, beam: BeamKey) -> BeamRow:
    as_left = record.aimed(beam, AimPhase.LEFT, practised=False)
    verdict = aim_verdict(record, beam, as_left, fields.unit_system()) if as_left else None
    return BeamRow(beam, compare(record, beam), as_left, verdict)
