"""The ballast test: swap the bulbs side to side, see what the fault follows. Common practice, no
published source.
"""

from __future__ import annotations

from dataclasses import dataclass

from cold_arc.core import electrical
from cold_arc.core.findings import Finding, Level
from cold_arc.core.references import PRACTICE
from cold_arc.core.units import say_volts

FAULTS = {"left": "Left lamp", "right": "Right lamp", "both": "Both", "none": "Neither"}
AFTER_SWAP = {
    "moved": "The fault moved with the bulb",
    "stayed": "The fault stayed on its side",
    "gone": "Both work now",
}
CAUSES = {
    "bulb": "The bulb is worn or dead; the ballasts work.",
    "ballast": "The ballast, its igniter or its feed; not the bulb.",
    "ballast-fed": "The ballast or its igniter: its feed is good, and it is not the bulb.",
    "seat": "A plug or seat was loose. Run both ten minutes before trusting it.",
    "feed": "Both sides at once: look at fuse, relay and feed before blaming two ballasts.",
    "off-supply": (
        "The feed into the ballast is not the car's supply: find that first; the ballast is not "
        "judged."
    ),
    "unswapped": "The bulbs are still to be swapped side to side: the ballast is not judged.",
    "healthy": "Nothing is wrong now; the ballasts run their bulbs.",
    "new": "The ballast is new.",
}
# What lies before the ballast, so that a new one cures nothing.
OF_FEED = {"feed", "off-supply"}


@dataclass(frozen=True)
class BallastTest:
    """Which lamp was faulty, what the swap did ("" where none was needed), the voltage into the
    ballast, if read.
    """

    fault: str
    after_swap: str = ""
    feed_volts: float | None = None
    note: str = ""

    @property
    def words(self) -> str:
        r"""What was seen, not judged: that hangs on the car's supply.

        >>> BallastTest("right", "stayed", 12.4).words
        'at fault: right lamp; the fault stayed on its side; 12.4\xa0V into its ballast'
        """
        fed = "" if self.feed_volts is None else f"{say_volts(self.feed_volts)} into its ballast"
        swapped = AFTER_SWAP.get(self.after_swap, "").lower()
        return "; ".join(filter(None, [f"at fault: {FAULTS[self.fault].lower()}", swapped, fed]))

    def concerns(self, side: str) -> bool:
        """Whether what it says is of the lamp on a *side*; of both where no one is at fault."""
        return self.fault == side or not needs_swap(self.fault)


def needs_swap(fault: str) -> bool:
    """Whether swapping tells anything: only a fault on one side can move."""
    return fault in ("left", "right")


def is_off_supply(test: BallastTest, nominal_v: float) -> bool:
    """Whether what was read into the ballast is not what a car runs on: none is judged on it."""
    least, most = electrical.RUNNING_VOLTS[nominal_v]
    return test.feed_volts is not None and not least <= test.feed_volts <= most


def cause(test: BallastTest, nominal_v: float) -> str:
    """What the test says, as a key of CAUSES; the feed before all else."""
    if is_off_supply(test, nominal_v):
        return "off-supply"
    if test.fault == "none":
        return "healthy"
    if test.fault == "both":
        return "feed"
    if test.after_swap not in AFTER_SWAP:
        return "unswapped"
    if test.after_swap == "stayed" and test.feed_volts is not None:
        return "ballast-fed"
    return {"moved": "bulb", "stayed": "ballast", "gone": "seat"}[test.after_swap]


# Whether a plug-in LED may rely on the ballast; None while that is not judged.
GOOD = {
    "bulb": True,
    "healthy": True,
    "new": True,
    "ballast": False,
    "ballast-fed": False,
    "seat": True,
    "feed": None,
    "off-supply": None,
    "unswapped": None,
}
# What to do where the test does not tell.
NEXT = {
    "feed": "Read the voltage into a ballast, lamp on.",
    "off-supply": "Fuse, relay, plug and earth; then test again.",
    "unswapped": "Lamps off and cold, battery off: swap the bulbs, and see what the fault follows.",
}


FAILED = "The ballast failed its test, and stays."
RENEW_IT = "Put a new one in, like for like (Options), or choose what needs none."
# What is to be said of a ballast that goes on running its lamp, and what to do.
STAYING = {
    "ballast": (FAILED, RENEW_IT),
    "ballast-fed": (FAILED, RENEW_IT),
    "feed": ("Both lamps failed at once when tested; why was not found.", NEXT["feed"]),
    "off-supply": (
        "The feed into the ballast, when tested, was not the car's supply.",
        NEXT["off-supply"],
    ),
    "unswapped": ("The ballast's test was not ended.", NEXT["unswapped"]),
}


def staying(culprit: str) -> Finding | None:
    """What is to be said of a ballast that goes on running its lamp, by what its test said, a key
    of CAUSES ("": not tested); None where nothing speaks against it.
    """
    if culprit not in STAYING:
        return None
    text, advice = STAYING[culprit]
    name = "ballast-stays" if GOOD[culprit] is False else "ballast-unjudged"
    return Finding(name, Level.CAUTION, text, PRACTICE, advice=advice)


def findings(test: BallastTest, nominal_v: float) -> list[Finding]:
    """What the test means for the three schools, and the reading at the feed."""
    culprit = cause(test, nominal_v)
    good = GOOD[culprit]
    if good:
        advice = "Plug-in on the ballast, own driver, or past it: all three are open."
        collected = [Finding("ballast-good", Level.OK, CAUSES[culprit], PRACTICE, advice=advice)]
    elif good is False:
        advice = "Not a plug-in on this ballast: own driver, past it, or a new ballast."
        collected = [Finding("ballast-bad", Level.STOP, CAUSES[culprit], PRACTICE, advice=advice)]
    else:
        collected = [
            Finding(
                "ballast-open",
                Level.CAUTION,
                CAUSES[culprit],
                PRACTICE,
                advice=NEXT[culprit],
            )
        ]
    if culprit in ("ballast", "feed", "off-supply") or test.feed_volts is not None:
        collected += electrical.feed_point("in", test.feed_volts, nominal_v)
    return collected
