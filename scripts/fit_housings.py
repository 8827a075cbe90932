"""Fits every kind of housing to the nominal source of every base, until its beams hold their
regulation.

`python scripts/fit_housings.py [--anew] [kind …]` writes ``cold_arc/core/data/patterns.toml``, for
the kinds named or all of them; what is there is where it starts from, and stays where it holds its
points with room to spare, unless all are to be made anew. Least squares over a pattern's figures:
how far each point of the regulation falls short of its limit and a margin, and how far peak and
place lie from what surveys of market lamps tell.
"""

from __future__ import annotations

import math
import sys
from collections.abc import Iterator
from dataclasses import asdict, replace
from functools import partial
from pathlib import Path
from typing import Any

import numpy as np
from scipy.optimize import least_squares

ROOT = Path(__file__).parent.parent
sys.path.insert(0, str(ROOT))

from cold_arc.core import data  # noqa: E402
from cold_arc.core.beam import derived, model, nominal  # noqa: E402
from cold_arc.core.beam.housings import KINDS, HousingKind, Pattern  # noqa: E402
from cold_arc.core.beam.model import Beam, Conditions, illuminate  # noqa: E402
from cold_arc.core.beam.report import yardstick_for  # noqa: E402
from cold_arc.core.beam.setup import SetUp, SetUpError  # noqa: E402

FILE = ROOT / "cold_arc" / "core" / "data" / "patterns.toml"
# Share of a limit kept as a margin; what a point of the law counts, one of a law not asked for, and
# the bulk of the beam.
MARGIN, APPROVAL, OTHER_LAW, BULK = 0.12, 3.0, 0.15, 0.8
# A pattern with this margin, as a logarithm, stays as it is.
ENOUGH = 0.03
BOUNDS = {
    "aim": (0.1, 2.6),
    "narrow": (0.7, 14.0),
    "wide": (3.0, 30.0),
    "grows": (0.5, 4.0),
    "shallow": (0.02, 3.0),
    "deep": (0.2, 6.0),
    "kerb": (2.0, 16.0),
    "high_narrow": (0.5, 6.0),
    "high_wide": (1.0, 14.0),
    "sign": (0.002, 0.10),
    "over": (0.01, 0.9),
}
# A low beam's images hang closely under the line, as in a real mirror: what sits 2 mm off throws a
# tenth above it.
DEEPEST_LOW = 1.1
PER_LOW = ("aim", "narrow", "wide", "grows", "shallow", "deep", "kerb", "sign")
PER_SHIELD = ("over",)
PER_HIGH = ("narrow", "wide", "grows", "shallow", "deep")
PER_FOG = ("narrow", "wide", "grows", "shallow", "deep")
PER_DUAL = ("high_narrow", "high_wide")
# A usual low beam of 560 lm away from its hot spot: degrees to the kerb, up, cd (from memory,
# rough).
WINGS = (
    *(
        (0.0, -3.0, 14000.0),
        (0.0, -5.0, 5000.0),
        (0.0, -8.0, 1000.0),
        (0.0, -10.0, 400.0),
        (0.0, -12.0, 150.0),
        (8.0, -2.0, 10000.0),
        (-8.0, -2.0, 8500.0),
    ),
    *(
        (-15.0, -2.0, 2900.0),
        (15.0, -2.0, 3300.0),
        (-20.0, -3.0, 1300.0),
        (20.0, -3.0, 1300.0),
        (30.0, -2.0, 280.0),
    ),
    *(
        (-30.0, -2.0, 280.0),
        (-20.0, -6.0, 600.0),
        (20.0, -6.0, 600.0),
        (-10.0, -6.0, 1700.0),
        (10.0, -6.0, 1700.0),
    ),
)
# Another start, for a source with little light.
LEAN = {"aim": 0.6, "narrow": 3.0, "grows": 3.0, "high_narrow": 4.0, "high_wide": 10.0}
# Elements to fit with; what is fitted is checked with all of them.
QUICK = 8192
# A European low beam also serves a US driver where it can.
ALSO = {"un-r112": "us-108", "un-r98": "us-108", "un-r19-f3": "un-r19-b"}


def setups(kind: HousingKind) -> Iterator[SetUp]:
    """Every lamp a kind is fitted for: bases, supplies, low and (a pattern of its own) high
    beam.
    """
    for base in nominal.BEAM_BASES:
        for volts in (12.0, 24.0):
            for high in filter(partial(kind.is_made_for, base), (False, True)):
                try:
                    setup = SetUp(kind.id, base, high=high, rated_volts=volts)
                except SetUpError:
                    continue
                if not (high and nominal.shares_mirror(kind.id, setup.catalogue_base)):
                    yield setup


