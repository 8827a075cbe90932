"""What stays as long as a process does is not looked through again and again."""

import gc

from cold_arc.web.shell.lasting import YOUNGEST, keep_what_is_read_in


def test_what_is_there_by_then_is_looked_through_no_more():
    before, made = gc.get_freeze_count(), [[] for _ in range(1000)]
    keep_what_is_read_in()
    assert gc.get_freeze_count() >= before + len(made)
    assert gc.get_threshold()[0] == YOUNGEST
