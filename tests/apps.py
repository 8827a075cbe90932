"""One app for a test process, put on one test's folder after another.

Building it (addresses, templates) takes 0.1 s: a good part of what the tests of the pages took.
"""

from __future__ import annotations

from functools import cache
from pathlib import Path
from typing import Any

from flask import Flask

from cold_arc.web.app import attach, build_app


@cache
def _built() -> tuple[Flask, dict[str, Any]]:
    app = build_app()
    return app, dict(app.config)


def app_on(folder: Path, **config: Any) -> Flask:
    """The app on *folder*, with nothing left of the test before; *config* besides."""
    app, settings = _built()
    app.config.clear()
    app.config.update(settings, **config)
    attach(app, folder)
    return app
