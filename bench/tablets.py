"""How a shop full of tablets is answered: so many clients, each reading stage pages and saving with
a second to think between; seconds at the middle and at the 95th percentile.

`python bench/tablets.py [clients] [seconds] [busy]`; figures in docs/reliability.md. *busy*: 1
where one more works the bench, Match and photographs meanwhile, without a pause.
"""

from __future__ import annotations

import html
import http.client
import os
import random
import re
import statistics
import sys
import tempfile
import threading
import time
import urllib.parse
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent.parent))

from cold_arc.core.car import front_building as fronts
from cold_arc.demo.garage import load_once
from cold_arc.web.job import front_builder
from tests.serving import Server

THINK_S = 1.0
# How long they are at work before it is counted, s: other processes are begun once many ask.
LEAD_S = 12.0
PAGES = ("headlamp/inspect", "low/baseline", "headlamp-1/match", "all/plan", "all/fit", "all/prove")
HIDDEN = re.compile(r'name="(csrf_token|once|seen)"[^>]*value="([^"]*)"')


class Tablet(threading.Thread):
    """One tablet on a job of its own; *reads* and *saves*: seconds each took; *refused*: what was
    answered where something else was wanted."""

    def __init__(self, port: int, number: int, since: float, until: float) -> None:
        super().__init__(daemon=True)
        self.number, self.since, self.until = number, since, until
        self.asked = http.client.HTTPConnection("127.0.0.1", port, timeout=60)
        self.cookie = ""
        self.refused: list[int] = []
        self.reads: list[float] = []
        self.saves: list[float] = []

    def run(self) -> None:
        path = self._booked()
        time.sleep(random.random() * THINK_S)
        while time.time() < self.until:
            page = self._get(f"{path}/{random.choice(PAGES)}", self.reads)
            time.sleep(THINK_S * (0.5 + random.random()))
            page = self._get(f"{path}/headlamp/inspect", self.reads)
            began = time.time()
            self._post(f"{path}/headlamp/inspect", page, haze=str(random.randint(0, 3)))
            self._count(self.saves, began)
            time.sleep(THINK_S * (0.5 + random.random()))

    def _booked(self) -> str:
        page = self._get("/jobs/new", [])
        front = front_builder.write(fronts.made("two-singles", ["turn"]))
        answer = self._post(
            "/jobs/new", page, reference=f"T-{self.number}", make="Velmar", drive="left",
            market="un", road_use="road", volts="12", front=front,
            work=["headlamp-1-left", "headlamp-1-right"],
        )  # fmt: skip
        return re.match(r"/jobs/\d+", answer)[0]  # type: ignore[index]

    def _get(self, path: str, took: list[float]) -> str:
        began = time.time()
        self.asked.request("GET", path, headers={"Cookie": self.cookie})
        answer = self.asked.getresponse()
        text = answer.read().decode()
        self._count(took, began)
        self._heed(answer)
        return text

    def _post(self, path: str, page: str, **fields: object) -> str:
        """Where an answer leads."""
        form = {name: html.unescape(value) for name, value in HIDDEN.findall(page)} | fields
        body = urllib.parse.urlencode(form, doseq=True)
        head = {"Cookie": self.cookie, "Content-Type": "application/x-www-form-urlencoded"}
        self.asked.request("POST", path, body, head)
        answer = self.asked.getresponse()
        answer.read()
        self._heed(answer, wanted=(302, 303))
        return answer.getheader("Location") or ""

    def _count(self, took: list[float], began: float) -> None:
        if began > self.since:
            took.append(time.time() - began)

    def _heed(self, answer: http.client.HTTPResponse, wanted: tuple[int, ...] = (200,)) -> None:
        if answer.status not in wanted:
            self.refused.append(answer.status)
        if cookie := answer.getheader("Set-Cookie"):
            self.cookie = cookie.partition(";")[0]


class Worker(Tablet):
    """Whoever works out beams and photographs meanwhile, one after the other."""

    def run(self) -> None:
        turn = 0
        while time.time() < self.until:
            turn += 1
            self._get(f"/bench?source=led&axial={0.01 * turn:.2f}&points=1", self.reads)
            self._get(f"/jobs/3/low/match?go=1&look={1 + turn % 12}", self.reads)
            page = self._get("/jobs/1/low/aim/photo", self.reads)
            began = time.time()
            taken = {"lamp": "low-left", "phase": "left", "distance": "7.62 m"}
            self._post("/jobs/1/low/aim/photo", page, **taken, camera="simulated")
            self._count(self.saves, began)


def said(name: str, took: list[float]) -> str:
    """The middle and the 95th percentile, ms."""
    cut = statistics.quantiles(took, n=20)
    return f"{name}: {len(took)}, {1000 * cut[9]:.0f} ms, 95 % within {1000 * cut[18]:.0f} ms"


def main(clients: int = 20, seconds: float = 30.0, busy: int = 0) -> None:
    """Prints how they were answered."""
    folder = Path(tempfile.mkdtemp())
    load_once(folder)
    os.environ.setdefault("COLD_ARC_READERS", "1")
    server = Server(folder, "demo")
    time.sleep(15)  # the beams are readied
    since = time.time() + LEAD_S
    tablets = [Tablet(server.port, number, since, since + seconds) for number in range(clients)]
    beside = [Worker(server.port, -1, since, since + seconds) for _ in range(busy)]
    for client in (*tablets, *beside):
        client.start()
    for client in (*tablets, *beside):
        client.join()
    server.kill()
    print(f"{clients} tablets, {seconds:g} s")
    for worker in beside:
        print(said("one worked", [*worker.reads, *worker.saves]), f"refused: {worker.refused}")
    print(said("reads", [took for tablet in tablets for took in tablet.reads]))
    print(said("saves", [took for tablet in tablets for took in tablet.saves]))
    print("refused:", [status for tablet in tablets for status in tablet.refused])


if __name__ == "__main__":
    main(*map(int, sys.argv[1:]))
