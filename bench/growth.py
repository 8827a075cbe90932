"""What growth and load cost: a hundred thousand jobs, a record of five thousand entries, many at
the bench at once.

`python bench/growth.py` prints the table that docs/reliability.md shows.
"""

from __future__ import annotations

import json
import resource
import socket
import sqlite3
import statistics
import sys
import tempfile
import threading
import time
import urllib.request
from contextlib import closing
from pathlib import Path

ROOT = Path(__file__).parent.parent
sys.path.insert(0, str(ROOT))

from tests.serving import serving  # noqa: E402

JOBS, ENTRIES, ROUNDS = 100_000, 5_000, 40
SLIDERS, LISTENERS = 6, 130


def grow(folder: Path) -> None:
    """A hundred thousand open and closed jobs, each with the first entries of the demo's first."""
    with closing(sqlite3.connect(folder / "cold-arc.sqlite")) as database:
        first = database.execute(
            "SELECT at, kind, about, payload FROM entries WHERE job_id = 1 ORDER BY id LIMIT 5"
        ).fetchall()
        (start,) = database.execute("SELECT max(id) + 1 FROM jobs").fetchone()
        board = json.dumps(
            {
                "reference": "G",
                "vehicle": "Orlo Carter",
                "complaint": "",
                "waits_on": "inspect",
                "work": [],
            }
        )
        jobs = (
            (
                number,
                first[0][0],
                first[0][0] if number % 2 else None,
                f"20{26 + number % 3}-{number % 12 + 1:02d}-15",
                board,
                f"g-{number} orlo carter 2019 low beam bulb h{number % 13} brighter \ue001",
            )
            for number in range(start, start + JOBS)
        )
        database.executemany(
            (
                "INSERT INTO jobs (id, opened_at, closed_at, due, board, words) VALUES (?, ?, ?, "
                "?, ?, ?)"
            ),
            jobs,
        )
        rows = ((number, *entry) for number in range(start, start + JOBS) for entry in first)
        database.executemany(
            (
                "INSERT INTO entries (job_id, at, kind, version, about, payload) VALUES (?, ?, ?, "
                "1, ?, ?)"
            ),
            rows,
        )
        long = (
            (
                2,
                first[0][0],
                "clocked",
                '["headlamp-1-left"]',
                '{"stopped_deg": 3.0, "typed": "3 cw"}',
            )
            for _ in range(ENTRIES)
        )
        database.executemany(
            (
                "INSERT INTO entries (job_id, at, kind, version, about, payload) VALUES (?, ?, ?, "
                "1, ?, ?)"
            ),
            long,
        )
        database.commit()


def fetch(address: str) -> float:
    started = time.perf_counter()
    with urllib.request.urlopen(address, timeout=30) as answer:
        answer.read()
    return (time.perf_counter() - started) * 1000


def timed(address: str) -> list[float]:
    fetch(address)
    return sorted(fetch(address) for _ in range(ROUNDS))


def told(what: str, times: list[float]) -> None:
    high = times[int(len(times) * 0.95) - 1]
    print(
        f"| {what} | {statistics.median(times):.0f} ms | {high:.0f} ms | {times[-1]:.0f} ms |",
        flush=True,
    )


def slide(url: str, number: int, stop: threading.Event, answered: list[int]) -> None:
    clock = number * 7
    while not stop.is_set():
        clock = (clock + 1) % 180
        try:
            fetch(f"{url}/bench?source=led&clock={clock}")
            answered.append(200)
        except urllib.error.HTTPError as busy:
            answered.append(busy.code)
            time.sleep(0.7)


def main() -> None:
    print("| what | median | 95 % | worst |\n|---|---|---|---|")
    with tempfile.TemporaryDirectory() as name, serving(Path(name), "demo") as server:
        told("board, 5 jobs", timed(server.url))
        grow(Path(name))
        told(f"board, {JOBS:,} jobs more".replace(",", " "), timed(server.url))
        told("a lane's page 500", timed(f"{server.url}/jobs/lane/3?page=500"))
        told("a search among them", timed(f"{server.url}/?q=carter+h11+9999"))
        told("wall work next", timed(f"{server.url}/?which=wall"))
        told(
            f"record of {ENTRIES:,} entries".replace(",", " "), timed(f"{server.url}/jobs/2/record")
        )
        told("stage page of that job", timed(f"{server.url}/jobs/2/low/inspect"))
        held = [socket.create_connection(("127.0.0.1", server.port)) for _ in range(LISTENERS)]
        told(f"board beside {LISTENERS} silent connections", timed(server.url))
        for connection in held:
            connection.close()
        stop, answered = threading.Event(), []
        sliders = [
            threading.Thread(target=slide, args=(server.url, n, stop, answered))
            for n in range(SLIDERS)
        ]
        for slider in sliders:
            slider.start()
        time.sleep(3)
        told(
            f"plain pages while {SLIDERS} slide on the bench", timed(f"{server.url}/jobs/1/low/aim")
        )
        stop.set()
        for slider in sliders:
            slider.join()
        print(
            f"\nBench meanwhile: {answered.count(200)} answered, {answered.count(503)} told "
            "to ask again."
        )
    print(
        "This script's own memory: "
        f"{resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1024} MB."
    )


if __name__ == "__main__":
    main()
