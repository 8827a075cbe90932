"""`cold-arc serve` and `cold-arc demo`."""

from __future__ import annotations

import argparse
import datetime as dt
import logging
import os
import shutil
import sys
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

from cold_arc.cli.folder import shop_folder
from cold_arc.cli.network import certificate, network_names, serve_securely

HOST, EVERYWHERE = "127.0.0.1", "0.0.0.0"
DEFAULT_PORT = 8451
# Plain pages never wait for beams: those are computed by a few at a time (see web/beams.py), and
# the rest stay free. A connection that says nothing is let go, and only so many are taken at once.
# How large a form may be, the app says.
WAITRESS = {
    "threads": 12,
    "connection_limit": 400,
    "backlog": 256,
    "channel_timeout": 20,
    "cleanup_interval": 5,
    "asyncore_use_poll": True,
    "max_request_header_size": 65_536,
    "ident": None,
}
HOUSEKEEPING_S = 60.0
CARDS_AT_ONCE = 50


def add_commands(commands: Any) -> None:
    """Adds `serve` and `demo`."""
    serve = commands.add_parser("serve", help="serve the shop in COLD_ARC_DATA (var/shop)")
    serve.set_defaults(run=_serve)
    demo = commands.add_parser("demo", help="load the demo garage once and serve it (var/demo)")
    demo.add_argument(
        "--reset", action="store_true", help="throw the demo data away and start over"
    )
    demo.set_defaults(run=_demo)
    for command in (serve, demo):
        command.add_argument("--no-serve", action="store_true", help="prepare the data only")
        command.add_argument(
            "--host", default=HOST, help=f"address to listen on ({HOST}, this machine alone)"
        )
        command.add_argument(
            "--network",
            action="store_true",
            help="let the shop's tablets and telephones in, by https too (PORT + 1)",
        )
        command.add_argument(
            "--allowed-host",
            action="append",
            default=[],
            metavar="NAME",
            help="another name the shop answers to",
        )
        command.add_argument("--backup-to", type=Path, help="a second folder for the daily backup")


def _port() -> int:
    text = os.environ.get("PORT") or str(DEFAULT_PORT)
    if not text.isdecimal() or not 0 < int(text) < 65536:
        raise ValueError(f"PORT must be a number from 1 to 65535, not “{text}”.")
    return int(text)


def _serve(options: argparse.Namespace) -> int:
    return _run(shop_folder(), options)


def _demo(options: argparse.Namespace) -> int:
    from cold_arc.demo.garage import load_once

    folder = shop_folder("var/demo")
    if options.reset:
        _throw_away(folder)
    if load_once(folder):
        print(f"Demo garage loaded into {folder}")
    return _run(folder, options)


def _throw_away(folder: Path) -> None:
    """Removes a demo's data; refuses a folder that was not made by the demo."""
    if folder.exists() and not (folder / "demo").exists():
        raise ValueError(f"{folder} does not hold demo data; nothing was removed.")
    shutil.rmtree(folder, ignore_errors=True)


def _run(folder: Path, options: argparse.Namespace) -> int:
    from cold_arc.web.app import (
        create_app,
        warm,
    )  # here, so that computing a beam need not load the pages
    from cold_arc.web.bench import pages as bench

    names = network_names() if options.network else []
    app = create_app(folder, [options.host, *options.allowed_host, *names])
    if options.no_serve:
        return 0
    port = _port()
    warm(app)
    logging.getLogger("waitress.queue").setLevel(logging.ERROR)
    threading.Thread(target=bench.warm, daemon=True).start()
    threading.Thread(
        target=_keep_house, args=(app.extensions["cold_arc_sessions"], folder, options), daemon=True
    ).start()
    with _port_named(port):
        server = made_server(app, EVERYWHERE if options.network else options.host, port)
    print(f"Cold Arc is at http://{options.host}:{port}  (stop it with Ctrl-C)", flush=True)
    if options.network:
        _let_in(app, folder, port, [*names, *options.allowed_host])
    server.run()
    return 0


def _let_in(app: Any, folder: Path, port: int, names: list[str]) -> None:
    """Serves the shop's telephones and tablets by https too, and says where."""
    from cold_arc.web.job.aim.live import SECURE_PORT
    from cold_arc.web.shell.guests import ask_for_code

    code = ask_for_code(app)
    inner = made_server(app, HOST, 0, url_scheme="https")
    with _port_named(port + 1):
        serve_securely(certificate(folder, names), port + 1, inner.effective_port)
    threading.Thread(target=inner.run, daemon=True).start()
    app.config[SECURE_PORT] = port + 1
    print(
        "In the shop's network (the second lends pages the camera; its certificate is the "
        "shop's own):"
    )
    for name in names:
        print(f"  http://{name}:{port}  https://{name}:{port + 1}")
    print(f"Each device is asked once for the shop's code: {code}", flush=True)


def made_server(app: Any, host: str, port: int, **more: Any) -> Any:
    from waitress import create_server

    from cold_arc.web.app import MOST_REQUEST

    return create_server(
        app, host=host, port=port, max_request_body_size=MOST_REQUEST, **WAITRESS, **more
    )


@contextmanager
def _port_named(port: int) -> Iterator[None]:
    """Says which port can't be used, and what to do."""
    try:
        yield
    except OSError as error:
        raise OSError(
            f"port {port} can't be used ({error.strerror}). Choose another: PORT=8460 make demo"
        ) from None


def _keep_house(sessions: Any, folder: Path, options: argparse.Namespace) -> None:
    """While serving: works out the board's cards after an upgrade, forgets old form keys, backs up
    once a day.
    """
    from sqlalchemy.exc import SQLAlchemyError

    from cold_arc.store import answers, board
    from cold_arc.store.backup import BACKUPS, back_up, is_due
    from cold_arc.store.database import writing

    targets = [folder / BACKUPS, *([options.backup_to] if options.backup_to else [])]
    while True:
        worked = 0
        with suppress(SQLAlchemyError), writing(sessions()) as session:
            worked = board.keep(session, CARDS_AT_ONCE)
            answers.forget_old(session)
            session.commit()
        for target in targets:
            if is_due(target, dt.datetime.now()):
                _back_up(back_up, folder, target)
        time.sleep(0.05 if worked == CARDS_AT_ONCE else HOUSEKEEPING_S)


def _back_up(back_up: Any, folder: Path, target: Path) -> None:
    try:
        print(f"Backed up to {back_up(folder, target)}", flush=True)
    except OSError as error:
        print(f"cold-arc: {error}", file=sys.stderr, flush=True)
