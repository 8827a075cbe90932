"""`cold-arc serve` and `cold-arc demo`."""

from __future__ import annotations

import argparse
import datetime as dt
import os
import shutil
import socket
import sys
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from functools import partial
from pathlib import Path
from typing import Any

from cold_arc.cli.folder import shop_folder
from cold_arc.cli.network import certificate, fingerprint, network_names, qr_code

HOST, EVERYWHERE = "127.0.0.1", "0.0.0.0"
DEFAULT_PORT = 8451
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
    # Here, so that computing a beam need not load the pages.
    from cold_arc.cli import server
    from cold_arc.web.app import CHANGING, NAMES_NOW, create_app, create_reader, warm
    from cold_arc.web.bench import pages as bench
    from cold_arc.web.shell import apart, readers
    from cold_arc.web.shell.guests import takes_large
    from cold_arc.web.shell.lasting import keep_what_is_read_in

    names = network_names() if options.network else []
    app = create_app(folder, [options.host, *options.allowed_host, *names])
    app.config[NAMES_NOW] = network_names if options.network else None
    if options.no_serve:
        return 0
    port = _port()
    warm(app)
    keep_what_is_read_in()
    has_room = readers.is_worth()
    for ready in (bench.warm, *([apart.warm] if has_room else [])):
        threading.Thread(target=ready, daemon=True).start()
    threading.Thread(target=_keep_house, args=(app, folder, options), daemon=True).start()
    with _port_named(port):
        plain = server.listening(EVERYWHERE if options.network else options.host, port)
    print(f"Cold Arc is at http://{options.host}:{port}  (stop it with Ctrl-C)", flush=True)
    held = certificate(folder, names) if options.network else None
    secure = _let_in(app, port, [*names, *options.allowed_host], held) if held else None
    pages = readers.Readers(app, partial(create_reader, folder), CHANGING) if has_room else app
    server.run(pages, plain, secure, held, takes_large=partial(takes_large, app))
    return 0


def _let_in(app: Any, port: int, names: list[str], held: Path) -> socket.socket:
    """The socket for the shop's telephones and tablets, by https; says where they find it."""
    from cold_arc.cli import server
    from cold_arc.web.shell.guests import SECURE_PORT, ask_for_code

    code = ask_for_code(app)
    with _port_named(port + 1):
        secure = server.listening(EVERYWHERE, port + 1)
    app.config[SECURE_PORT] = port + 1
    print("In the shop's network, by the secure address; the certificate is the shop's own:")
    for name in names:
        print(f"  https://{name}:{port + 1}")
    print(f"Its fingerprint, as a browser shows it (SHA-256): {fingerprint(held)}")
    print(qr_code(f"https://{names[0]}:{port + 1}/"))
    print(f"Each device is asked once for the shop's code: {code}", flush=True)
    return secure


@contextmanager
def _port_named(port: int) -> Iterator[None]:
    """Says which port can't be used, and what to do."""
    try:
        yield
    except OSError as error:
        raise OSError(
            f"port {port} can't be used ({error.strerror}). Choose another: PORT=8460 make demo"
        ) from None


def _keep_house(app: Any, folder: Path, options: argparse.Namespace) -> None:
    """While serving: works out the board's cards after an upgrade, forgets old form keys, backs up
    once a day; where that fails, the pages say so.
    """
    from sqlalchemy.exc import SQLAlchemyError

    from cold_arc.store import answers, board
    from cold_arc.store.backup import BACKUPS, back_up, is_due
    from cold_arc.store.database import writing
    from cold_arc.web.app import BACKUP_FAULT

    sessions, faults = app.extensions["cold_arc_sessions"], dict[Path, str]()
    targets = [folder / BACKUPS, *([options.backup_to] if options.backup_to else [])]
    while True:
        worked: list[board.WorkedOut] = []
        with suppress(SQLAlchemyError):
            with sessions() as reading:
                worked = board.worked_out(reading, CARDS_AT_ONCE)
            with writing(sessions()) as session:
                board.keep(session, worked)
                answers.forget_old(session)
                session.commit()
        for target in targets:
            if is_due(target, dt.datetime.now()):
                faults[target] = _back_up(back_up, folder, target)
        app.config[BACKUP_FAULT] = " ".join(filter(None, faults.values()))
        time.sleep(0.05 if len(worked) == CARDS_AT_ONCE else HOUSEKEEPING_S)


def _back_up(back_up: Any, folder: Path, target: Path) -> str:
    """Backs up; why it could not, "" where it could."""
    try:
        print(f"Backed up to {back_up(folder, target)}", flush=True)
    except OSError as error:
        print(f"cold-arc: {error}", file=sys.stderr, flush=True)
        return str(error)
    return ""
