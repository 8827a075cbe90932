"""What is read in at a start stays as long as the program does: the collector need not look through
it again and again, for a quarter of a second each time in which no page is answered.
"""

from __future__ import annotations

import gc

# So many more things made than given back before the youngest are looked through; Python's own 700
# is for programs that make few (own).
YOUNGEST = 10_000


def keep_what_is_read_in() -> None:
    """Leaves what there is by now out of what is looked through; for a process that lasts."""
    gc.collect()
    gc.freeze()
    gc.set_threshold(YOUNGEST, *gc.get_threshold()[1:])
