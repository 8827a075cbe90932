"""A beam's report: every number derived from it, typed, with its unit; and as the plain values a
file takes.
"""

from __future__ import annotations

from dataclasses import asdict, dataclass, replace
from functools import lru_cache
from typing import Any

from cold_arc.core.beam import derived, nominal
from cold_arc.core.beam.derived import CutOffShape, Fidelity, Glare, HotSpot, MeasuredPoint
from cold_arc.core.beam.housings import kind
from cold_arc.core.beam.model import Beam, Conditions, added, illuminate
from cold_arc.core.beam.setup import SetUp
from cold_arc.core.car.lamps import Traffic
from cold_arc.core.light.hot_spot import hot_spot

Points = dict[str, MeasuredPoint]
LOW_BEAMS = ("un-r112", "un-r98")


@dataclass(frozen=True)
class BeamReport:
    """What a beam is and does.

    *peak_cd* the brightest, *peak_h_deg*, *peak_v_deg* the middle of the hot spot around it;
    *flux_source_lm* out of the source, *flux_beam_lm* in the beam, *efficiency* the one over the
    other, *losses* (lm) what became of the rest. *share_above_cutoff* (0 to 1), the cut-off's
    height *cutoff_v_deg*, its sharpness *sharpness_g* and shape *cut_off* are None for a high beam.
    *hot_spots* brightest first, *shadow* how much darker it is between the first two (0 to 1).
    *regulation* is the yardstick of *test_points*; *test_points_us* and *test_points_class_b* are
    empty where they do not apply. *reach_3lx_m*, *reach_1lx_m*: how far both lamps give so much on
    the road; *glare_50m* at an oncoming eye. *fidelity* against the nominal source, None where
    there is none.
    """

    peak_cd: float
    peak_h_deg: float
    peak_v_deg: float
    flux_source_lm: float
    flux_beam_lm: float
    efficiency: float
    losses: dict[str, float]
    share_above_cutoff: float | None
    cutoff_v_deg: float | None
    sharpness_g: float | None
    cut_off: CutOffShape | None
    hot_spots: tuple[HotSpot, ...]
    shadow: float
    regulation: str
    test_points: Points
    test_points_us: Points
    test_points_class_b: Points
    reach_3lx_m: float
    reach_1lx_m: float
    glare_50m: Glare
    fidelity: Fidelity | None = None

    @property
    def past_shield_lm(self) -> float:
        """What leaves the bulb past its dip shield, lm; never quite 0, for it divides."""
        return max(self.flux_source_lm - self.losses.get("dip shield", 0.0), derived.LEAST_LM)

    def yardsticks(self) -> list[tuple[str, Points]]:
        """Each yardstick that measures it, with its points."""
        more = {"us-108": self.test_points_us, "un-r19-b": self.test_points_class_b}
        every = {self.regulation: self.test_points} | more
        return [(yardstick, points) for yardstick, points in every.items() if points]

    def plain(self) -> dict[str, Any]:
        """The report as numbers, texts, lists and dicts of them, by its fields' names: what JSON
        takes.
        """
        values = asdict(self)
        for name in ("test_points", "test_points_us", "test_points_class_b"):
            values[name] = {
                point.name: _plain_point(point) for point in getattr(self, name).values()
            }
        return values | {"hot_spots": [asdict(spot) for spot in self.hot_spots]}


def _plain_point(point: MeasuredPoint) -> dict[str, Any]:
    return {"cd": point.candela, "min": point.least, "max": point.most, "holds": point.holds}


def _points(beam: Beam, yardstick: str, traffic: Traffic) -> Points:
    return {point.name: point for point in derived.at_yardstick(beam, yardstick, traffic)}


