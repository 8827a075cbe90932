"""Its colour, beside the other lamps too, and whether its claims add up."""

from __future__ import annotations

from collections.abc import Iterator

from cold_arc.core.car.lamps import Function
from cold_arc.core.findings import Finding, Level
from cold_arc.core.job.facts import USUAL_K
from cold_arc.core.light import colour, filters
from cold_arc.core.light_source import MOST_LM_PER_W, LightSource
from cold_arc.core.references import PRACTICE, cite
from cold_arc.core.units import say_number, say_percent
from cold_arc.core.wiring.setting import Setting

# lm from which UN R48 asks for washers and levelling (from memory); a just visible and a plain step
# in u′v′ (MacAdam).
WASHER_LUMENS = 2000.0
STEP_UV, PLAIN_UV = 0.004, 0.02
CHROMATICITY = cite("un-r48 chromaticity")


def chroma(source: LightSource) -> tuple[float, float] | None:
    """Its colour point: as the maker gives it, or by its colour temperature; None where neither is
    told.
    """
    if source.chroma_x is not None and source.chroma_y is not None:
        return source.chroma_x, source.chroma_y
    return colour.chromaticity(source.cct_k) if source.cct_k is not None else None


def legal_colour(source: LightSource, setting: Setting) -> Iterator[Finding]:
    """White where white is wanted, selective yellow for fog only, amber for turn signals only."""
    functions = setting.socket.functions
    if source.colour == "yellow":
        yield from _yellow(source, functions)
    elif source.colour == "amber":
        if functions != (Function.TURN,):
            yield Finding(
                Level.STOP,
                "Amber is for turn signals.",
                PRACTICE,
                limit="white",
                advice="Choose a white one.",
            )
    elif (point := chroma(source)) is not None:
        yield _white(source, point)
    yield from _through_tint(source, setting)


# What else than white the lamps of some functions may show.
LEGAL: dict[tuple[Function, ...], str] = {
    (Function.FOG,): "white or selective yellow",
    (Function.TURN,): "amber",
}


def _is_legal(point: tuple[float, float], functions: tuple[Function, ...]) -> bool:
    """Whether lamps of these functions may shine with a colour."""
    if functions == (Function.TURN,):
        return not colour.amber_faults(*point)
    fog = functions == (Function.FOG,) and not colour.yellow_faults(*point)
    return fog or not colour.white_faults(*point)


def _through_tint(source: LightSource, setting: Setting) -> Iterator[Finding]:
    """The colour that leaves a tinted lamp: white, or in fog lamps selective yellow, or none the
    law has.
    """
    tint = setting.condition.tint if setting.condition else filters.CLEAR
    if source.takes_place or tint == filters.CLEAR or source.cct_k is None:
        return
    point = filters.through(source.cct_k, tint)
    words, functions = filters.TINTS[tint].lower(), setting.socket.functions
    if _is_legal(point, functions):
        level, text = Level.NOTE, f"Through the {words} glass its colour stays legal."
    else:
        faults = ", ".join(colour.white_faults(*point))
        level = Level.STOP
        text = f"Through the {words} glass its colour is none the law has: {faults}."
    yield Finding(
        level,
        text,
        (*CHROMATICITY, *cite("cie-15 white LED spectra")),
        f"{_say_point(point)}; passes {say_percent(filters.share(source.cct_k, tint))}",
        LEGAL.get(functions, "white"),
        "A warmer source, a clear cap or lens, or the lamp's own bulb." if level > 1 else "",
    )


def own_through_tint(setting: Setting) -> list[Finding]:
    """Where a lamp's own source, kept, gives no legal colour through its tinted glass; none where
    it does, or its colour is not to be guessed.
    """
    tint = setting.condition.tint if setting.condition else filters.CLEAR
    present, functions = setting.socket.present, setting.socket.functions
    cct_k = USUAL_K.get(present) if present else None
    if tint == filters.CLEAR or cct_k is None:
        return []
    point = filters.through(cct_k, tint, led=False)
    if _is_legal(point, functions):
        return []
    return [
        Finding(
            Level.STOP,
            f"Through the {filters.TINTS[tint].lower()} glass its own light is none the law has: "
            f"{', '.join(colour.white_faults(*point))}.",
            (*CHROMATICITY, *cite("cie-15 white LED spectra")),
            _say_point(point),
            LEGAL.get(functions, "white"),
            "A clear cap or lens, whatever is fitted behind it.",
        )
    ]


