"""What was promised against what came of it: the price quoted and asked, the minutes planned and
taken.
"""

from __future__ import annotations

from dataclasses import dataclass

from cold_arc.core.findings import Finding, Level
from cold_arc.core.job.entries.hand_over import HandedOver
from cold_arc.core.job.entries.match import Quoted
from cold_arc.core.job.record import Record
from cold_arc.core.job.work_took import done_of
from cold_arc.core.references import PRACTICE
from cold_arc.core.units import say_minutes, say_price, worded

# So much more than quoted wants a word to the customer first (own).
MORE_TOLD = 0.1


def quoted_price(record: Record) -> float | None:
    """What the signed quotes come to with taxes, each once; None where none was signed, or one
    named no price.
    """
    signed = {record.latest(Quoted, key) for key in record.sockets} - {None}
    prices = [quote.way.asked(quote.tax_pct) for quote in signed if quote]
    if not prices or None in prices:
        return None
    return sum(price for price in prices if price is not None)


@dataclass(frozen=True)
class TimeTaken:
    """Minutes of the parts opened and closed again: *planned* and *actual* of those timed,
    how many were, of how many.
    """

    planned: float
    actual: float
    timed: int
    parts: int

    @property
    def words(self) -> str:
        """In a line."""
        share = f"{self.timed} of {self.parts} parts timed"
        if not self.timed:
            return f"Hands: no part was timed, of {self.parts}."
        planned, actual = say_minutes(self.planned), say_minutes(self.actual)
        return f"Hands: {planned} planned, {actual} taken ({share})."


def time_taken(record: Record) -> TimeTaken | None:
    """What the work took against its plan; None where nothing was opened."""
    done = done_of(record)
    timed = [part for part in done if part.actual is not None]
    if not done:
        return None
    actual = sum(part.actual for part in timed if part.actual is not None)
    return TimeTaken(sum(part.planned for part in timed), actual, len(timed), len(done))


def price_findings(record: Record, currency: str) -> list[Finding]:
    """Where more is asked than was quoted and signed; prices in the shop's *currency*."""
    end, quoted = record.latest(HandedOver), quoted_price(record)
    if end is None or end.asked is None or quoted is None:
        return []
    more = end.asked > quoted * (1 + MORE_TOLD)
    return [
        Finding(
            "price-against-quote",
            Level.CAUTION if more else Level.OK,
            "More is asked than was quoted." if more else "What is asked is as quoted, or less.",
            PRACTICE,
            say_price(end.asked, currency),
            worded("{quoted} quoted and signed for", quoted=say_price(quoted, currency)),
            "Tell the customer why before the bill does." if more else "",
        )
    ]