def report_on(
    beam: Beam,
    traffic: Traffic = Traffic.RIGHT,
    regulation: str = "",
    fidelity: Fidelity | None = None,
) -> BeamReport:
    """Everything derived from a *beam* by itself, judged for *traffic*; *fidelity*: against its
    nominal source's, where that was worked out.

    *regulation*: the yardstick of its test points; UN R112's for its kind of beam by default.
    """
    spots, shadow = derived.hot_spots(beam)
    hot_h, hot_v, _ = hot_spot(beam.grid.h, beam.grid.v, beam.intensity)
    high = beam.housing.cut_off.shape == "none"
    regulation = regulation or ("un-r112-high" if high else "un-r112")
    flat_h = derived.flat_side_deg(beam)
    return BeamReport(
        peak_cd=derived.peak(beam).candela,
        peak_h_deg=hot_h,
        peak_v_deg=hot_v,
        flux_source_lm=beam.emitted_lm,
        flux_beam_lm=beam.flux_lm,
        efficiency=beam.flux_lm / max(beam.emitted_lm, derived.LEAST_LM),
        losses=beam.losses,
        share_above_cutoff=derived.share_above(beam),
        cutoff_v_deg=None if high else derived.cut_off_height(beam, flat_h),
        sharpness_g=None if high else derived.sharpness(beam, flat_h),
        cut_off=None if high else derived.cut_off_shape(beam),
        hot_spots=tuple(spots),
        shadow=shadow,
        regulation=regulation,
        test_points=_points(beam, regulation, traffic),
        test_points_us=_points(beam, "us-108", traffic) if regulation in LOW_BEAMS else {},
        test_points_class_b=_points(beam, "un-r19-b", traffic) if regulation == "un-r19-f3" else {},
        reach_3lx_m=derived.reach_m(beam, 3.0),
        reach_1lx_m=derived.reach_m(beam, 1.0),
        glare_50m=derived.oncoming_glare(beam, traffic=traffic),
        fidelity=fidelity,
    )


# Beams kept, 2.5 MB each.
@lru_cache(maxsize=24)
def beam_of(setup: SetUp) -> Beam:
    """The beam of a set-up; remembered."""
    return _beam(setup, setup.conditions)


@lru_cache(maxsize=512)
def stands_deg(setup: SetUp) -> float:
    """Where a modelled beam's own cut-off stands, degrees up: read as a photograph's is, so that a
    simulated camera sees a lamp where it was aimed. 0 for a high beam.
    """
    if setup.high:
        return 0.0
    beam = beam_of(setup)
    return derived.cut_off_height(beam, derived.flat_side_deg(beam))


def rough_of(setup: SetUp, source_points: int) -> Beam:
    """The beam of a *setup*, roughly and some ten times as fast: half as fine a grid, a sixth of
    the mirror's elements; its source thinned to *source_points*.
    """
    return _beam(setup, replace(setup.conditions, source_points=source_points), rough=True)


def _beam(setup: SetUp, conditions: Conditions, rough: bool = False) -> Beam:
    housing = setup.built_housing()
    beams = [
        illuminate(housing, setup.nominal, source, conditions, rough)
        for source in setup.built_sources()
    ]
    return replace(added(beams), cct_k=setup.colour_k, yellow=setup.yellow)


def yardstick_for(setup: SetUp) -> str:
    """Which regulation's points measure it: by its kind of housing, by gas discharge, by beam."""
    law = kind(setup.housing).law
    if law == "fog":
        return "un-r19-f3"
    regulation = (
        "us-108" if law == "us" else "un-r98" if setup.catalogue_base.kind == "hid" else "un-r112"
    )
    two = (
        "-two" if law == "us" and nominal.shares_mirror(setup.housing, setup.catalogue_base) else ""
    )
    return f"{regulation}-high{two}" if setup.high else regulation


@lru_cache(maxsize=48)
def report_of(setup: SetUp) -> BeamReport:
    """The report on a set-up's beam, compared with its nominal source; remembered."""
    beam = beam_of(setup)
    fidelity = derived.fidelity(beam, beam_of(setup.reference()))
    return report_on(beam, setup.traffic, yardstick_for(setup), fidelity)
