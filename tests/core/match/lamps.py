"""A good bulb, a socket to put it in, and its set-up: what Match's tests start from."""

from dataclasses import replace

from cold_arc.core.car.bases import find
from cold_arc.core.car.condition import UnitCondition
from cold_arc.core.car.front import Socket
from cold_arc.core.car.keys import SocketKey
from cold_arc.core.car.lamps import Function, Optic, Present, Side
from cold_arc.core.light_source import LightSource
from cold_arc.core.match import Setting
from cold_arc.core.match.modelled import setup_of

GOOD = LightSource(
    name="Test slim",
    kind="bulb",
    base="H7",
    watts=24,
    claimed_lm=1900,
    supply_min_v=9,
    supply_max_v=16,
    price=50,
    cct_k=6000,
    faces=2,
    gap_mm=1.5,
    emitter_mm=4.2,
    lcl_mm=25.1,
    tail_mm=40,
    tail_width_mm=36,
    monitor_proof=True,
)
UNIT = replace(
    GOOD, name="Unit", kind="assembly", optic="projector", faces=None, gap_mm=None, price=300
)
KEY = SocketKey("headlamp", 1, Side.LEFT)
REFLECTOR = Setting(
    socket=Socket(KEY, (Function.LOW,), Optic.REFLECTOR, "H7", Present.HALOGEN),
    base=find("H7"),
    condition=UnitCondition(haze=0, room_mm=60, opening_mm=60),
    volts=12,
    earth_positive=False,
    market="un",
    road_use=True,
)


def lamp(*functions, **changes):
    """The setting with another socket: what it gives, its optic, base, present source."""
    socket = replace(REFLECTOR.socket, functions=functions or REFLECTOR.socket.functions, **changes)
    return replace(REFLECTOR, socket=socket, base=find(socket.base))


def setup(source=None, setting=REFLECTOR):
    return setup_of(setting, setting.function, source, "right")
