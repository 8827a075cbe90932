"""Focus by the smallest image. A light bundle out of focus widens as its offset over the focal
length (closed form).
"""

import math

import numpy as np
import pytest

from cold_arc.core.beam.focusing import focus_of, image_of
from cold_arc.core.beam.setup import SetUp


class Flat:
    """A beam of even light over a rectangle of degrees."""

    def at(self, h, v):
        return np.where((np.abs(h) <= 3.0) & (np.abs(v) <= 1.0), 1000.0, 0.0)


def test_the_size_of_an_image_is_its_angles_on_the_wall():
    image = image_of(Flat(), 0.0, 10.0)
    assert image.wide == pytest.approx(20 * math.tan(math.radians(3.0)), rel=0.03)
    assert image.tall == pytest.approx(20 * math.tan(math.radians(1.0)), rel=0.06)
    assert image.area == pytest.approx(image.wide * image.tall, rel=0.01)


@pytest.mark.parametrize("high", [False, True])
def test_the_image_is_smallest_where_the_lamp_was_designed(high):
    focus = focus_of(SetUp(housing="lens-optic", base="H4", high=high), 7.62)
    assert abs(focus.best.focus_mm) <= 1.0
    assert focus.within_mm[0] <= focus.best.focus_mm <= focus.within_mm[1]
    by_mm = {it.focus_mm: it for it in focus.images}
    for side in (-1, 1):
        sizes = [by_mm[side * it].area for it in (1.0, 2.0, 4.0)]
        assert sizes == sorted(sizes)
        assert by_mm[side * 4.0].peak < focus.best.peak


def test_only_a_lens_optic_lamp_is_focused():
    with pytest.raises(ValueError, match="lens-optic"):
        focus_of(SetUp(housing="reflector", base="H7"), 10.0)