def beams_of(
    setup: SetUp, pattern: Pattern, samples: int | None = None
) -> list[tuple[SetUp, Beam]]:
    """The beams a pattern makes: low and high of a dual bulb in one mirror, else the one; of
    *samples* elements.
    """
    kind = KINDS[setup.housing]
    told = [setup]
    if nominal.shares_mirror(setup.housing, setup.catalogue_base):
        told.append(replace(setup, high=True))
    made = []
    for it in told:
        housing: Any = kind.made(it.traffic, it.high, it.catalogue_base.is_dual, pattern=pattern)
        housing = replace(housing, samples=samples or housing.samples)  # type: ignore[type-var]
        points = 64 if samples else housing.source_points
        made.append(
            (it, illuminate(housing, it.nominal, it.own_source, Conditions(source_points=points)))
        )
    return made


def short(point: derived.MeasuredPoint, margin: float = MARGIN) -> float:
    """How far a point falls short of its limits and the margin, as a logarithm; 0 where it holds
    both.
    """
    candela = max(point.candela, 1.0)
    under = math.log(point.least * (1 + margin) / candela) if point.least else 0.0
    over = math.log(candela / (point.most * (1 - margin))) if point.most else 0.0
    return max(0.0, under, over)


def outside(value: float, low: float, high: float) -> float:
    return max(0.0, low - value, value - high)


def looseness(setup: SetUp, beam: Beam) -> float:
    """How much less the wings of a beam count that has little light, or of a projector, which
    throws narrower ones.
    """
    return (0.3 if KINDS[setup.housing].images_source else 1.0) * min(1.0, beam.flux_lm / 450) ** 2


def bulk(setup: SetUp, beam: Beam) -> list[float]:
    """How far peak and place lie outside what surveys of market lamps tell (from memory)."""
    top, lumens = derived.peak(beam), max(beam.flux_lm, 1.0)
    kerb = beam.housing.cut_off.kerb
    if setup.is_fog:
        told = min(8500.0, 6000 * (lumens / 450) ** 0.5)
        return [
            outside(math.log(top.candela / told), -0.25, 0.25),
            0.1 * outside(top.v_deg, -3.2, -1.6),
        ]
    if setup.high:
        told = min(
            62000.0 if KINDS[setup.housing].law == "us" else 95000.0,
            max(54000.0, 62000 * (lumens / 600) ** 0.7),
        )
        return [outside(math.log(top.candela / told), -0.1, 0.1)]
    told = 25000 * (lumens / 560) ** 0.5
    wings = [(h * kerb, v, cd * lumens / 560) for h, v, cd in WINGS]
    share = lumens / beam.emitted_lm
    loose = looseness(setup, beam)
    return [
        15 * outside(share, 0.31, 0.42),
        *(
            loose * 0.3 * outside(math.log(max(float(beam.at(h, v)), 1.0) / cd), -0.4, 0.4)
            for h, v, cd in wings
        ),
        2 * outside(math.log(top.candela / told), -0.12, 0.12),
        outside(top.h_deg * kerb, 1.0, 2.4),
        outside(top.v_deg, -1.65, -1.05),
    ]


def residuals(setup: SetUp, pattern: Pattern) -> list[float]:
    """What least squares makes small."""
    found = []
    for it, beam in beams_of(setup, pattern, QUICK):
        law = yardstick_for(it)
        found += [APPROVAL * short(point) for point in derived.at_yardstick(beam, law)]
        if law in ALSO:
            weight = OTHER_LAW * looseness(it, beam)
            found += [
                weight * short(point, 0.02) for point in derived.at_yardstick(beam, ALSO[law])
            ]
        found += [BULK * far for far in bulk(it, beam)]
    return found


def fitted(setup: SetUp, start: Pattern) -> tuple[Pattern, float]:
    """The pattern that fits best, from a start; and the worst shortfall that is left."""
    names = PER_FOG if setup.is_fog else PER_HIGH if setup.high else PER_LOW
    if nominal.shares_mirror(setup.housing, setup.catalogue_base):
        names += PER_DUAL
    if KINDS[setup.housing].images_source and not setup.high:
        names = tuple(name for name in names if name != "kerb") + PER_SHIELD
    low, high = np.log(np.array([BOUNDS[name] for name in names]).T)
    if not setup.is_fog and not setup.high:
        high = np.where(np.array(names) == "deep", math.log(DEEPEST_LOW), high)
    told = asdict(start)
    begin = np.clip(np.log([max(told[name], 0.1) for name in names]), low + 1e-3, high - 1e-3)

    def made(x: np.ndarray) -> Pattern:
        return replace(
            start, **{name: float(value) for name, value in zip(names, np.exp(x), strict=True)}
        )

    best = least_squares(
        lambda x: np.array(residuals(setup, made(x))),
        begin,
        bounds=(low, high),
        diff_step=0.04,
        max_nfev=36,
        ftol=1e-3,
    )
    pattern = made(best.x)
    rounded = Pattern(**{name: float(f"{value:.3g}") for name, value in asdict(pattern).items()})
    rounded = trimmed(setup, rounded)
    return rounded, worst(setup, rounded)


