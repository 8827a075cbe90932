"""The application factory: database, safety headers, units, theme, pages."""

from __future__ import annotations

import hashlib
import logging
import math
import os
import secrets
import time
from collections.abc import Iterable
from contextlib import suppress
from pathlib import Path
from urllib.parse import quote

from flask import Flask, Response, current_app, g, render_template, request
from flask_wtf import CSRFProtect
from flask_wtf.csrf import CSRFError
from sqlalchemy.exc import OperationalError
from werkzeug.exceptions import InternalServerError, ServiceUnavailable

from cold_arc.core.job.entries.kind import ImplausibleError
from cold_arc.core.units import UnitSystem
from cold_arc.devices.feed import Feed
from cold_arc.formats import photo
from cold_arc.formats.signing import SigningError
from cold_arc.store.database import StoreError, open_database
from cold_arc.store.logbook import open_log
from cold_arc.store.owned import write_for_owner
from cold_arc.store.pictures import PictureMissingError
from cold_arc.web.bases import identify, measure
from cold_arc.web.bench import pages as bench
from cold_arc.web.forms import echo
from cold_arc.web.forms.plain_numbers import bounded
from cold_arc.web.job import (
    at_car,
    car,
    documents,
    fault,
    files,
    proof,
    record_views,
    whole_shop,
)
from cold_arc.web.job.aim import live as aim_live
from cold_arc.web.job.aim import photo as aim_photo
from cold_arc.web.job.aim import read_wall
from cold_arc.web.job.aim import wall as aim_wall
from cold_arc.web.job.lux import experience, meter, numbers, shoot_out, warm_up
from cold_arc.web.job.lux.stand import Stand
from cold_arc.web.job.stages import (
    aim,
    as_it_came,
    baseline,
    book_in,
    car_plan,
    fit,
    hand_over,
    inspect,
    plan,
    prove,
    rear,
    verify,
)
from cold_arc.web.match import candidates, leads, options, quotes, wiring
from cold_arc.web.school import cards, people
from cold_arc.web.school import pages as school
from cold_arc.web.scope import IdConverter, ScopeConverter
from cold_arc.web.shelf import pages as shelf
from cold_arc.web.shell import (
    aim_rules,
    calendar,
    day,
    filters,
    guests,
    home,
    signing_key,
    static_files,
)
from cold_arc.web.shell import pages as shell
from cold_arc.web.shell.compiled import CompiledTemplates
from cold_arc.web.shell.cookies import SecureWhereItCan
from cold_arc.web.shell.db import OnceMoreFlask, after_post, close_session, form_key
from cold_arc.web.shell.meter_token import make_token

CONTENT_SECURITY_POLICY = "; ".join(
    (
        "default-src 'none'",
        "script-src 'self'",
        "style-src 'self'",
        "img-src 'self' data: blob:",
        "font-src 'self'",
        "connect-src 'self'",
        "form-action 'self'",
        "base-uri 'none'",
        "frame-ancestors 'none'",
    )
)
SHOP_PAGES = (
    shell.bp,
    signing_key.bp,
    guests.bp,
    aim_rules.bp,
    home.bp,
    echo.bp,
    bench.bp,
    identify.bp,
    measure.bp,
    shelf.bp,
    record_views.bp,
    proof.bp,
    documents.bp,
    car.bp,
    files.bp,
    whole_shop.bp,
    experience.bp,
    calendar.bp,
    day.bp,
    school.bp,
    people.bp,
    cards.bp,
)
# In the order of the work; Match has five pages.
STAGE_PAGES = (
    *(book_in.bp, inspect.bp, as_it_came.bp, baseline.bp),
    *(candidates.bp, options.bp, wiring.bp, leads.bp, quotes.bp),
    *(plan.bp, car_plan.bp, fit.bp, prove.bp, rear.bp, aim.bp, verify.bp, hand_over.bp),
    *(
        numbers.bp,
        warm_up.bp,
        shoot_out.bp,
        meter.bp,
        fault.bp,
        at_car.bp,
        aim_wall.bp,
        aim_photo.bp,
        read_wall.bp,
        aim_live.bp,
    ),
)
THEMES = ("night", "day")
# What an error is found by in the log.
NUMBER_BYTES = 3
_log = logging.getLogger(__name__)
KEY_LENGTH = 64
MOST_FORM = 1_000_000
# Forms that take pictures, or a file of some, and how many of the largest.
PICTURE_FORMS = {
    "at_car.take_picture": 1,
    "as_it_came.page": 1,
    "aim_photo.page": 4,
    "files.take_in": 4,
}
MOST_REQUEST = max(PICTURE_FORMS.values()) * photo.MOST_BYTES + MOST_FORM
OWN_NAMES = ("127.0.0.1", "localhost", "[::1]")


