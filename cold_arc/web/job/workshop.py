"""What the workshop's sheet says besides the customer's: every reading and how it was taken, what
lies along the wiring, fasteners, clocking, screws, time, people, the record.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from cold_arc.core.job.entries.aim import Aimed
from cold_arc.core.job.entries.fit import Clocked
from cold_arc.core.job.entries.hand_over import HandedOver, TestDriven
from cold_arc.core.job.entries.kind import Phase
from cold_arc.core.job.entries.match import Chosen
from cold_arc.core.job.facts import setting_of, supply_facts
from cold_arc.core.job.settled import time_taken
from cold_arc.core.job.tray import tray
from cold_arc.core.metering.readings import LENSES, WallReading, words
from cold_arc.core.units import (
    say_candela,
    say_clock_angle,
    say_distance,
    say_lux,
    say_mm,
    say_number,
    say_percent,
    say_volts,
)
from cold_arc.core.wiring.ribbon import RibbonPart, feed_ribbon, ribbon
from cold_arc.formats.document import DocumentPart, TableOf
from cold_arc.web.forms.fields import unit_system
from cold_arc.web.job.history import history
from cold_arc.web.job.sheet import CustomerSheet
from cold_arc.web.shell.filters import say_moment

Rows = tuple[tuple[str, ...], ...]


def workshop_parts(sheet: CustomerSheet) -> Iterator[DocumentPart]:
    """Each part that has anything to say."""
    tables: dict[str, tuple[tuple[str, ...], Iterable[tuple[str, ...]]]] = {
        "Every reading": (
            ("Place", "Read", "Candela", "Supply, wall", "Meter, lens"),
            _readings(sheet),
        ),
        "Wiring, battery to lamp": (("Lamp", "Part", "Says", "Mind"), _wiring(sheet)),
        "Fasteners": (("Lamp", "What", "Where", "Back", "Lost or broken"), _fasteners(sheet)),
        "Adjusters": (("Beam", "Reading", "Height screw", "Side screw"), _screws(sheet)),
    }
    for heading, (head, rows) in tables.items():
        held = tuple(rows)
        yield DocumentPart(heading, (TableOf(head, held),) if held else ())
    taken = time_taken(sheet.record)
    yield DocumentPart("Time", (taken.words,) if taken else ())
    yield DocumentPart("Clocking", tuple(_clockings(sheet)))
    yield DocumentPart("Who", tuple(_people(sheet)))
    yield DocumentPart("The record", (TableOf(("When", "What", "Of"), _record(sheet)),))


def _readings(sheet: CustomerSheet) -> Iterator[tuple[str, ...]]:
    record = sheet.record
    for beam in record.road_beams:
        for phase in Phase:
            for reading in record.readings(beam, phase).values():
                name = f"{sheet.page.progress.words(beam)}, {phase}"
                yield _reading(f"{name}: {words(reading.point, beam.function)}", reading)


def _reading(name: str, reading: WallReading) -> tuple[str, ...]:
    at = say_distance(reading.distance_m, unit_system())
    spread = f" ± {say_percent(reading.spread)}" if reading.spread else ""
    return (
        name,
        f"{say_lux(reading.lux)}{spread}",
        say_candela(reading.candela),
        f"{say_volts(reading.volts)} at {at}",
        f"{reading.meter_class.label}, lens {LENSES[reading.lens].lower()}",
    )


def _wiring(sheet: CustomerSheet) -> Iterator[tuple[str, ...]]:
    """The line of parts of each socket something was chosen for, as Match drew it."""
    record, booking = sheet.record, sheet.page.job.booking
    for key in record.sockets:
        chosen = record.latest(Chosen, key)
        if chosen is not None and chosen.source is not None:
            setting, facts = setting_of(record, booking, key), supply_facts(record, key)
            line = [*ribbon(setting, facts, chosen.source), *feed_ribbon(setting, facts)]
            yield from (_wired(sheet.page.progress.words(key), part) for part in line)


def _wired(lamp: str, part: RibbonPart) -> tuple[str, ...]:
    return lamp, f"{part.words}{', put in' if part.added else ''}", part.says, part.note


def _fasteners(sheet: CustomerSheet) -> Iterator[tuple[str, ...]]:
    for unit in sheet.record.units:
        for row in tray(sheet.record, unit):
            if row.out:
                of = f"{row.number} {row.fasteners.kind}"
                noted = str(row.noted) if row.noted else ""
                yield sheet.record.front.named(unit), of, row.fasteners.place, str(row.back), noted


def _screws(sheet: CustomerSheet) -> Iterator[tuple[str, ...]]:
    """Every aim reading, and what was turned before it."""
    for beam in sheet.record.road_beams:
        name = sheet.page.progress.words(beam)
        for aim in sheet.record.all(Aimed, beam):
            stood = f"as {aim.phase}: {say_percent(aim.slope, 2)}"
            yield name, stood, _turned(aim.turns), _turned(aim.turns_side)


def _turned(turns: float | None) -> str:
    return f"{say_number(turns)} turns" if turns else ""


def _clockings(sheet: CustomerSheet) -> Iterator[str]:
    for key in sheet.record.sockets:
        for clocked in sheet.record.all(Clocked, key):
            deep = f", chips {say_mm(clocked.depth_mm)} above the plane" if clocked.depth_mm else ""
            yield (
                f"**{sheet.page.progress.words(key)}**: stopped "
                f"{say_clock_angle(clocked.stopped_deg)}{deep}"
            )


def _people(sheet: CustomerSheet) -> Iterator[str]:
    """Who did what, as it was signed."""
    record = sheet.record
    chosen = (record.latest(Chosen, key) for key in record.sockets)
    by = list(dict.fromkeys(choice.who for choice in chosen if choice and choice.who))
    if by:
        yield f"**Chosen by**: {', '.join(by)}"
    if drive := record.latest(TestDriven):
        yield f"**Test drive**: {drive.who}"
    if end := record.latest(HandedOver):
        yield f"**Handed over by**: {end.technician}"


def _record(sheet: CustomerSheet) -> Rows:
    job = sheet.page.job
    return tuple(
        (say_moment(line.at), f"{line.text}{' (undone)' if line.undone else ''}", line.about)
        for line in reversed(history(job, len(job.entries)))
    )
