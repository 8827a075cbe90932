"""What is said at Prove, and of a fault looked for."""

from __future__ import annotations

from dataclasses import dataclass

from cold_arc.core.car import bases
from cold_arc.core.car.lamps import Side
from cold_arc.core.job.entries.kind import EntryKind, Payload, Subject, must, tells_more
from cold_arc.core.units import lowered, say_count
from cold_arc.core.work import interlocks, proof
from cold_arc.core.work.diagnosis import faults


@dataclass(frozen=True)
class Proved(Payload):
    """One cell of the board; *stage_pass* is "open" or "closed"; *reason*: why one is recorded as
    seen open with the panels shut.
    """

    # 2: the reason.
    ENTRY = EntryKind("proved", 2, older={1: tells_more})

    stage_pass: str
    function: str
    side: Side
    engine: str
    result: str
    reason: str = ""

    def subject(self) -> Subject:
        return self.stage_pass, self.function, self.side, self.engine

    def must_hold(self) -> None:
        known = (
            self.function in proof.FUNCTIONS
            and self.result in proof.RESULTS
            and self.stage_pass in proof.PASSES
        )
        must(known and self.engine in proof.ENGINE, "A cell that is not on the board")

    def in_words(self) -> str:
        cell = proof.Cell(self.function, self.side.value, self.engine)
        why = f" ({self.reason})" if self.reason else ""
        return f"{cell.words}: {proof.RESULTS[self.result].lower()}{why}"


@dataclass(frozen=True)
class Interlocked(Payload):
    """How functions work together in a pass of the board: whether an *interlock* does as the
    market's rule has it.
    """

    ENTRY = EntryKind("interlocked")

    stage_pass: str
    interlock: str
    right: bool

    def subject(self) -> Subject:
        return self.stage_pass, self.interlock

    def must_hold(self) -> None:
        must(
            self.interlock in interlocks.interlocks() and self.stage_pass in proof.PASSES,
            "Such an interlock",
        )

    def in_words(self) -> str:
        text = interlocks.interlocks()[self.interlock].text
        return f"{text}: {'as it should' if self.right else 'not so'}"


@dataclass(frozen=True)
class FaultSought(Payload):
    """A fault being looked for: the *symptom*, the tests made with which of their answers each
    gave, the causes whose cure was *tried* and did not help."""

    ENTRY = EntryKind("fault-sought")

    symptom: str
    answers: tuple[tuple[str, int], ...] = ()
    tried: tuple[str, ...] = ()

    def subject(self) -> Subject:
        return (self.symptom,)

    def must_hold(self) -> None:
        table = faults()
        must(
            self.symptom in table.symptoms and set(self.tried) <= table.causes.keys(),
            "Such a fault",
        )
        for test, answer in self.answers:
            must(
                test in table.tests and 0 <= answer < len(table.tests[test].answers),
                "Such an answer",
            )

    def in_words(self) -> str:
        symptom = faults().symptoms[self.symptom].text
        return f"Fault sought: {lowered(symptom)}, {say_count(len(self.answers), 'test')}"


@dataclass(frozen=True)
class FaultFound(Payload):
    """A fault found: the *cause* of a *symptom*, and whether its cure *cured* it."""

    ENTRY = EntryKind("fault-found")

    symptom: str
    cause: str
    cured: bool = True

    def subject(self) -> Subject:
        return (self.symptom,)

    def must_hold(self) -> None:
        must(
            self.symptom in faults().symptoms and self.cause in faults().causes,
            "Such a fault",
        )

    def in_words(self) -> str:
        cause = faults().causes[self.cause].text
        return f"Fault {'cured' if self.cured else 'found'}: {lowered(cause)}"


@dataclass(frozen=True)
class NotOnCar(Payload):
    """This car has no such function (*absent*), or has it after all."""

    ENTRY = EntryKind("not-on-car")

    function: str
    absent: bool = True

    def subject(self) -> Subject:
        return (self.function,)

    def must_hold(self) -> None:
        must(self.function in proof.FUNCTIONS, "A function that is not on the board")

    def in_words(self) -> str:
        return (
            f"{proof.FUNCTIONS[self.function]}: "
            f"{'not on this car' if self.absent else 'on this car'}"
        )


# What hangs at the rear, done along the way: named, fitted, proved; no more.
REAR = {
    "brake": "Brake light",
    "tail": "Tail light",
    "reverse": "Reversing light",
    "rear-fog": "Rear fog",
    "rear-turn": "Rear turn signal",
    "plate": "Number plate light",
}
REAR_RESULTS = {name: proof.RESULTS[name] for name in ("works", "dark", "fast", "warning")}


@dataclass(frozen=True)
class RearDone(Payload):
    """A lamp at the rear done along the way: its *function* (of REAR), its *base*, what was
    *fitted*, and what it does now.
    """

    ENTRY = EntryKind("rear-done")

    function: str
    side: Side
    base: str
    fitted: str
    result: str

    def subject(self) -> Subject:
        return self.function, self.side

    def must_hold(self) -> None:
        must(self.function in REAR and self.result in REAR_RESULTS, "Such a lamp")
        must(bases.find(self.base) is not None, "A base that is not in the catalogue")
        must(bool(self.fitted), "A lamp fitted with nothing")

    @property
    def works(self) -> bool:
        """Whether it does as it should."""
        return self.result in proof.GOOD_RESULTS

    def in_words(self) -> str:
        return (
            f"{REAR[self.function]} {self.side}, {self.base}: {self.fitted}, "
            f"{REAR_RESULTS[self.result].lower()}"
        )
