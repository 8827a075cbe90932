"""Its colour, beside the other lamps too, and whether its claims add up."""

from __future__ import annotations

from collections.abc import Iterator

from cold_arc.core.car.lamps import Function
from cold_arc.core.findings import Finding, Level
from cold_arc.core.job.facts import USUAL_K
from cold_arc.core.light import colour, filters
from cold_arc.core.light_source import MOST_LM_PER_W, LightSource
from cold_arc.core.references import PRACTICE, cite
from cold_arc.core.units import worded
from cold_arc.core.wiring.setting import Setting

# lm from which UN R48 asks for washers and levelling (from memory); a just visible and a plain step
# in u′v′ (MacAdam).
WASHER_LUMENS = 2000.0
STEP_UV, PLAIN_UV = 0.004, 0.02
CHROMATICITY = cite("un-r48 chromaticity")
TURN_AMBER = "Choose an amber one."
TURN_TINT = "Choose an amber one, or record its amber lens at Inspect."


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
                "amber-elsewhere",
                Level.STOP,
                "Amber is for turn signals.",
                PRACTICE,
                limit="white",
                advice="Choose a white one.",
            )
    elif functions == (Function.TURN,) and "switchback" not in source.modes:
        yield from _white_turn(source, setting)
    elif (point := chroma(source)) is not None:
        yield _white(source, point)
    yield from _through_tint(source, setting)


def _white_turn(source: LightSource, setting: Setting) -> Iterator[Finding]:
    """White light where a turn signal must be amber: behind a clear lens, which a bulb of amber
    glass tells, it is none; behind an amber one its colour is judged through that.
    """
    tint = setting.condition.tint if setting.condition else filters.CLEAR
    if source.takes_place or tint != filters.CLEAR:
        return
    level, number, advice = Level.CAUTION, "", TURN_TINT
    if setting.base is not None and setting.base.glass == "amber":
        level, number, advice = (
            Level.STOP,
            "its own bulb is amber, so its lens is clear",
            TURN_AMBER,
        )
    text = "White light in a turn signal."
    yield Finding("turn-white", level, text, CHROMATICITY, number, "amber", advice)


# What else than white the lamps of some functions may show.
LEGAL: dict[tuple[Function, ...], str] = {
    (Function.FOG,): "white or selective yellow",
    (Function.TURN,): "amber",
}


def _faults(point: tuple[float, float], functions: tuple[Function, ...]) -> list[str]:
    """Why lamps of these functions may not shine with a colour: what it lacks of amber where they
    must be amber, else of white; none where they may.
    """
    if functions == (Function.TURN,):
        return colour.amber_faults(*point)
    if functions == (Function.FOG,) and not colour.yellow_faults(*point):
        return []
    return colour.white_faults(*point)


