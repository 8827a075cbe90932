"""A car's supply, and what of it was told."""

from __future__ import annotations

from dataclasses import dataclass

from cold_arc.core.electrical.sizes import RATED_CLASS
from cold_arc.core.light.photometry import reference_volts

HIGHEST_SHARE = 1.2
# What a 6, 12 or 24 V car's wires carry from a tired battery to a hard-charging alternator, V; one
# range for all pages.
RUNNING_VOLTS = {6.0: (5.25, 7.5), 12.0: (10.5, 15.0), 24.0: (21.0, 30.0)}
# What an added feed may be for.
LAMP_ITSELF = ""
FEEDS = {
    LAMP_ITSELF: "This lamp itself",
    "drl": "Daytime light",
    "position": "Position light, ring or strip",
    "fog": "Front fog",
    "other": "Something else",
}

# What each figure told of a feed may be, in its unit (own).
LIMITS: dict[str, tuple[float, float]] = {
    "monitored_w": (1.0, 200.0),
    "pwm_hz": (1.0, 20_000.0),
    "pwm_duty": (0.01, 1.0),
    "run_m": (0.1, 30.0),
    "wire_mm2": (0.2, 35.0),
    "air_c": (-40.0, 130.0),
    "tap_loads": (1, 20),
    "fuse_a": (1.0, 60.0),
    "feed_w": (0.5, 200.0),
    "slot_a": (1.0, 60.0),
}


@dataclass(frozen=True)
class SupplyFacts:
    """What is known of the feed to a lamp.

    *monitored_w*: the least watts the car's bulb-out monitor accepts, None when it does not look.
    *pwm_hz* and *pwm_duty* (0 to 1): a pulsed feed, None when it is plain. *run_m* the length of an
    added feed one way, *wire_mm2* its copper, *air_c* the warmest it gets there, *insulation* its
    class. *feed_at*: where an HID's feed is taken ("in" to the ballast or "out" of it),
    *feed_volts* what was read there. An added feed's tap: *slot* "switched" or "live" with the key
    out, its *slot_name*, what the slot is rated (*slot_a*), how many loads hang on it, the fuse in
    it. *feed_for*: what an added feed is for, as in FEEDS ("": the lamp itself), and *feed_w* what
    one such lamp takes. *resistor_on*: "metal" or "plastic".
    """

    monitored_w: float | None = None
    pwm_hz: float | None = None
    pwm_duty: float | None = None
    run_m: float | None = None
    wire_mm2: float | None = None
    air_c: float = 60.0
    insulation: str = RATED_CLASS
    feed_at: str = ""
    feed_volts: float | None = None
    slot: str = ""
    slot_name: str = ""
    tap_loads: int | None = None
    fuse_a: float | None = None
    resistor_on: str = ""
    feed_for: str = ""
    feed_w: float | None = None
    slot_a: float | None = None

    @property
    def is_pulsed(self) -> bool:
        """Whether the feed is pulse-width modulated with gaps in it."""
        return bool(self.pwm_hz and self.pwm_duty and self.pwm_duty < 1)


def supply_v(nominal_v: float) -> tuple[float, float, float]:
    """Engine off, rated, and highest charging voltage (14.4 on 12, common practice) of a 6, 12 or
    24 V car.
    """
    return nominal_v, reference_volts(nominal_v), HIGHEST_SHARE * nominal_v
