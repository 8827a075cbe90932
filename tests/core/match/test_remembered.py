"""What is remembered of what was worked out, and told to another process."""

import pickle

import pytest

from cold_arc.core.match import remembered


@pytest.fixture
def store():
    yield remembered.Remembered("of this test", 3)
    del remembered._stores["of this test"]


def test_what_was_worked_out_is_news_once_and_what_was_learnt_is_none(store):
    assert store.get("a") is None
    assert "a" not in store
    assert store.keep("a", 1) == 1
    store.learn({"b": 2})
    assert (store.get("a"), store.get("b")) == (1, 2)
    told = remembered.news()
    assert told["of this test"] == {"a": 1}
    assert "of this test" not in remembered.news()
    store.forget()
    remembered.learn(pickle.loads(pickle.dumps(told)))
    assert (store.get("a"), "b" in store) == (1, False)
    assert "of this test" not in remembered.news()


def test_the_oldest_is_forgotten(store):
    for number in range(5):
        store.keep(number, number)
    assert [number for number in range(5) if number in store] == [2, 3, 4]
    assert list(store.news()) == [2, 3, 4]
