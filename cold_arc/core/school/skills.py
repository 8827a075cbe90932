"""What is taught: kinds of exercise and their skills (``core/data/school.toml``)."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache

from cold_arc.core import data
from cold_arc.core.references import Sources, read


@dataclass(frozen=True)
class KindOfExercise:
    """One kind: its title, what it asks, and what a blind guess usually gets."""

    id: str
    title: str
    ask: str
    guessed: float = 0.25


def kind_of(skill: str) -> str:
    """The kind of exercise a skill is of, by its id."""
    return skill.partition(".")[0]


@dataclass(frozen=True)
class Skill:
    """One skill: its *kind* of exercise, its *rule* as a half-page, the *cue* to look for."""

    id: str
    kind: str
    title: str
    rule: str
    cue: str
    sources: Sources


@cache
def kinds() -> Mapping[str, KindOfExercise]:
    """All kinds of exercise, in the order they are taught."""
    return {key: KindOfExercise(key, **row) for key, row in data.load("school")["kind"].items()}


@cache
def skills() -> Mapping[str, Skill]:
    """All skills by id, in the order they are taught; ValueError for one of no kind."""
    table = {
        key: Skill(
            key,
            kind_of(key),
            row["title"],
            row["rule"],
            row["cue"],
            read(row["source"]),
        )
        for key, row in data.load("school")["skill"].items()
    }
    if strays := {skill.kind for skill in table.values()} - kinds().keys():
        raise ValueError(f"school.toml: no such kind: {', '.join(sorted(strays))}")
    return table