def create_app(folder: Path, hosts: Iterable[str] = ()) -> Flask:
    """The app on the database in *folder*, answering to this machine's own names and to *hosts*.

    Raises OSError, in words, when the folder can't be used.
    """
    app = build_app()
    attach(app, folder, hosts)
    return app


def create_reader(folder: Path, beams: bool) -> Flask:
    """The app on the database in *folder* for a process that only reads, ready to answer, *beams*
    of the bench too.
    """
    app = build_app()
    attach(app, folder, logs=False)
    warm(app)
    if beams:
        bench.warm()
    return app


def build_app() -> Flask:
    """The app's pages, on no folder yet."""
    app = OnceMoreFlask(__name__, static_url_path=static_files.address())
    app.jinja_options = {"bytecode_cache": CompiledTemplates()}
    app.config.update(
        SEND_FILE_MAX_AGE_DEFAULT=static_files.KEPT_FOR,
        SESSION_COOKIE_SAMESITE="Lax",
        SESSION_COOKIE_HTTPONLY=True,
        PERMANENT_SESSION_LIFETIME=guests.KNOWN_FOR,
        WTF_CSRF_TIME_LIMIT=None,
        MAX_CONTENT_LENGTH=MOST_FORM,
    )
    app.url_map.converters |= {"scope": ScopeConverter, "int": IdConverter}
    app.session_interface = SecureWhereItCan()
    for asked_first in (_room_for_pictures, _own_name, _preferences, guests.known):
        app.before_request(asked_first)  # before a form is read
    CSRFProtect(app).exempt("cold_arc.web.job.lux.meter.take")  # it comes with a token of its own
    filters.register(app)
    static_files.register(app)
    app.add_template_global(form_key)
    for blueprint in (*SHOP_PAGES, *STAGE_PAGES):
        app.register_blueprint(blueprint)
    app.after_request(_safety_headers)
    app.after_request(after_post)
    app.teardown_appcontext(close_session)
    _error_pages(app)
    return app


def attach(app: Flask, folder: Path, hosts: Iterable[str] = (), logs: bool = True) -> None:
    """Puts the app on the database in *folder*; OSError, in words, when it can't be used. *logs*:
    whether faults are written down there.
    """
    app.extensions["cold_arc_sessions"] = open_database(folder)
    app.extensions["cold_arc_folder"] = folder
    if logs:
        open_log(folder)
    app.extensions["cold_arc_meters"] = Stand(Feed(), _pace())
    make_token(app.extensions["cold_arc_sessions"])
    shop = hashlib.sha256(str(folder.resolve()).encode()).hexdigest()[:8]
    app.config.update(
        SECRET_KEY=_secret_key(folder),
        SESSION_COOKIE_NAME=f"cold_arc_{shop}",
        COLD_ARC_HOSTS=frozenset((*OWN_NAMES, *(host.lower() for host in hosts))),
    )


def warm(app: Flask) -> None:
    """Compiles every page's template before the first visitor comes."""
    for name in app.jinja_env.list_templates(extensions=["html", "svg"]):
        app.jinja_env.get_template(name)


def _pace() -> float:
    """How fast time runs for a simulated lamp, to practise a warm-up: COLD_ARC_PACE, 1 to 600."""
    return bounded(os.environ.get("COLD_ARC_PACE"), 1.0, 600.0, 1.0)


