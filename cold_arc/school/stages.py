"""Exercises answered on the Track: which stage holds a job up, and which have to be done again, by
the table of what must be true before what.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from cold_arc.core.job.needed import Need, finish, needs
from cold_arc.core.job.stages import Stage
from cold_arc.core.school.exercise import AnswerOption, Exercise, FactsShown, Posed, by_level
from cold_arc.core.school.skills import kinds
from cold_arc.core.units import lowered

# What happens to a car that was proved, in words, and what of it the table knows (common practice,
# no published source).
HAPPENED: Mapping[str, tuple[str, frozenset[str]]] = {
    "looked-in": (
        "A cap was opened once more, nothing was touched, and it was closed",
        frozenset({"opened", "closed"}),
    ),
    "set-again": (
        "A bulb was taken out and set in again, its cap closed",
        frozenset({"opened", "refitted", "closed"}),
    ),
    "another": ("Another bulb was chosen for one lamp", frozenset({"replaced"})),
    "decoder": ("A decoder was put between a plug and its lamp", frozenset({"rewired"})),
    "taken-out": (
        "A housing was taken out, unplugged, and put in again",
        frozenset({"opened", "shifted", "closed"}),
    ),
}
# What happens in a shop besides, and undoes nothing.
IDLE = (
    "The sheet was printed for the file",
    "The meter was put away",
    "The customer looked at the lamps",
    "The floor was swept",
    "A photograph of the plate was taken",
)
# By level: what is missing, of so many needs listed; what happens that undoes nothing.
MISSING, LISTED, IDLE_TOO = (1, 1, 2, 2, 3), (4, 6, 6, 8, 9), (0, 1, 2, 3, 4)
LAST = Stage.HAND_OVER
NOT_COUNTED = "Hand over comes last anyhow."


def held_up(need: Need) -> Stage | None:
    """The first stage that can't be finished while a need is not met; None where it holds none."""
    return next((stage for stage in Stage if finish(stage) in need.holds), None)


def undone(disturbances: Iterable[str]) -> dict[Stage, list[Need]]:
    """The stages that lack something after what was done to a lamp, and what they lack."""
    done, lacking = set(disturbances), dict[Stage, list[Need]]()
    for need in needs().values():
        # What was opened and is closed again lacks no closing.
        mended = need.id == "closed" and "closed" in done
        stage = held_up(need)
        if stage and not mended and done.intersection(need.undone_by):
            lacking.setdefault(stage, []).append(need)
    return lacking


def on_the_track(posed: Posed) -> Exercise:
    """A job and its Track: the stage that holds it up, or those to be done again."""
    return _missing(posed) if posed.skill == "track.missing" else _again(posed)


def _missing(posed: Posed) -> Exercise:
    luck, level = posed.luck, posed.level
    asked = [(stage, need) for need in needs().values() if (stage := held_up(need))]
    listed = luck.sample(asked, round(by_level(level, LISTED)))
    missing = listed[: round(by_level(level, MISSING))]
    facts = [("Not yet" if held in missing else "So", held[1].asked) for held in listed]
    luck.shuffle(facts)
    stage, first = min(missing, key=lambda held: held[0].number)
    return Exercise(
        posed,
        "Which stage can't be finished first?",
        FactsShown(tuple(facts)),
        (),
        _options(),
        frozenset({stage.value}),
        why=f"{stage.label} asks first: {lowered(first.asked)}",
    )


def _again(posed: Posed) -> Exercise:
    luck, level = posed.luck, posed.level
    words, disturbances = HAPPENED[luck.choice(list(HAPPENED))]
    happened = [words, *luck.sample(IDLE, round(by_level(level, IDLE_TOO)))]
    luck.shuffle(happened)
    lacking = undone(disturbances)
    why = "; ".join(
        f"{stage.label}: {', '.join(lowered(need.asked) for need in lacking[stage])}"
        for stage in sorted(lacking, key=lambda stage: stage.number)
    )
    return Exercise(
        posed,
        kinds()["track"].ask,
        FactsShown((("Before", "every stage done"), *(("Then", each) for each in happened))),
        (NOT_COUNTED,),
        _options()[: LAST.number - 1],
        frozenset(stage.value for stage in lacking),
        picks=len(Stage),
        why=f"To be made sure of again. {why}",
    )


def _options() -> tuple[AnswerOption, ...]:
    return tuple(AnswerOption(stage.value, stage.label) for stage in Stage)
