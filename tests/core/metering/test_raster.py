"""A raster of readings as a beam, against the beam it was read from."""

import numpy as np
import pytest

from cold_arc.core.beam import derived
from cold_arc.core.beam.report import beam_of
from cold_arc.core.beam.setup import SetUp
from cold_arc.core.light import photometry
from cold_arc.core.metering.raster import RasterError, raster
from cold_arc.core.metering.readings import WallReading


def read_off(beam, h, v, distance_m=10.0):
    taken = []
    for number, (right, up) in enumerate((a, b) for a in h for b in v):
        across, down = derived.wall_place(right, up, distance_m)
        lux = photometry.wall_lux(float(beam.at(right, up)), distance_m, across, down)
        taken.append(
            WallReading(f"free-{number}", lux, distance_m, 13.2, across_m=across, drop_m=down)
        )
    return tuple(taken)


@pytest.fixture(scope="module")
def lamp():
    beam = beam_of(SetUp("reflector", "H7"))
    return beam, raster(read_off(beam, np.arange(-15, 15.1, 0.5), np.arange(-6, 4.1, 0.25)))


def test_directions_and_candela_come_back(lamp):
    beam, told = lamp
    assert told.count == 61 * 41
    for h, v in ((1.5, -1.25), (-3.5, -0.75), (8.0, -2.0)):
        candela, off = told.nearest(h, v)
        assert off < 0.01
        assert candela == pytest.approx(float(beam.at(h, v)), rel=1e-3)


def test_the_beam_between_the_places_agrees(lamp):
    beam, told = lamp
    top, mine = derived.peak(beam), derived.peak(told.beam())
    assert mine.candela == pytest.approx(top.candela, rel=0.02)
    inside = (np.abs(beam.grid.h) <= 15)[None, :] & ((beam.grid.v >= -6) & (beam.grid.v <= 4))[
        :, None
    ]
    assert told.beam().flux_lm == pytest.approx(float(beam.flux[inside].sum()), rel=0.02)


def test_it_says_what_it_does_not_cover(lamp):
    _, told = lamp
    assert told.holds(0, 0)
    assert not told.holds(30, 0)
    assert float(told.beam().at(30.0, 0.0)) == 0.0


@pytest.mark.parametrize(
    ("places", "said"),
    [([(0, 0)] * 3, "needs 9"), ([(float(x), 0.0) for x in range(12)], "one line")],
)
def test_what_makes_no_raster_is_refused_in_words(places, said):
    taken = [
        WallReading("free-1", 5.0, 10.0, 13.2, across_m=x / 10, drop_m=y / 10) for x, y in places
    ]
    with pytest.raises(RasterError, match=said):
        raster(tuple(taken)).beam()
