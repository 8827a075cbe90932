"""A light source one could fit: an LED bulb, a complete assembly, a module or a projector, as its
maker describes it.
"""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

from dateutil.relativedelta import relativedelta

from cold_arc.core.car.lamps import Function
from cold_arc.core.units.quantities import Code, Quantity

MONTHS_A_YEAR = 12
KINDS = {
    "bulb": "LED bulb",
    "assembly": "Complete LED assembly",
    "module": "Ring, strip or daytime module",
    "projector": "Projector for retrofit",
}
# What takes the place of a lamp or module, with approval marks of its own.
OWN_PLACE = ("assembly", "module")
OPTICS = {"projector": "Projector", "reflector": "Reflector"}
POLARITY = {"any": "Either way round", "fixed": "One way only"}
DRIVERS = {
    "inside": "Inside the tail",
    "in-line": "In line, on a lead",
    "ballast": "Fed by the HID ballast",
    "in-place": "Own driver in the ballast's place",
}
COOLING = {"fan": "Fan", "passive": "Passive"}
COLOURS = {"white": "White", "yellow": "Selective yellow", "amber": "Amber"}
# How a bulb for a dual base makes its high beam.
HIGH_BY = {
    "": "Not told",
    "none": "It does not: one beam only",
    "row": "A second row where the high filament stood",
    "both": "That row, with the low one still lit",
    "shield": "The same chips, a shield that moves",
    "same": "The same place, only brighter",
}
# What a whole lamp or a module can do besides shining.
MODES = {
    "switchback": "Switchback: white, amber as turn signal",
    "sequential": "Sequential turn signal",
    "dimmed": "Daytime light, dimmed as position light",
    "start": "Start sequence",
    "colour": "Colour can be set",
}
LEVELLING = {
    "": "Not told",
    "none": "None",
    "motor": "Motor, by the car's switch",
    "automatic": "Automatic, by the car's sensor",
}
BASIS = {"bulb": "For one bulb", "set": "For the set of two"}
MOST_LM_PER_W = 150.0


@dataclass(frozen=True)
class LightSource:
    """One candidate. Lengths mm, watts for one bulb, volts d.c.; *claimed_lm* on the *claim_basis*:
    one bulb or a set.

    *gap_mm* is the distance between opposite emitting faces, *width_mm* a face's width,
    *emitter_mm* the lit length along the axis, *lcl_mm* reference plane to the middle of it,
    *off_axis_mm* how far the chips' middle line stands above the bulb's axis (negative: below) with
    its faces at 3 and 9 o'clock. Geometry is None for an assembly or projector, which have an
    *optic* of their own. *plug*: the base whose socket its plug mates with, "" for its own base's.
    *adapters*: other bases it fits through an adapter. *chroma_x*, *chroma_y*: CIE 1931, where
    told. *ip*: 67 for IP67. *life_h*: hours claimed to 70 % of
    its light (L70). *high_by*: how it makes the high beam of a dual base.

    *functions*: what a whole lamp or a module gives, so that it takes the place of what gave them,
    *base* or none; *modes*: what it can do besides; *coding*: whether the car must be coded to it;
    *connectors*: its plugs in words; *marks_at*: where its approval marks stand.
    """

    name: str
    kind: str
    base: str
    watts: float
    claimed_lm: float
    supply_min_v: float
    supply_max_v: float
    price: float
    colour: str = "white"
    cct_k: float | None = None
    chroma_x: float | None = None
    chroma_y: float | None = None
    claim_basis: str = "bulb"
    faces: int | None = None
    gap_mm: float | None = None
    width_mm: float | None = None
    emitter_mm: float | None = None
    lcl_mm: float | None = None
    off_axis_mm: float | None = None
    rows: int = 1
    dip_shield: bool = False
    high_by: str = ""
    tail_mm: float | None = None
    tail_width_mm: float | None = None
    optic: str | None = None
    plug: str = ""
    adapters: tuple[str, ...] = ()
    polarity: str = "any"
    driver: str = "inside"
    cooling: str = "fan"
    ip: int | None = None
    earth_insulated: bool = False
    monitor_proof: bool = False
    pwm_proof: bool = False
    warranty_years: float = 1.0
    life_h: float | None = None
    approval: str = ""
    functions: tuple[str, ...] = ()
    modes: tuple[str, ...] = ()
    levelling: str = ""
    coding: bool = False
    connectors: str = ""
    marks_at: str = ""

    @property
    def takes_place(self) -> bool:
        """Whether it takes the place of a lamp or module with its own marks, and goes into none."""
        return self.kind in OWN_PLACE

    @property
    def road_beams(self) -> tuple[str, ...]:
        """The beams for the road among what it takes over."""
        return tuple(name for name in self.functions if Function(name).is_road_beam)

    def gives(self, function: Function) -> bool:
        """Whether a *function* is among those it takes over."""
        return function.value in self.functions

    @property
    def is_bulb(self) -> bool:
        """Whether it goes into the existing housing."""
        return self.kind == "bulb"

    @property
    def high_beam_by(self) -> str:
        """How it makes the high beam of a dual base: as told, or as its rows and its shield let
        expect.
        """
        if self.high_by:
            return self.high_by
        if self.rows < 2:
            return "none"
        return "row" if self.dip_shield else "same"

    @property
    def lumens_each(self) -> float:
        """Claimed lumens of one bulb."""
        return self.claimed_lm / 2 if self.claim_basis == "set" else self.claimed_lm

    @property
    def believable_lm(self) -> float:
        """The claim, or what its watts can give at most where it claims more (150 lm/W, common
        practice).
        """
        return min(self.lumens_each, MOST_LM_PER_W * self.watts)


