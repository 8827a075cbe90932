"""Match: does this light source suit this lamp, in this car, in this market? Findings from rules.

The rules read the maker's figures against the base, the lamp and the car; what the beam does is
predicted in :mod:`cold_arc.core.match.prediction` and weighed in
:mod:`cold_arc.core.match.ranking`.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from cold_arc.core import law
from cold_arc.core.findings import Finding, Level, worst, worst_first
from cold_arc.core.light_source import LightSource
from cold_arc.core.match import geometry, light, power, seat
from cold_arc.core.wiring import working
from cold_arc.core.wiring.setting import Setting

__all__ = ["VERDICTS", "Match", "Setting", "judge", "needs_override"]

Rule = Callable[[LightSource, Setting], Iterator[Finding]]
# What a pattern on the road asks for: no rules of a lamp that throws none.
BEAM_RULES: tuple[Rule, ...] = (
    geometry.light_centre,
    geometry.gap,
    geometry.axis,
    geometry.faces,
    geometry.length,
    geometry.rows,
    seat.optic,
)
RULES: tuple[Rule, ...] = (
    seat.base,
    *BEAM_RULES,
    seat.room,
    seat.whole,
    seat.plug,
    seat.chuck,
    seat.hid_schools,
    seat.sealing,
    working.supply,
    power.feed,
    power.polarity,
    power.monitor,
    power.pulsed,
    power.flasher,
    power.heat,
    light.legal_colour,
    light.beside_others,
    light.claims,
)


# What a candidate's worst finding comes to, in words.
VERDICTS = {
    Level.OK: "Fits",
    Level.NOTE: "Fits",
    Level.CAUTION: "Fits with care",
    Level.STOP: "Does not suit",
}


@dataclass(frozen=True)
class Match:
    """A candidate, what the rules say of its fit (worst first), and what the market's law says."""

    source: LightSource
    findings: tuple[Finding, ...]
    law: Finding

    @property
    def level(self) -> Level:
        """The worst finding on its fit; the law is told beside it, not mixed in."""
        return worst(self.findings)

    @property
    def verdict(self) -> str:
        """The verdict of the rules in words."""
        return VERDICTS[self.level]

    def count(self, level: Level) -> int:
        """How many findings are as bad as *level*."""
        return sum(finding.level is level for finding in self.findings)


def judge(source: LightSource, setting: Setting) -> Match:
    """Every rule's findings on one candidate, worst first, and the market's law on its kind.

    Of a choice for both sides what holds on one alone names it, and the worse side decides.
    """
    market = law.markets()[setting.market]
    return Match(
        source,
        tuple(worst_first(_of_sides(source, setting))),
        law.judge(market, source.kind, setting.road_use),
    )


def _of_sides(source: LightSource, setting: Setting) -> Iterator[Finding]:
    """The findings on each side: told once where both have them, named where one does."""
    own = _findings(source, setting)
    if setting.across is None:
        yield from own
        return
    other = _findings(source, setting.across)
    yield from (finding for finding in own if finding in other)
    for here, mine, theirs in ((setting, own, other), (setting.across, other, own)):
        side = here.socket.key.side.value.capitalize()
        yield from (finding.named(side) for finding in mine if finding not in theirs)


def _findings(source: LightSource, setting: Setting) -> list[Finding]:
    unasked = () if setting.socket.road_beams else BEAM_RULES
    return [finding for rule in RULES if rule not in unasked for finding in rule(source, setting)]


def needs_override(source: LightSource, setting: Setting) -> bool:
    """Whether choosing it needs a recorded reason: it is not plainly allowed on this market's
    roads.
    """
    return setting.road_use and law.markets()[setting.market].notes[source.kind].road != "yes"
