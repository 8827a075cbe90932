"""What something costs, on a machine that may have something else to do."""

import time

MOST_TRIALS = 5


def takes_less(seconds, action):
    """Whether *action* takes less than so many seconds of processor of the thread that does it, in
    one trial of a few: what it costs, however busy the machine, or a thread beside it, is.
    """
    return any(_took(action) < seconds for _ in range(MOST_TRIALS))


def _took(action):
    began = time.thread_time()
    action()
    return time.thread_time() - began
