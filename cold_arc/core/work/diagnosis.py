"""From what a lamp shows to why: causes by how likely they are, and the test that tells most a
minute.

Bayes' rule over the causes of ``data/faults.toml`` (common practice, no published source): what is
seen and what each test answered weigh every cause; the next best test is the one with the most
expected information (bits) a minute. What the shop found before counts as well as the table's own
weights.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from functools import cache
from typing import Any

from cold_arc.core import data

# Sure enough of one cause; causes less likely than this count no more; a test must promise so many
# bits (own).
SURE, GONE, LEAST_BITS = 0.9, 0.02, 0.02
# What a cause that a symptom does not name still shows of it (own).
UNNAMED = 0.002
# How much one fault found in the shop counts, beside the table's weights.
FOUND_WEIGHT = 1.0
# What is left of a cause whose cure did not help (own).
NOT_CURED = 0.003


@dataclass(frozen=True)
class Cause:
    """Why: its cure, what to prove again after it, how often it is met."""

    id: str
    text: str
    cure: str
    weight: float
    again: str = ""
    caution: str = ""


@dataclass(frozen=True)
class Symptom:
    """What is seen, and how probably each cause shows it."""

    id: str
    text: str
    shows: Mapping[str, float]


@dataclass(frozen=True)
class Test:
    """What can be tried: minutes, its answers, and how probable each is with every cause."""

    id: str
    text: str
    minutes: float
    answers: tuple[str, ...]
    likely: Mapping[str, tuple[float, ...]]
    otherwise: tuple[float, ...]
    caution: str = ""

    def probable(self, cause: str, answer: int) -> float:
        """How probable an answer is, given a cause."""
        return self.likely.get(cause, self.otherwise)[answer]


@dataclass(frozen=True)
class Faults:
    """The whole table."""

    causes: Mapping[str, Cause]
    symptoms: Mapping[str, Symptom]
    tests: Mapping[str, Test]


@cache
def faults() -> Faults:
    """The table that ships with the core; ValueError for one that contradicts itself."""
    table = data.load("faults")
    causes = {key: Cause(key, **row) for key, row in table["causes"].items()}
    symptoms = {key: Symptom(key, **row) for key, row in table["symptoms"].items()}
    tests = {key: _test(key, row) for key, row in table["tests"].items()}
    _check(causes, symptoms, tests)
    return Faults(causes, symptoms, tests)


def _test(key: str, row: dict[str, Any]) -> Test:
    likely = {cause: tuple(row["with"][cause]) for cause in row["with"]}
    return Test(
        key,
        row["text"],
        float(row["minutes"]),
        tuple(row["answers"]),
        likely,
        tuple(row["else"]),
        row.get("caution", ""),
    )


def _check(
    causes: Mapping[str, Cause], symptoms: Mapping[str, Symptom], tests: Mapping[str, Test]
) -> None:
    for symptom in symptoms.values():
        if unknown := symptom.shows.keys() - causes.keys():
            raise ValueError(f"{symptom.id}: {unknown}")
    for test in tests.values():
        rows = [*test.likely.values(), test.otherwise]
        if test.likely.keys() - causes.keys() or any(len(row) != len(test.answers) for row in rows):
            raise ValueError(test.id)
        if any(not math.isclose(sum(row), 1.0, abs_tol=1e-6) or min(row) < 0 for row in rows):
            raise ValueError(test.id)


Answers = tuple[tuple[str, int], ...]


@dataclass(frozen=True)
class Case:
    """What is seen, and the answers so far: (test, which of its answers).

    *found*: how often the shop found each cause before; *tried*: causes whose cure did not help.
    """

    symptom: str
    answers: Answers = ()
    found: tuple[tuple[str, int], ...] = ()
    tried: tuple[str, ...] = ()

    def answered(self, test: str, answer: int) -> Case:
        """The case with one more answer."""
        return replace(self, answers=(*self.answers, (test, answer)))

    @property
    def minutes(self) -> float:
        """What the tests took."""
        return sum(faults().tests[test].minutes for test, _ in self.answers)


def beliefs(case: Case) -> dict[str, float]:
    """How likely each cause is, the likeliest first."""
    table, counted = faults(), dict(case.found)
    shows = table.symptoms[case.symptom].shows
    weights = {
        key: (cause.weight + FOUND_WEIGHT * counted.get(key, 0)) * shows.get(key, UNNAMED)
        for key, cause in table.causes.items()
    }
    for test, answer in case.answers:
        weights = {
            key: weight * max(table.tests[test].probable(key, answer), 1e-6)
            for key, weight in weights.items()
        }
    weights = {
        key: weight * (NOT_CURED if key in case.tried else 1.0) for key, weight in weights.items()
    }
    total = sum(weights.values())
    return dict(
        sorted(
            ((key, weight / total) for key, weight in weights.items()), key=lambda pair: -pair[1]
        )
    )


@dataclass(frozen=True)
class Promise:
    """What a test promises: *bits* of information expected, *settles*: the share of what is open
    that it is expected to settle, and *rate*, bits a minute.
    """

    test: Test
    bits: float
    settles: float

    @property
    def rate(self) -> float:
        """Bits a minute."""
        return self.bits / self.test.minutes


def promises(case: Case) -> list[Promise]:
    """The tests not made yet that tell anything, those that tell most a minute first."""
    belief, made = beliefs(case), {test for test, _ in case.answers}
    in_doubt = _doubt(belief.values())
    offers = [
        Promise(test, bits := _bits(test, belief), bits / in_doubt if in_doubt else 0.0)
        for test in faults().tests.values()
        if test.id not in made
    ]
    return sorted(
        (promise for promise in offers if promise.bits >= LEAST_BITS),
        key=lambda promise: -promise.rate,
    )


def _bits(test: Test, belief: Mapping[str, float]) -> float:
    """The information a test is expected to give, bits: how much less doubt is left on average."""
    before, after = _doubt(belief.values()), 0.0
    for answer in range(len(test.answers)):
        joint = [share * test.probable(cause, answer) for cause, share in belief.items()]
        total = sum(joint)
        if total > 0:
            after += total * _doubt(part / total for part in joint)
    return before - after


def _doubt(shares: Iterable[float]) -> float:
    return -sum(share * math.log2(share) for share in shares if share > 0)


def left(case: Case) -> dict[str, float]:
    """The causes that still count."""
    return {key: share for key, share in beliefs(case).items() if share >= GONE}


def verdict(case: Case) -> Cause | None:
    """The cause, once it is sure enough, or once all that are left are cured alike or nothing tells
    them apart.
    """
    table, remaining = faults(), left(case)
    likeliest = next(iter(remaining))
    cures = {table.causes[key].cure for key in remaining}
    if remaining[likeliest] >= SURE or len(cures) == 1 or not promises(case):
        return table.causes[likeliest]
    return None
