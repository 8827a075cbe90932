"""From a skill, a level and a seed to an exercise; from an answer to how it was."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import lru_cache

from cold_arc.core.beam.setup import SetUp
from cold_arc.core.school.exercise import (
    LONGEST_ANSWER,
    Exercise,
    Judgement,
    NoAnswerError,
    Posed,
    judged_by_options,
)
from cold_arc.school import bases, beams, cars, comparing, leaving, readings, stages, taking, wall

Maker = Callable[[Posed], Exercise]
MAKERS: Mapping[str, Maker] = {
    "base": bases.name_base,
    "read": beams.read_beam,
    "compare": comparing.compare,
    "line": wall.line,
    "collar": wall.collar,
    "screws": wall.screws,
    "meter": readings.readings,
    "take": taking.take,
    "fault": cars.fault,
    "order": cars.order,
    "track": stages.on_the_track,
    "leave": leaving.leave,
    "tell": leaving.tell,
}
JUDGES: Mapping[str, Callable[[Exercise, str], Judgement]] = {
    "line": wall.judge_line,
    "collar": wall.judge_collar,
    "screws": wall.judge_screws,
    "take": taking.judge_take,
    "fault": cars.judge_fault,
}


@lru_cache(maxsize=512)
def make(posed: Posed, lamp: SetUp | None = None) -> Exercise:
    """The exercise; the same for the same skill, level and seed. *lamp*: a good one that a beam to
    be read is made from, of the shop's own. Remembered.
    """
    if lamp is not None and posed.kind == "read":
        return beams.read_beam(posed, lamp)
    return MAKERS[posed.kind](posed)


def judge(exercise: Exercise, answer: str) -> Judgement:
    """How an answer was; NoAnswerError, in words, for what is none."""
    if len(answer) > LONGEST_ANSWER:
        raise NoAnswerError("That is no answer.")
    return JUDGES.get(exercise.posed.kind, judged_by_options)(exercise, answer)
