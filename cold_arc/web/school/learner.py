"""Who practises: a name this browser keeps; none needed alone."""

from __future__ import annotations

from flask import request

COOKIE, LONGEST = "learner", 60


def current() -> str:
    """The name this browser practises under; "" alone."""
    return tidy(request.cookies.get(COOKIE, ""))


def tidy(name: str) -> str:
    """A name as it is kept: no line breaks, no spaces around, no more than LONGEST."""
    return " ".join("".join(filter(str.isprintable, name)).split())[:LONGEST]


def words(name: str) -> str:
    """A name as it is shown."""
    return name or "No name"
