"""Speed of the beam model beside a general-purpose optics package, in one run: `make bench`.

Prints paths a second of the kernel, the time of a full preview, peak memory of this process, and
the ratio to prysm reflecting as many rays off the same paraboloid. Writes nothing.
"""

from __future__ import annotations

import json
import resource
import statistics
import sys
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parent.parent))

from cold_arc.core.beam import housings, kernel, model
from cold_arc.core.beam.housings.reflector import Reflector
from cold_arc.core.beam.setup import SetUp
from cold_arc.core.beam.sources import Led
from cold_arc.formats import picture

RUNS = 7
PEER_RAYS = 200_000


def median_seconds(work: Callable[[], object]) -> float:
    """The median of several runs after one to warm up."""
    work()
    times = []
    for _ in range(RUNS):
        started = time.perf_counter()
        work()
        times.append(time.perf_counter() - started)
    return statistics.median(times)


def kernel_rate() -> float:
    """Source points × mirror elements a second."""
    housing, nominal = Reflector(), SetUp().nominal
    mirror, cloud = housing.mirror(nominal), Led().cloud(housing.source_points)
    grid = model.GRID
    angles = kernel.Angles(
        grid.h[0], grid.v[0], model.H_STEP_DEG, model.V_STEP_DEG, grid.v.size, grid.h.size
    )

    def trace() -> object:
        return kernel.trace(cloud.emitters, mirror, housing.optic(), angles)

    return len(cloud.positions) * len(mirror.positions) / median_seconds(trace)


def preview_seconds(kind: str) -> float:
    """A full preview: trace, finish, lens, haze, and the picture's pixels."""
    setup = SetUp(kind, source="led", haze=0.1)
    housing, nominal, source = setup.built_housing(), setup.nominal, setup.built_source()

    def preview() -> object:
        model.forget()
        beam = model.illuminate(housing, nominal, source, setup.conditions)
        return picture.render(beam)

    return median_seconds(preview)


def peer_rate() -> float:
    """Rays a second that prysm reflects off the reflector's paraboloid."""
    from tests.core.beam.optics_package import Surface, raytrace

    surface = Surface.conic(1 / (2 * 22.0), -1.0, "refl", [0, 0, -22.0])
    around = np.linspace(0, 2 * np.pi, PEER_RAYS)
    slope = np.linspace(0.1, 0.9, PEER_RAYS)
    rays = np.stack([slope * np.cos(around), slope * np.sin(around), -np.ones(PEER_RAYS)], axis=1)
    rays /= np.linalg.norm(rays, axis=1)[:, None]
    starts = np.zeros((PEER_RAYS, 3))
    return PEER_RAYS / median_seconds(lambda: raytrace([surface], starts, rays, 0.55))


def main() -> None:
    model.warm()
    rate = kernel_rate()
    previews = {kind: round(1000 * preview_seconds(kind)) for kind in housings.KINDS}
    memory = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    peer = peer_rate()
    figures = {
        "paths_per_second": round(rate),
        "preview_ms": previews,
        "peak_memory_mb": round(memory),
        "prysm_rays_per_second": round(peer),
        "ratio_to_prysm": round(rate / peer),
    }
    print(json.dumps(figures, indent=2))


if __name__ == "__main__":
    main()
