"""Typed text as the grammar has it: a tree of terms, each a number with its unit."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache, lru_cache
from pathlib import Path

from lark import Lark, Token, Tree
from lark.exceptions import LarkError

from cold_arc.core.units.figures import Meaning, NotUnderstoodError
from cold_arc.core.units.text import LONGEST

SAME = 1e-9


class AmbiguousError(NotUnderstoodError):
    """Typed text with more than one plausible meaning."""

    def __init__(self, typed: str, meanings: Sequence[Meaning]) -> None:
        super().__init__(
            f"“{typed.strip()}” can be read as "
            f"{' or '.join(meaning.text for meaning in meanings)}. Which?"
        )
        self.meanings = tuple(meanings)


@dataclass(frozen=True)
class Within:
    """What is plausible for a field, in the unit it is kept in; *words* say it."""

    low: float
    high: float
    words: str

    def holds(self, value: float) -> bool:
        """Whether *value* is plausible; the bounds are, a rounding error beyond them too."""
        slack = SAME * max(abs(value), 1.0)
        return self.low - slack <= value <= self.high + slack


@dataclass(frozen=True)
class Term:
    """A figure and the unit written after it, if any, by its name in the grammar."""

    text: str
    unit: str | None


@dataclass(frozen=True)
class Typed:
    """What the grammar found: sign, terms, and the words beside them."""

    sign: str
    terms: tuple[Term, ...]
    ways: frozenset[str]
    at: tuple[Term, ...] = ()
    factor: float | None = None


@cache
def _parser() -> Lark:
    grammar = Path(__file__).with_name("quantity.lark").read_text("utf-8")
    return Lark(grammar, parser="lalr", start=["simple", "reading", "placed", "clock", "coded"])


def tree_of(text: str, start: str, wanted: str) -> Tree[Token]:
    """The tree of tidied *text*; NotUnderstoodError, saying what is *wanted*, where the grammar has
    none.
    """
    if len(text) > LONGEST:
        raise NotUnderstoodError("That is too long for a number.")
    tree = _parsed(text, start)
    if tree is None:
        raise NotUnderstoodError(f"“{text}” is not {wanted}")
    return tree


@lru_cache(maxsize=1024)
def _parsed(text: str, start: str) -> Tree[Token] | None:
    """The grammar's tree, remembered; None where it has none."""
    try:
        return _parser().parse(text, start=start)
    except LarkError:
        return None


def _terms(tree: Tree[Token]) -> tuple[Term, ...]:
    terms = []
    for term in tree.children:
        assert isinstance(term, Tree)
        terms.append(
            Term(
                str(term.children[0]),
                unit_name(term.children[1]) if len(term.children) > 1 else None,
            )
        )
    return tuple(terms)


def unit_name(unit: Tree[Token] | Token) -> str:
    """A unit's name in the grammar."""
    assert isinstance(unit, Tree)
    assert isinstance(unit.children[0], Token)
    return unit.children[0].type


def typed_of(tree: Tree[Token]) -> Typed:
    """The tree as a record."""
    sign, lists, words, factor = "", [], set(), None
    for child in tree.children:
        if isinstance(child, Token):
            words.add(child.type)
        elif child.data == "sign":
            sign = "-" if child.children[0] == "-" else "+"
        elif child.data == "terms":
            lists.append(_terms(child))
        elif child.data == "times":
            factor = float(child.children[-1])  # type: ignore[arg-type]
        else:
            words |= {token.type for token in child.children}  # type: ignore[union-attr]
    at = lists[1] if len(lists) > 1 else ()
    return Typed(sign, lists[0] if lists else (), frozenset(words - {"FILLER", "AT"}), at, factor)
