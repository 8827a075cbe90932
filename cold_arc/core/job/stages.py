"""The ten stages of a job, and what each is about: the car, its units, its sockets or its beams."""

from __future__ import annotations

from enum import StrEnum


class About(StrEnum):
    """What a stage belongs to."""

    CAR = "car"
    UNIT = "unit"
    SOCKET = "socket"
    BEAM = "beam"


class Stage(StrEnum):
    """The stages in the order the work is done."""

    BOOK_IN = "book-in"
    INSPECT = "inspect"
    BASELINE = "baseline"
    MATCH = "match"
    PLAN = "plan"
    FIT = "fit"
    PROVE = "prove"
    AIM = "aim"
    VERIFY = "verify"
    HAND_OVER = "hand-over"

    @property
    def label(self) -> str:
        """The stage's name."""
        return self.value.replace("-", " ").capitalize()

    @property
    def number(self) -> int:
        """1 to 10."""
        return _NUMBERS[self]

    @property
    def about(self) -> About:
        """What it belongs to."""
        return _ABOUT.get(self, About.CAR)

    @property
    def next(self) -> Stage | None:
        """The stage after it."""
        return list(Stage)[self.number] if self.number < len(Stage) else None


class Status(StrEnum):
    """Where a thing stands at a stage."""

    DONE = "done"
    SKIPPED = "skipped"
    OPEN = "open"
    AHEAD = "ahead"


_NUMBERS = {stage: number for number, stage in enumerate(Stage, 1)}
_ABOUT = {
    Stage.INSPECT: About.UNIT,
    Stage.BASELINE: About.BEAM,
    Stage.MATCH: About.SOCKET,
    Stage.FIT: About.SOCKET,
    Stage.AIM: About.BEAM,
    Stage.VERIFY: About.BEAM,
}
