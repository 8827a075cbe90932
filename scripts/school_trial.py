"""Tries the school on simulated learners and prints what docs/school.md says of it."""

from __future__ import annotations

import sys
import time

import numpy as np

from cold_arc.core.beam import model
from cold_arc.core.school.ability import ability
from cold_arc.core.school.exercise import LEVELS, Posed
from cold_arc.core.school.skills import kinds, skills
from cold_arc.devices.simulated_learner import SimulatedLearner
from cold_arc.school import making

ROUNDS, COUNT, MADE = 6, 200, 200


def times() -> None:
    """How long exercises of each kind take to make, at the median and the 95th percentile, ms."""
    model.warm()
    for kind in kinds():
        took = []
        names = [name for name in skills() if name.startswith(f"{kind}.")]
        for seed in range(MADE):
            began = time.perf_counter()
            making.make(Posed(names[seed % len(names)], LEVELS[seed % len(LEVELS)], seed))
            took.append(1000 * (time.perf_counter() - began))
        middle, most = np.percentile(took, [50, 95])
        print(f"{kind}: {middle:.0f} ms, 95 % within {most:.0f} ms")


def main(count: int) -> None:
    """Learners of known skill, six rounds each, one a day; then what exercises take to make."""
    true, estimated, of_kind, estimated_of_kind, shares, late = [], [], [], [], [], []
    for number in range(count):
        learner = SimulatedLearner(number)
        answers = learner.practises(ROUNDS)
        able = ability([answered.scored for answered in answers])
        true.append(learner.ability)
        estimated.append(np.mean([able.of(kind) for kind in kinds()]))
        of_kind += [learner.able[kind] for kind in kinds()]
        estimated_of_kind += [able.of(kind) for kind in kinds()]
        right = [answered.right for answered in answers]
        shares.append(np.mean(right))
        late.append(np.mean(right[20:]))
    print(f"{count} learners, {ROUNDS * 10} answers each, a round a day")
    print(f"ability over all, estimated against true: r = {np.corrcoef(true, estimated)[0, 1]:.3f}")
    by_kind = np.corrcoef(of_kind, estimated_of_kind)[0, 1]
    print(f"ability in each kind, estimated against true: r = {by_kind:.3f}")
    print(f"right: {np.mean(shares):.0%} of all, {np.mean(late):.0%} from the third round on")
    inside = np.mean([(0.7 <= share <= 0.9) for share in late])
    print(f"learners with 70 to 90 % right from the third round on: {inside:.0%}")
    times()


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else COUNT)
