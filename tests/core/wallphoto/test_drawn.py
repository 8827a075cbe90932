"""Photographs of beams drawn by formula, measured: their truth is the line they were drawn
along.
"""

import numpy as np
import pytest

from cold_arc.core.car.lamps import Traffic
from cold_arc.core.wallphoto.focus import finest_px, scale
from cold_arc.core.wallphoto.measure import measure
from cold_arc.core.wallphoto.picture import PhotoUnusableError, light_of
from tests.core.wallphoto.drawn import Drawn, photographed

BEAMS = {
    "as usual": Drawn(),
    "traffic on the left": Drawn(elbow=-0.4, traffic=Traffic.LEFT),
    "a step": Drawn(shape="step"),
    "flat": Drawn(shape="flat"),
    "aimed aside and low": Drawn(cut=-2.2, elbow=1.0),
    "aimed high": Drawn(cut=0.5, elbow=-1.0),
    "rolled": Drawn(roll=1.5),
    "rolled the other way": Drawn(roll=-2.0),
    "sharp": Drawn(sigma=0.01),
    "softer": Drawn(sigma=0.05),
    "nothing strays": Drawn(stray=0.0),
    "much strays": Drawn(stray=0.02),
}


def seen(beam, seed=1, **more):
    pixels, marks = photographed(beam, np.random.default_rng(seed), **more)
    return measure(light_of(pixels), marks, beam.subject)


USUAL = ("as usual", "traffic on the left", "a step", "rolled", "sharp")


@pytest.mark.parametrize(
    "beam",
    [
        pytest.param(beam, id=name, marks=() if name in USUAL else pytest.mark.thorough)
        for name, beam in BEAMS.items()
    ],
)
def test_the_line_drawn_is_the_line_told(beam):
    found = seen(beam)
    assert found.cutoff_v_deg == pytest.approx(beam.cut, abs=0.05)
    assert found.roll_deg == pytest.approx(beam.roll, abs=0.25)
    assert not [it for it in found.warnings if "sharp" in it]
    if beam.shape == "flat":
        assert found.elbow is None
    else:
        assert found.elbow.h_deg == pytest.approx(beam.elbow, abs=0.15)


@pytest.mark.thorough
def test_the_elbow_is_drawn_to_neither_side():
    """Light lent from column to column blurs a slope up and down: it is lent along the slope."""
    off = [seen(BEAMS["as usual"], seed).elbow.h_deg for seed in range(4)]
    off += [-(seen(BEAMS["traffic on the left"], seed).elbow.h_deg + 0.4) for seed in range(4)]
    assert np.mean(off) == pytest.approx(0.0, abs=0.04)


def test_a_blurred_photograph_is_refused_or_says_what_that_is_worth():
    with pytest.raises(PhotoUnusableError, match="blurred"):
        seen(Drawn(), blur_px=20)
    sharp, soft = seen(Drawn()), seen(Drawn(), blur_px=8)
    assert "Nothing sharp" in soft.warnings[0]
    off = abs(soft.cutoff_v_deg + 1.0)
    assert off > 0.1
    assert soft.uncertainty["cutoff_v_deg"] > 0.95 * off
    assert sharp.uncertainty["cutoff_v_deg"] < 0.06


def test_a_soft_lamp_is_believed_where_a_mark_is_sharp():
    """A lamp's edge as soft as the blurred one's, a tape cross beside it: the lamp is soft, not the
    picture.
    """
    beam = Drawn(sigma=0.2)
    pixels, marks = photographed(beam, np.random.default_rng(2))
    u, v = (round(it) for it in marks[0].px)
    pixels[v - 1 : v + 2, u - 12 : u + 13] = 20
    assert finest_px(light_of(pixels), marks) < 6 * scale(light_of(pixels))
    told = measure(light_of(pixels), marks, beam.subject)
    assert not [it for it in told.warnings if "sharp" in it]
    assert [it for it in seen(beam, 2).warnings if "sharp" in it]
