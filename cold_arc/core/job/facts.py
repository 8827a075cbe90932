"""Facts read off a job's record: the setting of a socket, what is known of its feed, what is put in
along its wiring.
"""

from __future__ import annotations

from dataclasses import replace

from cold_arc.core import ballast
from cold_arc.core.car.keys import SocketKey
from cold_arc.core.car.lamps import Function, Holds, Present
from cold_arc.core.electrical import SupplyFacts
from cold_arc.core.job.entries.book_in import Booking, Identified
from cold_arc.core.job.entries.later import FittedBefore
from cold_arc.core.job.entries.match import (
    BALLAST,
    BallastTested,
    Chosen,
    LeadLaid,
    Supplied,
    SwitchingPlanned,
    WiresMapped,
)
from cold_arc.core.job.record import Record, once_a_record
from cold_arc.core.light.colour import ARC_K, FILAMENT_K
from cold_arc.core.light_source import LightSource
from cold_arc.core.wiring.leads import Lead, Switching, WireMap
from cold_arc.core.wiring.ribbon import WiredPart, feed_ribbon, put_in, ribbon
from cold_arc.core.wiring.setting import Setting, kept_words

# Usual colour of what is found in a lamp, K; common practice, no published source. An LED's is not
# to be guessed.
USUAL_K = {Present.HALOGEN: FILAMENT_K, Present.FILAMENT: 2800.0, Present.HID: ARC_K}


def supply_facts(record: Record, key: SocketKey) -> SupplyFacts:
    """What is known of the socket's feed, what was read into its ballast at that one's test among
    it.
    """
    supplied, tested = record.latest(Supplied, key), record.latest(BallastTested, key)
    known = supplied.facts if supplied else SupplyFacts()
    if known.feed_volts is None and tested and tested.test.concerns(key.side.value):
        return replace(known, feed_volts=tested.test.feed_volts)
    return known


@once_a_record
def fitted_before(record: Record, key: SocketKey) -> FittedBefore | None:
    """What an earlier visit put into a socket and is in it still; None where there was none, or
    Book in has since found something else there.
    """
    fitted = None
    for entry in record.entries:
        if key not in entry.about:
            continue
        if isinstance(entry.payload, FittedBefore):
            fitted = entry.payload
        elif isinstance(entry.payload, Identified) and entry.payload.present is not Present.LED:
            fitted = None
    return fitted


def leaves_with(record: Record, key: SocketKey) -> LightSource | None:
    """The light source a socket leaves with: the one chosen for it, or put in on an earlier visit;
    None for what the lamp came with.
    """
    chosen, before = record.latest(Chosen, key), fitted_before(record, key)
    if chosen and chosen.source:
        return chosen.source
    return before.source if before else None


def is_kept(record: Record, key: SocketKey) -> bool:
    """Whether a socket keeps what is in it."""
    chosen = record.latest(Chosen, key)
    return not (chosen and chosen.source)


def what_it_leaves_with(record: Record, key: SocketKey) -> str:
    """What a socket leaves with, in words."""
    return kept_words(record.socket(key), leaves_with(record, key))


def leaves_with_words(record: Record, key: SocketKey) -> str:
    """The same, and whether it is kept."""
    words = what_it_leaves_with(record, key)
    return f"{words}, kept" if is_kept(record, key) else words


def lead_of(record: Record, key: SocketKey) -> Lead:
    """What lies between a socket's plug and its lamp; nothing where that was not told."""
    laid = record.latest(LeadLaid, key)
    return laid.lead if laid else Lead()


def wires_of(record: Record, key: SocketKey) -> WireMap:
    """Which wire of a socket is which; none where that was not told."""
    mapped = record.latest(WiresMapped, key)
    return mapped.map if mapped else WireMap()


def switching_of(record: Record, key: SocketKey) -> Switching | None:
    """How a lamp the car lacked is switched; None where that was not told, or it had one."""
    planned = record.latest(SwitchingPlanned, key)
    lacked = record.socket(key).holds is Holds.NOTHING
    return planned.switching if planned and lacked else None


def setting_of(record: Record, booking: Booking, key: SocketKey, restored: bool = False) -> Setting:
    """What candidates for one socket are judged against; *restored*: its lens as it will be once
    cleared.
    """
    seen, renewed = record.condition_worked_on(key.of_unit), record.renewed(key)
    before = fitted_before(record, key)
    return Setting(
        socket=record.socket(key),
        base=record.base(key),
        condition=replace(seen, haze=0) if seen and restored else seen,
        volts=booking.volts,
        earth_positive=booking.earth_positive,
        market=booking.market,
        road_use=booking.road_use,
        supply=supply_facts(record, key),
        others=_other_lamps(record, key),
        ballast_cause=ballast_cause(record, key, booking.volts),
        renewed=tuple((what, part.price) for what, part in renewed.items()),
        lead=lead_of(record, key),
        wires=wires_of(record, key),
        switching=switching_of(record, key),
        held=before.source if before else None,
        seen=seen,
    )


def ballast_cause(record: Record, key: SocketKey, volts: float) -> str:
    """What is known of a socket's ballast, in a car of so many *volts*, as a key of
    ``ballast.CAUSES``: by the test of its pair, or that it is new; "" where nothing tells.
    """
    tested = record.latest(BallastTested, key)
    culprit = ballast.cause(tested.test, volts) if tested else ""
    is_new = BALLAST in record.renewed(key) and culprit not in ballast.OF_FEED
    return "new" if is_new else culprit


def pair_of(record: Record, key: SocketKey) -> list[SocketKey]:
    """A socket and the same one on the other side, as far as they are worked on."""
    return [other for other in record.sockets if other.name == key.name]


def wired(record: Record, key: SocketKey) -> list[WiredPart]:
    """What is put in along a socket's wiring with what was chosen for it; what a pair shares stands
    at the first of both.
    """
    chosen, booking = record.latest(Chosen, key), record.booking
    if chosen is None or booking is None:
        return []
    facts, setting = supply_facts(record, key), setting_of(record, booking, key)
    pair = pair_of(record, key)
    parts = ribbon(setting, facts, chosen.source, len(pair))
    parts += feed_ribbon(setting, facts, len(pair))
    return [part for part in put_in(parts) if key == pair[0] or not part.once]


def _other_lamps(record: Record, key: SocketKey) -> tuple[tuple[str, float], ...]:
    """The colour of the job's other white lamps, once each, K: what was chosen for them, or what is
    in them.
    """
    colours: dict[str, float] = {}
    for other in record.sockets:
        if other.name == key.name or record.socket(other).gives(Function.TURN):
            continue
        cct_k = _white_k(record, other)
        if cct_k is not None:
            colours[f"the {record.front.socket(other).words.lower()}"] = cct_k
    return tuple(colours.items())


def _white_k(record: Record, key: SocketKey) -> float | None:
    """The colour of what a socket shines with; None where it is not white, or not known."""
    chosen, present = record.latest(Chosen, key), record.socket(key).present
    if chosen and chosen.source:
        return chosen.source.cct_k if chosen.source.colour == "white" else None
    return USUAL_K.get(present) if present else None