def _secret_key(folder: Path) -> str:
    """The key that signs forms; made once, whole or not at all, readable by its owner alone."""
    path = folder / "secret-key"
    with suppress(FileNotFoundError):
        if len(key := path.read_text(encoding="ascii").strip()) >= KEY_LENGTH:
            return key
    key = secrets.token_hex(KEY_LENGTH // 2)
    try:
        write_for_owner(path, key.encode("ascii"))
    except OSError as error:
        raise StoreError(f"{path} can't be written ({error.strerror}).") from error
    return key


def _room_for_pictures() -> None:
    """A picture may be larger than any other form; told before anything of the request is read."""
    pictures = PICTURE_FORMS.get(request.endpoint or "", 0)
    if pictures:
        request.max_content_length = pictures * photo.MOST_BYTES + MOST_FORM


def _own_name() -> tuple[str, int] | None:
    """Answers to the shop's own names alone, so that no page elsewhere can reach it by one of its
    own.
    """
    name = (
        request.host.rpartition(":")[0]
        if request.host.rpartition(":")[2].isdecimal()
        else request.host
    )
    if name.lower() in current_app.config["COLD_ARC_HOSTS"] or name.lower() in _names_now():
        return None
    return "This name is not one of the shop's. Start it with --allowed-host to use it.\n", 400


# The app's settings that may change while it serves.
BACKUP_FAULT = "COLD_ARC_BACKUP_FAULT"  # why the last backup failed, "" where it did not
CHANGING = ("COLD_ARC_HOSTS", guests.ASKED, guests.SECURE_PORT, BACKUP_FAULT)
# Among the app's settings: what tells the names this machine has on its network now, and when it
# was asked last.
NAMES_NOW, NAMES_ASKED = "COLD_ARC_NAMES_NOW", "COLD_ARC_NAMES_ASKED"
NAMES_EVERY_S = 5.0


def _names_now() -> list[str]:
    """The names this machine has on its network by now, as its address may change; none where the
    network is not let in, or they were asked for a moment ago.
    """
    config = current_app.config
    moment = time.monotonic()
    if not config.get(NAMES_NOW) or moment - config.get(NAMES_ASKED, -math.inf) < NAMES_EVERY_S:
        return []
    config[NAMES_ASKED] = moment
    names: list[str] = config[NAMES_NOW]()
    config["COLD_ARC_HOSTS"] |= frozenset(names)
    return names


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
        404,
        lambda _: page(
            "Not here", "There is no such job, lamp or page. It may have been mistyped.", 404
        ),
    )
    app.register_error_handler(
        405,
        lambda _: page(
            "Not this way", "That address takes no such request. Go back and use the button.", 405
        ),
    )
    app.register_error_handler(
        413, lambda _: page("Too much at once", "That was too large. Nothing was saved.", 413)
    )
    app.register_error_handler(
        CSRFError,
        lambda _: page(
            "The form was too old",
            "Nothing was saved. Go back, reload the page and send it again.",
            400,
        ),
    )

    def not_written(error: OperationalError) -> tuple[str, int]:
        if "full" in str(error.orig):
            _log.error("the disk is full: %s", error.orig)
            return page(
                "The disk is full",
                "Nothing was saved; what you typed is kept. Make room on the shop's disk, then "
                "send it again.",
                507,
            )
        return page(
            "The data is busy",
            "Nothing was saved; what you typed is kept. Send it again soon.",
            503,
        )

    app.register_error_handler(OperationalError, not_written)
    app.register_error_handler(
        ServiceUnavailable,
        lambda error: (
            *page("Busy", "Other beams are being computed. Try again in a moment.", 503),
            {"Retry-After": str(error.retry_after)},
        ),
    )
    app.register_error_handler(
        ImplausibleError,
        lambda error: page("That can't be recorded", f"Nothing was saved. {error}", 422),
    )

    app.register_error_handler(
        SigningError,
        lambda error: page("That can't be signed", f"{error} See the Shop's page.", 409),
    )
    app.register_error_handler(
        PictureMissingError,
        lambda error: page("That can't be written", f"{error} See what cold-arc check says.", 409),
    )

    def broken(error: InternalServerError) -> tuple[str, int]:
        number = secrets.token_hex(NUMBER_BYTES).upper()
        _log.error(
            "%s: %s %s",
            number,
            request.method,
            quote(request.path),
            exc_info=error.original_exception,
        )
        text = (
            "What was saved before is safe. Reload the page and try again. If it breaks again, "
            f"tell number {number}: the log in the data folder says what happened."
        )
        return page("Something broke", text, 500)

    app.register_error_handler(500, broken)
