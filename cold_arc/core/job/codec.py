"""How entries and other facts of the core are written down and read back: kinds, versions,
upcasters, strict keys.

A kind's id and version are stored with each entry and never change their meaning. When a payload's
shape changes, its version goes up and an upcaster lifts what was stored before; tests keep a text
of every older version.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar

import cattrs.preconf.json

from cold_arc.core.job import entries as it
from cold_arc.core.job.entries import Payload

Plain = dict[str, Any]
# Kind id: the payload as it is now, and its version.
KINDS: dict[str, tuple[type, int]] = {
    "booking": (it.Booking, 1),
    "front": (it.FrontSet, 1),
    "work": (it.WorkChosen, 1),
    "identified": (it.Identified, 2),
    "measured": (it.OldBulbMeasured, 1),
    "inspected": (it.Inspected, 1),
    "read": (it.Read, 2),
    "rastered": (it.Rastered, 1),
    "warm-started": (it.WarmStarted, 1),
    "warm-read": (it.WarmRead, 1),
    "warmed": (it.Warmed, 1),
    "tried": (it.Tried, 1),
    "shoot-out-ended": (it.ShootOutEnded, 1),
    "chosen": (it.Chosen, 1),
    "refused": (it.Refused, 1),
    "supplied": (it.Supplied, 2),
    "ballast-tested": (it.BallastTested, 1),
    "routed": (it.Routed, 2),
    "extra-work": (it.ExtraWork, 1),
    "ordered": (it.Ordered, 1),
    "planned-for": (it.PlannedFor, 1),
    "plan-kept": (it.PlanKept, 1),
    "ticked": (it.Ticked, 2),
    "clock-ran": (it.ClockRan, 1),
    "checked": (it.Checked, 1),
    "pictured": (it.Pictured, 1),
    "fasteners-back": (it.FastenerBack, 2),
    "clocked": (it.Clocked, 2),
    "proved": (it.Proved, 1),
    "interlocked": (it.Interlocked, 1),
    "fault-sought": (it.FaultSought, 1),
    "fault-found": (it.FaultFound, 1),
    "not-on-car": (it.NotOnCar, 1),
    "aimed": (it.Aimed, 3),
    "wall-laid": (it.WallLaid, 2),
    "adjusters-told": (it.AdjustersTold, 1),
    "readied": (it.Readied, 1),
    "wall-photographed": (it.WallPhotographed, 1),
    "handed-over": (it.HandedOver, 1),
    "passed": (it.Passed, 1),
    "reopened": (it.Reopened, 1),
}
_IDS = {payload: kind for kind, (payload, _) in KINDS.items()}


def _optic_for_housing(plain: Plain) -> Plain:
    """Identified, 1 to 2: what makes the pattern is a socket's optic; an assembly is a sealed
    one.
    """
    housing = plain["housing"]
    return {
        **{key: value for key, value in plain.items() if key != "housing"},
        "optic": _SEALED.get(housing, housing),
    }


_SEALED = {"assembly": "sealed"}


def _told_no_more(plain: Plain) -> Plain:
    """What the next version tells besides is not told; each stands at "not told".

    Read, 2: which meter, wall and lens state. Routed, 2: risk, people, plugs. Ticked, 2: by whom.
    Fasteners, 2: which broke, and where they lie. Clocked, 2: the depth. Supplied, 2: the tap.
    Aimed, 2: turns of a side screw; 3: the maker's mark. WallLaid, 2: the right lamp's height.
    """
    return plain


TELL_MORE = (
    "read",
    "supplied",
    "routed",
    "ticked",
    "fasteners-back",
    "clocked",
    "aimed",
    "wall-laid",
)
# From (kind, version) to the next version.
UPCASTERS: dict[tuple[str, int], Callable[[Plain], Plain]] = {
    ("identified", 1): _optic_for_housing,
    **{(kind, 1): _told_no_more for kind in TELL_MORE},
    ("aimed", 2): _told_no_more,
}
_converter = cattrs.preconf.json.make_converter(forbid_extra_keys=True)


class UnknownEntryError(KeyError):
    """An entry of a kind or version this program has not learnt."""


def kind_of(payload: Payload) -> tuple[str, int]:
    """The kind id and version an entry is stored under."""
    kind = _IDS[type(payload)]
    return kind, KINDS[kind][1]


def to_plain(payload: object) -> Plain:
    """A payload, or any dataclass of the core, as JSON-ready values."""
    plain: Plain = _converter.unstructure(payload)
    return plain


def from_plain(kind: str, version: int, plain: Any) -> Payload:
    """The payload from what was stored, lifted to today's version.

    Raises UnknownEntryError for a kind or version not known, cattrs' errors for damage and for keys
    that are not known.
    """
    if kind not in KINDS or not isinstance(version, int) or not 1 <= version <= KINDS[kind][1]:
        raise UnknownEntryError(f"{kind} {version}")
    for older in range(version, KINDS[kind][1]):
        plain = UPCASTERS[kind, older](plain)
    payload: Payload = _converter.structure(plain, KINDS[kind][0])
    return payload


T = TypeVar("T")


def structure(plain: Any, kind: type[T]) -> T:
    """Any dataclass of the core from its plain form; cattrs' errors for damage and unknown keys."""
    return _converter.structure(plain, kind)
