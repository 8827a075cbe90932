"""How often what is foretold holds for lamps that are not typical; more of it in docs/trials.md."""

import pytest

from cold_arc.core.car.lamps import Optic
from tests.core.match.foretold import foretold
from tests.thorough import THOROUGH


@pytest.mark.parametrize(
    ("optic", "base"), [(Optic.REFLECTOR, "H7"), (Optic.PROJECTOR, "H7"), (Optic.REFLECTOR, "H11")]
)
def test_twice_the_doubt_of_a_prediction_holds(optic, base):
    off = list(foretold(optic, base, 60 if THOROUGH else 12, 3))
    assert sum(each <= 2 for each in off) >= 0.9 * len(off)
    assert max(off) > 0.2, "a doubt that nothing comes near says nothing"
