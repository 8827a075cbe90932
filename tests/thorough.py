"""What the thorough run alone tries: whole tables, more examples, every size of screen."""

from __future__ import annotations

import os
from collections.abc import Container, Iterable

import pytest

THOROUGH = bool(os.environ.get("COLD_ARC_THOROUGH"))


def thorough(*values, **more):
    """A case that only the thorough run tries."""
    return pytest.param(*values, marks=pytest.mark.thorough, **more)


def usual(cases: Iterable, tried: Container):
    """Every case of a table; those not *tried* each time are for the thorough run."""
    return [case if case in tried else thorough(case) for case in cases]
