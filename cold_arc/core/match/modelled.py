"""A candidate in a socket as the beam model takes it: the physics itself knows no candidates."""

from __future__ import annotations

from typing import Any

from cold_arc.core.beam import nominal
from cold_arc.core.beam.setup import BOTH_ROWS, LED_K, SetUp, SetUpError
from cold_arc.core.beam.sources import Led
from cold_arc.core.car.bases import Base
from cold_arc.core.car.condition import REFLECTANCE, USUAL_FINISH
from cold_arc.core.car.lamps import Function, Traffic
from cold_arc.core.light import filters
from cold_arc.core.light.colour import ARC_K, FILAMENT_K
from cold_arc.core.light_source import LightSource
from cold_arc.core.match.heat import warmth
from cold_arc.core.wiring.setting import Setting

# A face's width where it is not told, mm (common practice); lens grades 0 to 4 as the model's haze
# (own).
USUAL_FACE_MM = 1.2
HAZE_OF_GRADE = (0.0, 0.12, 0.3, 0.55, 0.8)


def setup_of(
    setting: Setting, function: Function, candidate: LightSource | None, traffic: Traffic
) -> SetUp | None:
    """The set-up that gives *function* in a setting, with a candidate or (None) its present source:
    what an earlier visit put in, else what its base is made for.

    A candidate shines as brightly as its claim is believable, less what heat takes. None where the
    socket, its base or the candidate's geometry can't be modelled, its figures are beyond what the
    model computes, or nobody told of the LED bulb that is in it.
    """
    source = candidate or setting.held
    if source is None and setting.has_unknown_led:
        return None
    return _computable(setting, function, source, traffic)


def made_for(setting: Setting, function: Function, traffic: Traffic) -> SetUp | None:
    """The set-up that gives *function* with what the base is made for, whatever is in it now."""
    return _computable(setting, function, None, traffic)


def _computable(
    setting: Setting, function: Function, source: LightSource | None, traffic: Traffic
) -> SetUp | None:
    try:
        return _setup_of(setting, function, source, traffic)
    except SetUpError:
        return None


# What a bulb must tell of itself for its beam, as its form calls it.
NEEDED = {"faces": "faces", "gap_mm": "gap between the faces", "emitter_mm": "lit length"}


def why_no_beam(
    setting: Setting, function: Function, candidate: LightSource, traffic: Traffic
) -> str:
    """Why a candidate's beam can't be worked out, in words; "" where it can."""
    if setup_of(setting, function, candidate, traffic) is not None:
        return ""
    base = setting.base
    if not function.is_road_beam:
        return f"{function.label.lower()} throws none"
    if base is None:
        return "its own optic has no housing of this car to be held against"
    if base.name not in nominal.BEAM_BASES:
        return f"{base.name} is not modelled"
    return _why_not_there(setting, function, candidate, base)


def _why_not_there(setting: Setting, function: Function, candidate: LightSource, base: Base) -> str:
    """Why a candidate can't be modelled in a socket whose own beam can."""
    if not candidate.is_bulb:
        return "its optic is not told"
    missing = [words for name, words in NEEDED.items() if getattr(candidate, name) is None]
    if missing:
        return f"{' and '.join(missing)} not told"
    if function is Function.HIGH and base.is_dual and candidate.high_beam_by == "none":
        return "it has no high beam"
    return "its figures are beyond what is modelled" if setting.socket.optic else "optic not known"


def _setup_of(
    setting: Setting, function: Function, candidate: LightSource | None, traffic: Traffic
) -> SetUp | None:
    base = setting.base
    if base is None or base.name not in nominal.BEAM_BASES or not function.is_road_beam:
        return None
    if candidate is not None and not candidate.is_bulb:
        return _own_optic(setting, base, function, candidate, traffic)
    optic = setting.socket.optic
    kind = optic.housing(function, setting.market) if optic else None
    if kind is None:
        return None
    high = function is Function.HIGH
    common: dict[str, Any] = {
        "housing": kind,
        "base": base.name,
        "traffic": traffic,
        **_of_the_housing(setting, candidate),
        "high": high,
        "rated_volts": _rated_volts(base, high, setting.volts),
    }
    return SetUp(**common) if candidate is None else _with_bulb(common, candidate, base, high)


