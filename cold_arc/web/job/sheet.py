"""The customer sheet as view objects, made from a job's record: what was in each lamp and what is
now, gains, aim as left, cautions, what was not done.
"""

from __future__ import annotations

import datetime as dt
from collections import Counter
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from functools import cached_property

from cold_arc.core import law
from cold_arc.core.car.front import Socket
from cold_arc.core.car.keys import BeamKey, Key, SocketKey
from cold_arc.core.car.lamps import Function, Holds, Side
from cold_arc.core.findings import Finding, Level
from cold_arc.core.job import as_it_came, needs
from cold_arc.core.job.again import WHY_NOT
from cold_arc.core.job.at_lamp import left_open, renewed
from cold_arc.core.job.entries.aim import Aimed, WallPhotographed
from cold_arc.core.job.entries.fit import Pictured
from cold_arc.core.job.entries.hand_over import HandedOver, TestDriven
from cold_arc.core.job.entries.kind import AimPhase
from cold_arc.core.job.entries.later import FittedBefore
from cold_arc.core.job.entries.match import Chosen, renewed_words
from cold_arc.core.job.entries.stages import Passed
from cold_arc.core.job.facts import (
    fitted_before,
    leaves_with,
    leaves_with_words,
    switching_of,
    wired,
    wires_of,
)
from cold_arc.core.job.later import drift_findings, fade_findings, returned
from cold_arc.core.job.outcome import (
    Comparison,
    aim_verdict,
    balance_findings,
    compare,
    dazzle,
    drive_words,
    readied,
)
from cold_arc.core.job.pairs import pair_findings
from cold_arc.core.job.proofs import rear_done
from cold_arc.core.job.record import Record
from cold_arc.core.job.settled import quoted_price
from cold_arc.core.job.stages import About, Stage
from cold_arc.core.light_source import MODES, LightSource
from cold_arc.core.metering.readings import POINTS
from cold_arc.core.units import say_price
from cold_arc.core.wiring.leads import switching_findings
from cold_arc.core.work.access import cautions
from cold_arc.web.forms import fields
from cold_arc.web.job.stage_page import StagePage
from cold_arc.web.job.wall_light import record_wall
from cold_arc.web.parts.wall import Wall
from cold_arc.web.shell.filters import say_date
from cold_arc.web.shell.place import shop_currency


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
    """What the sheet says of one socket: what was in it, what was chosen for it; *now*: what it
    leaves with, in words.
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
    now: str

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
        source = self.chosen.source if self.chosen else None
        if source is None:
            return ""
        can = [MODES[mode] for mode in source.modes]
        can += [f"its marks stand {source.marks_at}"] if source.marks_at else []
        return "; ".join(can)

    @property
    def remarks(self) -> list[str]:
        """What must be said of the choice."""
        off_road = bool(self.chosen and self.chosen.off_road)
        override = self.chosen.override if self.chosen else ""
        return ["For off-road or show use only."] * off_road + (
            [f"Recorded against a rule: {override}"] if override else []
        )

    @property
    def same(self) -> tuple[object, ...]:
        """What both sides must share to be said once."""
        return self.socket.words, self.socket.optic, self.renewed, self.chosen


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


# Who signs a sheet, and for what.
SIGNED = ("Technician", "Customer: told of the law and the cautions")


@dataclass(frozen=True)
class CustomerSheet:
    """All that the customer sheet of a job says."""

    page: StagePage

    @property
    def record(self) -> Record:
        """The record it is made from."""
        return self.page.record

    @property
    def signed(self) -> tuple[str, ...]:
        """Who signs it, once it is completed."""
        return SIGNED if self.handed_over else ()

    @cached_property
    def pairs(self) -> list[SheetPair]:
        """What was done, by pairs of sockets; a beam that several give stands with the first."""
        rows = socket_rows(self.page)
        by_name: dict[str, list[SocketRow]] = {}
        for row in rows:
            by_name.setdefault(row.key.name, []).append(row)
        first = {beam.key: row.key.name for row in reversed(rows) for beam in row.beams}
        return [self._pair(pair, first) for pair in by_name.values()]

    def _pair(self, rows: list[SocketRow], first: dict[BeamKey, str]) -> SheetPair:
        mine = rows[0].key.name
        shown = [beam for row in rows for beam in row.beams if first[beam.key] == mine]
        functions = dict.fromkeys(beam.key.function for beam in shown)
        return SheetPair(rows, [self._beam(function, shown) for function in functions])

    def _beam(self, function: Function, shown: list[BeamRow]) -> SheetBeam:
        by_side = {beam.key.side: beam for beam in shown if beam.key.function is function}
        read = set().union(*(beam.comparison.gains for beam in by_side.values()))
        keys = [beam.key for beam in by_side.values()]
        wall, ready = record_wall(self.page, keys), readied(self.record, keys[0])
        points = [point for point in POINTS if point in read]
        return SheetBeam(function.label, by_side, points, wall, ready)

    @cached_property
    def handed_over(self) -> HandedOver | None:
        """What was said and agreed at the end; None before."""
        return self.record.latest(HandedOver)

    @property
    def old_parts(self) -> str:
        """Where the replaced parts went; empty where none was."""
        if not self.handed_over or not is_replaced(self.record):
            return ""
        back = self.handed_over.old_parts_kept
        stayed = "went back to the customer" if back else "stayed with the shop"
        return f"The old parts {stayed}."

    @property
    def price(self) -> str:
        """What was asked, against what was quoted; empty where no price was told."""
        asked = self.handed_over.asked if self.handed_over else None
        if asked is None:
            return ""
        quoted, currency = quoted_price(self.record), shop_currency()
        before = f"; quoted was {say_price(quoted, currency)}" if quoted is not None else ""
        return f"Asked, with taxes: {say_price(asked, currency)}{before}."

    @property
    def drive(self) -> str:
        """The test drive in a line; empty where none was recorded."""
        driven = self.record.latest(TestDriven)
        return drive_words(driven) if driven else ""

    @property
    def dates(self) -> list[tuple[str, dt.date]]:
        """The days that were agreed, each by its name; the warranty of parts fitted before too."""
        end = self.handed_over
        if end is None:
            return []
        agreed = [("Re-check", end.recheck), ("Warranty of parts ends", end.warranty_end)]
        return [(name, day) for name, day in (*agreed, *warranties_before(self.record)) if day]

    @property
    def notes(self) -> list[tuple[str, str]]:
        """What is to be known besides the law, each by its name, a whole sentence by none."""
        end = self.handed_over
        every = [
            ("Switching", end.switching if end else ""),
            ("To watch", end.note if end else ""),
            ("Test drive", self.drive),
            ("", self.old_parts),
            ("", self.price),
        ]
        return [(name, text) for name, text in every if text]

    @property
    def pictures(self) -> list[Pictured]:
        """The pictures taken at the steps."""
        return self.record.all(Pictured)

    @cached_property
    def photographs(self) -> list[tuple[BeamKey, WallPhotographed]]:
        """The newest photograph of the wall of each beam, as found and as left, that was
        measured.
        """
        return list(_photographs(self.record))

    @property
    def dazzles(self) -> list[Finding]:
        """A caution for each beam that dazzles as it is."""
        return dazzles(self.page)

    @property
    def balance(self) -> list[Finding]:
        """Left against right."""
        return balance_findings(self.record, self.record.road_beams)

    @property
    def law(self) -> list[Finding]:
        """The market's word."""
        return law_findings(self.page)

    @property
    def accepted(self) -> list[str]:
        """Every caution the customer accepted or was told, each once, in words."""
        chosen = (self.record.latest(Chosen, key) for key in self.record.sockets)
        ids = [key for choice in chosen if choice for key in choice.accepted]
        ids += self.handed_over.cautions if self.handed_over else ()
        return [cautions()[key] for key in dict.fromkeys(ids) if key in cautions()]

    @property
    def as_it_came(self) -> list[str]:
        """What was wrong before anything was touched, and who signed it."""
        shown = as_it_came.signed(self.record)
        by = [f"Shown before the first screw, and signed by {shown.signed}."] if shown else []
        return [*as_it_came.all_words(self.record), *by]

    @property
    def since(self) -> list[str]:
        """How it stands against how it left, where it was here before."""
        back = returned(self.record)
        if back is None:
            return []
        here = f"Here before as {back.reference}, left {say_date(back.left_on)}"
        if not self.record.is_recheck:
            return [f"{here}."]
        beams = self.record.road_beams
        judged = [*drift_findings(self.record, beams), *fade_findings(self.record, beams)]
        return [f"{here}: before is how it left, after is now.", *map(_line, judged)]

    @property
    def lenses(self) -> list[str]:
        """Each lens that was restored, and how."""
        return as_it_came.lenses_restored(self.record)

    @property
    def standing(self) -> list[str]:
        """What is not as it should be as the car leaves, but for dazzle, which is told by
        itself.
        """
        progress = self.page.progress
        rear = [f"{done.in_words()}." for done in rear_done(self.record) if not done.works]
        lamps = [
            finding.named(progress.words(key)).words for key, finding in left_open(self.record)
        ]
        return [*rear, *lamps] + [
            f"{progress.words(lacking.key)}: {lacking.words}"
            for lacking in needs.holds_leaving(progress)
            if lacking.need.id != "no-dazzle"
        ]

    @property
    def rear(self) -> list[str]:
        """What was done at the rear along the way."""
        return [f"{done.in_words()}." for done in rear_done(self.record)]

    @property
    def skipped(self) -> list[str]:
        """What was not done, of which lamps, and why; not what a re-check never does."""
        lines = (
            f"{self._stage_of(passed, entry.about)}: {passed.reason}"
            for entry in self.record.entries
            if isinstance(passed := entry.payload, Passed) and passed.reason not in ("", WHY_NOT)
        )
        return list(dict.fromkeys(lines))

    def _stage_of(self, passed: Passed, about: Iterable[Key]) -> str:
        stage = Stage(passed.stage)
        if stage.about is About.CAR:
            return stage.label
        names = dict.fromkeys(self.record.front.words(key).lower() for key in about)
        return f"{stage.label}, {', '.join(names)}"


