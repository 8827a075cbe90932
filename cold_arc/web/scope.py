"""What a page works on, as its address says: a unit, a socket or a beam, on one side or both, or
all of the job.

Any of them names sockets, so that one scope serves at every stage: "low" at Match are the sockets
that give the low beam, "headlamp" at Aim the beams that come from it.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from flask import url_for
from werkzeug.routing import BaseConverter, IntegerConverter, Map, ValidationError

from cold_arc.core.car.front import Front
from cold_arc.core.car.keys import Key, SocketKey, parse_key
from cold_arc.core.car.lamps import Drive, Side, side_words
from cold_arc.core.job.progress import Progress
from cold_arc.core.job.stages import About, Stage, Status

_WRITTEN = re.compile(r"([a-z]+\d?(?:-\d)?)(?:-(left|right))?")


@dataclass(frozen=True)
class Scope:
    """A choice of things as written in the address: *name* of a unit, socket or beam ("": all),
    *side* (None: both).
    """

    name: str = ""
    side: Side | None = None

    def __str__(self) -> str:
        return f"{self.name or 'all'}{f'-{self.side.value}' if self.side else ''}"

    @classmethod
    def parse(cls, text: str) -> Scope:
        """The scope from its written form; ValueError for anything else."""
        match = _WRITTEN.fullmatch(text)
        if match is None or (match[1] == "all" and match[2]):
            raise ValueError(text)
        if match[1] == "all":
            return cls()
        parse_key(f"{match[1]}-left")
        return cls(match[1], Side(match[2]) if match[2] else None)

    @classmethod
    def of(cls, key: Key) -> Scope:
        """The scope of one thing."""
        return cls(key.name, key.side)

    def _keys(self) -> list[Key]:
        return [
            parse_key(f"{self.name}-{side.value}") for side in Side if self.side in (None, side)
        ]

    def sockets(self, progress: Progress) -> list[SocketKey]:
        """The sockets worked on that it names."""
        if not self.name:
            return progress.record.sockets
        named = {socket for key in self._keys() for socket in progress.sockets_behind(key)}
        return [socket for socket in progress.record.sockets if socket in named]

    def things(self, progress: Progress, stage: Stage) -> list[Key]:
        """A stage's things in it; of what the stage is about, just those named."""
        things = progress.things(stage, self.sockets(progress))
        named = [key for key in self._keys() if key in things] if self.name else []
        return named or things

    def words(self, front: Front, drive: Drive) -> str:
        """The scope in words: "Low beam, both sides", "Headlamp, Left · driver"."""
        if not self.name:
            return "The whole car"
        key = self._keys()[0]
        if not front.has(key):
            return "Not on this car"
        side = side_words(self.side, drive) if self.side else "both sides"
        return f"{front.words(key)}, {side}"


def scope_at(progress: Progress, scope: Scope, stage: Stage) -> Scope:
    """A scope as another stage has it: the whole car where the stage is the car's, else the pair to
    do next.
    """
    if stage.about is About.CAR:
        return Scope()
    things = scope.things(progress, stage) or progress.things(stage)
    if not things or (scope.name and {key.name for key in things} == {scope.name}):
        return scope
    ready = [key for key in things if progress.status(stage, key) is Status.OPEN]
    return Scope((ready or things)[0].name, scope.side)


def pairs(keys: Sequence[Key]) -> list[Scope]:
    """The scopes of things taken by pairs, in their order."""
    return [Scope(name) for name in dict.fromkeys(key.name for key in keys)]


LARGEST_ID = 2**31 - 1


class IdConverter(IntegerConverter):
    """A row's id in an address; anything larger than the database can hold is no match."""

    def __init__(self, url_map: Map) -> None:
        super().__init__(url_map, max=LARGEST_ID)


def stage_url(job_id: int, scope: Scope | Key, stage: Stage, **more: Any) -> str:
    """The address of a stage page."""
    return url_for(f"{stage.value.replace('-', '_')}.page", job_id=job_id, scope=scope, **more)


class ScopeConverter(BaseConverter):
    """Lets addresses carry a scope."""

    regex = r"[a-z]+[0-9]?(?:-[0-9])?(?:-[a-z]+)?"

    def to_python(self, value: str) -> Scope:
        """The scope, or no match."""
        try:
            return Scope.parse(value)
        except ValueError as error:
            raise ValidationError from error

    def to_url(self, value: Scope | Key) -> str:
        """Its written form."""
        return str(value)
