"""Work in slices: each done once, whoever does it."""

import pytest

from cold_arc.core.beam import slices


@pytest.fixture(autouse=True)
def two_processors(monkeypatch):
    monkeypatch.setattr(slices.config, "NUMBA_NUM_THREADS", 2)
    yield
    slices.leave_a_processor(False)
    slices._workers.cache_clear()


def done(count):
    """Which of *count* things were done, slice by slice."""
    parts = []
    slices.each_slice(lambda part, cut: parts.append((part, range(count)[cut])), count)
    return [thing for _, things in sorted(parts) for thing in things]


@pytest.mark.parametrize("count", [0, 3, 101, 20_000])
@pytest.mark.parametrize("spared", [False, True])
def test_each_slice_is_done_once(count, spared):
    slices.leave_a_processor(spared)
    assert done(count) == list(range(count))


def test_what_no_thread_takes_is_done_by_this_one():
    """As the program ends threads take nothing any more, and requests are still under way."""
    slices._workers(1).shutdown()
    assert done(20_000) == list(range(20_000))


def test_what_goes_wrong_in_a_slice_is_told():
    def work(part, _):
        raise ValueError(part)

    with pytest.raises(ValueError, match=r"[0-3]"):
        slices.each_slice(work, 20_000)
