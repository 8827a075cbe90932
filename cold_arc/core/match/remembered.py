"""What Match has worked out, kept by what it was worked out from: a beam takes a tenth of a second,
a page asks for two dozen. What one process works out another can be told.
"""

from __future__ import annotations

from collections.abc import Hashable, Mapping
from threading import Lock
from typing import Generic, TypeVar

Asked = TypeVar("Asked", bound=Hashable)
Answer = TypeVar("Answer")
# What is new in every store of this process: the store's name and what it holds, by what was asked.
News = Mapping[str, Mapping[Hashable, object]]
_stores: dict[str, Remembered[Hashable, object]] = {}


class Remembered(Generic[Asked, Answer]):
    """Answers by what was asked, the oldest forgotten from *most* on; by its *name* another process
    knows it.
    """

    def __init__(self, name: str, most: int) -> None:
        self.most = most
        self._known: dict[Asked, Answer] = {}
        self._new: dict[Asked, Answer] = {}
        self._lock = Lock()
        _stores[name] = self  # type: ignore[assignment]

    def __contains__(self, asked: Asked) -> bool:
        return asked in self._known

    def get(self, asked: Asked) -> Answer | None:
        """What is known; never works anything out."""
        return self._known.get(asked)

    def keep(self, asked: Asked, answer: Answer) -> Answer:
        """Keeps what was worked out here, and gives it back."""
        with self._lock:
            self._add(self._new, {asked: answer})
            self._add(self._known, {asked: answer})
        return answer

    def learn(self, answers: Mapping[Asked, Answer]) -> None:
        """Keeps what was worked out elsewhere."""
        with self._lock:
            self._add(self._known, answers)

    def _add(self, kept: dict[Asked, Answer], answers: Mapping[Asked, Answer]) -> None:
        """Adds to what is *kept*; the lock is held."""
        kept |= answers
        while len(kept) > self.most:
            kept.pop(next(iter(kept)))

    def news(self) -> Mapping[Asked, Answer]:
        """What was worked out here since this was last asked."""
        with self._lock:
            new, self._new = self._new, {}
        return new

    def forget(self) -> None:
        """Forgets it all."""
        with self._lock:
            self._known.clear()
            self._new.clear()


def news() -> News:
    """What every store has learnt here since this was last asked."""
    return {name: new for name, store in _stores.items() if (new := store.news())}


def learn(answers: News) -> None:
    """Takes over what another process worked out."""
    for name, learnt in answers.items():
        _stores[name].learn(learnt)
