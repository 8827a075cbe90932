"""A light source one could fit: an LED bulb or a complete assembly, as its maker describes it."""

from __future__ import annotations

from dataclasses import dataclass

KINDS = {"bulb": "LED bulb", "assembly": "Complete LED assembly"}
POLARITY = {"any": "Either way round", "fixed": "One way only"}
DRIVERS = {"inside": "Inside the tail", "in-line": "In line, on a lead", "ballast": "Fed by the HID ballast"}
COOLING = {"fan": "Fan", "passive": "Passive"}
COLOURS = {"white": "White", "yellow": "Selective yellow", "amber": "Amber"}


@dataclass(frozen=True)
class LightSource:
    """One candidate. Lengths mm, watts and claimed lumens for one bulb, volts d.c.

    *gap_mm* is the distance between opposite emitting faces, *emitter_mm* the lit length along the axis,
    *lcl_mm* reference plane to the middle of it. Geometry is None for an assembly.
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
    faces: int | None = None
    gap_mm: float | None = None
    emitter_mm: float | None = None
    lcl_mm: float | None = None
    rows: int = 1
    dip_shield: bool = False
    tail_mm: float | None = None
    tail_width_mm: float | None = None
    polarity: str = "any"
    driver: str = "inside"
    cooling: str = "fan"
    earth_insulated: bool = False
    monitor_proof: bool = False
    warranty_years: float = 1.0
    approval: str = ""

    @property
    def is_bulb(self) -> bool:
        """Whether it goes into the existing housing."""
        return self.kind == "bulb"