def _line(finding: Finding) -> str:
    """A finding in a line: what, the number against its limit."""
    return f"{finding.words} {'; '.join(filter(None, (finding.number, finding.limit)))}."


def warranties_before(record: Record) -> list[tuple[str, dt.date]]:
    """When the warranty ends of what earlier visits fitted and is kept, by whose visit."""
    kept = (
        fitted_before(record, key)
        for key in record.sockets
        if not ((chosen := record.latest(Chosen, key)) and chosen.source)
    )
    ends = ((f"Warranty from {each.reference} ends", each.warranty_end) for each in kept if each)
    return [(name, day) for name, day in dict.fromkeys(ends) if day]


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
        leaves_with_words(record, key),
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


def _photographs(record: Record) -> Iterator[tuple[BeamKey, WallPhotographed]]:
    for key in record.road_beams:
        for phase in AimPhase:
            taken = [
                photograph
                for photograph in record.all(WallPhotographed, key)
                if photograph.phase == phase and photograph.found and not photograph.simulated
            ]
            yield from ((key, photograph) for photograph in taken[-1:])


def law_findings(page: StagePage) -> list[Finding]:
    """The market's word on everything chosen, on what an earlier job fitted that stays, and on
    pairs.
    """
    road_use, asked = page.job.booking.road_use, _asked_of_law(page.record)
    kinds = sorted({(kind, road_use and not off_road, marks) for kind, off_road, marks in asked})
    judged = [law.judge(page.market, kind, on_road, marks) for kind, on_road, marks in kinds]
    opened = any(map(page.record.is_opened, page.record.units))
    judged += [law.opened(page.market, road_use)] if opened else []
    return [*judged, *_switched_against(page.record), *pair_findings(page.record)]


