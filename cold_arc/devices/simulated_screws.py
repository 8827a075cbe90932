"""Two simulated adjusters of a lamp: coupled, with play, their travel ends somewhere; to practise
and to test with.
"""

from __future__ import annotations

from dataclasses import dataclass, field


@dataclass
class SimulatedScrews:
    """Where a beam stands (slopes up, right) and how a turn clockwise of each screw moves it.

    *play*: turns lost each time a screw is turned the other way; *travel*: turns each way from
    where it stands.
    """

    up: float = 0.004
    right: float = 0.018
    per_height: tuple[float, float] = (-0.006, 0.0004)
    per_side: tuple[float, float] = (0.0003, -0.005)
    play: float = 0.05
    travel: float = 12.0
    turned: list[float] = field(default_factory=lambda: [0.0, 0.0])
    last: list[float] = field(default_factory=lambda: [0.0, 0.0])

    def turn(self, height: float = 0.0, side: float = 0.0) -> None:
        """Turns the screws, clockwise positive."""
        for screw, turns in enumerate((height, side)):
            does = (self.per_height, self.per_side)[screw]
            moves = self._taken_up(screw, turns)
            self.up += does[0] * moves
            self.right += does[1] * moves

    def _taken_up(self, screw: int, turns: float) -> float:
        """What of a turn reaches the lamp: not the play on the way back, nothing past the end of
        the travel.
        """
        lost = min(self.play, abs(turns)) if turns * self.last[screw] < 0 else 0.0
        moves = turns - lost if turns > 0 else turns + lost
        inside = max(-self.travel, min(self.travel, self.turned[screw] + moves))
        moves, self.turned[screw] = inside - self.turned[screw], inside
        self.last[screw] = turns or self.last[screw]
        return moves
