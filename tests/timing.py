"""How long something takes, on a machine that may have something else to do."""

import time


def quickest(action, times=3):
    """The shortest of so many trials, seconds: what the program takes, without what came
    between.
    """
    return min(_took(action) for _ in range(times))


def _took(action):
    began = time.perf_counter()
    action()
    return time.perf_counter() - began