def trimmed(setup: SetUp, pattern: Pattern) -> Pattern:
    """A projector's pattern with no more sign light than is asked for, and the margin: what a fit
    leaves over there lies above the line.
    """
    if not KINDS[setup.housing].images_source or setup.high or setup.is_fog:
        return pattern
    for _ in range(4):
        (_, beam), *_ = beams_of(setup, pattern)
        asked = [
            point.candela / point.least
            for point in derived.at_yardstick(beam, yardstick_for(setup))
            if point.name.startswith("sign") and point.least
        ]
        pattern = replace(pattern, sign=pattern.sign * (1 + MARGIN) / min(asked))
    rounded = replace(pattern, sign=float(f"{pattern.sign:.3g}"))
    return rounded if worst(setup, rounded) > 0 else pattern


def worst(setup: SetUp, pattern: Pattern) -> float:
    """The least margin over the points of its law, as a logarithm; below 0 where one fails."""
    every = [
        point
        for it, beam in beams_of(setup, pattern)
        for point in derived.at_yardstick(beam, yardstick_for(it))
    ]
    return -max(
        max(
            math.log(point.least / max(point.candela, 1.0)) if point.least else -9.0,
            math.log(max(point.candela, 1.0) / point.most) if point.most else -9.0,
        )
        for point in every
    )


def fit(
    kind: HousingKind, known: dict[str, dict[str, float]], anew: bool
) -> dict[str, dict[str, float]]:
    """The patterns of a kind by lamp; lamps of one nominal source are fitted once."""
    rows: dict[str, dict[str, float]] = {}
    by_source: dict[object, str] = {}
    for setup in setups(kind):
        key = f"{setup.lamp} high" if setup.high else setup.lamp
        source = (setup.nominal, setup.high, yardstick_for(setup))
        if source in by_source:
            rows[key] = rows[by_source[source]]
            continue
        start = Pattern(**known[key]) if key in known else (kind.high if setup.high else kind.low)
        if key in known and not anew and worst(setup, start) >= ENOUGH:
            rows[key], by_source[source] = known[key], key
            continue
        before = [Pattern(**rows[it]) for it in rows if it.endswith("high") == setup.high]
        starts = [start, *before[-1:]] + (
            [] if setup.high or setup.is_fog else [replace(start, **LEAN)]
        )
        tried = [(start, worst(setup, start))] if key in known else []
        for it in starts:
            tried.append(fitted(setup, it))
            if tried[-1][1] > 0.05:
                break
        pattern, left = max(tried, key=lambda it: it[1])
        rows[key], by_source[source] = asdict(pattern), key
        print(f"{kind.id} {key}: margin {100 * math.expm1(left):.0f} %", flush=True)
    return rows


def written(patterns: dict[str, dict[str, dict[str, float]]]) -> str:
    """The file's text."""
    lines = [
        (
            "# How each kind of housing shares its light out for the nominal source of each base: "
            "made by"
        ),
        (
            "# scripts/fit_housings.py, held by the tests and shown in docs/housings.md. Degrees "
            "and shares: see Pattern."
        ),
    ]
    for kind, rows in patterns.items():
        lines += ["", f"[{kind}]"]
        for key, row in rows.items():
            lines.append(
                f'"{key}" = {{ {", ".join(f"{name} = {value:g}" for name, value in row.items())} }}'
            )
    return "\n".join(lines) + "\n"


def main() -> None:
    model.warm()
    anew = "--anew" in sys.argv
    wanted = [name for name in sys.argv[1:] if name != "--anew"] or list(KINDS)
    patterns = {kind: dict(data.load("patterns").get(kind, {})) for kind in KINDS}
    for name in wanted:
        patterns[name] = fit(KINDS[name], patterns[name], anew)
        FILE.write_text(written(patterns), encoding="utf-8")


if __name__ == "__main__":
    main()
