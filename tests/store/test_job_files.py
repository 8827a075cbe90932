"""Jobs carried from one shop to another: nothing lost, nothing doubled, what goes on goes on."""

import json
import shutil
import sqlite3
import zipfile
from contextlib import closing

import pytest

from cold_arc.cli import main
from cold_arc.core.car import front_building as fronts
from cold_arc.core.car.keys import SocketKey
from cold_arc.core.car.lamps import Drive, Side
from cold_arc.core.job.entries.book_in import Booking
from cold_arc.core.job.entries.stages import Passed
from cold_arc.core.job.stages import Stage
from cold_arc.store import chain, job_files, jobs, pictures
from cold_arc.store.database import FILE_NAME, open_database

LEFT = SocketKey("headlamp", 1, Side.LEFT)
BOOKING = Booking("A-1", "Velmar", "Dorin", Drive.LEFT, "un")


@pytest.fixture
def shops(tmp_path, monkeypatch, capsys):
    """Two shops: runs a command in one of them, and its answer."""

    def run(shop, *arguments):
        monkeypatch.setenv("COLD_ARC_DATA", str(tmp_path / shop))
        code = main([str(argument) for argument in arguments])
        said = capsys.readouterr()
        return code, said.out, said.err

    return run


def within(tmp_path, shop):
    return open_database(tmp_path / shop).begin()


def opened(tmp_path, shop="one"):
    """A job with a few entries, one undone, and a picture."""
    with within(tmp_path, shop) as session:
        number = jobs.open_job(session, BOOKING, fronts.made("dual"), [LEFT])
        for reason in ("dark", "rain"):
            jobs.append(session, number, Passed(Stage.BASELINE.value, reason), [LEFT])
        jobs.undo(session, number, jobs.load(session, number).entries[-1].id)
        pictures.keep(session, number, b"large", b"small", b"as it came")
        return number


def carried(shops, tmp_path, *more):
    file = tmp_path / "jobs.zip"
    assert shops("one", "export", "--to", file)[0] == 0
    code, out, _ = shops("two", "import", file, "--json", *more)
    assert code == 0
    return [job["state"] for job in json.loads(out)["jobs"]]


def test_a_whole_shop_is_the_same_after_there_and_back(shops, prepared, tmp_path):
    shutil.copytree(prepared, tmp_path / "one", dirs_exist_ok=True)
    opened(tmp_path)
    assert set(carried(shops, tmp_path)) == {"new"}
    shops("two", "export", "--to", tmp_path / "again.zip")
    with (
        zipfile.ZipFile(tmp_path / "jobs.zip") as one,
        zipfile.ZipFile(tmp_path / "again.zip") as two,
    ):
        assert set(one.namelist()) == set(two.namelist())
        for name in set(one.namelist()) - {"manifest.json"}:
            assert one.read(name) == two.read(name), name
    code, out, _ = shops("two", "import", tmp_path / "jobs.zip", "--json")
    assert code == 0
    assert {job["state"] for job in json.loads(out)["jobs"]} == {"the same"}


def test_a_job_reads_as_it_did_with_its_pictures(shops, tmp_path):
    opened(tmp_path)
    with within(tmp_path, "two") as session:  # another number there
        jobs.open_job(session, BOOKING, fronts.made("dual"), [LEFT])
    assert carried(shops, tmp_path) == ["new"]
    with within(tmp_path, "one") as one, within(tmp_path, "two") as two:
        here, there = jobs.load(one, 1), jobs.load(two, 2)
        assert [e.payload for e in here.entries] == [e.payload for e in there.entries]
        assert [e.payload for e in here.record.entries] == [e.payload for e in there.record.entries]
        assert pictures.original(two, 2, 1) == b"as it came"
        assert pictures.picture(two, 2, 1, small=True) == b"small"
        assert chain.faults(two, 2) == []


def test_what_was_added_elsewhere_is_added_and_what_went_on_apart_is_left(shops, tmp_path):
    opened(tmp_path)
    carried(shops, tmp_path)
    with within(tmp_path, "one") as session:
        jobs.append(session, 1, Passed(Stage.MATCH.value, "later"), [LEFT])
        jobs.undo(session, 1, jobs.load(session, 1).entries[3].id)
    assert carried(shops, tmp_path) == ["goes on"]
    with within(tmp_path, "two") as session:
        assert jobs.load(session, 1).record.all(Passed)[-1].reason == "later"
        assert len(jobs.load(session, 1).record.all(Passed)) == 1
        jobs.append(session, 1, Passed(Stage.PLAN.value, "only here"), [LEFT])
    assert carried(shops, tmp_path) == ["older"]
    with within(tmp_path, "one") as session:
        jobs.append(session, 1, Passed(Stage.PLAN.value, "only there"), [LEFT])
    assert carried(shops, tmp_path) == ["apart"]
    with within(tmp_path, "two") as session:
        assert jobs.load(session, 1).record.all(Passed)[-1].reason == "only here"


