"""Writes docs/housings.md: every kind of housing for every base against every point of its
regulation.

`python scripts/housings_doc.py` takes a minute or two.
"""

from __future__ import annotations

import math
import sys
from pathlib import Path

ROOT = Path(__file__).parent.parent
sys.path.insert(0, str(ROOT))

from cold_arc.core.beam import derived, model, nominal  # noqa: E402
from cold_arc.core.beam.housings import KINDS, HousingKind  # noqa: E402
from cold_arc.core.beam.report import BeamReport, beam_of, report_of  # noqa: E402
from cold_arc.core.beam.setup import SetUp, SetUpError  # noqa: E402

FILE = ROOT / "docs" / "housings.md"
HEAD = """# The housings and their regulations

Made by `python scripts/housings_doc.py`; `scripts/fit_housings.py` fits the patterns
(`cold_arc/core/data/patterns.toml`), and the tests hold what stands here. Every kind of housing
with the nominal source of each base, clear lens, 12 V type, traffic on the right (the left is its
mirror), against every point and zone of the regulation it stands for, in candela at the base's
rated flux. **Bold**: the point is missed. Regulations from memory; R98, R19's wide line and class
B, and the US upper beam are doubtful.

Ranges to compare the bulk with, from memory, rough: flux in the beam over the source's 0.30 to 0.45
(reflector), 0.28 to 0.42 (projector); European halogen low beams 450 to 700 lm, peak 18 to 35 kcd
at 1 to 2.5° to the kerb, 1 to 1.7° down; gas discharge 900 to 1300 lm, 30 to 45 kcd; halogen high
beams 40 to 100 kcd. *Rough*: what a blur of 1° takes out, root mean square.

"""


def setups(kind: HousingKind, high: bool) -> list[SetUp]:
    """The lamps of a kind with one beam: a base for each nominal source."""
    found: list[SetUp] = []
    for base in nominal.BEAM_BASES:
        if not kind.is_made_for(base, high):
            continue
        try:
            setup = SetUp(kind.id, base, high=high)
        except SetUpError:
            continue
        if setup.own_source not in [it.own_source for it in found] or setup.catalogue_base.is_dual:
            found.append(setup)
    return found


def cell(point: derived.MeasuredPoint) -> str:
    """Candela to three figures, bold where missed."""
    text = f"{float(f'{point.candela:.3g}'):.0f}"
    return text if point.holds else f"**{text}**"


def limits(point: derived.MeasuredPoint) -> str:
    return " ".join(
        filter(
            None,
            (
                f"≥ {point.least:.0f}" if point.least else "",
                f"≤ {point.most:.0f}" if point.most else "",
            ),
        )
    )


def margin(report: BeamReport) -> float:
    """The least margin to a limit over a regulation's points, as a share of it."""
    found = []
    for point in report.test_points.values():
        found += [point.candela / point.least - 1] if point.least else []
        found += [1 - point.candela / point.most] if point.most else []
    return min(found)


def table(kind: HousingKind, setups: list[SetUp]) -> list[str]:
    """One table: a column a base, a row a point, and the bulk below."""
    reports = [report_of(setup) for setup in setups]
    first = next(iter(reports))
    lines = [
        "| | limit | " + " | ".join(setup.base for setup in setups) + " |",
        "|---|---|" + "---:|" * len(setups),
    ]
    for name, point in first.test_points.items():
        own = [report.test_points[name] for report in reports]
        moves = len({(it.least, it.most) for it in own}) > 1
        lines.append(
            f"| {name} | {'of its own beam' if moves else limits(point)} | "
            f"{' | '.join(map(cell, own))} |"
        )
    bulk = {
        "least margin": [f"{100 * margin(it):.0f} %" for it in reports],
        "flux in beam / source": [f"{it.efficiency:.2f}" for it in reports],
        "peak, kcd": [f"{it.peak_cd / 1000:.1f}" for it in reports],
        "at": [f"{it.peak_h_deg:.1f}°, {it.peak_v_deg:.1f}°" for it in reports],
        "flux above the line": [
            "" if it.share_above_cutoff is None else f"{100 * it.share_above_cutoff:.1f} %"
            for it in reports
        ],
        "kerb rise, G": [
            f"{it.cut_off.kerb_slope_deg:.0f}°, {it.sharpness_g:.2f}" if it.cut_off else ""
            for it in reports
        ],
        "rough": [f"{100 * derived.roughness(beam_of(it)):.1f} %" for it in setups],
        "accounted for": [f"{100 * accounted(it):.2f} %" for it in reports],
    }
    return lines + [f"| *{name}* | | {' | '.join(cells)} |" for name, cells in bulk.items()]


def accounted(report: BeamReport) -> float:
    """Beam and losses over what the source emits: 1 where no lumen is lost unnamed."""
    return math.fsum([report.flux_beam_lm, *report.losses.values()]) / report.flux_source_lm


def main() -> None:
    model.warm()
    lines = []
    for kind in KINDS.values():
        for high in (False,) if kind.is_fog else (False, True):
            by_law: dict[str, list[SetUp]] = {}
            for setup in setups(kind, high):
                by_law.setdefault(report_of(setup).regulation, []).append(setup)
            for law, told in by_law.items():
                lines += [
                    f"## {kind.label}: {derived.yardsticks()[law]['name']}",
                    "",
                    *table(kind, told),
                    "",
                ]
    FILE.write_text(HEAD + "\n".join(lines), encoding="utf-8")


if __name__ == "__main__":
    main()
