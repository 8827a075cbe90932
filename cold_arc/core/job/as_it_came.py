"""What was broken before anything was touched: told, shown, signed before the first screw."""

from __future__ import annotations

from cold_arc.core.car import damage
from cold_arc.core.car.condition import faults, restored_words
from cold_arc.core.findings import Finding, Level
from cold_arc.core.job.entries.inspect import AsItCameShown, DamageSeen, Inspected
from cold_arc.core.job.entries.prove import Proved
from cold_arc.core.job.proofs import ARRIVAL, faults_as_it_came
from cold_arc.core.job.record import Record
from cold_arc.core.references import PRACTICE
from cold_arc.core.units import worded


def damages(record: Record) -> list[DamageSeen]:
    """The damage that still stands, in the order it was told."""
    newest = {seen.subject(): seen for seen in record.all(DamageSeen)}
    return [seen for seen in newest.values() if not seen.off]


def damage_words(record: Record, seen: DamageSeen) -> str:
    """One damage with its place, in words."""
    place = damage.places(record.front).get(seen.place, "A lamp this front has no more")
    note = f" ({seen.note})" if seen.note else ""
    return f"{place}: {damage.KINDS[seen.what].lower()}{note}"


def all_words(record: Record) -> list[str]:
    """Everything that was wrong as the car came."""
    return [*lamp_words(record), *(f"{damage_words(record, seen)}." for seen in damages(record))]


def lamp_words(record: Record) -> list[str]:
    """What was wrong as the car came, of each lamp and of what it gives."""
    of_lamps = [
        finding.named(record.front.named(key)).words
        for key in record.units
        if (seen := record.condition(key))
        for finding in faults(seen)
    ]
    dark = [f"{words}." for words in faults_as_it_came(record)]
    return [*of_lamps, *dark]


def lenses_restored(record: Record) -> list[str]:
    """Each lens that was hazed as the car came and was restored, and how."""
    return [
        f"{record.front.named(unit)}: lens restored, {restored_words(seen)}."
        for unit in record.units
        if (seen := record.condition(unit)) and record.lens_restored_at(unit)
    ]


def signed(record: Record) -> AsItCameShown | None:
    """Who signed what was wrong as the car came; None where nobody did since the last of it was
    told.
    """
    newest: AsItCameShown | None = None
    for entry in record.entries:
        payload = entry.payload
        if isinstance(payload, AsItCameShown):
            newest = payload
        elif isinstance(payload, DamageSeen | Inspected) or (
            isinstance(payload, Proved) and payload.stage_pass == ARRIVAL
        ):
            newest = None
    return newest


def unsigned(record: Record) -> list[Finding]:
    """A caution where something was wrong as the car came, and nobody signed it."""
    wrong = all_words(record)
    if not wrong or signed(record):
        return []
    return [
        Finding(
            "damage-unsigned",
            Level.CAUTION,
            "What was wrong as it came is not signed.",
            PRACTICE,
            worded("{wrong} told", wrong=len(wrong)),
            advice="Show it to the customer and have it signed, at Inspect, before the first "
            "screw: what was broken before is then never yours.",
        )
    ]
