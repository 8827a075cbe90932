"""What a beam's numbers mean, in the trade's words: findings on a set-up against its own nominal
source.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from typing import Any

import numpy as np

from cold_arc.core.beam import derived
from cold_arc.core.beam.derived import Glare
from cold_arc.core.beam.housings import images
from cold_arc.core.beam.report import BeamReport, report_of
from cold_arc.core.beam.setup import SetUp
from cold_arc.core.findings import Finding, Level, worst_first
from cold_arc.core.references import MODEL, Sources, cite, read
from cold_arc.core.units import say_candela, say_degrees, say_glare, say_number, say_percent

# Shares of the beam above the line, for like housings: what dazzles, and what is worth a word
# beside the nominal source's (own; a wall with a twentieth of the beam above reads plainly wrong).
DAZZLE_SHARE, LITTLE_SHARE = 0.05, 0.02
# Hot spot against the nominal source's for like flux: dimmer, brighter (own).
DIM_RATIO, BRIGHT_RATIO = 0.75, 1.25
# How much darker it is between two hot spots: what an eye sees as two, and what is worth a word
# (own).
SHADOW, LITTLE_SHADOW = 0.12, 0.05
# De Boer: 5 just admissible, 3 disturbing (Schmidt-Clausen & Bindels 1974, from memory); a third of
# a mark is no worse (own).
GLARE_MARK, UNBEARABLE_MARK, WORSE_MARK = 5.0, 3.0, 0.3
# Source elements to name a facet by (own).
FACET_POINTS = 160
EDGE = cite("un-r112 sharpness of the edge, as a yardstick")


def yardstick_sources(regulation: str) -> Sources:
    """Whose points a beam is held against; a regulation judges approvals in a laboratory, here it
    is a yardstick.
    """
    cited = read(derived.yardsticks()[regulation]["source"])
    return tuple(
        replace(
            source, clause=f"{source.clause}, as a yardstick on a modelled housing".lstrip(", ")
        )
        for source in cited
    )


def findings(setup: SetUp) -> list[Finding]:
    """Everything worth saying of a set-up, worst first."""
    report, nominal = report_of(setup), report_of(setup.reference())
    clear = report_of(replace(setup.reference(), haze=0.0))
    collected = [
        *above(report.share_above_cutoff, nominal.share_above_cutoff),
        *_which_facets(setup, report.share_above_cutoff),
        *_peak(report, nominal),
        *_edge(report.sharpness_g, clear.sharpness_g),
        *shadow(report.shadow, nominal.shadow),
        *([] if setup.high else glare(report.glare_50m, clear.glare_50m.de_boer)),
        *_yardstick(report, clear),
    ]
    return worst_first(collected)


def above(share: float | None, usual: float | None) -> Iterator[Finding]:
    """Light above the cut-off, as a share of the beam, against the nominal source's; nothing where
    there is no line.
    """
    if share is None or usual is None:
        return
    number, limit = (
        f"{say_percent(share, 1)} of the beam",
        f"{say_percent(usual, 1)} with the nominal source",
    )
    if share > max(DAZZLE_SHARE, usual + LITTLE_SHARE):
        yield Finding(
            Level.STOP,
            "Light above the cut-off: it dazzles.",
            MODEL,
            number,
            limit,
            "Depth, clocking, faces.",
        )
    elif share > usual + LITTLE_SHARE:
        yield Finding(
            Level.CAUTION,
            "More light above the cut-off than with the nominal source.",
            MODEL,
            number,
            limit,
        )
    else:
        yield Finding(Level.OK, "The cut-off holds.", MODEL, number, limit)


def _which_facets(setup: SetUp, share: float | None) -> Iterator[Finding]:
    """Names the facets whose images now stand over the line, for a reflector that lost its
    cut-off.
    """
    housing = setup.built_housing()
    if not housing.has_facets or share is None or share < LITTLE_SHARE:
        return
    mirror = housing.mirror(setup.nominal)
    cloud = setup.built_source().cloud(FACET_POINTS)
    top = {}
    for place, chosen in _places(mirror.positions).items():
        step = max(1, int(chosen.sum()) // 60)
        h, v, weight = images(
            cloud, mirror.positions[chosen][::step], mirror.normals[chosen][::step]
        )
        over = v - housing.cut_off.at(h)
        order = np.argsort(over)
        reach = np.cumsum(weight[order]) / max(weight.sum(), 1e-12)
        top[place] = (
            float(over[order][min(int(np.searchsorted(reach, 0.95)), over.size - 1)])
            if over.size
            else 0.0
        )
    place, height = max(top.items(), key=lambda item: item[1])
    if height > 0.3:
        yield Finding(
            Level.CAUTION,
            f"Images from the facets {place} now stand {say_degrees(height, 1)} above the line.",
            MODEL,
        )


def _places(positions: derived.Array) -> dict[str, Any]:
    x, y = positions[:, 0], positions[:, 1]
    beside = np.abs(y) < np.abs(x) * 0.5
    return {
        "above the bulb": (y > 0) & ~beside,
        "below the bulb": (y < 0) & ~beside,
        "left of the bulb": (x < 0) & beside,
        "right of the bulb": (x > 0) & beside,
    }


def _peak(report: BeamReport, nominal: BeamReport) -> Iterator[Finding]:
    """The peak for like flux: what the seat and shape do, apart from more lumens."""
    flux_ratio = report.past_shield_lm / nominal.past_shield_lm
    if nominal.peak_cd <= 0 or flux_ratio <= 0:
        return
    ratio = report.peak_cd / nominal.peak_cd / flux_ratio
    number = f"{say_candela(report.peak_cd)}, nominal {say_candela(nominal.peak_cd)}"
    text = f"For like flux the hot spot is {say_number(ratio, 2)} times the nominal source's."
    if ratio < DIM_RATIO:
        yield Finding(
            Level.CAUTION,
            text,
            MODEL,
            number,
            advice="The light goes elsewhere: look at the spread.",
        )
    elif ratio > BRIGHT_RATIO:
        yield Finding(Level.OK, text, MODEL, number)
    else:
        yield Finding(Level.NOTE, text, MODEL, number)


def _edge(sharp: float | None, usual: float | None) -> Iterator[Finding]:
    """How sharp the edge is; a soft one is this source's doing only where the nominal source's is
    not.
    """
    if sharp is None or usual is None:
        return
    low, high = derived.SHARP_RANGE
    number, limit = (
        f"G {say_number(sharp, 2)}, nominal {say_number(usual, 2)}",
        f"{low:.2f} to {high:.2f}",
    )
    if sharp < low <= usual:
        yield Finding(Level.CAUTION, "The edge is too soft to aim by.", EDGE, number, limit)
    elif sharp < low:
        yield Finding(Level.NOTE, "The modelled housing's own edge is soft.", EDGE, number, limit)
    elif sharp > high:
        yield Finding(Level.NOTE, "The edge is very hard.", EDGE, number, limit)
    else:
        yield Finding(Level.OK, "The edge is sharp enough to aim by.", EDGE, number, limit)


def shadow(dip: float, usual: float) -> Iterator[Finding]:
    """How much darker it is between two hot spots, where the nominal source has none so dark."""
    if dip > max(SHADOW, usual + LITTLE_SHADOW):
        yield Finding(
            Level.CAUTION,
            "Two hot spots with a darker middle.",
            MODEL,
            f"{say_percent(dip)} darker between them",
            f"{say_percent(usual)} with the nominal source",
            "The gap between the chips does it, or the real housing: look at its own pattern "
            "first.",
        )


def glare(seen: Glare, usual: float) -> Iterator[Finding]:
    """Discomfort at an oncoming eye, against the de Boer mark of the nominal source.

    Only what is plainly worse than with the nominal source is said: real dipped beams lie near
    "just admissible" too.
    """
    mark = seen.de_boer
    if mark < GLARE_MARK and mark < usual - WORSE_MARK:
        yield Finding(
            Level.STOP if mark < UNBEARABLE_MARK else Level.CAUTION,
            "Disturbing to an oncoming driver 50 m ahead.",
            (*MODEL, *cite("schmidt-clausen")),
            f"{say_glare(mark)} (de Boer), {say_number(seen.lux, 2)} lx at the eye",
            f"5, just admissible; {say_number(usual, 2)} with the nominal source",
            "Depth, clocking, aim.",
        )


def _yardstick(report: BeamReport, nominal: BeamReport) -> Iterator[Finding]:
    """Points this source loses that the nominal one holds here; what the modelled housing itself
    misses is no fault of the lamp, and is said apart."""
    own = {name for name, point in nominal.test_points.items() if not point.holds}
    judged = [name for name in nominal.test_points if name not in own]
    failed = [name for name in judged if not report.test_points[name].holds]
    limit = f"the modelled housing itself misses {', '.join(sorted(own))}" if own else ""
    text = (
        f"{len(judged) - len(failed)} of the {len(judged)} yardstick points hold that hold with "
        "the nominal source."
    )
    yield Finding(
        Level.NOTE,
        text,
        yardstick_sources(report.regulation),
        f"not: {', '.join(failed)}" if failed else "",
        limit,
    )