def _asked_of_law(record: Record) -> Iterator[tuple[str, bool, str]]:
    """Each source's kind, whether it is for off-road use alone, and the marks read on it."""
    end = record.latest(HandedOver)
    for key in record.sockets:
        chosen, before = record.latest(Chosen, key), fitted_before(record, key)
        if chosen and chosen.source:
            yield chosen.source.kind, chosen.off_road, end.marks if end else ""
        elif before:
            yield before.source.kind, before.off_road, before.marks


def _switched_against(record: Record) -> list[Finding]:
    """What a market's rule says against how an added lamp was switched."""
    market = record.booking.market if record.booking else ""
    judged = [
        finding
        for key in record.sockets
        if (switching := switching_of(record, key))
        for finding in switching_findings(switching, record.socket(key).functions[0], market)
        if finding.level > Level.NOTE
    ]
    return list(dict.fromkeys(judged))


def dazzles(page: StagePage) -> list[Finding]:
    """A caution for each beam that dazzles as it is."""
    dazzling = (
        (beam, finding)
        for beam in page.record.road_beams
        if (finding := dazzle(page.record, beam)) is not None
    )
    return [finding.named(page.progress.words(beam)) for beam, finding in dazzling]


def is_replaced(record: Record) -> bool:
    """Whether any part of the car was replaced, so that there is an old one."""
    return any(
        renewed(record, key)
        or (
            (choice := record.latest(Chosen, key))
            and choice.source
            and record.socket(key).holds is not Holds.NOTHING
        )
        for key in record.sockets
    )
