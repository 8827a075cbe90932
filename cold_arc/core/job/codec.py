"""How entries and other facts of the core are written down and read back: kinds, versions,
upcasters, strict keys.

A kind's id and version are stored with each entry and never change their meaning. When a payload's
shape changes, its version goes up and an upcaster lifts what was stored before; tests keep a text
of every older version.
"""

from __future__ import annotations

from typing import Any, TypeVar

import cattrs.preconf.json

from cold_arc.core.errors import ColdArcError
from cold_arc.core.job.entries import KINDS
from cold_arc.core.job.entries.kind import Payload, Plain
from cold_arc.core.work.tick import Tick

_converter = cattrs.preconf.json.make_converter(forbid_extra_keys=True)
_converter.register_structure_hook(Tick, lambda text, _: Tick(_converter.structure(text, str)))
_converter.register_unstructure_hook(Tick, str.__str__)


class UnknownEntryError(ColdArcError, KeyError):
    """An entry of a kind or version this program has not learnt."""


def to_plain(payload: object) -> Plain:
    """A payload, or any dataclass of the core, as JSON-ready values."""
    plain: Plain = _converter.unstructure(payload)
    return plain


def from_plain(kind: str, version: int, plain: Any) -> Payload:
    """The payload from what was stored, lifted to today's version.

    Raises UnknownEntryError for a kind or version not known, cattrs' errors for damage and for keys
    that are not known.
    """
    declared = KINDS.get(kind)
    newest = declared.ENTRY.version if declared else 0
    if declared is None or not isinstance(version, int) or not 1 <= version <= newest:
        raise UnknownEntryError(f"{kind} {version}")
    for older in range(version, newest):
        plain = declared.ENTRY.older[older](plain)
    payload: Payload = _converter.structure(plain, declared)
    return payload


T = TypeVar("T")


def structure(plain: Any, kind: type[T]) -> T:
    """Any dataclass of the core from its plain form; cattrs' errors for damage and unknown keys."""
    return _converter.structure(plain, kind)
