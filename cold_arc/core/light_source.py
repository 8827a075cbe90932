"""A light source one could fit: an LED bulb, a complete assembly or a projector, as its maker describes it."""

from __future__ import annotations

from dataclasses import dataclass

KINDS = {"bulb": "LED bulb", "assembly": "Complete LED assembly", "projector": "Projector for retrofit"}
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
BASIS = {"bulb": "For one bulb", "set": "For the set of two"}
MOST_LM_PER_W = 150.0


@dataclass(frozen=True)
class LightSource:
    """One candidate. Lengths mm, watts for one bulb, volts d.c.; *claimed_lm* on the *claim_basis*: one bulb or a set.

    *gap_mm* is the distance between opposite emitting faces, *width_mm* a face's width, *emitter_mm* the lit length
    along the axis, *lcl_mm* reference plane to the middle of it, *off_axis_mm* how far the chips' middle line stands
    above the bulb's axis (negative: below) with its faces at 3 and 9 o'clock. Geometry is None for an
    assembly or projector, which have an *optic* of their own. *plug*: the base whose socket its plug mates with, ""
    for its own base's. *adapters*: other bases it fits through an adapter. *chroma_x*, *chroma_y*: CIE 1931, where
    told. *ip*: 67 for IP67.
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
    approval: str = ""

    @property
    def is_bulb(self) -> bool:
        """Whether it goes into the existing housing."""
        return self.kind == "bulb"

    @property
    def lumens_each(self) -> float:
        """Claimed lumens of one bulb."""
        return self.claimed_lm / 2 if self.claim_basis == "set" else self.claimed_lm

    @property
    def believable_lm(self) -> float:
        """The claim, or what its watts can give at most where it claims more (150 lm/W, common practice)."""
        return min(self.lumens_each, MOST_LM_PER_W * self.watts)


CHOICES = {
    "kind": KINDS,
    "colour": COLOURS,
    "claim_basis": BASIS,
    "optic": OPTICS,
    "polarity": POLARITY,
    "driver": DRIVERS,
    "cooling": COOLING,
}
# Lowest and highest a figure may be, and the bounds in words.
LIMITS: dict[str, tuple[float, float, str]] = {
    "watts": (0.1, 200, "between 0.1 and 200 W"),
    "claimed_lm": (1, 50000, "between 1 and 50 000 lm"),
    "supply_min_v": (3, 32, "between 3 and 32 V"),
    "supply_max_v": (3, 32, "between 3 and 32 V"),
    "price": (0, 1e6, "between 0 and 1 000 000"),
    "cct_k": (1667, 25000, "between 1667 and 25 000 K"),
    "chroma_x": (0, 0.8, "between 0 and 0.8"),
    "chroma_y": (0, 0.9, "between 0 and 0.9"),
    "faces": (1, 6, "between 1 and 6"),
    "gap_mm": (0, 20, "between 0 and 20 mm"),
    "width_mm": (0.1, 12, "between 0.1 and 12 mm"),
    "emitter_mm": (0.5, 30, "between 0.5 and 30 mm"),
    "lcl_mm": (5, 60, "between 5 and 60 mm"),
    "off_axis_mm": (-5, 5, "between −5 and 5 mm"),
    "rows": (1, 2, "1 or 2"),
    "tail_mm": (0, 200, "between 0 and 200 mm"),
    "tail_width_mm": (0, 120, "between 0 and 120 mm"),
    "ip": (0, 69, "between 0 and 69"),
    "warranty_years": (0, 50, "between 0 and 50 years"),
}
LONGEST_TEXT = {"name": 80, "base": 20, "plug": 20, "approval": 80}


def faults(source: LightSource) -> dict[str, str]:
    """What is wrong between its fields, by field: relations no single field shows."""
    found = {}
    if source.supply_max_v < source.supply_min_v:
        found["supply_max_v"] = "Must not be below where the supply starts."
    if (source.chroma_x is None) is not (source.chroma_y is None):
        found["chroma_y"] = "Give both x and y, or neither."
    if not source.is_bulb and source.optic is None:
        found["optic"] = "Say what makes its pattern."
    return found
