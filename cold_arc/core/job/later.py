"""What a re-check says: how the light and the aim stand against how the car left, and what the
maker claimed; what is claimed of a light source.
"""

from __future__ import annotations

import datetime as dt
from collections import Counter
from collections.abc import Iterator, Sequence

from cold_arc.core.car.keys import BeamKey
from cold_arc.core.findings import Finding, Level
from cold_arc.core.job.entries.hand_over import HandedOver
from cold_arc.core.job.entries.kind import AimPhase
from cold_arc.core.job.entries.later import (
    CLAIMS,
    RECHECK,
    Claimed,
    FollowedUp,
    HoursLit,
    LeftSo,
    Returned,
)
from cold_arc.core.job.facts import fitted_before, is_kept
from cold_arc.core.job.in_socket import by_the_shop
from cold_arc.core.job.outcome import compare
from cold_arc.core.job.record import Record
from cold_arc.core.light import fade
from cold_arc.core.light.fade import Fade
from cold_arc.core.references import PRACTICE
from cold_arc.core.units import say_count, worded

# An aim that stands within this of how it left has held: what reading it by eye leaves in doubt
# (own).
DRIFT_NOTED, DRIFT_MUCH = 0.002, 0.005
# So much dimmer in a thousand hours is more than any claim (own).
FADE_MUCH = 0.1


def returned(record: Record) -> Returned | None:
    """Why the car is here again, where it was here before."""
    return record.latest(Returned)


def recheck_due(record: Record) -> dt.date | None:
    """The day a car is to come back to be looked at; None where none was set, or it came back
    since.
    """
    day = None
    for entry in record.entries:
        if isinstance(entry.payload, HandedOver):
            day = entry.payload.recheck
        elif isinstance(entry.payload, FollowedUp) and entry.payload.visit == RECHECK:
            day = None
    return day


def warranties(record: Record) -> list[tuple[str, dt.date]]:
    """When the warranty ends of what earlier visits fitted and is kept, by whose visit."""
    kept = (fitted_before(record, key) for key in record.sockets if is_kept(record, key))
    ends = ((f"Warranty from {each.reference} ends", each.warranty_end) for each in kept if each)
    return [(name, day) for name, day in dict.fromkeys(ends) if day]


def drift_findings(record: Record, beams: Sequence[BeamKey]) -> list[Finding]:
    """How far each beam's aim, before a screw is turned, stands from how it left."""
    drifts = [_drift(record, beam) for beam in beams]
    return [drift for drift in drifts if drift is not None]


def _drift(record: Record, beam: BeamKey) -> Finding | None:
    left, now = record.latest(LeftSo, beam), record.aimed(beam, AimPhase.FOUND, practised=False)
    if left is None or now is None:
        return None
    up, right = now.slope - left.slope, None
    if left.sideways is not None and now.sideways is not None:
        right = now.sideways - left.sideways
    level = _drift_level(max(abs(up), abs(right or 0.0)))
    moved = worded("Moved {up:percent 2 signed} up", up=up)
    if right is not None:
        moved = worded(
            "Moved {up:percent 2 signed} up, {right:percent 2 signed} to the right",
            up=up,
            right=right,
        )
    left_at = worded("left at {slope:percent 2}", slope=left.slope)
    if level is Level.OK:
        kept = "The aim has held since it left."
        return Finding("aim-held", level, kept, PRACTICE, moved, left_at, about=_name(beam))
    return Finding(
        "aim-moved",
        level,
        "The aim has moved since it left.",
        PRACTICE,
        moved,
        left_at,
        "Look for play in the adjuster, a bent bracket, load or tyres, then aim.",
        _name(beam),
    )


def _drift_level(far: float) -> Level:
    """How bad a drift is, a slope."""
    if far <= DRIFT_NOTED:
        return Level.OK
    return Level.CAUTION if far > DRIFT_MUCH else Level.NOTE


def _name(beam: BeamKey) -> str:
    return f"{beam.function.label}, {beam.side.value}"


def faded(record: Record, beam: BeamKey) -> Fade | None:
    """What a beam lost in a thousand hours; None where no hours, no readings, or none that compare
    are told.
    """
    lit, comparison = record.latest(HoursLit), compare(record, beam)
    whole = comparison.overall
    if not record.is_recheck or lit is None or comparison.refused or whole is None:
        return None
    if not whole.ratio or whole.uncertainty is None:
        return None
    return fade.measured(whole.ratio, whole.uncertainty, lit.hours)


def fade_findings(record: Record, beams: Sequence[BeamKey]) -> list[Finding]:
    """How fast each beam fades, against what its maker claims."""
    return list(_fades(record, beams))


def _fades(record: Record, beams: Sequence[BeamKey]) -> Iterator[Finding]:
    for beam in beams:
        measured = faded(record, beam)
        if measured is not None:
            yield _fade_finding(_name(beam), measured, claimed_life(record, beam))


def claimed_life(record: Record, beam: BeamKey) -> float | None:
    """The hours to 70 % its maker claims of what gives a beam; None where nobody claimed any."""
    fitted = (by_the_shop(record, key) for key in record.givers(beam))
    lives = [source.life_h for source in fitted if source and source.life_h]
    return min(lives) if lives else None


def _fade_finding(name: str, measured: Fade, life_h: float | None) -> Finding:
    claim = fade.claimed(life_h) if life_h else None
    most = claim if claim is not None else FADE_MUCH
    verdict, level, text, advice = "fade-in-bounds", Level.OK, "It fades no faster than it may.", ""
    if measured.least > most:
        verdict, level, text = "fade-fast", Level.CAUTION, "It fades faster than it may."
        advice = "Clean the lens, read again warm; then it is a claim."
    elif measured.most > most:
        text = "Whether it fades too fast can't be told yet."
        verdict, level = "fade-undecided", Level.NOTE
    number = worded(
        "{share:percent 1} in a thousand hours, {least:percent 1} to {most:percent 1}",
        share=measured.share,
        least=measured.least,
        most=measured.most,
    )
    limit = worded("{may:percent 1} in a thousand hours, more than any claim", may=most)
    if life_h:
        limit = worded(
            "{may:percent 1} in a thousand hours, claimed: 70 % after {life_h:number} h",
            may=most,
            life_h=life_h,
        )
    return Finding(verdict, level, text, fade.SOURCES, number, limit, advice, name)


# So many claims on one light source are no chance any more (own).
CLAIMS_TOLD = 2


def claim_findings(claims: Sequence[Claimed]) -> list[Finding]:
    """What the claims on one light source say; none where there are none."""
    if not claims:
        return []
    counted = Counter(CLAIMS[reason].lower() for claim in claims for reason in claim.reasons)
    reasons = ", ".join(
        f"{reason} ×{count}" if count > 1 else reason for reason, count in counted.most_common()
    )
    times = say_count(len(claims), "claim")
    return [
        Finding(
            "claimed-before",
            Level.CAUTION if len(claims) >= CLAIMS_TOLD else Level.NOTE,
            worded("{times} on it in this shop: {reasons}.", times=times, reasons=reasons),
            PRACTICE,
            advice="Ask its maker, or weigh another." if len(claims) >= CLAIMS_TOLD else "",
        )
    ]
