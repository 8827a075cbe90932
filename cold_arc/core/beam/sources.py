"""Light sources as clouds of Lambertian surface elements, in the beam model's frame.

Frame: z forward, x right, y up, millimetres; the origin is where the base's nominal filament or arc
centre sits. Points are a low-discrepancy set, so that a small change of a parameter moves the
result smoothly.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field, replace
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from cold_arc.core.car.lamps import Traffic

Array = NDArray[np.float64]
GOLDEN = (math.sqrt(5) - 1) / 2
# 1/p and 1/p² of the plastic number p (Roberts 2018, from memory).
R2_STEP = (0.7548776662466927, 0.5698402909980532)
# A headlamp coil's and an arc's thickness, how far an arc bows up, mm (common practice; UN R37 and
# R99 give boxes for them).
FILAMENT_DIAMETER_MM = 1.3
ARC_DIAMETER_MM = 1.1
ARC_BOW_MM = 0.25
# A dip shield's low edge, degrees under the level one: it makes the 15° rise of UN R112's line
# (from memory).
SHIELD_TILT_DEG = 15.0
SHIELDED_DEG = 180.0 - SHIELD_TILT_DEG


class Emitters(NamedTuple):
    """What the compiled loop is given of a source: see :class:`PointCloud`."""

    positions: Array
    normals: Array
    flux: Array
    shield: Array


@dataclass(frozen=True)
class PointCloud:
    """Surface elements: positions (n, 3) mm, outward normals (n, 3), flux (n,) lm.

    *bare*: nothing on the bulb itself, as a filament's painted tip, keeps its light from leaving
    the lamp straight. *shield* holds the two inward normals (2, 3) of a dip shield's wedge;
    directions behind both are blocked. A zero row is no shield. *told_lm*: the flux told of the
    source, where that is less than its surface emits because the shield is part of it; None where
    all counts.
    """

    positions: Array
    normals: Array
    flux: Array
    shield: Array = field(default_factory=lambda: np.zeros((2, 3)))
    told_lm: float | None = None
    bare: bool = False

    @property
    def emitters(self) -> Emitters:
        """Its elements, for the compiled loop."""
        return Emitters(self.positions, self.normals, self.flux, self.shield)

    @property
    def total_lm(self) -> float:
        """Luminous flux that leaves the source, lm."""
        return float(self.flux.sum()) if self.told_lm is None else self.told_lm


def lattice(count: int) -> Array:
    """*count* points (n, 2) in the unit square: the R2 low-discrepancy sequence (Roberts 2018, from
    memory).
    """
    index = np.arange(1, count + 1)[:, None]
    return np.asarray((0.5 + index * np.array(R2_STEP)) % 1.0, dtype=float)


def spiral(count: int) -> Array:
    """*count* points (n, 2) in the unit square: even steps and the golden ratio (a Fibonacci
    lattice).

    Mirrors use it, so that their order and the sources' don't beat against each other in the
    picture.
    """
    index = np.arange(count, dtype=float)
    return np.stack([(index + 0.5) / count, (index * GOLDEN) % 1.0], axis=1)


@dataclass(frozen=True)
class Filament:
    """A coil: a cylinder along z (axial) or x (transverse), *offset* mm from nominal.

    With *dip_shield*, light below is blocked: level on the kerb side (right for *traffic* "right"),
    15° lower on the other, whose mirror makes the images that rise 15° towards the kerb. *flux_lm*
    is what leaves the bulb, past the shield, as UN R37 tells it (from memory): an axial coil shines
    evenly round its axis, so 165/360 of it are lost inside.
    """

    length_mm: float = 4.5
    diameter_mm: float = FILAMENT_DIAMETER_MM
    flux_lm: float = 1500.0
    transverse: bool = False
    dip_shield: bool = False
    traffic: Traffic = Traffic.RIGHT
    offset_mm: tuple[float, float, float] = (0.0, 0.0, 0.0)

    def cloud(self, count: int) -> PointCloud:
        """The coil's surface as *count* elements."""
        u = lattice(count)
        along, angle = (u[:, 0] - 0.5) * self.length_mm, 2 * math.pi * u[:, 1]
        ring = np.stack([np.cos(angle), np.sin(angle)], axis=1)
        normals = np.zeros((count, 3))
        positions = np.zeros((count, 3))
        axis, first, second = (0, 1, 2) if self.transverse else (2, 0, 1)
        normals[:, first], normals[:, second] = ring[:, 0], ring[:, 1]
        positions[:] = normals * self.diameter_mm / 2
        positions[:, axis] = along
        positions += np.array(self.offset_mm)
        passes = 1.0 - SHIELDED_DEG / 360.0 if self.dip_shield else 1.0
        flux = np.full(count, self.flux_lm / passes / count)
        return PointCloud(
            positions, normals, flux, self._shield(), self.flux_lm if self.dip_shield else None
        )

    def _shield(self) -> Array:
        if not self.dip_shield:
            return np.zeros((2, 3))
        low = math.radians(SHIELD_TILT_DEG)
        side = -self.traffic.kerb
        return np.array([[0.0, 1.0, 0.0], [side * math.sin(low), math.cos(low), 0.0]])


@dataclass(frozen=True)
class Arc:
    """A gas-discharge arc: a soft cylinder along z, bowed upward, brighter at its ends."""

    length_mm: float = 4.2
    diameter_mm: float = ARC_DIAMETER_MM
    flux_lm: float = 3200.0
    bow_mm: float = ARC_BOW_MM
    offset_mm: tuple[float, float, float] = (0.0, 0.0, 0.0)

    def cloud(self, count: int) -> PointCloud:
        """The arc's surface as *count* elements."""
        u = lattice(count)
        s, angle = 2 * u[:, 0] - 1, 2 * math.pi * u[:, 1]
        normals = np.stack([np.cos(angle), np.sin(angle), np.zeros(count)], axis=1)
        positions = normals * self.diameter_mm / 2
        positions[:, 2] = s * self.length_mm / 2
        positions[:, 1] += self.bow_mm * (1 - s**2)
        positions += np.array(self.offset_mm)
        weight = 1 + 1.5 * s**2
        return PointCloud(positions, normals, self.flux_lm * weight / weight.sum())


