"""Where a figure or a rule comes from: one list (``data/references.toml``), cited by id and clause.

A citation is written "id clause", as in "un-r48 6.2.6.1"; what is cited must stand in the list.
Common practice, the program's own models and what the shop itself measured stand in it too, so that
nothing is said without a source.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache

from cold_arc.core import data
from cold_arc.core.errors import ColdArcError


class UnknownReferenceError(ColdArcError, KeyError):
    """A citation of what is not in the list."""


@dataclass(frozen=True)
class Reference:
    """One entry: its short *name* as it is said, its *title*, what is taken from it, and whether
    from memory.

    *published*: a standard, a paper or a book; else common practice, or the program's own.
    """

    id: str
    name: str
    title: str
    gives: str
    published: bool
    recalled: bool


@dataclass(frozen=True)
class Source:
    """One citation: which reference, which clause or edition of it ("" for the whole), whether from
    memory.
    """

    id: str
    clause: str = ""
    recalled: bool = False

    @property
    def words(self) -> str:
        """How it is said, without whether it is from memory."""
        return f"{references()[self.id].name} {self.clause}".strip()


Sources = tuple[Source, ...]


@cache
def references() -> dict[str, Reference]:
    """The list, by id."""
    return {key: Reference(id=key, **row) for key, row in data.load("references").items()}


@cache
def cite(*citations: str) -> Sources:
    """The sources of citations "id clause"; UnknownReferenceError for one that is not in the
    list.
    """
    return tuple(_source(text) for text in citations)


def _source(text: str) -> Source:
    key, _, clause = text.partition(" ")
    if key not in references():
        raise UnknownReferenceError(text)
    return Source(key, clause, references()[key].recalled)


def read(cited: str | Sequence[str]) -> Sources:
    """The sources of a data file's ``source``: one citation, or a list of them."""
    return cite(cited) if isinstance(cited, str) else cite(*cited)


def say(sources: Sources) -> str:
    """Sources in words: what is published together, whether it is from memory, then the rest."""
    published = [source for source in sources if references()[source.id].published]
    rest = [source.words for source in sources if source not in published]
    words = " and ".join(source.words for source in published)
    if any(source.recalled for source in published):
        words += ", from memory"
    return "; ".join(part for part in (words, *rest) if part)


PRACTICE = cite("practice")
MODEL = cite("beam-model")
MEASURED = cite("measured")
