"""Electrical: what changes when a filament becomes an LED, and what to fit for it, in sizes one can
buy.

Formulas are Ohm's law and textbook copper; limits are common practice, no published source, unless
named.
"""

from cold_arc.core.electrical.loads import (
    FEED_OHM,
    RIPPLE_SHARE,
    Before,
    Draw,
    LoadResistor,
    Smoothing,
    driver_draw,
    filament_draw,
    hold_up,
    load_resistor,
    monitor_resistor,
    most_draw,
    say_blocking,
    say_resistor,
    say_smoothing,
    smoothing,
)
from cold_arc.core.electrical.sizes import (
    INSULATION,
    INSULATION_C,
    RATED_CLASS,
    WIRES_A,
    awg_mm2,
    e6_at_least,
    e24_at_most,
)
from cold_arc.core.electrical.supply import FEEDS, LIMITS, RUNNING_VOLTS, SupplyFacts, supply_v
from cold_arc.core.electrical.taps import FEED_POINTS, MOUNTS, SLOTS, feed_point, tap
from cold_arc.core.electrical.wires import (
    ampacity_a,
    drop_v,
    fuse,
    laid_wire,
    resistance_ohm,
    wire,
)

__all__ = [
    "FEEDS",
    "FEED_OHM",
    "FEED_POINTS",
    "INSULATION",
    "INSULATION_C",
    "LIMITS",
    "MOUNTS",
    "RATED_CLASS",
    "RIPPLE_SHARE",
    "RUNNING_VOLTS",
    "SLOTS",
    "WIRES_A",
    "Before",
    "Draw",
    "LoadResistor",
    "Smoothing",
    "SupplyFacts",
    "ampacity_a",
    "awg_mm2",
    "driver_draw",
    "drop_v",
    "e6_at_least",
    "e24_at_most",
    "feed_point",
    "filament_draw",
    "fuse",
    "hold_up",
    "laid_wire",
    "load_resistor",
    "monitor_resistor",
    "most_draw",
    "resistance_ohm",
    "say_blocking",
    "say_resistor",
    "say_smoothing",
    "smoothing",
    "supply_v",
    "tap",
    "wire",
]
