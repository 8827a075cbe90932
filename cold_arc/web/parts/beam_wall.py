"""A modelled beam on the Wall: its pictures, its cut-off as designed and as measured, its
yardstick's points.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any
from urllib.parse import urlencode

import numpy as np
from flask import url_for

from cold_arc.core.beam.derived import MeasuredPoint, cut_off_line, wall_place
from cold_arc.core.beam.housings import CutOff
from cold_arc.core.beam.model import Beam
from cold_arc.core.beam.report import Points
from cold_arc.core.beam.setup import SetUp
from cold_arc.core.beam.sources import Array
from cold_arc.formats.picture import H_VIEW, V_VIEW, VIEW_DISTANCE_M, Frame, LampAxis, view_frame
from cold_arc.web.parts.wall import View, Wall, WallPoint, lamp_wall, path_of
from cold_arc.web.setup_query import query

LINE_STEP_DEG = 0.25
# Where a cut-off is measured on a modelled beam: to ±12° in steps, where it has a twentieth of its
# peak.
MEASURED_TO_DEG, MEASURED_STEP_DEG, MEASURED_SHARE = 12.0, 0.5, 0.05


def build_beam_wall(
    cut_off: CutOff,
    view: View,
    distance_m: float = VIEW_DISTANCE_M,
    points: Sequence[WallPoint] = (),
    **drawn: str,
) -> Wall:
    """One lamp's usual view with its design line; *drawn*: pictures and measured lines by the
    Wall's names.
    """
    wall = lamp_wall(view_frame(distance_m), distance_m, view, points)
    if cut_off.shape != "none":
        h = np.arange(H_VIEW[0], H_VIEW[1] + 1e-9, LINE_STEP_DEG)
        wall.design_line = _path(h, cut_off.at(h), distance_m)
    for name, text in drawn.items():
        setattr(wall, name, text)
    return wall.finished()


def _path(h_deg: Array, v_deg: Array, distance_m: float) -> str:
    return path_of(
        wall_place(float(h), float(v), distance_m) for h, v in zip(h_deg, v_deg, strict=True)
    )


def measured_line(beam: Beam, distance_m: float = VIEW_DISTANCE_M) -> str:
    """The cut-off as measured column by column, where the beam is bright enough to have one; "" for
    a high beam.
    """
    if beam.housing.cut_off.shape == "none":
        return ""
    h = np.arange(-MEASURED_TO_DEG, MEASURED_TO_DEG + 1e-9, MEASURED_STEP_DEG)
    up = np.linspace(*V_VIEW, 60)
    brightest = np.array([beam.at(np.full_like(up, across), up).max() for across in h])
    bright = brightest >= MEASURED_SHARE * beam.intensity.max()
    return _path(h[bright], cut_off_line(beam, h[bright]), distance_m)


def yardstick_marks(
    rows: list[dict[str, Any]], values: Points, flip: float, distance_m: float = VIEW_DISTANCE_M
) -> tuple[WallPoint, ...]:
    """Marks for the yardstick's points (zones have no single place)."""
    marks = []
    for row in rows:
        if isinstance(row.get("h", []), list) or isinstance(row["v"], list):
            continue
        point = values[row["name"]]
        right, down = wall_place(row["h"] * flip, row["v"], distance_m)
        marks.append(
            WallPoint(None, point.name, right, down, holds=point.holds, words=_against(point))
        )
    return tuple(marks)


def _against(point: MeasuredPoint) -> str:
    least, most = point.least, point.most
    limits = [
        f"at least {least:.0f}" if least is not None else "",
        f"at most {most:.0f}" if most is not None else "",
    ]
    return f"{point.candela:.0f} cd, {' and '.join(filter(None, limits))}"


def picture_url(
    setup: SetUp,
    lamps: Sequence[LampAxis] = (),
    frame: Frame | None = None,
    distance_m: float = 0.0,
    **look: object,
) -> str:
    """The address of a set-up's picture on a wall; of one lamp's usual view where no lamps are
    told.
    """
    where: dict[str, object] = {}
    if frame is not None:
        where = {
            "lamps": ";".join(",".join(f"{number:.3f}" for number in lamp) for lamp in lamps),
            "frame": ",".join(f"{number:.3f}" for number in frame),
            "at": f"{distance_m:.3f}",
        }
    address = {
        name: value for name, value in {**where, **look}.items() if value not in (None, "", 0)
    }
    return f"{url_for('bench.beam')}?{'&'.join(filter(None, (query(setup), urlencode(address))))}"


def seat_urls(before: SetUp, after: SetUp) -> tuple[str, str]:
    """The addresses of the driver's view with one set-up and with another."""
    one, other = (f"{url_for('bench.seat')}?{query(setup)}" for setup in (before, after))
    return one, other