def test_a_dry_run_changes_nothing(shops, tmp_path):
    opened(tmp_path)
    assert carried(shops, tmp_path, "--dry-run") == ["new"]
    with within(tmp_path, "two") as session:
        assert jobs.load(session, 1) is None


def test_a_file_changed_on_its_way_leaves_nothing_behind(shops, tmp_path):
    opened(tmp_path)
    opened(tmp_path)
    with closing(sqlite3.connect(tmp_path / "one" / FILE_NAME)) as database:
        database.execute(
            "UPDATE entries SET payload = replace(payload, 'dark', 'dusk') WHERE job_id = 2"
        )
        database.commit()
    file = tmp_path / "jobs.zip"
    shops("one", "export", "--to", file)
    code, _, err = shops("two", "import", file)
    assert code == 1
    assert "not as it was chained: Entry 4 (passed) was changed" in err
    with within(tmp_path, "two") as session:
        assert jobs.load(session, 1) is None


def test_jobs_are_named_by_reference(shops, tmp_path):
    opened(tmp_path)
    file = tmp_path / "one.zip"
    code, out, _ = shops("one", "export", "a-1", "--to", file)
    assert (code, out) == (0, f"1 job written to {file}\n")
    code, _, err = shops("one", "export", "Z-9", "--to", file)
    assert code == 1
    assert "No job has the reference Z-9." in err
    assert shops("two", "import", tmp_path / "missing.zip")[0] == 1


def test_taking_in_that_is_stopped_leaves_nothing_behind(shops, tmp_path, monkeypatch):
    for _ in range(3):
        opened(tmp_path)
    file = tmp_path / "jobs.zip"
    shops("one", "export", "--to", file)
    taken, take_in = [], job_files.take_in

    def stopped(*given):
        for each in take_in(*given):
            taken.append(each)
            if len(taken) == 2:
                raise KeyboardInterrupt
            yield each

    monkeypatch.setattr(job_files, "take_in", stopped)
    with pytest.raises(KeyboardInterrupt):
        shops("two", "import", file)
    with within(tmp_path, "two") as session:
        assert job_files.numbers_of(session, ()) == []
    monkeypatch.setattr(job_files, "take_in", take_in)
    assert carried(shops, tmp_path) == ["new"] * 3


def test_what_a_newer_version_says_besides_is_carried_on(shops, tmp_path):
    opened(tmp_path)
    file, newer, again = (tmp_path / name for name in ("a.zip", "newer.zip", "again.zip"))
    shops("one", "export", "--to", file)
    with zipfile.ZipFile(file) as source, zipfile.ZipFile(newer, "w") as to:
        for name in source.namelist():
            data = source.read(name)
            if name.endswith("job.json"):
                plain = json.loads(data)
                plain["mood"] = {"of": ["tomorrow", 1.5]}
                plain["entries"][2]["weight"] = 7
                data = json.dumps(plain)
            to.writestr(name, data)
    assert shops("two", "import", newer)[0] == 0
    shops("two", "export", "--to", again)
    with zipfile.ZipFile(newer) as one, zipfile.ZipFile(again) as two:
        name = next(name for name in one.namelist() if name.endswith("job.json"))
        assert json.loads(one.read(name)) == json.loads(two.read(name))


def test_more_of_a_newer_version_than_is_carried_is_refused(shops, tmp_path):
    opened(tmp_path)
    file, newer = tmp_path / "a.zip", tmp_path / "newer.zip"
    shops("one", "export", "--to", file)
    with zipfile.ZipFile(file) as source, zipfile.ZipFile(newer, "w") as to:
        for name in source.namelist():
            data = source.read(name)
            if name.endswith("job.json"):
                data = json.dumps(json.loads(data) | {"mood": "x" * 100_001})
            to.writestr(name, data)
    code, _, wrong = shops("two", "import", newer)
    assert (code, "more of a newer version" in wrong) == (1, True)
