"""What something costs, on a machine that may have something else to do."""

import time

MOST_TRIALS = 5
# Steps counted to know a machine's pace, and the seconds that takes at its usual one.
STEPS, USUAL_S = 250_000, 0.02


def takes_less(seconds, action):
    """Whether *action* takes less than so many seconds, at the usual pace, of processor of the
    thread that does it, in one trial of a few: what it costs, however busy the machine, or a thread
    beside it, is.
    """
    return any(_took(action) < seconds * _slowness() for _ in range(MOST_TRIALS))


def _slowness():
    """How many times as long as usually things take now: a processor shared with another's work, or
    kept cool, goes at half its pace."""
    return max(1.0, _took(_count) / USUAL_S)


def _count():
    total = 0
    for number in range(STEPS):
        total += number * number
    return total


def _took(action):
    began = time.thread_time()
    action()
    return time.thread_time() - began
