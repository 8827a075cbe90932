"""The files pages are drawn with: their address names their content, and all style comes as one
sheet, so that a first page asks for 25 files where it asked for 41.
"""

from __future__ import annotations

import datetime as dt
import hashlib
from functools import cache
from pathlib import Path

from flask import Flask, Response

FOLDER, KEPT_FOR = Path(__file__).parents[1] / "static", dt.timedelta(days=365)
# In the order in which later rules overrule earlier ones.
SHEETS = (
    "vendor/bootstrap/bootstrap.min.css",
    "css/base.css",
    "css/shell.css",
    "css/forms.css",
    "css/findings.css",
    "css/face.css",
    "css/front.css",
    "css/wall.css",
    "css/stages.css",
    "css/match.css",
    "css/work.css",
    "css/plan.css",
    "css/photo.css",
    "css/home.css",
    "css/bench.css",
    "css/school.css",
    "css/sheet.css",
)
# Beside the sheets, so that what they name by a relative address is found.
ONE_SHEET = "css/all.css"


def address() -> str:
    """Where the files are served: another content has another address, so that a browser may keep
    them.
    """
    digest = hashlib.sha256()
    for path in sorted(path for path in FOLDER.rglob("*") if path.is_file()):
        digest.update(path.read_bytes())
    return f"/static/{digest.hexdigest()[:12]}"


def register(app: Flask) -> None:
    """Serves all style as one sheet among the app's static files."""
    app.add_url_rule(f"{app.static_url_path}/{ONE_SHEET}", "style", _style)


@cache
def _joined() -> str:
    return "\n".join((FOLDER / name).read_text(encoding="utf-8") for name in SHEETS)


def _style() -> Response:
    answer = Response(_joined(), mimetype="text/css")
    answer.cache_control.public = True
    answer.cache_control.max_age = int(KEPT_FOR.total_seconds())
    return answer
