"""What a step at the car waits for, and what may be told of steps in one go; the words that make
safe.

Common practice, no published source.
"""

from __future__ import annotations

from collections.abc import Iterable

from cold_arc.core.car.keys import Key, UnitKey
from cold_arc.core.job.steps import Step
from cold_arc.core.work.fitting import FitStep

# What is done first at a lamp with a gas discharge bulb, and again once it was lit; the kinds of
# steps that touch it.
SAFE = "Key out, lights off, battery off; wait five minutes"
SAFE_WHY = (
    "A ballast makes tens of kilovolts at ignition and holds a charge. The battery goes on again "
    "only to prove, hands off, every plug home."
)
SAFE_AGAIN = "Battery off again"
SAFE_AGAIN_WHY = (
    "The battery was on to prove. Off again before a plug or panel is in hand; at a ballast, and "
    "where an airbag's plug is near, wait five minutes."
)
LIVE_AGAIN_WHY = "Every lamp is closed, no plug in hand: what is proved now is as it is driven."
LIVE_WHY = (
    "Battery on only for this: every plug home, airbag plugs too, nobody's hands inside. Never "
    "with an airbag's plug in hand; where one hangs loose the battery stays off."
)
TOUCHES = ("open", "fit", "extra", "plug", "seal")
CLOSES = ("plug", "close")
# What is done at a lamp once it is proved: of both sides in one go.
AT_CLOSING = {"seal", "close"}
# What may be done in one go, and told so.
IN_ONE_GO = ("tools", *TOUCHES, "close")


def is_of_bulb(fit_step: FitStep) -> bool:
    """Whether a fitting step is each bulb's own, while it is open."""
    return not (fit_step.at_closing or fit_step.lamp or fit_step.first)


def is_of_lamp(fit_step: FitStep) -> bool:
    """Whether a fitting step is done once for a lamp, while it is open."""
    return fit_step.lamp and not (fit_step.first or fit_step.last)


def is_last(fit_step: FitStep) -> bool:
    """Whether a fitting step is done once for a lamp, after all its bulbs."""
    return fit_step.last


def stands_as(step: Step) -> list[tuple[str, Key]]:
    """What others may wait for of a step: its kind, and each thing it is about."""
    own = [step.ticks[0][0]] if step.kind == "fit" else []
    return [(step.kind, key) for key in (*own, *step.units)]


def before_it(step: Step, units: Iterable[UnitKey]) -> list[tuple[str, Key]]:
    """What stands before a step that waits for the work at some *units*: steps of which kinds,
    about which things; before a closing what is opened, fitted and proved besides, which it tells
    in words of its own.
    """
    if step.kind == "fit":
        return [("fit", step.ticks[0][0]), *(("open", key) for key in units)]
    kinds = {
        "open": ("open", "fit"),
        "extra": ("open",),
        "plug": ("open", "fit", "extra"),
        "prove": ("open", "fit", "extra", "plug"),
        "safe": ("prove",) if step.text == SAFE_AGAIN else (),
        "live": ("safe", "seal", "close"),
        "seal": ("open", "fit", "extra", "plug", "prove", "seal"),
        "close": ("seal", "plug", "live", "close"),
    }[step.kind]
    return [(kind, key) for key in units for kind in kinds]
