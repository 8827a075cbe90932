"""What something costs, on a machine that may have something else to do."""

import time


def quickest(action, times=5):
    """The least of so many trials, seconds of processor of the thread that does it: what it costs,
    however busy the machine, or a thread beside it, is.
    """
    return min(_took(action) for _ in range(times))


def _took(action):
    began = time.thread_time()
    action()
    return time.thread_time() - began
