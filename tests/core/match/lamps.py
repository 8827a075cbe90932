"""A good bulb, a lamp to put it in, and its set-up: what Match's tests start from."""

from dataclasses import replace

from cold_arc.core.beam.setup import setup_of
from cold_arc.core.condition import LampCondition
from cold_arc.core.lamps import Function, Housing, Lamp, LampKey, Present, Side
from cold_arc.core.light_source import LightSource
from cold_arc.core.match import Setting

GOOD = LightSource(
    name="Test slim", kind="bulb", base="H7", watts=24, claimed_lm=1900, supply_min_v=9, supply_max_v=16, price=50,
    cct_k=6000, faces=2, gap_mm=1.5, emitter_mm=4.2, lcl_mm=25.1, tail_mm=40, tail_width_mm=36, monitor_proof=True,
)  # fmt: skip
UNIT = replace(GOOD, name="Unit", kind="assembly", optic="projector", faces=None, gap_mm=None, price=300)
LOW_LEFT = LampKey(Function.LOW, Side.LEFT)
REFLECTOR = Setting(
    lamp=Lamp(LOW_LEFT, Housing.REFLECTOR, "H7", Present.HALOGEN),
    condition=LampCondition(haze=0, room_mm=60, opening_mm=60),
    volts=12,
    earth_positive=False,
    market="un",
    road_use=True,
)


def lamp(**changes):
    return replace(REFLECTOR, lamp=replace(REFLECTOR.lamp, **changes))


def setup(source=None, setting=REFLECTOR):
    return setup_of(setting.lamp, setting.condition, source, "right")
