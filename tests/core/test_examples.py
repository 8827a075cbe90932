"""The examples that stand in the core's docstrings are so."""

import doctest
from importlib import import_module
from pathlib import Path

import pytest

CORE = Path(__file__).parents[2] / "cold_arc" / "core"
WITH_EXAMPLES = sorted(path for path in CORE.rglob("*.py") if ">>> " in path.read_text())


@pytest.mark.parametrize("path", WITH_EXAMPLES, ids=lambda path: path.stem)
def test_what_an_example_says_is_so(path):
    name = ".".join(path.relative_to(CORE.parents[1]).with_suffix("").parts)
    tried = doctest.testmod(import_module(name))
    assert tried.attempted > 0
    assert tried.failed == 0
