"""Match: does this light source suit this lamp, in this car, in this market? Findings from rules.

Geometry limits are common practice, no published source: a good LED bulb copies the filament. Its beam is
not predicted here; these rules read the maker's figures against the base and the lamp.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from cold_arc.core import colour, law
from cold_arc.core.bases import Base, find
from cold_arc.core.condition import HAZE_GRADES, LampCondition
from cold_arc.core.findings import Finding, Level, worst, worst_first
from cold_arc.core.lamps import Function, Housing, Lamp, Present
from cold_arc.core.light_source import LightSource
from cold_arc.core.units import say_mm, say_number, say_volts

LCL_GOOD_MM, LCL_TOLERABLE_MM = 0.5, 1.0
GAP_GOOD_MM, GAP_TOLERABLE_MM = 1.8, 2.6
LENGTH_RATIO = (0.8, 1.25)
ROOM_MARGIN_MM = 5.0
PASSIVE_WATTS = 15.0
LUMENS_PER_WATT = 150.0
WASHER_LUMENS = 2000.0
MONITOR_SHARE = 0.8
RUNNING_VOLTS = {6.0: (5.5, 7.5), 12.0: (10.5, 15.0), 24.0: (21.0, 29.0)}


@dataclass(frozen=True)
class Setting:
    """What a candidate is judged against: the lamp as identified and inspected, the car, the market."""

    lamp: Lamp
    condition: LampCondition | None
    volts: float
    earth_positive: bool
    market: str
    road_use: bool

    @property
    def base(self) -> Base | None:
        """The catalogue entry of the lamp's base."""
        return find(self.lamp.base) if self.lamp.base else None


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
        """The verdict in words."""
        return {
            Level.OK: "Fits",
            Level.NOTE: "Fits",
            Level.CAUTION: "Fits with care",
            Level.STOP: "Does not suit",
        }[self.level]

    @property
    def order(self) -> tuple[int, int, int, float]:
        """Sorts the better match first: fewest stops, fewest cautions, the safer law, then price."""
        cautions = sum(finding.level is Level.CAUTION for finding in self.findings)
        stops = sum(finding.level is Level.STOP for finding in self.findings)
        return stops, cautions, self.law.level, self.source.price


Rule = Callable[[LightSource, Setting], Iterator[Finding]]


def _base(source: LightSource, setting: Setting) -> Iterator[Finding]:
    wanted, offered = setting.base, find(source.base)
    if wanted is None:
        yield Finding(Level.STOP, "The lamp's base is not identified yet.", advice="Identify it at Book in.")
    elif offered is not wanted:
        yield Finding(Level.STOP, "Wrong base.", source.base, wanted.name, "the base fixes keys and light centre")
    else:
        yield Finding(Level.OK, "Base agrees.", source.base, wanted.name, wanted.source)


def _light_centre(source: LightSource, setting: Setting) -> Iterator[Finding]:
    base = setting.base
    if base is None or not source.is_bulb or base.lcl_mm is None or source.lcl_mm is None:
        return
    off = source.lcl_mm - base.lcl_mm
    number, limit = f"{say_mm(off, signed=True)} along the axis", f"±{say_mm(LCL_GOOD_MM)}"
    where = f"{base.source}, from memory: light centre {say_mm(base.lcl_mm)}; limit common practice"
    if abs(off) <= LCL_GOOD_MM:
        yield Finding(Level.OK, "Emitters sit at the filament's height.", number, limit, where)
    elif abs(off) <= LCL_TOLERABLE_MM or setting.lamp.housing is Housing.PROJECTOR:
        yield Finding(Level.CAUTION, "Emitters sit off the filament's height.", number, limit, where)
    else:
        advice = "In a reflector wrong depth throws light above the cut-off. Choose another."
        yield Finding(Level.STOP, "Emitters sit far off the filament's height.", number, limit, where, advice)


def _gap(source: LightSource, setting: Setting) -> Iterator[Finding]:
    if source.gap_mm is None:
        return
    number, limit = f"{say_mm(source.gap_mm)} between faces", f"{say_mm(GAP_GOOD_MM)} or less"
    if source.gap_mm <= GAP_GOOD_MM:
        yield Finding(Level.OK, "Emitters are close to the axis.", number, limit)
    elif source.gap_mm <= GAP_TOLERABLE_MM:
        yield Finding(Level.CAUTION, "Emitters stand off the axis.", number, limit)
    elif setting.lamp.housing is Housing.PROJECTOR:
        advice = "Expect a dark slit between two hot spots. Look at the halogen pattern before blaming the bulb."
        yield Finding(Level.CAUTION, "Wide gap between the chips.", number, limit, advice=advice)
    else:
        yield Finding(Level.STOP, "Thick core: the filament was thin.", number, limit, advice="Choose a thinner one.")


