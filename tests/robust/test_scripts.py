"""The scripts that make tables and figures start: a changed name is met here, not years later."""

import importlib.util
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[2]
# Needs a package that is installed for it alone.
WITHOUT = {"mutants.py"}
SCRIPTS = [*(ROOT / "scripts").glob("*.py"), *(ROOT / "bench").glob("*.py")]


@pytest.mark.parametrize("path", SCRIPTS, ids=lambda path: path.name)
def test_a_script_starts(path, monkeypatch):
    if path.name in WITHOUT:
        pytest.skip("its package is installed for it alone")
    monkeypatch.setattr(sys, "path", [str(ROOT), *sys.path])
    spec = importlib.util.spec_from_file_location(f"started_{path.stem}", path)
    module = importlib.util.module_from_spec(spec)
    monkeypatch.setitem(sys.modules, spec.name, module)
    spec.loader.exec_module(module)
