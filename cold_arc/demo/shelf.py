"""The demo shelf: invented light sources, good ones and bad ones. No figure here is anyone's product."""

from __future__ import annotations

from cold_arc.core.light_source import LightSource


def _bulb(name: str, base: str, watts: float, lumens: float, price: float, **more: object) -> LightSource:
    """A white two-faced 12 V bulb, unless told otherwise."""
    facts: dict[str, object] = {
        "cct_k": 6000.0,
        "faces": 2,
        "gap_mm": 1.5,
        "supply_min_v": 9.0,
        "supply_max_v": 16.0,
        "tail_mm": 42.0,
        "tail_width_mm": 36.0,
        "warranty_years": 2.0,
    }
    return LightSource(name, "bulb", base, watts, lumens, price=price, **(facts | more))  # type: ignore[arg-type]


def _assembly(name: str, base: str, watts: float, lumens: float, price: float, approval: str) -> LightSource:
    return LightSource(
        name, "assembly", base, watts, lumens, 9.0, 16.0, price,
        cct_k=5700.0, warranty_years=3.0, approval=approval, monitor_proof=True, polarity="fixed",
    )  # fmt: skip


_ALL = (
    _bulb("Sableline H7 slim", "H7", 24, 1900, 58, emitter_mm=4.2, lcl_mm=25.1, monitor_proof=True),
    _bulb("Sableline H7 slim, warm", "H7", 24, 1800, 58, emitter_mm=4.2, lcl_mm=25.1, cct_k=4300.0),
    _bulb("Quadrant 7 four-face", "H7", 38, 5200, 31, emitter_mm=6.5, lcl_mm=26.4, faces=4, gap_mm=6.0, tail_mm=55.0, cct_k=6500.0),
    _bulb("Skywash H7", "H7", 30, 3000, 19, emitter_mm=5.0, lcl_mm=25.4, gap_mm=2.4, cct_k=8000.0, warranty_years=1.0),
    _bulb("Sableline H11 slim", "H11", 25, 2000, 62, emitter_mm=4.4, lcl_mm=25.0, monitor_proof=True),
    _bulb("Ember 11 passive", "H11", 22, 1600, 44, emitter_mm=4.6, lcl_mm=25.7, cooling="passive", tail_mm=30.0),
    _bulb("Triad 11", "H11", 40, 9000, 27, emitter_mm=5.5, lcl_mm=25.2, faces=3, gap_mm=4.2, tail_mm=50.0),
    _assembly("Marrow projector unit 11", "H11", 34, 1750, 265, "own marks, sample"),
    _bulb("Longshade H4 dual", "H4", 30, 1700, 66, emitter_mm=4.8, lcl_mm=29.5, rows=2, dip_shield=True),
    _bulb("Plainrow H4", "H4", 36, 4000, 25, emitter_mm=5.0, lcl_mm=29.5, rows=2),
    _bulb("Hearthlight six H4", "H4", 15, 1000, 74, emitter_mm=4.8, lcl_mm=29.5, rows=2, dip_shield=True, supply_min_v=5.0, supply_max_v=15.0, cct_k=4000.0, earth_insulated=True, polarity="any", driver="in-line", cooling="passive"),
    _bulb("Kettle 9006", "9006", 26, 1500, 49, emitter_mm=5.0, lcl_mm=31.4),
    _bulb("Kettle 9005", "9005", 30, 2200, 49, emitter_mm=5.0, lcl_mm=31.6),
    _bulb("Plug-arc D2", "D2S", 35, 3100, 88, emitter_mm=4.2, lcl_mm=27.0, driver="ballast", gap_mm=1.9),
    _bulb("Bypass D2, 12 volt", "D2S", 38, 3300, 79, emitter_mm=4.4, lcl_mm=27.4, driver="in-line", gap_mm=2.2, tail_mm=48.0),
    _bulb("Saffron 16 fog", "H16", 16, 1250, 36, emitter_mm=3.8, lcl_mm=25.1, colour="yellow", cct_k=None, cooling="passive", tail_mm=28.0),
    _bulb("Frost 16 fog", "H16", 18, 1500, 34, emitter_mm=3.9, lcl_mm=25.1, tail_mm=34.0),
    _bulb("Pip W5W", "W5W", 1.2, 90, 4, gap_mm=None, emitter_mm=None, lcl_mm=None, faces=None, cooling="passive", cct_k=5000.0, tail_mm=0.0, tail_width_mm=10.0),
    _bulb("Wink PY21W", "PY21W", 8, 600, 12, gap_mm=None, emitter_mm=None, lcl_mm=None, faces=None, cooling="passive", colour="amber", cct_k=None, tail_mm=0.0, tail_width_mm=20.0, polarity="fixed"),
)  # fmt: skip
SHELF = {source.name: source for source in _ALL}