CHOICES = {
    "kind": KINDS,
    "colour": COLOURS,
    "claim_basis": BASIS,
    "optic": OPTICS,
    "polarity": POLARITY,
    "driver": DRIVERS,
    "cooling": COOLING,
    "high_by": HIGH_BY,
    "levelling": LEVELLING,
}
# What lists of words may hold, by field; of adapters: bases.
LISTS = {
    "functions": {function.value: function.label for function in Function},
    "modes": MODES,
}
# What each figure may be, and its unit.
LIMITS: dict[str, Quantity] = {
    "watts": Quantity(0.1, 200, "W"),
    "claimed_lm": Quantity(1, 50000, "lm"),
    "supply_min_v": Quantity(3, 32, "V"),
    "supply_max_v": Quantity(3, 32, "V"),
    "price": Quantity(0, 1e6),
    "cct_k": Quantity(1667, 25000, "K"),
    "chroma_x": Quantity(0, 0.8),
    "chroma_y": Quantity(0, 0.9),
    "faces": Quantity(1, 6, whole=True),
    "gap_mm": Quantity(0, 20, "mm"),
    "width_mm": Quantity(0.1, 12, "mm"),
    "emitter_mm": Quantity(0.5, 30, "mm"),
    "lcl_mm": Quantity(5, 60, "mm"),
    "off_axis_mm": Quantity(-5, 5, "mm"),
    "rows": Quantity(1, 2, whole=True),
    "tail_mm": Quantity(0, 200, "mm"),
    "tail_width_mm": Quantity(0, 120, "mm"),
    "ip": Code(0, 69, whole=True),
    "warranty_years": Quantity(0, 50, "years"),
    "life_h": Quantity(100, 200_000, "h"),
}
LONGEST_TEXT = {
    "name": 80,
    "base": 20,
    "plug": 20,
    "approval": 80,
    "connectors": 80,
    "marks_at": 80,
}


def warranty_end(begins: dt.date, years: float) -> dt.date:
    """The day a warranty of so many *years* ends, the same of its month; to the month.

    >>> warranty_end(dt.date(2026, 12, 1), 2), warranty_end(dt.date(2024, 2, 29), 1.5)
    (datetime.date(2028, 12, 1), datetime.date(2025, 8, 29))
    """
    ends: dt.date = begins + relativedelta(months=round(MONTHS_A_YEAR * years))
    return ends


def faults(source: LightSource) -> dict[str, str]:
    """What is wrong between its fields, by field: relations no single field shows."""
    by_field = {}
    if source.supply_max_v < source.supply_min_v:
        by_field["supply_max_v"] = "Must not be below where the supply starts."
    if (source.chroma_x is None) is not (source.chroma_y is None):
        by_field["chroma_y"] = "Give both x and y, or neither."
    if not source.is_bulb and source.kind != "module" and source.optic is None:
        by_field["optic"] = "Say what makes its pattern."
    return by_field | _faults_of_place(source)


def _faults_of_place(source: LightSource) -> dict[str, str]:
    """What is wrong with where a source goes: a bulb's base, what another takes over."""
    if not source.takes_place:
        whole = {"functions": "Of a whole lamp or a module only: a bulb gives its base's."}
        return ({} if source.base else {"base": "Name its base."}) | (
            whole if source.functions else {}
        )
    if source.base or source.functions:
        return {}
    return {"functions": "Say what it takes over, or the base it is made for."}
