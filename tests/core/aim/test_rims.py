"""Old lamps by straight edge and level. Common practice, no published source; the angle is plain
geometry.
"""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cold_arc.core.aim.rims import BUBBLES, Rim, rim_findings
from cold_arc.core.car.lamps import Side
from cold_arc.core.findings import Level


@pytest.mark.parametrize(
    ("rim", "levels"),
    [
        (Rim(2.0, 2.0, 172.0, "quarter"), [Level.OK, Level.OK]),
        (Rim(2.0, 5.0, 172.0, "quarter"), [Level.CAUTION, Level.OK]),
        (Rim(2.0, 2.5, 172.0, "level"), [Level.OK, Level.CAUTION]),
        (Rim(2.0, 2.5, 172.0, "more"), [Level.OK, Level.CAUTION]),
    ],
)
def test_parallel_and_a_quarter_forward_is_right(rim, levels):
    assert [finding.level for finding in rim_findings({Side.LEFT: rim})] == levels


@given(st.floats(0, 60), st.floats(0, 60), st.floats(80, 300), st.sampled_from(sorted(BUBBLES)))
def test_the_gaps_tell_the_angle_and_the_way(inner, outer, across, bubble):
    toe = Rim(inner, outer, across, bubble).toe_out_deg
    assert math.tan(math.radians(toe)) * across == pytest.approx(outer - inner, abs=1e-9)
    assert Rim(outer, inner, across, bubble).toe_out_deg == pytest.approx(-toe)
