"""Fit: which steps a socket needs, in order. Common practice, no published source
(``data/fit.toml``).
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache

from cold_arc.core import data
from cold_arc.core.car.bases import find
from cold_arc.core.car.condition import UnitCondition
from cold_arc.core.car.front import Socket
from cold_arc.core.car.lamps import Present
from cold_arc.core.light_source import LightSource

# How far an O-ring may be from what is needed, mm.
O_RING_WITHIN_MM = 0.2


def o_ring_fault(fitted_mm: float | None, needed_mm: float | None) -> str:
    """What is wrong with an O-ring's thickness against the one needed; "" for nothing, or where one
    was not measured.

    >>> o_ring_fault(3.1, 2.5)
    'Too thick by 0.6 mm.'
    """
    if (
        fitted_mm is None
        or needed_mm is None
        or abs(fitted_mm - needed_mm) <= O_RING_WITHIN_MM + 1e-9
    ):
        return ""
    word = "thick" if fitted_mm > needed_mm else "thin"
    return f"Too {word} by {abs(fitted_mm - needed_mm):.1f} mm."


@dataclass(frozen=True)
class FitStep:
    """One fitting step and the tags it asks for; *why*, and the *check* it is, if it is one."""

    id: str
    text: str
    when: tuple[str, ...]
    unless: tuple[str, ...] = ()
    caution: str = ""
    why: str = ""
    check: str = ""

    def applies(self, tags: set[str]) -> bool:
        """Whether a socket with these tags needs it."""
        return tags.issuperset(self.when) and tags.isdisjoint(self.unless)


@cache
def all_steps() -> tuple[FitStep, ...]:
    """Every fitting step, in order."""
    return tuple(
        FitStep(
            row["id"],
            row["text"],
            tuple(row["when"]),
            tuple(row.get("unless", ())),
            row.get("caution", ""),
            row.get("why", ""),
            row.get("check", ""),
        )
        for row in data.load("fit")["step"]
    )


def tags(socket: Socket, condition: UnitCondition | None, source: LightSource | None) -> set[str]:
    """What the steps are chosen by; no *source* means the original stays."""
    words = {word.value for word in (socket.present, socket.optic) if word}
    base = find(socket.base) if socket.base else None
    if condition and condition.haze:
        words.add("haze")
    if base and base.contains_mercury:
        words.add("mercury")
    return words | ({"stay"} if source is None else _tags_of(source, socket.present))


def _tags_of(source: LightSource, present: Present | None) -> set[str]:
    """What a source brings to the choice of steps."""
    words = {"projector-kit" if source.kind == "projector" else source.kind, source.cooling}
    if source.driver in ("in-line", "in-place"):
        words.add("inline")
    if present is Present.HID:
        words.add({"ballast": "ballast", "in-place": "own-driver"}.get(source.driver, "bypass"))
    return words


def steps(
    socket: Socket, condition: UnitCondition | None, source: LightSource | None
) -> list[FitStep]:
    """The fitting steps one socket needs."""
    held = tags(socket, condition, source)
    return [step for step in all_steps() if step.applies(held)]
