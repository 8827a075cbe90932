"""Wires, and the fuses that protect them: drop, ampacity, what is laid."""

from __future__ import annotations

import math
from dataclasses import dataclass

from cold_arc.core.electrical.sizes import (
    AWG_SIZES,
    INSULATION_C,
    RATED_AIR_C,
    RATED_CLASS,
    WIRES_A,
    awg_mm2,
    next_up,
)
from cold_arc.core.electrical.supply import SupplyFacts
from cold_arc.core.findings import Finding, Level
from cold_arc.core.references import PRACTICE, cite
from cold_arc.core.units import worded

BLADE_FUSES_A = (1, 2, 3, 4, 5, 7.5, 10, 15, 20, 25, 30)
FUSE_LOAD = 0.8
# The share of the supply a wire may lose; of it that a smoothed feed may ripple by.
DROP_SHARE = 0.03
COPPER_OHM_MM2_M, COPPER_PER_K, COPPER_AT_C = 0.0172, 0.0039, 20.0
CLASS_MARGIN_K = 15.0


def resistance_ohm(run_m: float, mm2: float, celsius: float = COPPER_AT_C) -> float:
    """Copper there and back: ρ(T)·2·L/A, Ω, with 0.0172 Ω·mm²/m at 20 °C and +0.39 %/K."""
    return COPPER_OHM_MM2_M * (1 + COPPER_PER_K * (celsius - COPPER_AT_C)) * 2 * run_m / mm2


def drop_v(amps: float, run_m: float, mm2: float, celsius: float = COPPER_AT_C) -> float:
    """Voltage lost in a wire there and back, V."""
    return amps * resistance_ohm(run_m, mm2, celsius)


def ampacity_a(mm2: float, celsius: float, insulation: str = RATED_CLASS) -> float:
    """What the thickest wire sold up to *mm2* may carry in air of *celsius*, A; 0 where its
    insulation bears no more.

    Heat lost ∝ the difference to the air, heat made ∝ I²: I = I₃₀·√((T_class − T_air)/(100 °C − 30
    °C)).

    >>> round(ampacity_a(0.5, 140, "D"), 1), ampacity_a(0.5, 140)
    (3.0, 0.0)
    """
    rated = max((amps for size, amps in WIRES_A.items() if size <= mm2 + 1e-9), default=0.0)
    room = max(INSULATION_C[insulation] - celsius, 0.0) / (INSULATION_C[RATED_CLASS] - RATED_AIR_C)
    return rated * math.sqrt(room)


@dataclass(frozen=True)
class Wire:
    """The wire to lay: mm² and its next gauge, its insulation class, what it loses (V), the fuse
    for it (A).
    """

    needed_mm2: float
    mm2: float
    awg: int | None
    insulation: str
    carries_a: float
    drop_v: float
    allowed_v: float
    fuse_a: float


def wire(amps: float, run_m: float, nominal_v: float, celsius: float = 60.0) -> Wire | None:
    """The thinnest wire sold that loses at most 3 % of the supply and carries its fuse in air of
    *celsius*.

    In the lowest insulation class, from B on, that bears 15 K more than the air and in which one
    does; None when none does.
    """
    allowed = DROP_SHARE * nominal_v
    needed, fuse_a = amps * resistance_ohm(run_m, 1.0, celsius) / allowed, fuse(amps)
    if fuse_a is None:
        return None
    for insulation in (name for name in "BCD" if INSULATION_C[name] >= celsius + CLASS_MARGIN_K):
        for mm2 in WIRES_A:
            carries = ampacity_a(mm2, celsius, insulation)
            if mm2 >= needed - 1e-9 and carries >= fuse_a:
                awg = next((gauge for gauge in AWG_SIZES if awg_mm2(gauge) >= mm2 * 0.98), None)
                lost = drop_v(amps, run_m, mm2, celsius)
                return Wire(needed, mm2, awg, insulation, carries, lost, allowed, fuse_a)
    return None


def fuse(amps: float) -> float | None:
    """The smallest blade fuse that carries *amps* at 80 % of its rating; None above the largest.

    >>> fuse(4.2)
    7.5
    """
    return next_up(BLADE_FUSES_A, amps / FUSE_LOAD)


def laid_wire(facts: SupplyFacts, amps: float, nominal_v: float) -> list[Finding]:
    """What the wire as laid does: its drop against 3 %, its current against its fuse."""
    if facts.run_m is None or facts.wire_mm2 is None:
        return []
    lost, allowed = drop_v(amps, facts.run_m, facts.wire_mm2, facts.air_c), DROP_SHARE * nominal_v
    number, limit = (
        worded("{lost:volts} lost", lost=lost),
        worded("{allowed:volts}, 3 % of {nominal_v:volts}", allowed=allowed, nominal_v=nominal_v),
    )
    sources = cite("electrical-textbook copper 0.0172 Ω·mm²/m, +0.39 %/K", "practice")
    if lost <= allowed:
        drop = Finding("drop-small", Level.OK, "The wire loses little.", sources, number, limit)
    else:
        drop = Finding(
            "drop-large",
            Level.CAUTION,
            "The wire loses too much.",
            sources,
            number,
            limit,
            "Lay a thicker wire, or a shorter one.",
        )
    carries, needed = ampacity_a(facts.wire_mm2, facts.air_c, facts.insulation), fuse(amps)
    bears = worded(
        "{carries:.1f} A in this wire, class {insulation}, in air of {air_c:g} °C",
        carries=carries,
        insulation=facts.insulation,
        air_c=facts.air_c,
    )
    if needed is None or needed > carries:
        words = (
            worded("{needed:g} A fuse needed", needed=needed)
            if needed
            else "more than any blade fuse carries"
        )
        return [
            drop,
            Finding(
                "fuse-none-fits",
                Level.STOP,
                "No fuse protects this wire.",
                cite("electrical-textbook heat balance", "iso-6722 insulation classes", "practice"),
                words,
                bears,
                "Never above the wire: lay a thicker one, or one of a hotter class.",
            ),
        ]
    return [
        drop,
        Finding(
            "fuse-size",
            Level.OK,
            worded("Fuse it at {needed:g} A, at the battery end.", needed=needed),
            PRACTICE,
            worded("{amps:.1f} A", amps=amps),
            bears,
        ),
    ]
