"""What is read on the wall, at Baseline, Verify and in a shoot-out."""

from __future__ import annotations

from dataclasses import dataclass

from cold_arc.core.job.entries.kind import (
    LARGEST_NUMBER,
    MOST_TURNS,
    EntryKind,
    Payload,
    Phase,
    Subject,
    must,
    must_be_a_phase,
    tells_more,
)
from cold_arc.core.metering import by_eye, raster, readings, warming
from cold_arc.core.metering.by_eye import Patch
from cold_arc.core.metering.readings import WallReading
from cold_arc.core.units import say_lux


@dataclass(frozen=True)
class Read(Payload):
    """A reading on the wall; *phase* is "before" or "after"; *typed* as it was entered.

    *repeat*: it is joined with those of the same place before it, instead of taking their place.
    """

    # 2: which meter, wall and lens state.
    ENTRY = EntryKind("read", 2, older={1: tells_more})

    phase: Phase
    typed: str
    reading: WallReading
    repeat: bool = False

    def subject(self) -> Subject:
        # A repeat takes no other's place.
        return None if self.repeat else (self.phase, self.reading.point, self.reading.lens)

    def must_hold(self) -> None:
        must_be_a_phase(self.phase)

    def in_words(self) -> str:
        return (
            f"Read {self.phase}: {readings.words(self.reading.point).lower()}, "
            f"{say_lux(self.reading.lux)}"
        )


@dataclass(frozen=True)
class Rastered(Payload):
    """Many readings of the entry's beam from a file, in place of each other: *name* of the file,
    *phase*, and each.
    """

    ENTRY = EntryKind("rastered")

    phase: Phase
    name: str
    readings: tuple[WallReading, ...]

    def subject(self) -> Subject:
        return (self.phase,)

    def must_hold(self) -> None:
        must_be_a_phase(self.phase)
        must(0 < len(self.readings) <= raster.MOST_PLACES, "So many readings")

    def in_words(self) -> str:
        return f"Raster {self.phase}: {len(self.readings)} readings from {self.name}"


@dataclass(frozen=True)
class WarmStarted(Payload):
    """A warm-up run begins: the source of the entry's beam is switched on cold; *device* it is read
    with.
    """

    ENTRY = EntryKind("warm-started")

    phase: Phase
    device: str = ""

    def subject(self) -> Subject:
        return (self.phase,)

    def must_hold(self) -> None:
        must_be_a_phase(self.phase)

    def in_words(self) -> str:
        return f"Warm-up run {self.phase} started"


@dataclass(frozen=True)
class WarmRead(Payload):
    """One reading of a warm-up run, typed; how long after its start the entry's moment says."""

    ENTRY = EntryKind("warm-read")

    phase: Phase
    typed: str
    lux: float

    def subject(self) -> Subject:
        return None

    def must_hold(self) -> None:
        must_be_a_phase(self.phase)
        must(0 < self.lux <= LARGEST_NUMBER, "Light beyond all measure")

    def in_words(self) -> str:
        return f"Warm-up {self.phase}: {say_lux(self.lux)}"


@dataclass(frozen=True)
class Warmed(Payload):
    """A warm-up run recorded: (s since it was switched on, lx) each."""

    ENTRY = EntryKind("warmed")

    phase: Phase
    samples: tuple[tuple[float, float], ...]
    device: str = ""

    def subject(self) -> Subject:
        return (self.phase,)

    def must_hold(self) -> None:
        must_be_a_phase(self.phase)
        must(len(self.samples) <= warming.MOST_SAMPLES, "So long a run")
        times = [at for at, _ in self.samples]
        must(times == sorted(set(times)) and all(lux > 0 for _, lux in self.samples), "Such a run")

    def in_words(self) -> str:
        return f"Warm-up run {self.phase}: {len(self.samples)} readings"


@dataclass(frozen=True)
class Tried(Payload):
    """A reading of a shoot-out: which *turn* it is of, with which *source* ("own": the lamp's
    own).
    """

    ENTRY = EntryKind("tried")

    turn: int
    source: str
    typed: str
    reading: WallReading

    def subject(self) -> Subject:
        return self.turn, self.reading.point

    def must_hold(self) -> None:
        must(0 <= self.turn <= MOST_TURNS and bool(self.source.strip()), "Such a turn")

    def in_words(self) -> str:
        place = readings.words(self.reading.point).lower()
        return f"Shoot-out, turn {self.turn}, {self.source}: {place}, {say_lux(self.reading.lux)}"


@dataclass(frozen=True)
class Eyed(Payload):
    """What the eye saw on the wall in a *turn* of a shoot-out with a *source*: a *patch*; *off*: it
    is none after all.
    """

    ENTRY = EntryKind("eyed")

    turn: int
    source: str
    patch: Patch
    off: bool = False

    def subject(self) -> Subject:
        return self.turn, self.patch

    def must_hold(self) -> None:
        must(0 <= self.turn <= MOST_TURNS and bool(self.source.strip()), "Such a turn")
        within = (
            abs(self.patch.h_deg) <= by_eye.FARTHEST_H_DEG
            and abs(self.patch.v_deg) <= by_eye.FARTHEST_V_DEG
        )
        must(self.patch.look in by_eye.LOOKS and within, "Such a patch")

    def in_words(self) -> str:
        taken = " taken back" if self.off else ""
        return f"By eye, turn {self.turn + 1}{taken}: {self.patch.words}"


@dataclass(frozen=True)
class ShootOutEnded(Payload):
    """The shoot-out up to here is over; what is tried after it begins another."""

    ENTRY = EntryKind("shoot-out-ended")

    def in_words(self) -> str:
        return "Shoot-out ended"
