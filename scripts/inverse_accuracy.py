"""Reads lamps whose truth is known, and writes docs/read-accuracy.md: `python
scripts/inverse_accuracy.py [lamps]`.

Housings that differ from the typical one in all their figures, photographed by the simulated wall
camera before and after; what was told against what is so.
"""

from __future__ import annotations

import sys
import time
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np

ROOT = Path(__file__).parent.parent
sys.path.insert(0, str(ROOT))

from cold_arc.core.beam import derived, model  # noqa: E402
from cold_arc.core.beam.model import Beam  # noqa: E402
from cold_arc.core.beam.setup import SetUp  # noqa: E402
from cold_arc.core.inverse.housing import fit_lamp, typical  # noqa: E402
from cold_arc.core.inverse.light_map import LightMap, of_beam, of_picture  # noqa: E402
from cold_arc.core.inverse.seat import fit_seat  # noqa: E402
from cold_arc.core.wallphoto.directions import Subject  # noqa: E402
from cold_arc.core.wallphoto.isolux import LuxReading  # noqa: E402
from cold_arc.core.wallphoto.picture import light_of  # noqa: E402
from cold_arc.devices.wall_camera import Shot, before_the_wall, photograph  # noqa: E402
from tests.core.inverse.lamps import changed, drawn_lamp  # noqa: E402

FILE = ROOT / "docs" / "read-accuracy.md"
FIRST_SEED, USUAL_LAMPS = 20_261_130, 12
LAMPS = (("reflector", "H7"), ("reflector", "H11"), ("projector", "H7"))
MARKS_CM = [(-200, 20), (200, 20), (-200, 130), (200, 130), (0, 140), (0, 10)]
SUBJECT = Subject(7.62, 0.72)
BRIGHT, CELL_SHARE = 0.05, 0.05


@dataclass(frozen=True)
class Told:
    """What one lamp's pictures told: the median error of a prediction, of the typical housing's,
    the share of cells inside their 95 %, the peak's error, clock's and depth's, the place of the
    right hypothesis, seconds.
    """

    kind: str
    error: float
    typical: float
    inside: float
    peak: float
    clock: float
    depth: float
    places: tuple[int, ...]
    fit_s: float


def seen(beam: Beam, seed: int, with_meter: bool) -> LightMap:
    """The map of a photograph of a beam, with one reading at its hot spot."""
    shot = Shot(1600, 1200, exposure=-0.3, seed=seed)
    taken = photograph(beam, before_the_wall(7.62, 0.72), shot, MARKS_CM, 7.62, 0.72)
    top = derived.peak(beam)
    across = 762 * np.tan(np.radians(top.h_deg))
    up = 72 + 762 * np.tan(np.radians(top.v_deg))
    lux = derived.wall_lux(beam, np.array([across / 100]), np.array([0.72 - up / 100]), 7.62)
    reading = LuxReading(float(lux[0]), (float(across), float(up))) if with_meter else None
    return of_picture(light_of(taken.pixels), list(taken.marks), SUBJECT, reading)