def _with_bulb(
    common: dict[str, Any], candidate: LightSource, base: Base, high: bool
) -> SetUp | None:
    """The housing with an LED bulb in it; None where its geometry is not known, or it has no such
    beam.
    """
    led = led_from(candidate, base)
    if led is None or (high and base.is_dual and candidate.high_beam_by == "none"):
        return None
    return SetUp(
        **common,
        source="led",
        faces=led.faces,
        gap=led.gap_mm,
        width=led.width_mm,
        length=led.length_mm,
        rows=led.rows,
        flux=_lit(led.flux_lm, candidate, base, high),
        droop=round(warmth(candidate).fade, 3),
        axial=round(led.axial_mm, 2),
        radial_y=led.radial_y_mm,
        cct=candidate.cct_k,
        yellow=candidate.colour == "yellow",
        high_by=candidate.high_beam_by if high and base.is_dual else "row",
    )


def _lit(flux_lm: float, candidate: LightSource, base: Base, high: bool) -> float:
    """The light of the rows that are lit: of a bulb that lights both for high beam, half for
    low.
    """
    half = base.is_dual and not high and candidate.high_beam_by == BOTH_ROWS
    return flux_lm / 2 if half else flux_lm


def _of_the_housing(setting: Setting, candidate: LightSource | None) -> dict[str, Any]:
    """How hazed its lens is, what its tint and its mirror's finish leave of a source's light, and
    how its housing differs from its kind where that was fitted to readings.

    A lens that is clear by now has lost the haze that was fitted with it; tint and finish were
    fitted with the source it was read with.
    """
    haze = HAZE_OF_GRADE[setting.condition.haze] if setting.condition else 0.0
    passes = _passes(setting, candidate)
    if setting.fit is None:
        return {"haze": haze, "gain": round(passes * _finish(setting), 3)}
    own = setting.fit.setup
    return {
        "haze": own.haze if haze or not setting.condition else 0.0,
        "gain": own.gain * passes / _passes(setting, setting.held),
        "widen": own.widen,
        "pattern": own.pattern,
    }


def _passes(setting: Setting, candidate: LightSource | None) -> float:
    """The share of a source's light that the lamp's tint passes; of its own source with none."""
    tint = setting.condition.tint if setting.condition else filters.CLEAR
    if tint == filters.CLEAR:
        return 1.0
    if candidate is None:
        arc = setting.base is not None and setting.base.kind == "hid"
        return filters.share(ARC_K if arc else FILAMENT_K, tint, led=False)
    return filters.share(candidate.cct_k or LED_K, tint)


def _finish(setting: Setting) -> float:
    """How much more or less light a mirror of its finish throws back than the usual one."""
    finish = setting.condition.finish if setting.condition else ""
    return REFLECTANCE[finish] / REFLECTANCE[USUAL_FINISH] if finish else 1.0


def _rated_volts(base: Base, high: bool, car_volts: float) -> float:
    """What the socket's bulb is made for: the car's supply, or 12 V where the type for that is not
    known.
    """
    return car_volts if nominal.rating(base, high, car_volts).lumens is not None else 12.0


def _own_optic(
    setting: Setting, base: Base, function: Function, candidate: LightSource, traffic: Traffic
) -> SetUp | None:
    """An assembly, or a projector behind the old lens: an optic made for its own source, at its
    believable flux.
    """
    if candidate.optic is None:
        return None
    seen = setting.condition if candidate.kind == "projector" else None
    return SetUp(
        housing=f"{'fog-' if function is Function.FOG else ''}{candidate.optic}",
        base=base.name,
        flux=candidate.believable_lm,
        haze=HAZE_OF_GRADE[seen.haze] if seen else 0.0,
        gain=round(_passes(setting, candidate), 3) if seen else 1.0,
        traffic=traffic,
        high=function is Function.HIGH,
        cct=candidate.cct_k or LED_K,
        yellow=candidate.colour == "yellow",
    )


def led_from(source: LightSource, base: Base, traffic: Traffic = Traffic.RIGHT) -> Led | None:
    """The LED source of a catalogue entry seated on *base*; None where its geometry is not
    known.
    """
    if source.faces is None or source.gap_mm is None or source.emitter_mm is None:
        return None
    axial = (
        (source.lcl_mm - base.lcl_mm)
        if source.lcl_mm is not None and base.lcl_mm is not None
        else 0.0
    )
    return Led(
        faces=source.faces,
        gap_mm=source.gap_mm,
        width_mm=source.width_mm or USUAL_FACE_MM,
        length_mm=source.emitter_mm,
        rows=1 if base.is_dual else source.rows,
        flux_lm=source.believable_lm,
        axial_mm=axial,
        radial_y_mm=source.off_axis_mm or 0.0,
        dip_shield=source.dip_shield,
        traffic=traffic,
    )
