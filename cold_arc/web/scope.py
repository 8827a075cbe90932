"""Which lamps a page works on: one ("low-left"), a pair ("low") or all of the job ("all")."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from flask import url_for
from werkzeug.routing import BaseConverter, IntegerConverter, Map, ValidationError

from cold_arc.core.lamps import Drive, Function, LampKey, Side, side_words
from cold_arc.core.stages import Stage


@dataclass(frozen=True)
class Scope:
    """A choice of lamps as written in the address."""

    function: Function | None = None
    side: Side | None = None

    def __str__(self) -> str:
        if self.function is None:
            return "all"
        return f"{self.function.value}-{self.side.value}" if self.side else self.function.value

    @classmethod
    def parse(cls, text: str) -> Scope:
        """The scope from its written form; ValueError for anything else."""
        if text == "all":
            return cls()
        function, _, side = text.partition("-")
        return cls(Function(function), Side(side) if side else None)

    def keys(self, chosen: Iterable[LampKey]) -> list[LampKey]:
        """The chosen lamps in it."""
        return [
            key
            for key in chosen
            if self.function in (None, key.function) and (self.side is None or key.side is self.side)
        ]

    def words(self, drive: Drive) -> str:
        """The scope in words: "Low beam, both", "Low beam, Left · driver"."""
        if self.function is None:
            return "All lamps"
        return f"{self.function.label}, {side_words(self.side, drive) if self.side else 'both sides'}"


LARGEST_ID = 2**31 - 1


class IdConverter(IntegerConverter):
    """A row's id in an address; anything larger than the database can hold is no match."""

    def __init__(self, url_map: Map) -> None:
        super().__init__(url_map, max=LARGEST_ID)


def stage_url(job_id: int, scope: Scope | LampKey, stage: Stage, **more: Any) -> str:
    """The address of a stage page."""
    return url_for(f"{stage.value.replace('-', '_')}.page", job_id=job_id, scope=scope, **more)


class ScopeConverter(BaseConverter):
    """Lets addresses carry a scope."""

    regex = "[a-z]+(?:-[a-z]+)?"

    def to_python(self, value: str) -> Scope:
        """The scope, or no match."""
        try:
            return Scope.parse(value)
        except ValueError as error:
            raise ValidationError from error

    def to_url(self, value: Scope | LampKey) -> str:
        """Its written form."""
        return str(value)