def trial(seed: int) -> Told:
    """One lamp, drawn by its seed."""
    model.warm()
    random = np.random.default_rng(seed)
    kind, base = LAMPS[seed % len(LAMPS)]
    own = SetUp(kind, base)
    led = replace(own, source="led", gap=1.6, flux=1500.0, length=4.2)
    true = drawn_lamp(own, seed)
    begun = time.perf_counter()
    lamp = fit_lamp(own, seen(true.beam(own), seed, True))
    fit_s = time.perf_counter() - begun
    truth, foretold = of_beam(true.beam(led)), of_beam(lamp.beam(led))
    bright = truth.candela > BRIGHT * truth.peak
    drawn = np.array([of_beam(each.beam(led, rough=True)).candela for each in lamp.drawn(12)])
    within = 1.96 * np.hypot(drawn.std(axis=0), CELL_SHARE * foretold.candela)
    off = np.abs(foretold.candela - truth.candela)
    usual = of_beam(typical(own).beam(led))
    clock = float(random.uniform(8, 30) * random.choice([-1, 1]))
    depth = float(random.uniform(0.5, 1.2) * random.choice([-1, 1]))
    turned = fit_seat(lamp, led, seen(true.beam(replace(led, clock=clock)), seed + 1, False))
    deep = fit_seat(lamp, led, seen(true.beam(replace(led, axial=depth)), seed + 2, False))
    aim_v = dict(zip(true.names, true.values, strict=True))["aim_v"]
    moved = changed(true, aim_v=aim_v - 0.5)
    aimed = fit_seat(lamp, led, seen(moved.beam(led), seed + 3, False))
    uneven = float(random.uniform(0.35, 0.7) * random.choice([-1, 1]))
    weak = fit_seat(lamp, led, seen(true.beam(replace(led, uneven=uneven)), seed + 4, False))
    right = [(turned, "clock"), (deep, "depth"), (aimed, "aim"), (weak, "face")]
    if kind == "projector":
        bent = replace(true, setup=replace(true.setup, cut_off="flat"))
        right.append((fit_seat(lamp, led, seen(bent.beam(led), seed + 5, False)), "shade"))
    places = tuple([e.hypothesis.id for e in seat.explained].index(name) for seat, name in right)
    figures = {e.hypothesis.id: e.figures for e in turned.explained}["clock"]
    depths = {e.hypothesis.id: e.figures for e in deep.explained}["depth"]
    return Told(
        kind,
        float(np.median((off / truth.candela)[bright])),
        float(np.median((np.abs(usual.candela - truth.candela) / truth.candela)[bright])),
        float(np.mean((off <= within)[bright])),
        derived.peak(lamp.beam(led)).candela / derived.peak(true.beam(led)).candela - 1,
        figures["clock"][0] - clock,
        depths["axial"][0] - depth,
        places,
        fit_s,
    )


HEAD = """# How well a lamp is read from its wall

{count} lamps (reflector H7 and H11, projector H7) whose housings differ from the typical one in every figure by 12 % (one standard
deviation), aim by 0.4°, brightness by a fifth; photographed by the simulated wall camera as they came, with one reading of a meter, and with an
LED bulb turned, off its depth, one face weaker by half or more, the lamp moved, or a projector's shade bent flat, without one. Written by `scripts/inverse_accuracy.py`. The truth is the model's own: a
mirror's own errors, which the model does not have, are not in it.

| what | result | asked |
|---|---|---|
"""


def written(told: list[Told]) -> str:
    """The document's text."""
    places = np.array([place for each in told for place in each.places])
    clock, depth = (np.abs([getattr(e, name) for e in told]) for name in ("clock", "depth"))
    rows = [
        (
            "median error of an LED foretold, cells above 5 % of the peak",
            f"{100 * np.median([e.error for e in told]):.1f} % (typical housing "
            f"{100 * np.median([e.typical for e in told]):.0f} %)",
            "a third of the typical's",
        ),
        ("cells inside their 95 %", f"{100 * np.mean([e.inside for e in told]):.0f} %", "90 to 98"),
        (
            "peak, one reading: within 10 %",
            f"{100 * np.mean(np.abs([e.peak for e in told]) < 0.1):.0f} %",
            "all",
        ),
        (
            "clock within 3°",
            f"{100 * np.mean(clock <= 3):.0f} %, half within {np.median(clock):.1f}°",
            "90 %",
        ),
        (
            "depth within 0.4 mm",
            f"{100 * np.mean(depth <= 0.4):.0f} %, half within {np.median(depth):.2f} mm",
            "85 %",
        ),
        ("right explanation first", f"{100 * np.mean(places == 0):.0f} %", "85 %"),
        ("among the first two", f"{100 * np.mean(places <= 1):.0f} %", "97 %"),
        ("one fit", f"{np.median([e.fit_s for e in told]):.0f} s, two at once", "20 s"),
    ]
    lines = "\n".join(f"| {what} | {result} | {asked} |" for what, result, asked in rows)
    return HEAD.format(count=len(told)) + lines + "\n"


def main() -> None:
    count = int(sys.argv[1]) if len(sys.argv) > 1 else USUAL_LAMPS
    with ProcessPoolExecutor(2) as pool:
        told = list(pool.map(trial, range(FIRST_SEED, FIRST_SEED + count)))
    for each in told:
        print(each)
    FILE.write_text(written(told), encoding="utf-8")


if __name__ == "__main__":
    main()
