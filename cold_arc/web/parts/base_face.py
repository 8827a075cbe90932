"""A base drawn from behind, to scale: one drawing unit is one millimetre, y down, the axis in the
middle.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from cold_arc.core.car.base_faces import BaseFace, faces
from cold_arc.core.car.bases import Base
from cold_arc.web.parts.wall import Rect

STEP_DEG = 2.0
GUESSED_RIM_MM = 32.0
BLANK = BaseFace()


@dataclass(frozen=True)
class DrawnBase:
    """The rim with its tabs and notches as a path; blades, pins and box; an angled socket; whether
    the rim is known.
    """

    rim: str
    rim_known: bool
    blades: tuple[Rect, ...]
    pins: tuple[tuple[float, float], ...]
    box: Rect | None
    arm: tuple[float, Rect] | None
    words: str
    view_box: str = "-27 -25 54 52"


def build_base_face(base: Base) -> DrawnBase:
    """The drawing of a base."""
    face = faces().get(base.name, BLANK)
    rim_mm = base.diameter_mm
    return DrawnBase(
        rim=_wedge(base) if base.looks == "wedge" else _rim(face, (rim_mm or GUESSED_RIM_MM) / 2),
        rim_known=rim_mm is not None,
        blades=tuple(_centred(*blade) for blade in face.blades),
        pins=tuple((pin[0], pin[1]) for pin in face.pins),
        box=_centred(0, 0, *face.box) if face.box else None,
        arm=(face.arm[0], Rect(-face.arm[2] / 2, -face.arm[1], face.arm[2], face.arm[1]))
        if face.arm
        else None,
        words=f"{base.name} from behind: {base.keys}",
    )


def _centred(x: float, y: float, width: float, height: float) -> Rect:
    return Rect(x - width / 2, y - height / 2, width, height)


def _rim(face: BaseFace, radius: float) -> str:
    """The outline as a path: out where a tab stands, in where a notch is cut."""

    def at(degrees: float) -> float:
        out = max((tab[2] for tab in face.tabs if _within(degrees, tab)), default=0.0)
        deep = max((notch[2] for notch in face.notches if _within(degrees, notch)), default=0.0)
        return radius + out - deep

    points = []
    for index in range(round(360 / STEP_DEG)):
        angle = math.radians(index * STEP_DEG)
        reach = at(index * STEP_DEG)
        points.append(f"{reach * math.sin(angle):.2f} {-reach * math.cos(angle):.2f}")
    return f"M{'L'.join(points)}Z"


def _within(degrees: float, mark: tuple[float, ...]) -> bool:
    return abs((degrees - mark[0] + 180) % 360 - 180) <= mark[1] / 2


def _wedge(base: Base) -> str:
    """A wedge has no rim: its glass or plastic foot, thickness by width as its cap's designation
    says.
    """
    assert base.cap
    thick = float(base.cap.lstrip("W").partition("x")[0])
    wide = base.diameter_mm or 10.0
    return f"M{-wide / 2} {-thick / 2}h{wide}v{thick}h{-wide}Z"
