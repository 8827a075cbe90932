"""How the job goes on: a stage finished, skipped or opened again."""

from __future__ import annotations

from dataclasses import dataclass

from cold_arc.core.job.entries.kind import EntryKind, Payload, Subject, must
from cold_arc.core.job.stages import Stage


@dataclass(frozen=True)
class Passed(Payload):
    """A stage is finished for what the entry is about; *reason* says why when something was
    missing.

    It is about the stage's own things; for a stage of the whole car, about the sockets it is
    finished for.
    """

    ENTRY = EntryKind("passed")

    stage: str
    reason: str = ""

    def subject(self) -> Subject:
        return (self.stage,)

    def must_hold(self) -> None:
        must(self.stage in list(Stage), "A stage that is none")

    def in_words(self) -> str:
        label = Stage(self.stage).label
        return f"{label} skipped: {self.reason}" if self.reason else f"{label} finished"


@dataclass(frozen=True)
class Reopened(Payload):
    """Back to a stage: it and all after it are open again for what the entry is about."""

    ENTRY = EntryKind("reopened")

    stage: str

    def subject(self) -> Subject:
        return (self.stage,)

    def must_hold(self) -> None:
        must(self.stage in list(Stage), "A stage that is none")

    def in_words(self) -> str:
        return f"{Stage(self.stage).label} reopened"
