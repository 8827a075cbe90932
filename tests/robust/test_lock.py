"""The write lock: nothing is computed while it is held, and what was saved meanwhile is not gone
over.
"""

from __future__ import annotations

import gc
import re
import shutil
import statistics
import threading
import time

import pytest
from sqlalchemy import Engine, event

from cold_arc.core.beam import model
from cold_arc.formats import photo
from cold_arc.web.job import stage_page
from cold_arc.web.shell import db
from tests.robust.conftest import ask, forms, kind, links, open_client
from tests.thorough import THOROUGH

READINGS = {"distance": "10 m", "range_factor": "1", "volts": "13.2"}
BASELINE = "/jobs/2/low/baseline"
# What is worked while it is held, processor seconds, whatever else the machine does; and how long
# half of all writers hold it, s, the disk and busy neighbours with it. Others wait three for it.
MOST_WORKED_S, HALF_HELD_S = 0.1, 0.1


@pytest.fixture
def demo(demo_folder):
    return open_client(demo_folder)


def reads(client):
    return ask(client.folder, "SELECT count(*) FROM entries WHERE kind = 'read'")[0][0]


def stamps(client, page):
    """What a page's form carries of when it was made."""
    fields = next(fields for _, fields in forms(client.get(page).text) if "seen" in fields)
    return {name: fields[name] for name in ("once", "seen")}


def test_what_was_saved_between_reading_and_writing_is_not_gone_over(demo, monkeypatch):
    """A form is worked out without the lock: where another saved meanwhile it is worked out again,
    and then finds theirs.
    """
    form, began = {**READINGS, **stamps(demo, BASELINE)}, []
    before = reads(demo)
    refuse_stale = stage_page.StagePage.refuse_stale

    def meanwhile(page, entries):
        if not began:
            began.append(True)
            other = {**READINGS, "peak-low-left": "400"}
            assert demo.application.test_client().post(BASELINE, data=other).status_code == 303
        return refuse_stale(page, entries)

    monkeypatch.setattr(stage_page.StagePage, "refuse_stale", meanwhile)
    answer = demo.post(BASELINE, data={**form, "peak-low-left": "410"})
    assert answer.status_code == 409
    assert reads(demo) == before + 1


def test_whoever_is_overtaken_again_and_again_is_served_at_last(demo, monkeypatch):
    """After some tries a form takes the lock first, so that nobody comes before it for ever."""
    others, inner = iter(range(400, 500)), threading.local()
    writable = db.writable

    def overtaken(*given, **more):
        if not getattr(inner, "now", False) and not db.session().info.get("locked"):
            inner.now = True
            form = {**READINGS, "peak-low-right": str(next(others))}
            demo.application.test_client().post(BASELINE, data=form)
            inner.now = False
        return writable(*given, **more)

    monkeypatch.setattr("cold_arc.web.job.stages.wall_readings.writable", overtaken)
    answer = demo.post(BASELINE, data={**READINGS, "peak-low-left": "410"})
    assert answer.status_code == 303
    assert next(others) == 400 + db.TRIES


@pytest.fixture
def watched(monkeypatch):
    """Says of each thread how long it held the lock and worked meanwhile, s, and fails where it
    computes.
    """
    here, held = threading.local(), []
    writing = db.writing

    def locked(session):
        opened = writing(session)
        here.since = time.perf_counter(), time.thread_time()
        return opened

    def let_go(*_):
        since = getattr(here, "since", None)
        here.since = None
        if since is not None:
            lasted, worked = time.perf_counter() - since[0], time.thread_time() - since[1]
            # A thread's clock jumps on a shared machine: no more was worked than it lasted.
            held.append((lasted, min(lasted, worked)))

    def never(where, name):
        work = getattr(where, name)

        def guarded(*given, **more):
            assert getattr(here, "since", None) is None, f"{name} under the lock"
            return work(*given, **more)

        monkeypatch.setattr(where, name, guarded)

    gc.collect()
    gc.disable()  # what a collector does meanwhile is nobody's work
    monkeypatch.setattr(db, "writing", locked)
    never(stage_page, "build_action")
    never(stage_page, "render_template")
    never(model, "illuminate")
    never(photo, "_opened")
    for name in ("commit", "rollback"):
        event.listen(Engine, name, let_go)
    yield held
    gc.enable()
    for name in ("commit", "rollback"):
        event.remove(Engine, name, let_go)


SHOP = ("/", "/shop", "/light-sources", "/light-sources/1", "/jobs/new", "/bench", "/measured")
SHOP += ("/shop/aim-rules/copy/un-low", "/jobs/1/record")
JOBS = (2, 5) if THOROUGH else (5,)


def pages(client):
    """The shop's pages, and every page of some jobs, each once whatever the things in scope."""
    seen, ahead = {}, [*SHOP, *(f"/jobs/{number}" for number in JOBS)]
    while ahead:
        address = ahead.pop()
        stage = re.sub(r"/jobs/(\d)/[a-z0-9-]+/", r"/jobs/\1/*/", address.partition("?")[0])
        if stage in seen:
            continue
        answer = client.get(address, follow_redirects=True)
        seen[stage] = address, answer.text if answer.mimetype == "text/html" else ""
        found = links(seen[stage][1])
        ahead += sorted(link for link in found if re.match(r"/jobs/[25]/[a-z0-9-]+/[a-z]", link))
    return dict(seen.values())


def send_every_form(demo):
    """Every form of every page, as it stands."""
    alike = {
        (kind(action or page), frozenset(fields)): (action or page, fields)
        for page, text in pages(demo).items()
        for action, fields in forms(text)
    }
    sent = [demo.post(action, data=fields).status_code for action, fields in alike.values()]
    assert len(sent) > (60 if THOROUGH else 40)
    assert not [status for status in sent if status >= 500]


def test_nothing_is_computed_while_the_lock_is_held(prepared, tmp_path, watched, capsys):
    """How long the lock was held goes into docs/reliability.md. A machine whose processor others
    take counts some of that as a thread's own work: what was too much is looked at again, from the
    start, and was no work of ours unless it is too much each time.
    """
    for time_round in range(3):
        watched.clear()
        shutil.copytree(prepared, tmp_path / str(time_round))
        send_every_form(open_client(tmp_path / str(time_round)))
        assert len(watched) > 30
        held, worked = zip(*watched, strict=True)
        if max(worked) < MOST_WORKED_S:
            break
    with capsys.disabled():
        times = f"half within {1000 * statistics.median(held):.1f} ms, {len(held)} times"
        print(f"\n  lock held {times}, longest {1000 * max(held):.0f} ms", end="")
    assert max(worked) < MOST_WORKED_S
    assert statistics.median(held) < HALF_HELD_S
