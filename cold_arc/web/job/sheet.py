"""The customer sheet as view objects, made from a job's record: what was in each lamp and what is
now, gains, aim as left, cautions, what was not done.
"""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from functools import cached_property

from cold_arc.core import law
from cold_arc.core.car.keys import BeamKey, Key
from cold_arc.core.car.lamps import Function, Holds
from cold_arc.core.findings import Finding, Level
from cold_arc.core.job import as_it_came, needs
from cold_arc.core.job.again import WHY_NOT
from cold_arc.core.job.at_lamp import left_open, renewed
from cold_arc.core.job.entries.aim import WallPhotographed
from cold_arc.core.job.entries.fit import Pictured
from cold_arc.core.job.entries.hand_over import HandedOver, TestDriven
from cold_arc.core.job.entries.kind import AimPhase
from cold_arc.core.job.entries.match import Chosen
from cold_arc.core.job.entries.stages import Passed
from cold_arc.core.job.facts import (
    fitted_before,
    switching_of,
)
from cold_arc.core.job.later import drift_findings, fade_findings, returned, warranties
from cold_arc.core.job.outcome import (
    balance_findings,
    dazzle,
    drive_words,
    readied,
)
from cold_arc.core.job.pairs import pair_findings
from cold_arc.core.job.proofs import rear_done
from cold_arc.core.job.record import Record
from cold_arc.core.job.settled import quoted_price
from cold_arc.core.job.stages import About, Stage
from cold_arc.core.metering.readings import POINTS
from cold_arc.core.units import say_price
from cold_arc.core.wiring.leads import switching_findings
from cold_arc.core.work.access import cautions
from cold_arc.web.job.sheet_rows import BeamRow, SheetBeam, SheetPair, SocketRow, socket_rows
from cold_arc.web.job.stage_page import StagePage
from cold_arc.web.job.wall_light import record_wall
from cold_arc.web.shell.filters import say_date
from cold_arc.web.shell.place import shop_currency

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
        return [(name, day) for name, day in (*agreed, *warranties(self.record)) if day]

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
