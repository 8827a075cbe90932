"""Fixtures shared by all tests."""

from __future__ import annotations

import pytest

from cold_arc.store.database import open_database


@pytest.fixture
def sessions(tmp_path):
    return open_database(tmp_path / "shop")
