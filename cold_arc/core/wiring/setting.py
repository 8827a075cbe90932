"""What a candidate is judged against."""

from __future__ import annotations

from dataclasses import dataclass

from cold_arc.core import ballast
from cold_arc.core.beam.fitted import HousingFit
from cold_arc.core.car.bases import Base, Rating
from cold_arc.core.car.condition import UnitCondition
from cold_arc.core.car.front import Socket
from cold_arc.core.car.lamps import Function
from cold_arc.core.electrical import SupplyFacts
from cold_arc.core.light_source import LightSource
from cold_arc.core.wiring.leads import Lead, Switching, WireMap

UNKNOWN_SUPPLY = SupplyFacts()
NO_LEAD, NO_MAP = Lead(), WireMap()


def kept_words(socket: Socket, held: LightSource | None) -> str:
    """What is in a socket, to be kept: what an earlier visit put in, by its name, an LED bulb
    nobody told of, or what it came with.
    """
    if held is not None:
        return held.name
    return "the LED bulb in it" if socket.has_led_bulb else "the original"


@dataclass(frozen=True)
class Setting:
    """A socket as identified, its *base*, its unit as inspected, the car, its market and use.

    *others*: (name, K) of the car's other white lamps. *ballast_cause*: what its test said, a key
    of ``ballast.CAUSES``, "" where it was not made. *fit*: its housing fitted to what was read of
    it; None for a typical one of its kind. *across*: the same socket on the other side, where a
    choice is for both.

    *lead*, *wires*, *switching*: what lies between plug and lamp, which wire is which, how a lamp
    the car lacked is switched; empty, or None, where not told.

    *renewed*: the parts put in new like for like, each with its price where that was told. *held*:
    what an earlier visit put in, which is its present source; None for what it came with. *seen*:
    its unit before its lens is restored, where *condition* has it after.
    """

    socket: Socket
    base: Base | None
    condition: UnitCondition | None
    volts: float
    earth_positive: bool
    market: str
    road_use: bool
    supply: SupplyFacts = UNKNOWN_SUPPLY
    others: tuple[tuple[str, float], ...] = ()
    ballast_cause: str = ""
    fit: HousingFit | None = None
    across: Setting | None = None
    renewed: tuple[tuple[str, float | None], ...] = ()
    lead: Lead = NO_LEAD
    wires: WireMap = NO_MAP
    switching: Switching | None = None
    held: LightSource | None = None
    seen: UnitCondition | None = None

    @property
    def as_seen(self) -> UnitCondition | None:
        """Its unit as it was inspected, whether beams are looked at through its lens restored or
        not: what is to be done hangs on that.
        """
        return self.seen or self.condition

    @property
    def has_unknown_led(self) -> bool:
        """Whether an LED bulb nobody told of is in it: what it reads tells of that bulb."""
        return self.socket.has_led_bulb and self.held is None

    @property
    def is_converted(self) -> bool:
        """Whether something else than it came with is in the lamp."""
        return self.held is not None or self.socket.has_led_bulb

    @property
    def kept(self) -> str:
        """What it has now, to be kept, in words."""
        return kept_words(self.socket, self.held)

    @property
    def function(self) -> Function:
        """What the socket gives first: the low beam of a dual one."""
        return self.socket.functions[0]

    @property
    def ballast_good(self) -> bool | None:
        """Whether a plug-in LED may rely on the ballast; None while that is not judged."""
        return ballast.GOOD.get(self.ballast_cause)

    @property
    def rating(self) -> Rating | None:
        """The filament or arc that takes most of those the socket's functions burn, of the type for
        this supply.
        """
        if self.base is None:
            return None
        ratings = [self.base.rating(function, self.volts) for function in self.socket.functions]
        return max(ratings, key=lambda rating: rating.most_watts)

    @property
    def in_projector(self) -> bool:
        """Whether a shield makes the cut-off, so that the source's place costs light but not the
        edge.
        """
        return self.socket.optic is not None and self.socket.optic.is_projector
