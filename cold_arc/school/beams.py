"""Exercises on one beam: what is wrong with this lamp.

The answers offered beside the right one are those whose pictures plainly differ from what is shown.
"""

from __future__ import annotations

from random import Random

from cold_arc.core.beam.setup import SetUp
from cold_arc.core.school.exercise import (
    AnswerOption,
    BeamsShown,
    Exercise,
    Posed,
    by_level,
    shuffled,
)
from cold_arc.core.school.skills import kinds
from cold_arc.school.beam_faults import (
    FINE,
    FINE_TEXT,
    good_lamp,
    lamp_words,
    offered,
    spoilt,
    ways_of,
)
from cold_arc.school.seeing import is_plain

# How many answers a level offers; from which level on two things may be wrong at once, how often,
# and which the second is.
OFFERED, TWO_FROM, TWO_SHARE = (3, 4, 5, 6, 7), 5, 0.5
SECOND = ("read.haze", "read.high", "read.low")


def read_beam(posed: Posed, lamp: SetUp | None = None) -> Exercise:
    """What is wrong with this lamp; *lamp*: a good one to make it from, a made-up one by
    default.
    """
    luck, level = posed.luck, posed.level
    good = lamp or good_lamp(luck, level, posed.skill)
    faults = offered(good)
    if posed.skill not in faults:
        return _asked(posed, good, frozenset({FINE}), luck, good)
    two = level >= TWO_FROM and posed.skill not in SECOND and luck.random() < TWO_SHARE
    bad = spoilt(good, posed.skill, level, luck.choice((1, -1)) if faults[posed.skill].both else 1)
    wrong = {posed.skill}
    if two:
        second = luck.choice(SECOND)
        both = spoilt(bad, second, 3, 1)
        if is_plain(both, [bad, good]):
            bad, wrong = both, {posed.skill, second}
    return _asked(posed, good, frozenset(wrong), luck, bad)


def _asked(
    posed: Posed, good: SetUp, wrong: frozenset[str], luck: Random, shown: SetUp
) -> Exercise:
    """The question, with the answers that plainly do not fit beside those that do."""
    level, faults = posed.level, offered(good)
    texts = {FINE: FINE_TEXT} | {key: fault.text for key, fault in faults.items()}
    others = [key for key in faults if key not in wrong]
    luck.shuffle(others)
    wanted = round(by_level(level, OFFERED)) - len(wrong | {FINE})
    fitting = (key for key in others if is_plain(shown, ways_of(good, level, key, wrong)))
    beside = [key for key, _ in zip(fitting, range(max(2, wanted)), strict=False)]
    options = {key: AnswerOption(key, texts[key], key) for key in (*wrong, *beside, FINE)}
    words = [lamp_words(good)]
    if len(wrong) > 1:
        words.append("Two things are wrong.")
    return Exercise(
        posed,
        kinds()["read"].ask,
        BeamsShown((shown,), good, taped=level <= 2),
        tuple(words),
        shuffled(options, luck),
        wrong,
        picks=len(wrong),
    )


def looks_alike(exercise: Exercise) -> list[tuple[SetUp, SetUp]]:
    """What an exercise shows beside what each wrong answer would look like: what must differ
    plainly, pair by pair.
    """
    shown = exercise.shown
    assert isinstance(shown, BeamsShown)
    wrong = [option.id for option in exercise.options if option.id not in exercise.right]
    looks = [setup for key in wrong for setup in _looks(exercise, shown.meant, key)]
    return [(shown.setups[0], setup) for setup in looks]


def _looks(exercise: Exercise, good: SetUp, key: str) -> list[SetUp]:
    return [good] if key == FINE else ways_of(good, exercise.posed.level, key, exercise.right)
