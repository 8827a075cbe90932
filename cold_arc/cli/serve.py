"""`cold-arc serve` and `cold-arc demo`."""

from __future__ import annotations

import argparse
import os
import shutil
import threading
from pathlib import Path
from typing import Any

HOST = "127.0.0.1"
DEFAULT_PORT = 8451
WAITRESS_THREADS = 6


def add_commands(commands: Any) -> None:
    """Adds `serve` and `demo`."""
    serve = commands.add_parser("serve", help="serve the shop in COLD_ARC_DATA (var/shop)")
    serve.set_defaults(run=_serve)
    demo = commands.add_parser("demo", help="load the demo garage once and serve it (var/demo)")
    demo.add_argument("--reset", action="store_true", help="throw the demo data away and start over")
    demo.set_defaults(run=_demo)
    for command in (serve, demo):
        command.add_argument("--no-serve", action="store_true", help="prepare the data only")


def _folder(default: str) -> Path:
    return Path(os.environ.get("COLD_ARC_DATA") or default).resolve()


def _port() -> int:
    text = os.environ.get("PORT") or str(DEFAULT_PORT)
    if not text.isdecimal() or not 0 < int(text) < 65536:
        raise ValueError(f"PORT must be a number from 1 to 65535, not “{text}”.")
    return int(text)


def _serve(options: argparse.Namespace) -> int:
    return _run(_folder("var/shop"), options)


def _demo(options: argparse.Namespace) -> int:
    from cold_arc.demo.garage import load_once

    folder = _folder("var/demo")
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
    from waitress import create_server  # here, so that computing a beam need not load the pages

    from cold_arc.web import bench
    from cold_arc.web.app import create_app, warm

    app = create_app(folder)
    if options.no_serve:
        return 0
    port = _port()
    warm(app)
    threading.Thread(target=bench.warm, daemon=True).start()
    try:
        server = create_server(app, host=HOST, port=port, threads=WAITRESS_THREADS)
    except OSError as error:
        raise OSError(f"port {port} can't be used ({error.strerror}). Choose another: PORT=8460 make demo") from None
    print(f"Cold Arc is at http://{HOST}:{port}  (stop it with Ctrl-C)", flush=True)
    server.run()
    return 0
