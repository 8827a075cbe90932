"""What every kind of entry is told by, and what its figures are held to."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any, ClassVar, Final

from cold_arc.core.errors import ColdArcError

Plain = dict[str, Any]
Upcast = Callable[[Plain], Plain]
# What an entry is about besides its keys: a later one of the same takes its place. None: none does.
Subject = tuple[object, ...] | None

LONGEST_TEXT, LARGEST_NUMBER = 4000, 1e9
NEAREST_M, FARTHEST_M = 0.3, 100.0
LONGEST_BULB_MM = 200.0
MOST_TURNS = 50
HIGHEST_PRICE = 1e6
MINUTES_A_DAY = 24 * 60


class Phase(StrEnum):
    """When a reading or a picture was taken: before the work, or after."""

    BEFORE = "before"
    AFTER = "after"


class AimPhase(StrEnum):
    """When an aim was read: as the lamp was found, or as it was left."""

    FOUND = "found"
    LEFT = "left"

    @property
    def words(self) -> str:
        """As people say it."""
        return f"As {self.value}"


class ImplausibleError(ColdArcError, ValueError):
    """A value no record may hold: no finite number, one beyond all measure, text that is no text, a
    name not known.
    """


@dataclass(frozen=True)
class EntryKind:
    """A kind's *id* and *version*, stored with each entry and never changed in meaning, and what
    lifts an *older* version's stored values to the next.
    """

    id: str
    version: int = 1
    older: Mapping[int, Upcast] = field(default_factory=dict)


class Payload:
    """What an entry says. A kind is a frozen dataclass of this with its ENTRY, in the module of its
    stage; it may say more of itself.
    """

    ENTRY: ClassVar[EntryKind]

    def subject(self) -> Subject:
        """What it is about, besides the keys of its entry."""
        return ()

    def must_hold(self) -> None:
        """Raises ImplausibleError where it holds what no record may."""

    def in_words(self) -> str:
        """What it says, in a few words."""
        return self.ENTRY.id.replace("-", " ").capitalize()


AIM_PHASES: Final[Mapping[str, str]] = {phase: phase.words for phase in AimPhase}


def takes_place_of(later: object, earlier: object) -> bool:
    """Whether a later payload stands in place of an earlier one about the same keys."""
    if not isinstance(later, Payload) or not isinstance(earlier, Payload):
        return False
    subject = later.subject()
    return type(later) is type(earlier) and subject is not None and subject == earlier.subject()


def tells_more(plain: Plain) -> Plain:
    """What the next version tells besides is not told: each stands at "not told"."""
    return plain


def must(holds: bool, what: str) -> None:
    """Raises ImplausibleError, "*what* is not recorded.", unless it *holds*."""
    if not holds:
        raise ImplausibleError(f"{what} is not recorded.")


def must_be_a_phase(phase: Phase) -> None:
    """Before or after, and nothing else."""
    must(phase in tuple(Phase), "A phase that is none")
