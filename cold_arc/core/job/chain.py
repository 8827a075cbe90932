"""A record's chain: every entry, undoing and bringing back carries the SHA-256 of the one before it
and of its own content, so that a change of anything is found.

Content is canonical JSON (RFC 8785, JSON Canonicalization Scheme, by its library). What was stored
is taken as its value where it is written as this program writes it; as its very text otherwise.
"""

from __future__ import annotations

import datetime as dt
import hashlib
import json
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import rfc8785

from cold_arc.core.errors import ColdArcError

ENTRY, UNDONE, REDONE = "entry", "undo", "redo"
# How `moment_text` writes, as strptime reads it.
MOMENT = "%Y-%m-%dT%H:%M:%S.%fZ"
# A code: the first digits of a digest, in groups.
CODE_DIGITS, GROUP = 12, 4
CODE = re.compile(r"[0-9a-f]{12}")


class CodeError(ColdArcError, ValueError):
    """What was typed is no code of a sheet; the message says what one looks like."""


@dataclass(frozen=True)
class Link:
    """One link as stored: *what* was done with the entry at *place* (from 1) of its job, when;
    *late*: it was chained after the fact, when the program learnt to; the *digest* kept of it.
    """

    what: str
    place: int
    at: dt.datetime
    late: bool
    digest: str


@dataclass(frozen=True)
class StoredContent:
    """An entry as it is stored: when, kind and version, and the texts of what it is about and of
    what it says.
    """

    at: dt.datetime
    kind: str
    version: int
    about: str
    payload: str


def digest_of(before: str, link: Link, content: StoredContent | None) -> str:
    """The digest of a link after one of digest *before* ("" for the first); *content*: the entry's,
    where one is added.
    """
    plain: dict[str, str] = {
        "before": _text(before),
        "what": _text(link.what),
        "place": str(link.place),
        "at": _text(moment_text(link.at)),
        "late": "true" if link.late else "false",
    }
    if content is not None:
        plain |= {
            "kind": _canonical(content.kind),
            "version": str(content.version),
            "entered": _text(moment_text(content.at)),
            "about": _canonical_of(content.about),
            "payload": _canonical_of(content.payload),
        }
    whole = ",".join(f'"{name}":{plain[name]}' for name in sorted(plain))
    return hashlib.sha256(f"{{{whole}}}".encode()).hexdigest()


def _text(plain: str) -> str:
    """A text of letters, digits and signs that JSON writes as they are."""
    return f'"{plain}"'


def _canonical(value: Any) -> str:
    """A value as RFC 8785 writes it."""
    return rfc8785.dumps(value).decode()


def faults(stored: Sequence[tuple[StoredContent, bool]], links: Sequence[Link]) -> list[str]:
    """What of a record is not as it was chained, in words; empty for one that is whole.

    *stored*: its entries, oldest first, each with whether it is undone; a link's place is 0 where
    its entry is gone.
    """
    wrong = _broken(stored, links)
    return [wrong] if wrong else list(_beside(stored, links))


def _broken(stored: Sequence[tuple[StoredContent, bool]], links: Sequence[Link]) -> str:
    """The first link that does not hold, in words; "" where all do."""
    before = ""
    for link in links:
        if not 0 < link.place <= len(stored):
            return "An entry was taken out."
        content, _ = stored[link.place - 1]
        if digest_of(before, link, content if link.what == ENTRY else None) != link.digest:
            return f"Entry {link.place} ({content.kind}) was changed, or one before it taken out."
        before = link.digest
    return ""


def _beside(stored: Sequence[tuple[StoredContent, bool]], links: Sequence[Link]) -> Iterator[str]:
    """What was done beside a chain whose links hold."""
    added = [link.place for link in links if link.what == ENTRY]
    if added != list(range(1, len(stored) + 1)):
        yield "An entry was put in beside the chain, or taken out at its end."
    undone = {link.place: link.what == UNDONE for link in links}
    for place, (content, is_undone) in enumerate(stored, 1):
        if undone.get(place, False) != is_undone:
            way = "undone" if is_undone else "brought back"
            yield f"Entry {place} ({content.kind}) was {way} beside the chain."


def moment_text(at: dt.datetime) -> str:
    """A moment as chains and files write it: UTC, microseconds, "Z"."""
    return at.astimezone(dt.UTC).isoformat(timespec="microseconds").replace("+00:00", "Z")


@lru_cache(maxsize=20_000)
def _canonical_of(text: str) -> str:
    """What a stored text stands for, as RFC 8785 writes it; else the text itself, so that no byte
    of it counts for nothing.
    """
    try:
        value = json.loads(text)
        if json.dumps(value) == text:
            return _canonical(value)
    except (ValueError, RecursionError):
        pass
    return _canonical({"text": text})


def code_of(digest: str) -> str:
    """A digest's code, as a sheet prints it.

    >>> code_of("7f3a09bcd1e2" + 52 * "0")
    '7F3A-09BC-D1E2'
    """
    digits = digest[:CODE_DIGITS].upper()
    return "-".join(digits[at : at + GROUP] for at in range(0, CODE_DIGITS, GROUP))


def read_code(text: str) -> str:
    """The first digits of the digest a typed code stands for; CodeError for none.

    >>> read_code(" 7F3A-09BC-D1E2 ")
    '7f3a09bcd1e2'
    """
    digits = re.sub(r"[\s-]", "", text).lower()
    if not CODE.fullmatch(digits):
        raise CodeError(f"“{text.strip()[:40]}” is no code of a sheet: one is like 7F3A-09BC-D1E2.")
    return digits
