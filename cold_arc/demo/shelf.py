"""The demo shelf: invented light sources, good ones and bad ones. No figure here is anyone's product."""

from __future__ import annotations

from cold_arc.core.match.light_source import LightSource


def _bulb(name: str, base: str, watts: float, lumens: float, price: float, **more: object) -> LightSource:
    """A white two-faced 12 V bulb, unless told otherwise."""
    facts: dict[str, object] = {
        "cct_k": 6000.0,
        "faces": 2,
        "gap_mm": 1.5,
        "width_mm": 1.2,
        "off_axis_mm": 0.1,
        "supply_min_v": 9.0,
        "supply_max_v": 16.0,
        "tail_mm": 42.0,
        "tail_width_mm": 36.0,
        "ip": 65,
        "warranty_years": 2.0,
    }
    return LightSource(name, "bulb", base, watts, lumens, price=price, **(facts | more))  # type: ignore[arg-type]


def _own(name: str, kind: str, base: str, watts: float, lumens: float, price: float, **more: object) -> LightSource:
    """An assembly, or a projector to build in."""
    facts: dict[str, object] = {
        "cct_k": 5700.0, "optic": "projector", "warranty_years": 3.0, "monitor_proof": True, "pwm_proof": True,
        "polarity": "fixed", "ip": 67, "supply_min_v": 9.0, "supply_max_v": 16.0,
    }  # fmt: skip
    return LightSource(name, kind, base, watts, lumens, price=price, **(facts | more))  # type: ignore[arg-type]


_SMALL: dict[str, object] = {
    "gap_mm": None, "width_mm": None, "emitter_mm": None, "lcl_mm": None, "off_axis_mm": None, "faces": None, "cooling": "passive", "tail_mm": 0.0, "ip": None,
}  # fmt: skip
_ALL = (
    _bulb("Sableline H7 slim", "H7", 24, 1900, 58, emitter_mm=4.2, lcl_mm=25.1, monitor_proof=True, pwm_proof=True),
    _bulb("Sableline H7 slim, warm", "H7", 24, 1800, 58, emitter_mm=4.2, lcl_mm=25.1, cct_k=4300.0),
    _bulb("Quadrant 7 four-face", "H7", 38, 5200, 31, emitter_mm=6.5, lcl_mm=26.4, faces=4, gap_mm=6.0, width_mm=3.0, tail_mm=55.0, cct_k=6500.0, ip=None),
    _bulb("Skywash H7", "H7", 30, 3000, 19, emitter_mm=5.0, lcl_mm=25.4, gap_mm=2.4, off_axis_mm=0.4, cct_k=8000.0, warranty_years=1.0, ip=54),
    _bulb("Sableline H11 slim", "H11", 25, 2000, 62, emitter_mm=4.4, lcl_mm=25.0, monitor_proof=True, pwm_proof=True),
    _bulb("Ember 11 passive", "H11", 22, 1600, 44, emitter_mm=4.6, lcl_mm=25.7, cooling="passive", tail_mm=30.0, plug="H11"),
    _bulb("Triad 11", "H11", 40, 9000, 27, emitter_mm=5.5, lcl_mm=25.2, faces=3, gap_mm=4.2, width_mm=2.4, tail_mm=50.0, ip=44),
    _bulb("Longreach 11", "H11", 28, 3900, 51, emitter_mm=4.5, lcl_mm=24.8, gap_mm=1.8, claim_basis="set", tail_mm=46.0, driver="in-line", tail_width_mm=30.0),
    _bulb("Commonseat 8/9/11", "H11", 26, 2400, 29, emitter_mm=5.2, lcl_mm=26.1, gap_mm=2.2, off_axis_mm=-0.6, adapters=("H8", "H9", "H16"), ip=54),
    _own("Marrow projector unit 11", "assembly", "H11", 34, 1750, 265, approval="own marks, sample"),
    _own("Marrow reflector unit 11", "assembly", "H11", 30, 1600, 190, optic="reflector", approval="own marks, sample"),
    _own("Hollowgate projector kit", "projector", "H11", 36, 1900, 145),
    _bulb("Longshade H4 dual", "H4", 30, 1700, 66, emitter_mm=4.8, lcl_mm=29.5, rows=2, dip_shield=True),
    _bulb("Plainrow H4", "H4", 36, 4000, 25, emitter_mm=5.0, lcl_mm=29.5, rows=2, adapters=("H13", "9007"), ip=None),
    _bulb("Hearthlight six H4", "H4", 15, 1000, 74, emitter_mm=4.8, lcl_mm=29.5, rows=2, dip_shield=True, supply_min_v=5.0, supply_max_v=15.0, cct_k=4000.0, earth_insulated=True, polarity="any", driver="in-line", cooling="passive", tail_mm=40.0),
    _bulb("Kettle 9006", "9006", 26, 1500, 49, emitter_mm=5.0, lcl_mm=31.4),
    _bulb("Kettle 9005", "9005", 30, 2200, 49, emitter_mm=5.0, lcl_mm=31.6),
    _bulb("Kettle 9012", "9012", 28, 1900, 54, emitter_mm=5.0, lcl_mm=31.5, pwm_proof=True),
    _bulb("Twinrow 13", "H13", 34, 1800, 59, emitter_mm=4.6, lcl_mm=27.0, rows=2, tail_mm=48.0),
    _bulb("Plug-arc D2", "D2S", 35, 3100, 88, emitter_mm=4.2, lcl_mm=27.0, driver="ballast", gap_mm=1.9, supply_min_v=9.0),
    _bulb("Ownbox D2 with driver", "D2S", 35, 3000, 132, emitter_mm=4.2, lcl_mm=27.1, driver="in-place", gap_mm=1.8, monitor_proof=True, ip=67, warranty_years=3.0),
    _bulb("Bypass D2, 12 volt", "D2S", 38, 3300, 79, emitter_mm=4.4, lcl_mm=27.4, driver="in-line", gap_mm=2.2, tail_mm=48.0),
    _own("Marrow discharge-to-LED unit", "assembly", "D2S", 38, 2000, 390, approval="own marks, sample"),
    _bulb("Saffron 16 fog", "H16", 16, 1250, 36, emitter_mm=3.8, lcl_mm=25.1, colour="yellow", cct_k=None, chroma_x=0.485, chroma_y=0.473, cooling="passive", tail_mm=28.0, ip=67),
    _bulb("Marigold 16 fog", "H16", 18, 1500, 18, emitter_mm=4.4, lcl_mm=25.6, colour="yellow", cct_k=None, chroma_x=0.530, chroma_y=0.440, tail_mm=34.0, ip=54),
    _bulb("Frost 16 fog", "H16", 18, 1500, 34, emitter_mm=3.9, lcl_mm=25.1, tail_mm=34.0, ip=67),
    _own("Lowbank fog unit", "assembly", "H16", 14, 900, 84, cct_k=5000.0, approval="own marks, sample"),
    _bulb("Pip W5W", "W5W", 1.2, 90, 4, cct_k=5000.0, tail_width_mm=10.0, **_SMALL),
    _bulb("Pip W5W, cold", "W5W", 2.5, 480, 3, cct_k=8500.0, tail_width_mm=14.0, polarity="fixed", **_SMALL),
    _bulb("Wink PY21W", "PY21W", 8, 600, 12, colour="amber", cct_k=None, tail_width_mm=20.0, polarity="fixed", **_SMALL),
)  # fmt: skip
SHELF = {source.name: source for source in _ALL}
