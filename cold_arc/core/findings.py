"""What a rule says when it has judged something. Pages render findings; they don't re-decide."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from enum import IntEnum
from typing import Any

from cold_arc.core.references import Sources
from cold_arc.core.units import Sentence, raised


class Level(IntEnum):
    """How bad it is; greater is worse."""

    OK = 0
    NOTE = 1
    CAUTION = 2
    STOP = 3

    @property
    def word(self) -> str:
        """The word that always stands beside the colour and the shape."""
        return self.name.lower()


@dataclass(frozen=True)
class Finding:
    """One judgement: which, how bad, in words, the number against its limit, whose rule it is, what
    to do, and which lamp or reading it is *about*. Words with values in them are sentences made of
    both (:func:`cold_arc.core.units.worded`), never glued.
    """

    id: str
    level: Level
    text: str
    sources: Sources
    number: str = ""
    limit: str = ""
    advice: str = ""
    about: str = ""

    @property
    def values(self) -> dict[str, Any]:
        """What its words were made from, by name."""
        parts = (self.text, self.number, self.limit, self.advice)
        sentences = [part for part in parts if isinstance(part, Sentence)]
        return {name: value for part in sentences for name, value in part.values.items()}

    @property
    def words(self) -> str:
        """Its text, behind what it is about where that is said."""
        return raised(f"{self.about}: {self.text}") if self.about else self.text

    def named(self, name: str) -> Finding:
        """The same finding, saying which lamp or reading it is about."""
        return replace(self, about=f"{name}, {self.about}" if self.about else name)


def worst(findings: Iterable[Finding]) -> Level:
    """The worst level present; OK when there are none."""
    return max((finding.level for finding in findings), default=Level.OK)


def worst_first(findings: Iterable[Finding]) -> list[Finding]:
    """Findings in the order a page shows them."""
    return sorted(findings, key=lambda finding: -finding.level)
