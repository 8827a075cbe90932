"""Ray section: the lamp cut through the vertical plane, rays by a few places of the mirror. In mm,
y down.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from cold_arc.core.beam.housings import FrontOptic
from cold_arc.core.beam.setup import SetUp
from cold_arc.core.beam.sources import Array

SLICE_MM = 6.0
RAYS = 6
AHEAD_MM = 70.0
SHARE = 40


@dataclass(frozen=True)
class RaySection:
    """Mirror dots, rays of the nominal source (before) and the tried one (after), source outline,
    drawing window.
    """

    mirror: tuple[tuple[float, float], ...]
    before: tuple[str, ...]
    after: tuple[str, ...]
    source: tuple[tuple[float, float], ...]
    nominal: tuple[tuple[float, float], ...]
    shield: tuple[float, float] | None
    lens: tuple[float, float] | None
    view_box: str


def build_ray_section(setup: SetUp) -> RaySection:
    """The section of a set-up's lamp."""
    housing = setup.built_housing()
    mirror, optic = housing.mirror(setup.nominal), housing.optic()
    near = np.abs(mirror.positions[:, 0]) < SLICE_MM
    places, normals = mirror.positions[near], mirror.normals[near]
    order = np.argsort(places[:, 1])
    picks = order[np.linspace(0, order.size - 1, RAYS).round().astype(int)]
    ahead = optic.shield_at_mm if optic.has_lens else AHEAD_MM
    nominal, source = (
        source.cloud(SHARE).positions for source in (setup.nominal, setup.built_source())
    )
    top = float(np.abs(places[:, 1]).max()) + 8
    back = float(places[:, 2].min()) - 6
    lens = (optic.shield_at_mm + optic.focal_mm, optic.radius_mm) if optic.has_lens else None
    front = (lens[0] + 14) if lens else ahead + 4
    return RaySection(
        mirror=tuple(
            (round(float(z), 1), round(float(-y), 1))
            for _, y, z in places[:: max(1, len(places) // 220)]
        ),
        before=_rays(places[picks], normals[picks], nominal.mean(axis=0), ahead),
        after=_rays(places[picks], normals[picks], source.mean(axis=0), ahead),
        source=_side(source),
        nominal=_side(nominal),
        shield=(optic.shield_at_mm, round(-_edge_middle(optic), 2)) if optic.stands else None,
        lens=lens,
        view_box=f"{back:.0f} {-top:.0f} {front - back:.0f} {2 * top:.0f}",
    )


def _edge_middle(optic: FrontOptic) -> float:
    """Where the shield's edge stands straight ahead, mm up: upside down, as a lens throws it."""
    return -optic.focal_mm * math.tan(math.radians(float(optic.edge_deg[optic.edge_deg.size // 2])))


def _side(points: Array) -> tuple[tuple[float, float], ...]:
    return tuple((round(float(z), 2), round(float(-y), 2)) for _, y, z in points)


def _rays(places: Array, normals: Array, start: Array, ahead: float) -> tuple[str, ...]:
    """Paths from the source's middle by each place to the plane *ahead*, seen from the side."""
    paths = []
    for place, normal in zip(places, normals, strict=True):
        arriving = place - start
        leaving = arriving - 2 * (arriving @ normal) * normal
        run = (ahead - place[2]) / leaving[2] if leaving[2] > 0 else 0.0
        end = place + run * leaving
        points = ((start[2], -start[1]), (place[2], -place[1]), (end[2], -end[1]))
        paths.append("M" + "L".join(f"{z:.1f} {y:.1f}" for z, y in points))
    return tuple(paths)
