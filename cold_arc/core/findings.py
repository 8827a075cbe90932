"""What a rule says when it has judged something. Pages render findings; they don't re-decide."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from enum import IntEnum

from cold_arc.core.references import Sources


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
    """One judgement: what, how bad, the number against its limit, whose rule it is, what to do."""

    level: Level
    text: str
    sources: Sources
    number: str = ""
    limit: str = ""
    advice: str = ""

    def named(self, name: str) -> Finding:
        """The same finding, saying which lamp or reading it is about."""
        return replace(self, text=f"{name}: {self.text[0].lower()}{self.text[1:]}")


def worst(findings: Iterable[Finding]) -> Level:
    """The worst level present; OK when there are none."""
    return max((finding.level for finding in findings), default=Level.OK)


def worst_first(findings: Iterable[Finding]) -> list[Finding]:
    """Findings in the order a page shows them."""
    return sorted(findings, key=lambda finding: -finding.level)