@dataclass(frozen=True)
class Led:
    """LED faces on a core along z: *faces* rectangles *length* × *width* mm, each *gap*/2 from the
    axis.

    With *clock_deg* 0, two faces look to 3 and 9 o'clock; it turns clockwise as seen from behind,
    that is from the bulb's base looking forward, and a dip shield with it. *rows* of chips stand
    side by side across the face. *axial*, *radial* are errors of the whole body in mm, *tilt_deg*
    its nose-up tilt. *row_flux* shares the flux among rows. *uneven*, -1 to 1: how much more than
    the mean the face at 3 o'clock gives, the one across as much less; the flux in all stays.
    """

    faces: int = 2
    gap_mm: float = 1.4
    width_mm: float = 1.2
    length_mm: float = 4.5
    rows: int = 1
    flux_lm: float = 1500.0
    clock_deg: float = 0.0
    axial_mm: float = 0.0
    radial_x_mm: float = 0.0
    radial_y_mm: float = 0.0
    tilt_deg: float = 0.0
    row_flux: tuple[float, ...] = ()
    dip_shield: bool = False
    traffic: Traffic = Traffic.RIGHT
    uneven: float = 0.0

    def cloud(self, count: int) -> PointCloud:
        """The faces as about *count* elements, the same number on each row of each face."""
        each = max(count // (self.faces * self.rows), 1)
        parts = [
            self._patch(face, row, each) for face in range(self.faces) for row in range(self.rows)
        ]
        positions = np.concatenate([part[0] for part in parts])
        normals = np.concatenate([part[1] for part in parts])
        flux = np.concatenate([part[2] for part in parts])
        turn = _tilt(math.radians(self.tilt_deg))
        positions = positions @ turn.T + np.array(
            [self.radial_x_mm, self.radial_y_mm, self.axial_mm]
        )
        cup = Filament(dip_shield=self.dip_shield, traffic=self.traffic).cloud(1).shield
        shield = cup @ (turn @ _clocked(math.radians(self.clock_deg))).T
        return PointCloud(positions, normals @ turn.T, flux, shield, bare=True)

    def _patch(self, face: int, row: int, count: int) -> tuple[Array, Array, Array]:
        """One row of one face: positions, normals, flux."""
        angle = 2 * math.pi * face / self.faces - math.radians(self.clock_deg)
        normal = np.array([math.cos(angle), math.sin(angle), 0.0])
        across = np.array([-math.sin(angle), math.cos(angle), 0.0])
        shares = self.row_flux or (1.0,) * self.rows
        share = shares[row] / sum(shares) * self._face_share(face)
        u = lattice(count)
        shift = (row - (self.rows - 1) / 2) * self.width_mm
        lateral = (u[:, 1] - 0.5) * self.width_mm + shift
        positions = normal * self.gap_mm / 2 + lateral[:, None] * across
        positions[:, 2] += (u[:, 0] - 0.5) * self.length_mm
        normals = np.broadcast_to(normal, (count, 3)).copy()
        return positions, normals, np.full(count, self.flux_lm * share / count)

    def _face_share(self, face: int) -> float:
        """A face's share of all the flux; one face alone has it all, however uneven."""
        if self.faces == 1:
            return 1.0
        given = [
            1 + self.uneven * math.cos(2 * math.pi * k / self.faces) for k in range(self.faces)
        ]
        return given[face] / sum(given)


def _clocked(angle: float) -> Array:
    """Rotation about the axis by *angle*, clockwise as seen from behind."""
    cos, sin = math.cos(angle), math.sin(angle)
    return np.array([[cos, sin, 0], [-sin, cos, 0], [0, 0, 1]], dtype=np.float64)


def _tilt(angle: float) -> Array:
    """Rotation about x by *angle*, nose up."""
    cos, sin = math.cos(angle), math.sin(angle)
    return np.array([[1, 0, 0], [0, cos, sin], [0, -sin, cos]], dtype=np.float64)


@dataclass(frozen=True)
class Dual:
    """The two filaments of a dual bulb, which a mirror is designed for: *low* at the origin, *high*
    where it stands.
    """

    low: Filament
    high: Filament

    @property
    def flux_lm(self) -> float:
        """The low beam's."""
        return self.low.flux_lm

    def cloud(self, count: int) -> PointCloud:
        """The low-beam filament's surface: what the cut-off is designed from."""
        return self.low.cloud(count)


Source = Filament | Arc | Led | Dual


def mirrored(source: Source) -> Source:
    """The source with left and right exchanged: what a mirror for the other side of traffic is
    designed for.
    """
    if isinstance(source, Dual):
        return Dual(_mirrored_filament(source.low), _mirrored_filament(source.high))
    if isinstance(source, Led):
        turned, other = -source.clock_deg, source.traffic.other
        return replace(source, clock_deg=turned, radial_x_mm=-source.radial_x_mm, traffic=other)
    if isinstance(source, Arc):
        return replace(source, offset_mm=_flipped(source.offset_mm))
    return _mirrored_filament(source)


def _mirrored_filament(source: Filament) -> Filament:
    return replace(source, offset_mm=_flipped(source.offset_mm), traffic=source.traffic.other)


def _flipped(offset_mm: tuple[float, float, float]) -> tuple[float, float, float]:
    right, up, ahead = offset_mm
    return -right, up, ahead