def _yellow(source: LightSource, functions: tuple[Function, ...]) -> Iterator[Finding]:
    if functions != (Function.FOG,):
        yield Finding(
            Level.STOP,
            "Yellow is for fog lamps.",
            PRACTICE,
            limit="white",
            advice="Choose a white one.",
        )
        return
    point = chroma(source)
    if point is None:
        advice = "Ask for x and y; look at it beside a known one."
        yield Finding(
            Level.NOTE,
            "Yellow, its colour point not told.",
            PRACTICE,
            limit="selective yellow",
            advice=advice,
        )
    elif faults := colour.yellow_faults(*point):
        text = f"Outside selective yellow: {', '.join(faults)}."
        advice = "Choose another: it may be judged as amber or as white."
        yield Finding(
            Level.STOP, text, CHROMATICITY, _say_point(point), "inside selective yellow", advice
        )
    else:
        text = "Inside selective yellow."
        yield Finding(Level.OK, text, CHROMATICITY, _say_point(point), "inside selective yellow")
    yield Finding(
        Level.NOTE,
        "Selective yellow: legal in many places, about 30 % less light by rule of thumb.",
        PRACTICE,
    )


def _say_point(point: tuple[float, float]) -> str:
    return f"x {point[0]:.3f}, y {point[1]:.3f}"


def _white(source: LightSource, point: tuple[float, float]) -> Finding:
    faults = colour.white_faults(*point)
    number = (
        f"{say_number(source.cct_k, 4)} K, {_say_point(point)}"
        if source.cct_k
        else _say_point(point)
    )
    where = (*CHROMATICITY, *cite("cie-15 daylight locus"))
    if faults:
        text, advice = (
            f"Outside legal white: {', '.join(faults)}.",
            "Choose one near 6000 K or warmer.",
        )
        return Finding(Level.STOP, text, where, number, "inside white", advice)
    return Finding(Level.OK, "Inside legal white.", where, number, "inside white")


def beside_others(source: LightSource, setting: Setting) -> Iterator[Finding]:
    """How it looks beside the car's other white lamps, in u′v′."""
    point = chroma(source)
    if point is None or source.colour != "white":
        return
    for name, cct_k in setting.others:
        apart = colour.difference(point, colour.chromaticity(cct_k))
        number = f"{say_number(apart, 2)} in u′v′ from {name}, {say_number(cct_k, 4)} K"
        where = cite("cie-15 u′v′", "handbook steps after MacAdam")
        limit = f"{STEP_UV} just visible, {PLAIN_UV} plain"
        if apart > PLAIN_UV:
            advice = "Tell the customer, change both, or choose one nearer."
            yield Finding(
                Level.CAUTION, f"Plainly another colour than {name}.", where, number, limit, advice
            )
        elif apart > STEP_UV:
            yield Finding(Level.NOTE, f"Visibly another colour than {name}.", where, number, limit)
        else:
            yield Finding(Level.OK, f"Matches {name}.", where, number, limit)


def claims(source: LightSource, setting: Setting) -> Iterator[Finding]:
    """Lumens per watt beyond what LEDs reach; per set or per bulb; the strong source's washers and
    levelling.
    """
    each = source.lumens_each
    per_watt = each / source.watts
    number, limit = f"{say_number(per_watt)} lm/W", f"{say_number(MOST_LM_PER_W)} lm/W or less"
    if per_watt > MOST_LM_PER_W:
        halved = per_watt / 2 <= MOST_LM_PER_W and source.claim_basis == "bulb"
        advice = (
            "Halved it would add up: ask whether it is for the set."
            if halved
            else "Trust the meter."
        )
        text = "Claimed lumens do not add up."
        yield Finding(
            Level.CAUTION,
            text,
            PRACTICE,
            number,
            limit,
            f"{advice} Predicted with {say_number(source.believable_lm)} lm.",
        )
    else:
        yield Finding(Level.OK, "Claimed lumens are possible.", PRACTICE, number, limit)
    if source.claim_basis == "set":
        number = f"{say_number(source.claimed_lm, 4)} lm for two, {say_number(each, 4)} lm each"
        yield Finding(
            Level.NOTE,
            "Its lumens are claimed for the set.",
            PRACTICE,
            number,
            advice="Compare bulb with bulb.",
        )
    low = setting.market != "us" and setting.socket.gives(Function.LOW) and each > WASHER_LUMENS
    if low and len(source.functions) > 1:
        yield Finding(
            Level.NOTE,
            "Its lumens are claimed for all it gives.",
            cite("un-r48"),
            f"{say_number(each, 4)} lm claimed",
            f"{WASHER_LUMENS:g} lm of low beam",
            "Ask for its low beam's: a stronger one needs washers and automatic levelling.",
        )
    elif low:
        yield Finding(
            Level.CAUTION,
            "A low beam source this strong needs washers and automatic levelling.",
            cite("un-r48"),
            f"{say_number(each, 4)} lm claimed",
            f"{WASHER_LUMENS:g} lm",
            "Choose a weaker one, or see whether the car has both.",
        )
