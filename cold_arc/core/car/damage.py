"""Damage to the front of a car as it came: where, and what. Common practice, no published
source.
"""

from __future__ import annotations

from cold_arc.core.car.front import Front
from cold_arc.core.car.keys import UnitKey, parse_key
from cold_arc.core.car.lamps import Side

# Places that are no lamp, as seen from the driver's seat.
BODY = {
    "bonnet": "Bonnet",
    "grille": "Grille",
    "wing-left": "Left wing",
    "wing-right": "Right wing",
    "bumper-left": "Bumper, left",
    "bumper-middle": "Bumper, middle",
    "bumper-right": "Bumper, right",
    "plate": "Number plate",
}
KINDS = {
    "scratch": "Scratched",
    "chip": "Chipped by stones",
    "dent": "Dented",
    "crack": "Cracked",
    "guide": "Guide or tab broken",
    "missing": "Part missing",
    "loose": "Loose, or gaps uneven",
}


def places(front: Front) -> dict[str, str]:
    """Every place damage may be told of, in words: the lamps of a front, then the body."""
    keys = (UnitKey(unit.id, side) for unit in front.units for side in Side)
    return {str(key): front.named(key) for key in keys} | BODY


def is_place(place: str) -> bool:
    """Whether a place is one of the body, or written as a lamp's is."""
    if place in BODY:
        return True
    try:
        return isinstance(parse_key(place), UnitKey)
    except ValueError:
        return False