def _through_tint(source: LightSource, setting: Setting) -> Iterator[Finding]:
    """The colour that leaves a tinted lamp: white, or in fog lamps selective yellow, or none the
    law has.
    """
    tint = setting.condition.tint if setting.condition else filters.CLEAR
    if source.takes_place or tint == filters.CLEAR or source.cct_k is None:
        return
    point = filters.through(source.cct_k, tint)
    glass, functions = filters.TINTS[tint].lower(), setting.socket.functions
    faults = _faults(point, functions)
    if not faults:
        level = Level.NOTE
        text = worded("Through the {glass} glass its colour stays legal.", glass=glass)
    else:
        level = Level.STOP
        text = worded(
            "Through the {glass} glass its colour is none the law has: {faults}.",
            glass=glass,
            faults=", ".join(faults),
        )
    yield Finding(
        "tint-colour",
        level,
        text,
        (*CHROMATICITY, *cite("cie-15 white LED spectra")),
        worded(
            "{point}; passes {share:percent}",
            point=_say_point(point),
            share=filters.share(source.cct_k, tint),
        ),
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
    faults = _faults(point, functions)
    if not faults:
        return []
    return [
        Finding(
            "tint-own-colour",
            Level.STOP,
            worded(
                "Through the {tint} glass its own light is none the law has: {faults}.",
                tint=filters.TINTS[tint].lower(),
                faults=", ".join(faults),
            ),
            (*CHROMATICITY, *cite("cie-15 white LED spectra")),
            _say_point(point),
            LEGAL.get(functions, "white"),
            "A clear cap or lens, whatever is fitted behind it.",
        )
    ]


def _yellow(source: LightSource, functions: tuple[Function, ...]) -> Iterator[Finding]:
    if functions != (Function.FOG,):
        yield Finding(
            "yellow-elsewhere",
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
            "yellow-untold",
            Level.NOTE,
            "Yellow, its colour point not told.",
            PRACTICE,
            limit="selective yellow",
            advice=advice,
        )
    elif faults := colour.yellow_faults(*point):
        text = worded("Outside selective yellow: {faults}.", faults=", ".join(faults))
        advice = "Choose another: it may be judged as amber or as white."
        yield Finding(
            "yellow-outside",
            Level.STOP,
            text,
            CHROMATICITY,
            _say_point(point),
            "inside selective yellow",
            advice,
        )
    else:
        yield Finding(
            "yellow-inside",
            Level.OK,
            "Inside selective yellow.",
            CHROMATICITY,
            _say_point(point),
            "inside selective yellow",
        )
    yield Finding(
        "yellow-less-light",
        Level.NOTE,
        "Selective yellow: legal in many places, about 30 % less light by rule of thumb.",
        PRACTICE,
    )


def _say_point(point: tuple[float, float]) -> str:
    return f"x {point[0]:.3f}, y {point[1]:.3f}"


def _white(source: LightSource, point: tuple[float, float]) -> Finding:
    faults = colour.white_faults(*point)
    number = (
        worded("{cct_k:number 4} K, {point}", cct_k=source.cct_k, point=_say_point(point))
        if source.cct_k
        else _say_point(point)
    )
    where = (*CHROMATICITY, *cite("cie-15 daylight locus"))
    if faults:
        text, advice = (
            worded("Outside legal white: {faults}.", faults=", ".join(faults)),
            "Choose one near 6000 K or warmer.",
        )
        return Finding("colour-not-white", Level.STOP, text, where, number, "inside white", advice)
    return Finding("colour-white", Level.OK, "Inside legal white.", where, number, "inside white")


def beside_others(source: LightSource, setting: Setting) -> Iterator[Finding]:
    """How it looks beside the car's other white lamps, in u′v′."""
    point = chroma(source)
    signal = setting.socket.functions == (Function.TURN,)
    if point is None or source.colour != "white" or signal:
        return
    for name, cct_k in setting.others:
        apart = colour.difference(point, colour.chromaticity(cct_k))
        number = worded(
            "{apart:number 2} in u′v′ from {name}, {cct_k:number 4} K",
            apart=apart,
            name=name,
            cct_k=cct_k,
        )
        where = cite("cie-15 u′v′", "handbook steps after MacAdam")
        limit = worded(
            "{step_uv} just visible, {plain_uv} plain", step_uv=STEP_UV, plain_uv=PLAIN_UV
        )
        if apart > PLAIN_UV:
            advice = "Tell the customer, change both, or choose one nearer."
            yield Finding(
                "colour-apart",
                Level.CAUTION,
                worded("Plainly another colour than {name}.", name=name),
                where,
                number,
                limit,
                advice,
            )
        elif apart > STEP_UV:
            yield Finding(
                "colour-near",
                Level.NOTE,
                worded("Visibly another colour than {name}.", name=name),
                where,
                number,
                limit,
            )
        else:
            yield Finding(
                "colour-alike", Level.OK, worded("Matches {name}.", name=name), where, number, limit
            )


def claims(source: LightSource, setting: Setting) -> Iterator[Finding]:
    """Lumens per watt beyond what LEDs reach; per set or per bulb; the strong source's washers and
    levelling.
    """
    each = source.lumens_each
    per_watt = each / source.watts
    number, limit = (
        worded("{per_watt:number} lm/W", per_watt=per_watt),
        worded("{most_lm_per_w:number} lm/W or less", most_lm_per_w=MOST_LM_PER_W),
    )
    if per_watt > MOST_LM_PER_W:
        halved = per_watt / 2 <= MOST_LM_PER_W and source.claim_basis == "bulb"
        advice = (
            "Halved it would add up: ask whether it is for the set."
            if halved
            else "Trust the meter."
        )
        text = "Claimed lumens do not add up."
        yield Finding(
            "lumens-impossible",
            Level.CAUTION,
            text,
            PRACTICE,
            number,
            limit,
            worded(
                "{advice} Predicted with {believable_lm:number} lm.",
                advice=advice,
                believable_lm=source.believable_lm,
            ),
        )
    else:
        yield Finding(
            "lumens-possible", Level.OK, "Claimed lumens are possible.", PRACTICE, number, limit
        )
    if source.claim_basis == "set":
        number = worded(
            "{claimed_lm:number 4} lm for two, {each:number 4} lm each",
            claimed_lm=source.claimed_lm,
            each=each,
        )
        yield Finding(
            "lumens-of-set",
            Level.NOTE,
            "Its lumens are claimed for the set.",
            PRACTICE,
            number,
            advice="Compare bulb with bulb.",
        )
    low = setting.market != "us" and setting.socket.gives(Function.LOW) and each > WASHER_LUMENS
    if low and len(source.functions) > 1:
        yield Finding(
            "lumens-of-all",
            Level.NOTE,
            "Its lumens are claimed for all it gives.",
            cite("un-r48"),
            worded("{each:number 4} lm claimed", each=each),
            worded("{washer_lumens:g} lm of low beam", washer_lumens=WASHER_LUMENS),
            "Ask for its low beam's: a stronger one needs washers and automatic levelling.",
        )
    elif low:
        yield Finding(
            "strong-source",
            Level.CAUTION,
            "A low beam source this strong needs washers and automatic levelling.",
            cite("un-r48"),
            worded("{each:number 4} lm claimed", each=each),
            worded("{washer_lumens:g} lm", washer_lumens=WASHER_LUMENS),
            "Choose a weaker one, or see whether the car has both.",
        )
