"""The table of what must be true before what (``data/needs.toml``): asked of what, which acts wait
for it, what makes it so, what undoes it, whether a reason may stand for it.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache

from cold_arc.core import data
from cold_arc.core.job.stages import Stage
from cold_arc.core.references import PRACTICE, Sources

TOUCH, CLOSE, LEAVE = "touch", "close", "leave"
# What was done to a lamp that may undo what was true of it.
DISTURBANCES = ("opened", "closed", "shifted", "refitted", "rewired", "replaced", "proved")
OF = ("car", "unit", "socket", "beam")


@dataclass(frozen=True)
class Need:
    """One thing that must be true, *asked* in words; *kept_by*: the entries that make it so."""

    id: str
    of: str
    asked: str
    holds: tuple[str, ...]
    kept_by: tuple[str, ...]
    reason: bool
    undone_by: tuple[str, ...] = ()
    sources: Sources = PRACTICE


def finish(stage: Stage) -> str:
    """The act of finishing a stage, as the table calls it."""
    return f"finish {stage.value}"


@cache
def needs() -> dict[str, Need]:
    """Every need by id, in the order of the work; ValueError for a row that says what is none."""
    acts = {TOUCH, CLOSE, LEAVE, *map(finish, Stage)}
    table = {}
    for row in data.load("needs")["need"]:
        lists = {name: tuple(row.get(name, ())) for name in ("holds", "kept_by", "undone_by")}
        need = Need(**(row | lists))
        if need.of not in OF or not acts.issuperset(need.holds):
            raise ValueError(f"needs.toml: {need.id}")
        if not set(DISTURBANCES).issuperset(need.undone_by):
            raise ValueError(f"needs.toml: {need.id} is undone by what is none")
        table[need.id] = need
    return table