def _faces(source: LightSource, setting: Setting) -> Iterator[Finding]:
    if source.faces is None:
        return
    number, limit = f"{source.faces} faces", "2 thin faces"
    if source.faces == 2:
        yield Finding(Level.OK, "Two faces, like the filament seen from the side.", number, limit)
        return
    level = Level.CAUTION if setting.lamp.housing is Housing.PROJECTOR else Level.STOP
    text = "More than two faces: a third to a half of the light goes where it should, and the rest dazzles."
    if source.faces == 1:
        text = "One face lights half the mirror."
    yield Finding(level, text, number, limit, advice="Choose a two-faced bulb.")


def _length(source: LightSource, setting: Setting) -> Iterator[Finding]:
    base = setting.base
    if base is None or base.filament_mm is None or source.emitter_mm is None:
        return
    ratio = source.emitter_mm / base.filament_mm
    number = f"{say_mm(source.emitter_mm)} lit, {say_number(ratio)} times the filament"
    limit = f"{LENGTH_RATIO[0]} to {LENGTH_RATIO[1]} times"
    if LENGTH_RATIO[0] <= ratio <= LENGTH_RATIO[1]:
        yield Finding(Level.OK, "As long as the filament.", number, limit)
    else:
        yield Finding(Level.CAUTION, "Not as long as the filament: the spread changes.", number, limit)


def _rows(source: LightSource, setting: Setting) -> Iterator[Finding]:
    base = setting.base
    if base is None or not source.is_bulb:
        return
    if base.is_dual and source.rows < 2:
        yield Finding(Level.STOP, "One row cannot do both low and high.", f"{source.rows} row", "2 rows")
    elif base.dip_shield and not source.dip_shield:
        yield Finding(
            Level.STOP,
            "No shield under the low row: low beam throws light up.",
            limit="a shield cup like the original's",
        )
    elif not base.is_dual and source.rows > 1:
        yield Finding(
            Level.CAUTION,
            "Two rows on a one-beam base: more light, more heat, not a high beam.",
            f"{source.rows} rows",
            "1 row",
        )


def _room(source: LightSource, setting: Setting) -> Iterator[Finding]:
    seen = setting.condition
    if not source.is_bulb or seen is None:
        return
    if seen.room_mm is not None and source.tail_mm is not None:
        yield _clearance(
            "behind the bulb",
            source.tail_mm,
            seen.room_mm,
            "Use a shorter tail, an extended or a vented cap.",
        )
    if seen.opening_mm is not None and source.tail_width_mm is not None:
        yield _clearance(
            "in the opening",
            source.tail_width_mm,
            seen.opening_mm,
            "Fit it in two parts or choose a slimmer tail.",
        )


def _clearance(where: str, needs: float, has: float, advice: str) -> Finding:
    spare = has - needs
    number, limit = f"needs {say_mm(needs)}, has {say_mm(has)}", f"{say_mm(ROOM_MARGIN_MM)} to spare"
    if spare >= ROOM_MARGIN_MM:
        return Finding(Level.OK, f"Room enough {where}.", number, limit)
    if spare >= 0:
        return Finding(Level.CAUTION, f"Tight {where}.", number, limit, advice=advice)
    return Finding(Level.STOP, f"No room {where}.", number, limit, advice=advice)


def _optic(source: LightSource, setting: Setting) -> Iterator[Finding]:
    if not source.is_bulb:
        return
    housing, seen = setting.lamp.housing, setting.condition
    if housing is Housing.ASSEMBLY:
        yield Finding(Level.STOP, "A sealed lamp takes no bulb.", advice="Choose a complete assembly.")
    elif housing is Housing.LENS_OPTIC:
        yield Finding(Level.NOTE, "Plain mirror and fluted glass: focus it after fitting, at 3 to 6 m.")
    elif housing is Housing.REFLECTOR:
        yield Finding(Level.NOTE, "A reflector is unforgiving: depth and clocking decide the pattern.")
    if seen and seen.haze >= 2:
        yield Finding(
            Level.CAUTION,
            f"Lens haze ({HAZE_GRADES[seen.haze].lower()}) scatters more light with a brighter source.",
            f"grade {seen.haze}",
            "restore first",
        )


