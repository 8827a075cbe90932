"""Exercises at the car: a fault to be found by tests, the order of a way in and of the way back."""

from __future__ import annotations

from functools import lru_cache
from random import Random

from cold_arc.core.school.exercise import (
    AnswerOption,
    CarShown,
    Exercise,
    Judgement,
    NoAnswerError,
    Posed,
    StepsShown,
    by_level,
    lettered,
    shuffled,
)
from cold_arc.core.school.skills import kinds
from cold_arc.core.work import diagnosis
from cold_arc.core.work.access import RouteStep, stands_behind, starter_ways
from cold_arc.core.work.diagnosis import Case, Cause, faults
from cold_arc.devices.simulated_car import SimulatedCar

# From which level on a car answers as it happens to, not as is likeliest; how long one may search
# against the table's own way (own).
LUCKY_FROM, LONGER, LONGER_MIN = 3, (3.0, 2.5, 2.0, 1.75, 1.5), 6.0
MOST_TRIES = 60


def _is_cured(cause: Cause, hidden: str) -> bool:
    """Whether what is done for a cause cures the hidden one."""
    return cause.id == hidden or cause.cure == faults().causes[hidden].cure


@lru_cache(maxsize=512)
def best_way(car: SimulatedCar, symptom: str) -> Case | None:
    """The tests by which the table's own best next test finds a car's fault; None where it names
    another, or needs none.
    """
    case = Case(symptom)
    while (named := diagnosis.verdict(case)) is None:
        test = diagnosis.promises(case)[0].test.id
        case = case.answered(test, car.answer(test))
    return case if case.answers and _is_cured(named, car.fault) else None


def fault(posed: Posed) -> Exercise:
    """A car with a hidden fault that the table's own way finds."""
    luck, level = posed.luck, posed.level
    for _ in range(MOST_TRIES):
        number = luck.randrange(1, 100_000)
        hidden = SimulatedCar.numbered(number).fault
        car = SimulatedCar(hidden, number if level >= LUCKY_FROM else 0)
        shows = car.shows()
        way = best_way(car, shows[0]) if shows else None
        if way:
            break
    else:
        raise RuntimeError(f"no such car: {posed}")
    allowed = max(way.minutes * by_level(level, LONGER), way.minutes + LONGER_MIN)
    symptom, cause = faults().symptoms[shows[0]], faults().causes[hidden]
    options = {key: AnswerOption(key, faults().causes[key].text) for key in symptom.shows}
    return Exercise(
        posed,
        f"{symptom.text}. {kinds()['fault'].ask}",
        CarShown(hidden, car.number, symptom.id, _tests(way, level, luck), allowed),
        (f"Within {allowed:.0f} minutes of tests.",),
        shuffled(options, luck),
        frozenset({hidden}),
        why=f"{cause.text}. {cause.cure}",
    )


# Tests that tell nothing of a symptom, offered beside those that do, by level.
IDLE_TESTS = (1, 2, 4, 6, 8)


def _tests(way: Case, level: int, luck: Random) -> tuple[str, ...]:
    """The tests that tell of what is seen, those of the best way, and some that tell nothing; in
    the table's order.
    """
    telling = {promise.test.id for promise in diagnosis.promises(Case(way.symptom))}
    telling |= {test for test, _ in way.answers}
    idle = [test for test in faults().tests if test not in telling]
    offered = telling | set(luck.sample(idle, min(len(idle), round(by_level(level, IDLE_TESTS)))))
    return tuple(test for test in faults().tests if test in offered)


def case_of(shown: CarShown, answer: str) -> tuple[Case, str]:
    """The tests made, with what the car answered, and the cause named ("" for none yet):
    "test,test|cause".
    """
    tests, _, named = answer.partition("|")
    car, case = SimulatedCar(shown.fault, shown.number), Case(shown.symptom)
    for test in dict.fromkeys(filter(None, tests.split(","))):
        if test not in shown.tests:
            raise NoAnswerError("There is no such test.")
        case = case.answered(test, car.answer(test))
    return case, named


def judge_fault(exercise: Exercise, answer: str) -> Judgement:
    """*answer*: as :func:`case_of` reads it, with a cause."""
    shown = exercise.shown
    assert isinstance(shown, CarShown)
    case, named = case_of(shown, answer)
    if named not in {option.id for option in exercise.options}:
        raise NoAnswerError("Say what it is.")
    cause = faults().causes[named]
    cured = _is_cured(cause, shown.fault)
    count = len(case.answers)
    tests = f"{count} {'test' if count == 1 else 'tests'}, {case.minutes:.0f} min"
    late = cured and case.minutes > shown.allowed_minutes
    notes = (
        ("The right cause, but it took too long: the next best test stands first.",) if late else ()
    )
    return Judgement(cured and not late, f"{cause.text}, after {tests}", exercise.why, notes=notes)


def _ways() -> list[tuple[RouteStep, ...]]:
    return [way.steps for way in starter_ways() if len(way.steps) > 3]


def order(posed: Posed) -> Exercise:
    """The next step of a way in, or of the way back: of those offered only one can be done."""
    luck, level = posed.luck, posed.level
    back = posed.skill == "order.back"
    for _ in range(MOST_TRIES):
        steps = luck.choice(_ways())
        done, ahead = _cut(steps, back, luck.random())
        words = _all_words(steps, back)
        others = [place for place in ahead[1:] if not _may_be_next(steps, done, place, back)]
        if len(others) > 1:
            break
    else:
        raise RuntimeError(f"no such way: {posed}")
    luck.shuffle(others)
    offered = [words[place] for place in (ahead[0], *others[: 1 + level])]
    options, letter = lettered(offered, words[ahead[0]], luck)
    return Exercise(
        posed,
        kinds()["order"].ask,
        StepsShown(tuple(words[place] for place in done), back),
        (),
        options,
        frozenset({letter}),
        why=words[ahead[0]],
    )


def _all_words(steps: tuple[RouteStep, ...], back: bool) -> list[str]:
    return [step.closing_words if back else step.text for step in steps]


def _cut(steps: tuple[RouteStep, ...], back: bool, share: float) -> tuple[list[int], list[int]]:
    """Places that are done and those ahead, in order; on the way back only what comes back."""
    places = list(range(len(steps)))
    if back:
        places = [place for place in reversed(places) if steps[place].comes_back]
    cut = int(share * max(1, len(places) - 2))
    return places[:cut], places[cut:]


def _may_be_next(steps: tuple[RouteStep, ...], done: list[int], place: int, back: bool) -> bool:
    """Whether a step could be done next: in, when all it waits for is done; back, when all that
    waited for it is back.
    """
    if not back:
        return set(stands_behind(steps, place)) <= set(done)
    behind = [
        other
        for other, step in enumerate(steps)
        if step.comes_back and place in stands_behind(steps, other)
    ]
    return set(behind) <= set(done)
