"""What readings come to on the road: reach, an oncoming eye, lumens against a claim, a yardstick's
points.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from cold_arc.core.beam import derived
from cold_arc.core.beam.derived import MeasuredPoint
from cold_arc.core.car.lamps import Traffic
from cold_arc.core.findings import Finding, Level
from cold_arc.core.light import photometry
from cold_arc.core.metering.raster import Raster
from cold_arc.core.metering.readings import WallReading
from cold_arc.core.references import PRACTICE, cite
from cold_arc.core.units import worded

# Marks of de Boer's scale in words, from the best down (Schmidt-Clausen & Bindels 1974, from
# memory).
MARKS = (
    (8.0, "unnoticeable"),
    (6.0, "satisfactory"),
    (4.0, "just admissible"),
    (2.0, "disturbing"),
    (1.0, "unbearable"),
)
# Where an oncoming eye is: 50 m ahead, at B50L; two lamps shine on it.
EYE_M, EYE_DEG, LAMPS = 50.0, (-3.43, 0.57), 2
# A claim is kept within this share (own): what measuring leaves open besides.
CLAIM_DOUBT = 0.15
# A yardstick's point is read by the nearest reading within so many degrees.
NEAR_DEG = 0.5


@dataclass(frozen=True)
class AtTheEye:
    """Stray light at an oncoming eye: lx, the de Boer mark, and that in a word."""

    lux: float
    mark: float

    @property
    def word(self) -> str:
        """The mark in a word."""
        return next(word for least, word in MARKS if self.mark >= least)


def at_the_eye(stray_cd: float) -> AtTheEye:
    """What *stray_cd* at B50L, from both lamps, is to a driver 50 m ahead.

    >>> at_the_eye(250).word
    'just admissible'
    """
    lux = LAMPS * stray_cd / EYE_M**2
    minutes = 60 * math.hypot(*EYE_DEG)
    return AtTheEye(lux, derived.de_boer(derived.discomfort(lux, minutes)))


def reach_m(peak_cd: float, threshold_lx: float) -> float:
    """How far one lamp's brightest point gives *threshold_lx*, m."""
    return photometry.reach_m(peak_cd, threshold_lx)


def glare_finding(stray: WallReading | None) -> list[Finding]:
    """Stray light as an oncoming driver would say it."""
    if stray is None:
        return []
    seen = at_the_eye(stray.candela)
    level = Level.OK if seen.mark >= 5 else Level.NOTE if seen.mark >= 4 else Level.CAUTION
    number = worded(
        "{candela:candela} each, {lux:lux} at the eye, mark {mark:number 2} of 9",
        candela=stray.candela,
        lux=seen.lux,
        mark=seen.mark,
    )
    text = worded("To an oncoming driver 50 m away the stray light is {word}.", word=seen.word)
    return [Finding("glare-at-eye", level, text, cite("schmidt-clausen"), number)]


def lumens_finding(
    ratio: float | None, doubt: float, nominal_lm: float | None, claimed_lm: float
) -> list[Finding]:
    """A claim against what was measured: the light on the wall grew by *ratio* over a source of
    *nominal_lm*.
    """
    if ratio is None or nominal_lm is None:
        return []
    measured = ratio * nominal_lm
    share = measured / claimed_lm
    number = worded(
        "{claimed_lm:number} lm claimed; as bright as {measured:number 2} lm of the old kind",
        claimed_lm=claimed_lm,
        measured=measured,
    )
    limit = worded(
        "{share:percent} of the claim, ± {doubt:percent}",
        share=share,
        doubt=share * math.hypot(doubt, CLAIM_DOUBT),
    )
    if share * (1 + 2 * math.hypot(doubt / 2, CLAIM_DOUBT)) < 1:
        text = "Much less of the claimed light reaches the wall than the old source's did."
        return [
            Finding(
                "lumens-short",
                Level.NOTE,
                text,
                PRACTICE,
                number,
                limit,
                "Lumens on a box say little.",
            )
        ]
    return [
        Finding(
            "lumens-reach",
            Level.OK,
            "The claimed light reaches the wall as the old source's did.",
            PRACTICE,
            number,
            limit,
        )
    ]


def by_nearest(
    readings: Mapping[str, WallReading] | Sequence[WallReading],
    yardstick: str,
    traffic: Traffic = Traffic.RIGHT,
) -> list[MeasuredPoint]:
    """A yardstick's single points as the nearest reading within half a degree gives them; zones
    need a raster.
    """
    taken = list(readings.values()) if isinstance(readings, Mapping) else list(readings)
    table = derived.yardsticks()[yardstick]
    flip = derived.mirrored(table, traffic)
    top = max((reading.candela for reading in taken), default=0.0)
    nearest = []
    for row in table["points"]:
        if (
            "sum" in row
            or isinstance(row["h"], list)
            or isinstance(row["v"], list)
            or "max_of" in row
        ):
            continue
        near = _nearest(taken, row["h"] * flip, row["v"])
        if near is not None:
            nearest.append(
                MeasuredPoint(row["name"], near.candela, derived.least_of(row, top), row.get("max"))
            )
    return nearest


def _nearest(taken: Sequence[WallReading], h_deg: float, v_deg: float) -> WallReading | None:
    def apart(reading: WallReading) -> float:
        h, v = derived.wall_direction(reading.across_m, reading.drop_m, reading.distance_m)
        return math.hypot(float(h) - h_deg, float(v) - v_deg)

    near = min(taken, key=apart, default=None)
    return near if near is not None and apart(near) <= NEAR_DEG else None


def by_raster(
    raster: Raster, yardstick: str, traffic: Traffic = Traffic.RIGHT
) -> list[MeasuredPoint]:
    """A yardstick's points and zones that a raster covers, by the light between its places."""
    beam = raster.beam(traffic, yardstick.endswith(("high", "two")))
    table = derived.yardsticks()[yardstick]
    flip = derived.mirrored(table, traffic)
    covered = {
        row["name"]
        for row in table["points"]
        if all(raster.holds(h * flip, v) for h, v in _corners(row))
    }
    return [
        point for point in derived.at_yardstick(beam, yardstick, traffic) if point.name in covered
    ]


def _corners(row: Mapping[str, Any]) -> list[tuple[float, float]]:
    if "sum" in row:
        return [(float(h), float(v)) for h, v in row["sum"]]
    h, v = (
        [float(figure) for figure in (value if isinstance(value, list) else [value])]
        for value in (row["h"], row["v"])
    )
    return [(across, up) for across in h for up in v]