def _supply(source: LightSource, setting: Setting) -> Iterator[Finding]:
    if setting.lamp.present is Present.HID and source.driver == "ballast":
        yield Finding(
            Level.NOTE,
            "Fed by the ballast: keep it, and test it by swapping bulbs side to side.",
            advice="Ballast output is lethal: tens of kilovolts at ignition.",
        )
        return
    if source.driver == "ballast":
        yield Finding(Level.STOP, "Made for an HID ballast: stays dark on a car's supply.")
        return
    low, high = RUNNING_VOLTS[setting.volts]
    number = f"{say_volts(source.supply_min_v)} to {say_volts(source.supply_max_v)}"
    limit = f"{say_volts(low)} to {say_volts(high)} on a {say_volts(setting.volts)} car"
    if source.supply_min_v > low or source.supply_max_v < high:
        yield Finding(Level.STOP, "Supply range does not cover this car.", number, limit)
    else:
        yield Finding(Level.OK, "Supply range covers this car.", number, limit)
    if setting.lamp.present is Present.HID:
        yield Finding(
            Level.CAUTION,
            "A 12 V bulb in place of HID: the ballast must be bypassed.",
            advice="Feed it from the wire into the ballast, never from the wire between ballast and bulb.",
        )
    if setting.earth_positive and not source.earth_insulated:
        yield Finding(Level.STOP, "Body is live on a positive-earth car.", advice="Choose one whose body is insulated.")


def _electrics(source: LightSource, setting: Setting) -> Iterator[Finding]:
    if source.polarity == "fixed":
        yield Finding(
            Level.NOTE, "Works one way round only.", advice="Dark at first: turn the plug 180° and try again."
        )
    draws_less = setting.base and source.watts < MONITOR_SHARE * max(setting.base.watts)
    if setting.base and draws_less and source.is_bulb and not source.monitor_proof:
        yield Finding(
            Level.NOTE,
            "Bulb-out monitoring may see it as failed.",
            f"{say_number(source.watts)} W in place of {say_number(max(setting.base.watts))} W",
            advice="If a warning shows: a decoder, or a load resistor mounted on metal.",
        )


def _heat(source: LightSource, _: Setting) -> Iterator[Finding]:
    if source.cooling == "passive" and source.is_bulb and source.watts > PASSIVE_WATTS:
        yield Finding(
            Level.CAUTION,
            "Much heat for passive cooling: expect it to fade as it warms.",
            f"{say_number(source.watts)} W",
            f"{say_number(PASSIVE_WATTS)} W",
        )


def _colour(source: LightSource, setting: Setting) -> Iterator[Finding]:
    if source.colour == "yellow":
        if setting.lamp.key.function is Function.FOG:
            yield Finding(
                Level.NOTE,
                "Selective yellow fog: legal in many places, about 30 % less light by rule of thumb.",
            )
        else:
            yield Finding(Level.STOP, "Yellow is for fog lamps.", limit="white")
    elif source.colour == "amber":
        if setting.lamp.key.function is not Function.TURN:
            yield Finding(Level.STOP, "Amber is for turn signals.", limit="white")
    elif source.cct_k is not None:
        yield _white(source.cct_k)


def _white(cct_k: float) -> Finding:
    faults = colour.white_faults(*colour.chromaticity(cct_k))
    number = f"{say_number(cct_k, 4)} K"
    source = "UN R48/R149 chromaticity, from memory; daylight locus after CIE 15"
    if faults:
        return Finding(Level.STOP, f"Outside legal white: {', '.join(faults)}.", number, "inside white", source)
    return Finding(Level.OK, "Inside legal white.", number, "inside white", source)


def _claims(source: LightSource, setting: Setting) -> Iterator[Finding]:
    per_watt = source.claimed_lm / source.watts
    if per_watt > LUMENS_PER_WATT:
        yield Finding(
            Level.CAUTION,
            "Claimed lumens do not add up.",
            f"{say_number(per_watt)} lm/W",
            f"{say_number(LUMENS_PER_WATT)} lm/W or less",
            advice="Ask whether it is per set. Trust the meter.",
        )
    if setting.market != "us" and setting.lamp.key.function is Function.LOW and source.claimed_lm > WASHER_LUMENS:
        yield Finding(
            Level.CAUTION,
            "A low beam source this strong needs washers and automatic levelling.",
            f"{say_number(source.claimed_lm, 4)} lm claimed",
            "2000 lm",
            "UN R48, from memory",
        )


RULES: tuple[Rule, ...] = (
    _base, _light_centre, _gap, _faces, _length, _rows, _room, _optic,
    _supply, _electrics, _heat, _colour, _claims,
)  # fmt: skip


def judge(source: LightSource, setting: Setting) -> Match:
    """Every rule's findings on one candidate, worst first, and the market's law on its kind."""
    found = (finding for rule in RULES for finding in rule(source, setting))
    market = law.markets()[setting.market]
    return Match(source, tuple(worst_first(found)), law.judge(market, source.kind, setting.road_use))


def needs_override(source: LightSource, setting: Setting) -> bool:
    """Whether choosing it needs a recorded reason: it is not plainly allowed on this market's roads."""
    return setting.road_use and law.markets()[setting.market].notes[source.kind].road != "yes"
