"""A simulated car with one hidden fault: it shows what such a fault shows and answers the tests
made on it.

To practise diagnosis, and to try it: the answers are those the table holds likeliest, or drawn by
their probabilities.
"""

from __future__ import annotations

import random
from dataclasses import dataclass

from cold_arc.core.work.diagnosis import faults

# How plainly a symptom must belong to a fault for a car to be brought in with it.
PLAIN = 0.5


@dataclass(frozen=True)
class SimulatedCar:
    """*fault*: the hidden cause; *number* sets its luck: 0 answers as is likeliest, others as
    drawn.
    """

    fault: str
    number: int = 0

    @classmethod
    def numbered(cls, number: int) -> SimulatedCar:
        """One of endless cars, its fault by its number, as often as such faults are met."""
        causes = list(faults().causes.values())
        (drawn,) = random.Random(f"car {number}").choices(
            causes, [cause.weight for cause in causes]
        )
        return cls(drawn.id, number)

    def shows(self) -> list[str]:
        """What it is brought in with, the plainest first."""
        chances = [
            (key, symptom.shows.get(self.fault, 0.0)) for key, symptom in faults().symptoms.items()
        ]
        return [key for key, share in sorted(chances, key=lambda pair: -pair[1]) if share >= PLAIN]

    def answer(self, test: str) -> int:
        """Which of a test's answers it gives; the same each time."""
        asked = faults().tests[test]
        row = asked.likely.get(self.fault, asked.otherwise)
        if not self.number:
            return row.index(max(row))
        (drawn,) = random.Random(f"car {self.number} {test}").choices(range(len(row)), row)
        return drawn
