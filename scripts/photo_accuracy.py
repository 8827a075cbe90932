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


HEAD = """# How well a photograph of the wall is measured

{count} photographs rendered by the simulated wall camera (`devices/wall_camera.py`), their truth known: random cameras
(place, turn, focal length, lens, exposure, noise, blur, vignetting, JPEG), housings, sources and aims; four or eight
marks as a hand clicks them. The truth of each figure is what the same definition says of the beam itself, seen
through a lens of 0.04°. Written by `scripts/photo_accuracy.py`; `tests/core/wallphoto` holds the limits on photographs
of its own. Rendered pictures are not taken ones: a real wall is less even.

| figure | photographs | mean error | half within | 95 % within | asked | inside | stated (95 %) | held by it |
|---|---|---|---|---|---|---|---|---|
"""


def main(count: int = 240) -> None:
    """Renders, measures, writes."""
    rows = []
    for name, errors, stated in figures(list(trials(count, seed=20_261_126))):
        size = np.abs(errors)
        told = [len(errors), f"{errors.mean():+.3f}°", *(f"{np.percentile(size, it):.3f}°" for it in (50, 95))]
        told += [f"{LIMITS[name]:g}°", f"{np.mean(size <= LIMITS[name]):.1%}", f"{np.median(stated):.3f}°"]
        rows.append(" | ".join(map(str, ["", name, *told, f"{np.mean(size <= stated):.1%}", ""])).strip())
    text = HEAD.format(count=count) + "\n".join(rows) + "\n"
    (ROOT / "docs" / "accuracy.md").write_text(text)
    print(text)


if __name__ == "__main__":
    main(*(int(it) for it in sys.argv[1:2]))
