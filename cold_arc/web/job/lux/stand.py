"""The meters of a served shop: the feed of a real one, and a simulated one before each lamp that is
practised on.
"""

from __future__ import annotations

import math
import random
import threading
from collections import OrderedDict
from dataclasses import dataclass, replace
from typing import cast

from flask import current_app

from cold_arc.core.beam import derived
from cold_arc.core.beam.report import beam_of, stands_deg
from cold_arc.core.beam.setup import LIMITS, SetUp
from cold_arc.core.car.keys import BeamKey
from cold_arc.core.car.lamps import Present, Traffic
from cold_arc.core.job.entries.kind import AimPhase, Phase
from cold_arc.core.match import measuring
from cold_arc.devices.feed import Feed
from cold_arc.devices.simulated import SimulatedLamp, SimulatedMeter, hidden
from cold_arc.store.jobs import Job

MOST_METERS = 32
# How a source comes to its settled light where its bulb's own fade is not known: share more (or, an
# arc, less) cold, and time constant, s; an LED's chips do some of it before its body is warm
# (common practice).
USUAL_FADE, ARC_START = 0.12, -0.65
CHIPS_SHARE = (0.2, 0.35)
TAU_S = {"chips": (6.0, 14.0), "led": (70.0, 140.0), "arc": (8.0, 16.0)}


@dataclass
class Stand:
    """*pace*: how many seconds pass for a simulated lamp in one of ours, so that a warm-up can be
    practised.
    """

    feed: Feed
    pace: float = 1.0

    def __post_init__(self) -> None:
        self._meters: OrderedDict[tuple[int, str, SetUp], SimulatedMeter] = OrderedDict()
        self._lock = threading.Lock()

    def simulated(
        self, job: Job, key: BeamKey, setup: SetUp, phase: Phase, name: str = ""
    ) -> SimulatedMeter:
        """The simulated meter before a lamp: it stays where it was held, its lamp burning on.
        *name*: another source's."""
        where = job.id, f"{key} {phase} {name}", setup
        with self._lock:
            if where not in self._meters:
                self._meters[where] = SimulatedMeter(
                    _lamp(job, key, setup, phase, name), 10.0, seed=str(job.id), pace=self.pace
                )
                while len(self._meters) > MOST_METERS:
                    self._meters.popitem(last=False)
            self._meters.move_to_end(where)
            return self._meters[where]


def stand() -> Stand:
    """This shop's."""
    return cast(Stand, current_app.extensions["cold_arc_meters"])


def _lamp(job: Job, key: BeamKey, setup: SetUp, phase: Phase, name: str) -> SimulatedLamp:
    """The modelled lamp with what it keeps to itself: its seat, aim and brightness; aimed as the
    record says, if it does."""
    clock, axial, right, up, bright = hidden(f"{job.id} {key} {name}")
    if setup.source == "led":
        seat = {
            "clock": _within("clock", setup.clock + clock),
            "axial": _within("axial", setup.axial + axial),
        }
        setup = replace(setup, clock=seat["clock"], axial=seat["axial"])
    aimed = job.record.aimed(
        key, AimPhase.LEFT if phase == Phase.AFTER else AimPhase.FOUND
    ) or job.record.aimed(key, AimPhase.FOUND)
    if aimed and not setup.high:
        up = math.degrees(math.atan(aimed.slope)) - stands_deg(setup)
    return SimulatedLamp(beam_of(setup), right, up, bright, _warming(job, key, setup, phase))


def _within(field: str, value: float) -> float:
    return min(max(value, LIMITS[field].low), LIMITS[field].high)


def _warming(job: Job, key: BeamKey, setup: SetUp, phase: Phase) -> tuple[tuple[float, float], ...]:
    """How much more its light is cold, and how fast that goes: an LED's chips and its body; nothing
    of a filament.
    """
    draw = random.Random(f"{job.id} {key} warming")
    if setup.source == "led":
        fade = setup.droop or USUAL_FADE
        more, chips = fade / (1 - fade), draw.uniform(*CHIPS_SHARE)
        body = draw.uniform(*TAU_S["led"])
        return ((more * chips, draw.uniform(*TAU_S["chips"])), (more * (1 - chips), body))
    present = {job.record.socket(socket).present for socket in job.record.givers(key)}
    if setup.catalogue_base.kind == "hid" or (phase == Phase.BEFORE and Present.HID in present):
        return ((ARC_START, draw.uniform(*TAU_S["arc"])),)
    return ()


def brightest_place(meter: SimulatedMeter) -> tuple[float, float]:
    """Where a simulated lamp is brightest on its meter's wall: m right and down."""
    top, lamp = derived.peak(meter.lamp.beam), meter.lamp
    return derived.wall_place(top.h_deg + lamp.right_deg, top.v_deg + lamp.up_deg, meter.distance_m)


def lit_set_up(job: Job, key: BeamKey, phase: Phase, traffic: Traffic) -> SetUp | None:
    """What shines at a beam in a phase, on the supply it was read at; None where it can't be
    modelled.
    """
    return measuring.setup_at(job.record, job.booking, key, phase, traffic)
