"""Inspect: what the lamp's state allows, and how to bring a hazed lens back.

Common practice, no published source: haze grades, grit ladder, times. The grade is judged by eye:
0 clear, 1 light bloom, 2 yellowed, 3 heavy and rough, 4 crazed into the plastic.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from enum import StrEnum
from typing import Any

from cold_arc.core.findings import Finding, Level, worst
from cold_arc.core.light import filters
from cold_arc.core.light.colour import FILAMENT_K
from cold_arc.core.light.filters import CLEAR, TINTS
from cold_arc.core.references import PRACTICE, cite
from cold_arc.core.units import worded

HAZE_GRADES = {
    0: "Clear",
    1: "Light bloom",
    2: "Yellowed",
    3: "Heavy and rough",
    4: "Crazed into the plastic",
}
GRITS = (800, 1000, 1500, 2000, 3000)
PATIENT_GRIT = 4000
FIRST_GRIT = {2: 2000, 3: 1000, 4: 800}
MINUTES = {"mask": 8, "grit": 7, "polish": 10, "coat": 12}
TIGHT_ROOM_MM = 40.0


class Verdict(StrEnum):
    """What becomes of a unit."""

    GO = "go"
    RESTORE = "restore"
    REPLACE = "replace"


@dataclass(frozen=True)
class UnitCondition:
    """What was seen on one unit. Lengths mm; prices in the shop's currency, None when not asked
    for. *tint*: the colour of lens, cap or glass before the source; *finish*: what its mirror is
    coated with, "" where not told.
    """

    haze: int
    condensation: str = "none"
    crack: str = "none"
    mirror: str = "good"
    seating: str = "firm"
    strip_dead: bool = False
    room_mm: float | None = None
    opening_mm: float | None = None
    patient: bool = False
    replacement_price: float | None = None
    labour_rate: float | None = None
    lens: str = "plastic"
    opened: bool = False
    tint: str = CLEAR
    finish: str = ""

    @property
    def is_glass(self) -> bool:
        """Whether its lens is glass, which is neither sanded nor coated."""
        return self.lens == "glass"

    @property
    def is_sanded(self) -> bool:
        """Whether restoring it makes sanding dust: hazy plastic."""
        return bool(self.haze) and not self.is_glass


def as_new(seen: UnitCondition) -> UnitCondition:
    """A unit in a new housing like for like: its faults gone, its room and its prices the same."""
    new = UnitCondition(haze=0)
    kept = ("room_mm", "opening_mm", "patient", "replacement_price", "labour_rate", "lens")
    return replace(new, **{name: getattr(seen, name) for name in kept})


CONDENSATION = {"none": "None", "mist": "Mist that clears", "drops": "Drops or standing water"}
CRACK = {
    "none": "None",
    "hairline": "Hairline, not through",
    "through": "Through the lens or housing",
}
MIRROR = {"good": "Bright", "dull": "Dull", "peeling": "Peeling or burnt"}
SEATING = {"firm": "Firm", "wobble": "Wobbles", "broken-tab": "Broken tab or guide"}
LENS = {"plastic": "Plastic", "glass": "Glass"}
FINISHES = {
    "": "Not told",
    "aluminium": "Flash aluminium",
    "silver": "Polished silver",
    "chrome": "Chrome",
}
# The share of light each throws back (lighting handbooks, from memory: new and bright).
REFLECTANCE = {"aluminium": 0.87, "silver": 0.93, "chrome": 0.63}
USUAL_FINISH = "aluminium"
# What each judged fact may be.
CHOICES: dict[str, dict[Any, str]] = {
    "haze": HAZE_GRADES,
    "condensation": CONDENSATION,
    "crack": CRACK,
    "mirror": MIRROR,
    "seating": SEATING,
    "lens": LENS,
    "tint": TINTS,
    "finish": FINISHES,
}


@dataclass(frozen=True)
class RestoreStep:
    """One step of a lens restoration and its minutes for one lamp."""

    text: str
    minutes: int


def grits(haze: int, patient: bool = False) -> tuple[int, ...]:
    """The wet-sanding grits for a haze grade: up the ladder, no step more than double.

    >>> grits(3)
    (1000, 1500, 2000, 3000)
    """
    if haze < 2:
        return ()
    ladder = GRITS + ((PATIENT_GRIT,) if patient else ())
    return tuple(grit for grit in ladder if grit >= FIRST_GRIT[haze])


def restoration(haze: int, patient: bool = False, glass: bool = False) -> tuple[RestoreStep, ...]:
    """The steps that restore a lens of a haze grade; none for a clear one. Plastic always ends in a
    UV coat; glass is cleaned, and polished with cerium oxide at most.
    """
    if haze == 0:
        return ()
    if glass:
        return (
            RestoreStep("Wash the glass, inside too where it opens; dry", MINUTES["mask"]),
            RestoreStep("Polish with cerium oxide, wet and cool; no paper", MINUTES["polish"]),
        )
    return (
        RestoreStep("Wash, dry, mask the paint around the lens", MINUTES["mask"]),
        *(
            RestoreStep(f"Wet sand with {grit} grit until even", MINUTES["grit"])
            for grit in grits(haze, patient)
        ),
        RestoreStep("Machine polish until clear", MINUTES["polish"]),
        RestoreStep("Wipe clean and apply a UV coat; let it cure", MINUTES["coat"]),
    )


def restoration_of(seen: UnitCondition) -> tuple[RestoreStep, ...]:
    """The steps that restore the lens of a unit as it was seen."""
    return restoration(seen.haze, seen.patient, seen.is_glass)


def restoring_words(seen: UnitCondition) -> str:
    """How a lens is restored, in few words; a clear one as one that was seen to be light bloom.

    >>> restoring_words(UnitCondition(haze=2)), restoring_words(UnitCondition(haze=1))
    ('wet sand 2000, 3000, polish, UV coat', 'machine polish, UV coat')
    """
    if seen.is_glass:
        return "wash, polish with cerium oxide"
    paper = _paper(seen)
    way = f"wet sand {paper}, polish" if paper else "machine polish"
    return f"{way}, UV coat"


def restoring_uses(seen: UnitCondition) -> tuple[str, ...]:
    """What restoring a lens uses up.

    >>> restoring_uses(UnitCondition(haze=2))
    ('wet paper 2000, 3000', 'polish', 'UV coat')
    """
    if seen.is_glass:
        return ("cerium oxide",)
    paper = _paper(seen)
    return (*([f"wet paper {paper}"] if paper else []), "polish", "UV coat")


def restored_words(seen: UnitCondition) -> str:
    """What was done to a lens that was restored, as it was seen before.

    >>> restored_words(UnitCondition(haze=2))
    'wet sanded with 2000, 3000 grit, polished, UV coat'
    """
    if seen.is_glass:
        return "glass washed and polished"
    paper = _paper(seen)
    return f"wet sanded with {paper} grit, polished, UV coat" if paper else "polished, UV coat"


def _paper(seen: UnitCondition) -> str:
    """The grits a lens is sanded with, in words; "" for none."""
    return ", ".join(map(str, grits(seen.haze, seen.patient)))


def restoration_minutes(seen: UnitCondition) -> int:
    """Minutes to restore one lens as it was seen."""
    return sum(step.minutes for step in restoration_of(seen))


def _haze(seen: UnitCondition) -> Finding | None:
    name = HAZE_GRADES[seen.haze]
    if seen.haze == 0:
        return Finding(
            "lens-clear",
            Level.OK,
            "Lens is clear.",
            PRACTICE,
            worded("grade {haze}", haze=seen.haze),
        )
    if seen.is_glass:
        return Finding(
            "glass-dull",
            Level.CAUTION,
            worded("Dull glass: {name}. It scatters light; no bulb cures it.", name=name.lower()),
            PRACTICE,
            worded("grade {haze}", haze=seen.haze),
            advice="Glass is not sanded and takes no coat: clean it inside and out; pitted by "
            "stones, it is replaced.",
        )
    way, minutes = restoring_words(seen), restoration_minutes(seen)
    if seen.haze == 4:
        return Finding(
            "lens-crazed",
            Level.CAUTION,
            worded("Haze: {name}. Sanding may not reach the bottom of it.", name=name.lower()),
            PRACTICE,
            "grade 4",
            advice=worded(
                "Restore: {way}. About {minutes} min a lamp. Replace the assembly "
                "if crazing stays.",
                way=way,
                minutes=minutes,
            ),
        )
    return Finding(
        "lens-hazy",
        Level.CAUTION,
        worded("Haze: {name}. It scatters light; no bulb cures it.", name=name.lower()),
        PRACTICE,
        worded("grade {haze}", haze=seen.haze),
        advice=worded("Restore: {way}. About {minutes} min a lamp.", way=way, minutes=minutes),
    )


def _condensation(seen: UnitCondition) -> Finding | None:
    if seen.condensation == "drops":
        return Finding(
            "water-stands",
            Level.STOP,
            "Water stands in the lamp.",
            PRACTICE,
            advice="Replace the assembly. Opening and re-sealing it is a separate, bigger job.",
        )
    if seen.condensation == "mist":
        return Finding(
            "lamp-misty",
            Level.CAUTION,
            "Mist in the lamp.",
            PRACTICE,
            advice="Check vents, cap and seals; look again after a warm hour.",
        )
    return None


def _opened(seen: UnitCondition) -> Finding | None:
    if not seen.opened:
        return None
    return Finding(
        "opened-before",
        Level.CAUTION,
        "It was opened and sealed before.",
        PRACTICE,
        advice="Photograph the seam; look for mist after the test drive: what leaks now leaked "
        "before.",
    )


def _crack(seen: UnitCondition) -> Finding | None:
    if seen.crack == "through":
        return Finding(
            "crack-through",
            Level.STOP,
            "Crack goes through.",
            PRACTICE,
            advice="Replace the assembly: water will get in.",
        )
    if seen.crack == "hairline":
        return Finding(
            "crack-hairline",
            Level.CAUTION,
            "Hairline crack.",
            PRACTICE,
            advice="Show the customer before touching it; do not press on the lens.",
        )
    return None


def _mirror(seen: UnitCondition) -> Finding | None:
    if seen.mirror == "peeling":
        return Finding(
            "mirror-gone",
            Level.STOP,
            "Mirror is peeling or burnt.",
            PRACTICE,
            advice="Replace the assembly, or have the mirror renewed.",
        )
    if seen.mirror == "dull":
        return Finding(
            "mirror-dull",
            Level.CAUTION,
            "Mirror is dull: some light is lost whatever bulb is fitted.",
            PRACTICE,
            advice=(
                "On vintage lamps have it re-silvered; polished silver or flash aluminium beats "
                "chrome."
            ),
        )
    return None


def _finish(seen: UnitCondition) -> Finding | None:
    if not seen.finish:
        return None
    share = REFLECTANCE[seen.finish]
    level = Level.CAUTION if seen.finish == "chrome" else Level.NOTE
    return Finding(
        "mirror-finish",
        level,
        worded("Mirror of {finish}.", finish=FINISHES[seen.finish].lower()),
        cite("handbook reflectance of metals"),
        worded("throws back {share:percent}", share=share),
        worded("{reflectance:percent} polished silver", reflectance=REFLECTANCE["silver"]),
        "Have it re-silvered or flash-aluminised: no bulb makes up for it." if level > 1 else "",
    )


def _tint(seen: UnitCondition) -> Finding | None:
    if seen.tint == CLEAR:
        return None
    kept = filters.share(FILAMENT_K, seen.tint, led=False)
    return Finding(
        "glass-tinted",
        Level.CAUTION,
        worded(
            "{tint} glass before the source: it takes light and turns every colour.",
            tint=TINTS[seen.tint],
        ),
        cite("cie-15 white LED spectra", "practice"),
        worded("passes {kept:percent} of a filament's light", kept=kept),
        advice="Match says what colour each source gives through it.",
    )


def _seating(seen: UnitCondition) -> Finding | None:
    if seen.seating == "broken-tab":
        return Finding(
            "tab-broken",
            Level.CAUTION,
            "A tab or guide is broken.",
            PRACTICE,
            advice="Note it with a picture and show the customer first.",
        )
    if seen.seating == "wobble":
        return Finding(
            "lamp-wobbles",
            Level.CAUTION,
            "The bulb or lamp wobbles.",
            PRACTICE,
            advice="A loose bulb is not acceptable: find the play.",
        )
    return None


def _strip(seen: UnitCondition) -> Finding | None:
    if not seen.strip_dead:
        return None
    return Finding(
        "strip-dead",
        Level.STOP,
        "A built-in LED strip is dead.",
        PRACTICE,
        advice="Replace the assembly.",
    )


def _room(seen: UnitCondition) -> Finding | None:
    if seen.room_mm is None or seen.room_mm >= TIGHT_ROOM_MM:
        return None
    return Finding(
        "room-little",
        Level.NOTE,
        "Little room behind the bulb.",
        PRACTICE,
        worded("{room_mm:mm}", room_mm=seen.room_mm),
        worded("{tight_room_mm:mm} or more for most tails", tight_room_mm=TIGHT_ROOM_MM),
        "Look for a short tail, or an extended or vented cap.",
    )


def _cost(seen: UnitCondition) -> Finding | None:
    if seen.replacement_price is None or seen.labour_rate is None or seen.haze == 0:
        return None
    cost = restoration_minutes(seen) / 60 * seen.labour_rate
    number = worded(
        "restore {cost:number}, new {replacement_price:number}",
        cost=cost,
        replacement_price=seen.replacement_price,
    )
    if seen.replacement_price < cost:
        return Finding(
            "replacing-cheaper",
            Level.STOP,
            "A new assembly costs less than the labour to restore.",
            PRACTICE,
            number,
            advice="Replace the assembly.",
        )
    return Finding(
        "restoring-cheaper", Level.OK, "Restoring costs less than a new assembly.", PRACTICE, number
    )


# What makes a lamp unfit as long as it stays; and of that what is mended by opening and sealing it
# anew, by a new module, by an optic of its own set into it.
UNFIT = {"water-stands", "crack-through", "mirror-gone", "strip-dead"}
MENDED_BY = {"seal": "water-stands", "module": "strip-dead", "projector": "mirror-gone"}
_RULES: tuple[Callable[[UnitCondition], Finding | None], ...] = (
    _haze,
    _opened,
    _condensation,
    _crack,
    _mirror,
    _finish,
    _tint,
    _seating,
    _strip,
    _room,
    _cost,
)


def faults(seen: UnitCondition) -> list[Finding]:
    """What is wrong with a lamp as it was seen, or not as its maker's; not what the work on it
    needs or costs.
    """
    of_lamp = (rule(seen) for rule in _RULES if rule not in (_finish, _room, _cost))
    return [finding for finding in of_lamp if finding and finding.level >= Level.CAUTION]


def findings(seen: UnitCondition) -> list[Finding]:
    """Everything the rules say of a lamp's condition."""
    return [finding for rule in _RULES if (finding := rule(seen))]


def verdict(seen: UnitCondition, judged: Iterable[Finding]) -> Verdict:
    """Go, restore or replace: a stop means replace; haze alone means restore."""
    if worst(judged) is Level.STOP:
        return Verdict.REPLACE
    return Verdict.RESTORE if seen.haze else Verdict.GO
