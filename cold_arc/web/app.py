"""The application factory: database, safety headers, units, theme, pages."""

from __future__ import annotations

import secrets
from pathlib import Path

from flask import Flask, Response, g, render_template, request
from flask_wtf import CSRFProtect
from flask_wtf.csrf import CSRFError

from cold_arc.core.units import UnitSystem
from cold_arc.store.database import open_database
from cold_arc.web import bench, echo, filters, home, identify, record_views, shelf, shell
from cold_arc.web.db import close_session
from cold_arc.web.scope import IdConverter, ScopeConverter
from cold_arc.web.stages import STAGE_PAGES

CONTENT_SECURITY_POLICY = "; ".join(
    (
        "default-src 'none'",
        "script-src 'self'",
        "style-src 'self'",
        "img-src 'self' data:",
        "font-src 'self'",
        "connect-src 'self'",
        "form-action 'self'",
        "base-uri 'none'",
        "frame-ancestors 'none'",
    )
)
THEMES = ("night", "day")


def create_app(folder: Path) -> Flask:
    """The app on the database in *folder*; OSError when the folder can't be used."""
    app = Flask(__name__)
    app.config.update(
        SECRET_KEY=_secret_key(folder),
        SESSION_COOKIE_SAMESITE="Lax",
        SESSION_COOKIE_HTTPONLY=True,
        WTF_CSRF_TIME_LIMIT=None,
        MAX_CONTENT_LENGTH=1_000_000,
    )
    app.extensions["cold_arc_sessions"] = open_database(folder)
    app.url_map.converters |= {"scope": ScopeConverter, "int": IdConverter}
    CSRFProtect(app)
    filters.register(app)
    for blueprint in (shell.bp, home.bp, echo.bp, bench.bp, identify.bp, shelf.bp, record_views.bp, *STAGE_PAGES):
        app.register_blueprint(blueprint)
    app.before_request(_preferences)
    app.after_request(_safety_headers)
    app.teardown_appcontext(close_session)
    _error_pages(app)
    return app


def warm(app: Flask) -> None:
    """Compiles every page's template before the first visitor comes."""
    for name in app.jinja_env.list_templates(extensions=["html", "svg"]):
        app.jinja_env.get_template(name)


def _secret_key(folder: Path) -> str:
    """The key that signs forms; made once, kept beside the database, readable by its owner alone."""
    folder.mkdir(parents=True, exist_ok=True)
    path = folder / "secret-key"
    if not path.exists():
        path.touch(mode=0o600)
        path.write_text(secrets.token_hex(32), encoding="ascii")
    return path.read_text(encoding="ascii")


def _preferences() -> None:
    theme, system = request.cookies.get("theme"), request.cookies.get("units")
    g.theme = theme if theme in THEMES else THEMES[0]
    g.system = UnitSystem(system) if system in list(UnitSystem) else UnitSystem.METRIC


def _safety_headers(response: Response) -> Response:
    response.headers["Content-Security-Policy"] = CONTENT_SECURITY_POLICY
    response.headers["X-Content-Type-Options"] = "nosniff"
    response.headers["Referrer-Policy"] = "same-origin"
    if not request.path.startswith("/static/"):
        response.headers.setdefault("Cache-Control", "no-store")
    return response


def _error_pages(app: Flask) -> None:
    def page(title: str, text: str, status: int) -> tuple[str, int]:
        return render_template("error.html", title=title, text=text), status

    app.register_error_handler(
        404, lambda _: page("Not here", "There is no such job, lamp or page. It may have been mistyped.", 404)
    )
    app.register_error_handler(
        405,
        lambda _: page("Not this way", "That address takes no such request. Go back and use the button.", 405),
    )
    app.register_error_handler(
        413, lambda _: page("Too much at once", "That was more than a megabyte. Nothing was saved.", 413)
    )
    app.register_error_handler(
        CSRFError,
        lambda _: page("The form was too old", "Nothing was saved. Go back, reload the page and send it again.", 400),
    )
    app.register_error_handler(
        500,
        lambda _: page("Something broke", "What was saved before is safe. Reload the page and try again.", 500),
    )
