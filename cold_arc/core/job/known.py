"""What is known of a car, fact by fact, each with where it was told: its supply, its functions,
what is in its sockets now, how its lamps stand before the wall. Every stage reads these same facts.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from cold_arc.core.job import stand
from cold_arc.core.job.entries.prove import NotOnCar
from cold_arc.core.job.in_socket import in_socket
from cold_arc.core.job.record import Record
from cold_arc.core.job.stand import CarFact
from cold_arc.core.units import UnitSystem, say_distance, say_offset, say_volts
from cold_arc.core.work import proof


@dataclass(frozen=True)
class KnownFact:
    """One fact in words; *origin*: where it was told; *assumed*: nobody told it."""

    what: str
    value: str
    origin: str
    assumed: bool = False


def known_facts(record: Record, system: UnitSystem) -> list[KnownFact]:
    """Every fact of the car, those of the whole car first."""
    return [*_of_car(record), *_of_sockets(record), *_of_wall(record, system)]


def _of_car(record: Record) -> Iterator[KnownFact]:
    if record.booking:
        yield KnownFact("Supply", say_volts(record.booking.volts), "told at Book in")
    absent = {entry.function: entry.absent for entry in record.all(NotOnCar)}
    given = {
        function
        for key in record.front.sockets()
        for function in record.front.socket(key).functions
    }
    for name, words in proof.FUNCTIONS.items():
        if name in absent:
            yield KnownFact(words, "not on this car" if absent[name] else "there", "told at Prove")
        elif name in given:
            yield KnownFact(words, "there", "told at Book in, by its front")
        else:
            yield KnownFact(words, "there", "assumed until told at Prove", assumed=True)


def _of_sockets(record: Record) -> Iterator[KnownFact]:
    for key in record.sockets:
        now = in_socket(record, key)
        words = f"{record.front.named(key)}: in it now"
        yield KnownFact(words, now.words, now.origin, now.assumed)


def _of_wall(record: Record, system: UnitSystem) -> Iterator[KnownFact]:
    beams = record.road_beams
    for key in beams:
        words = f"{record.front.named(key)}, height"
        yield _measured(words, stand.height(record, key), say_offset, system)
    if not beams:
        return
    if apart := stand.spacing(record, beams):
        yield _measured("Lamp to lamp", apart, say_distance, system)
    yield _measured("Lamp to wall", stand.distance(record, beams), say_distance, system)


def _measured(
    words: str, fact: CarFact, say: Callable[[float, UnitSystem], str], system: UnitSystem
) -> KnownFact:
    return KnownFact(words, say(fact.value, system), fact.origin, fact.assumed)
