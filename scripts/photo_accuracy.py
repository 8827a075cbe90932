"""Measures rendered photographs whose truth is known, and writes docs/accuracy.md: `python scripts/photo_accuracy.py`.

Random cameras, housings, sources and aims; marks as a hand clicks them. The truth of a figure is what the same
definition says of the beam itself, without a camera.
"""

from __future__ import annotations

import sys
from collections.abc import Iterator
from pathlib import Path

import numpy as np

ROOT = Path(__file__).parent.parent
sys.path.insert(0, str(ROOT))

from tests.core.wallphoto.rendered import LIMITS, Trial, trials  # noqa: E402


def figures(done: list[Trial]) -> Iterator[tuple[str, np.ndarray, np.ndarray]]:
    """Every figure's errors and stated uncertainties over the trials that tell it."""
    for name in LIMITS:
        told = [trial for trial in done if name in trial.errors]
        yield name, np.array([it.errors[name] for it in told]), np.array([it.stated[name] for it in told])


def main(count: int = 300) -> None:
    """Renders, measures, writes."""
    done = list(trials(count, seed=20_261_126))
    rows = []
    for name, errors, stated in figures(done):
        held = float(np.mean(np.abs(errors) <= stated))
        inside = float(np.mean(np.abs(errors) <= LIMITS[name]))
        rows.append(
            f"| {name} | {len(errors)} | {errors.mean():+.3f}° | {np.percentile(np.abs(errors), 50):.3f}° | "
            f"{np.percentile(np.abs(errors), 95):.3f}° | {LIMITS[name]:g}° | {inside:.1%} | {np.median(stated):.3f}° | {held:.1%} |"
        )
    text = (
        "# How well a photograph of the wall is measured\n\n"
        f"{count} photographs rendered by the simulated wall camera (`devices/wall_camera.py`), its truth known: random cameras (place, turn,\n"
        "focal length, lens, exposure, noise, blur, vignetting, JPEG), housings, sources and aims; four to nine marks as a hand clicks\n"
        "them. The truth of each figure is what the same definition says of the beam itself. Written by `scripts/photo_accuracy.py`;\n"
        "`tests/core/wallphoto` holds the limits on photographs of its own. Rendered pictures are not taken ones: a real wall is less even.\n\n"
        "| figure | photographs | mean error | half within | 95 % within | asked | inside | stated (95 %) | held by it |\n|---|---|---|---|---|---|---|---|---|\n"
        + "\n".join(rows)
        + "\n"
    )
    (ROOT / "docs" / "accuracy.md").write_text(text)
    print(text)


if __name__ == "__main__":
    main(*(int(it) for it in sys.argv[1:2]))
