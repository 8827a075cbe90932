"""The next exercise is made while nobody waits: its beams are worked out beside the pages."""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterator

from cold_arc.core.beam import model, slices
from cold_arc.core.beam.report import beam_of
from cold_arc.core.beam.setup import SetUp
from cold_arc.core.school.exercise import BeamsShown, Exercise, LineShown, Posed, ScrewsShown
from cold_arc.school.making import make


def beams_shown(exercise: Exercise) -> Iterator[SetUp]:
    """The set-ups whose pictures an exercise shows, and the lamp as it should be."""
    shown = exercise.shown
    if isinstance(shown, BeamsShown):
        yield from (*shown.setups, shown.meant)
    elif isinstance(shown, LineShown | ScrewsShown):
        yield shown.setup


# One exercise is made ahead at a time; what comes meanwhile is made when it is asked for.
_AHEAD = threading.Lock()


def prepare(pose: Callable[[], Posed], lamp: SetUp | None = None) -> None:
    """Makes the exercise of the question that is posed, and its beams, in the background; both are
    remembered.
    """
    if model.is_warm() and _AHEAD.acquire(blocking=False):
        threading.Thread(target=_made, args=(pose, lamp), daemon=True).start()


def _made(pose: Callable[[], Posed], lamp: SetUp | None) -> None:
    try:
        slices.leave_a_processor(True)
        posed = pose()
        exercise = make(posed, lamp)
        for setup in beams_shown(exercise):
            beam_of(setup)
    finally:
        _AHEAD.release()
