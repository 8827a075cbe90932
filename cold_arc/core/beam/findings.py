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
from cold_arc.core.beam.sources import Array
from cold_arc.core.findings import Finding, Level, worst_first
from cold_arc.core.references import MODEL, Sources, cite, read
from cold_arc.core.units import worded

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
        worded("{share:percent 1} of the beam", share=share),
        worded("{usual:percent 1} with the nominal source", usual=usual),
    )
    if share > max(DAZZLE_SHARE, usual + LITTLE_SHARE):
        yield Finding(
            "cutoff-dazzles",
            Level.STOP,
            "Light above the cut-off: it dazzles.",
            MODEL,
            number,
            limit,
            "Depth, clocking, faces.",
        )
    elif share > usual + LITTLE_SHARE:
        yield Finding(
            "cutoff-lighter",
            Level.CAUTION,
            "More light above the cut-off than with the nominal source.",
            MODEL,
            number,
            limit,
        )
    else:
        yield Finding("cutoff-holds", Level.OK, "The cut-off holds.", MODEL, number, limit)


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
            "facets-raised",
            Level.CAUTION,
            worded(
                "Images from the facets {place} now stand {height:degrees 1} above the line.",
                place=place,
                height=height,
            ),
            MODEL,
        )


def _places(positions: Array) -> dict[str, Any]:
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
    number = worded(
        "{peak_cd:candela}, nominal {nominal_cd:candela}",
        peak_cd=report.peak_cd,
        nominal_cd=nominal.peak_cd,
    )
    text = worded(
        "For like flux the hot spot is {ratio:number 2} times the nominal source's.", ratio=ratio
    )
    if ratio < DIM_RATIO:
        yield Finding(
            "hot-spot-weak",
            Level.CAUTION,
            text,
            MODEL,
            number,
            advice="The light goes elsewhere: look at the spread.",
        )
    elif ratio > BRIGHT_RATIO:
        yield Finding("hot-spot-strong", Level.OK, text, MODEL, number)
    else:
        yield Finding("hot-spot-like", Level.NOTE, text, MODEL, number)


def _edge(sharp: float | None, usual: float | None) -> Iterator[Finding]:
    """How sharp the edge is; a soft one is this source's doing only where the nominal source's is
    not.
    """
    if sharp is None or usual is None:
        return
    low, high = derived.SHARP_RANGE
    number, limit = (
        worded("G {sharp:number 2}, nominal {usual:number 2}", sharp=sharp, usual=usual),
        worded("{low:.2f} to {high:.2f}", low=low, high=high),
    )
    if sharp < low <= usual:
        yield Finding(
            "edge-too-soft", Level.CAUTION, "The edge is too soft to aim by.", EDGE, number, limit
        )
    elif sharp < low:
        yield Finding(
            "edge-own-soft",
            Level.NOTE,
            "The modelled housing's own edge is soft.",
            EDGE,
            number,
            limit,
        )
    elif sharp > high:
        yield Finding("edge-hard", Level.NOTE, "The edge is very hard.", EDGE, number, limit)
    else:
        yield Finding(
            "edge-sharp", Level.OK, "The edge is sharp enough to aim by.", EDGE, number, limit
        )


def shadow(dip: float, usual: float) -> Iterator[Finding]:
    """How much darker it is between two hot spots, where the nominal source has none so dark."""
    if dip > max(SHADOW, usual + LITTLE_SHADOW):
        yield Finding(
            "hot-spots-two",
            Level.CAUTION,
            "Two hot spots with a darker middle.",
            MODEL,
            worded("{dip:percent} darker between them", dip=dip),
            worded("{usual:percent} with the nominal source", usual=usual),
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
            "glare-disturbing",
            Level.STOP if mark < UNBEARABLE_MARK else Level.CAUTION,
            "Disturbing to an oncoming driver 50 m ahead.",
            (*MODEL, *cite("schmidt-clausen")),
            worded("{mark:glare} (de Boer), {lux:number 2} lx at the eye", mark=mark, lux=seen.lux),
            worded("5, just admissible; {usual:number 2} with the nominal source", usual=usual),
            "Depth, clocking, aim.",
        )


def _yardstick(report: BeamReport, nominal: BeamReport) -> Iterator[Finding]:
    """Points this source loses that the nominal one holds here; what the modelled housing itself
    misses is no fault of the lamp, and is said apart."""
    own = {name for name, point in nominal.test_points.items() if not point.holds}
    judged = [name for name in nominal.test_points if name not in own]
    failed = [name for name in judged if not report.test_points[name].holds]
    limit = (
        worded("the modelled housing itself misses {own}", own=", ".join(sorted(own)))
        if own
        else ""
    )
    text = worded(
        "{holding} of the {judged} yardstick points hold that hold with the nominal source.",
        holding=len(judged) - len(failed),
        judged=len(judged),
    )
    yield Finding(
        "yardstick-points",
        Level.NOTE,
        text,
        yardstick_sources(report.regulation),
        worded("not: {failed}", failed=", ".join(failed)) if failed else "",
        limit,
    )
