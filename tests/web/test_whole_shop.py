"""The whole shop as one file: written with its progress, stopped cleanly, taken in by another
without loss."""

import io
import json
import time
import zipfile

import pytest

from cold_arc import cli
from cold_arc.store import aim_rules, bench, catalogue, job_files, jobs, shop_file
from cold_arc.store.database import open_database
from cold_arc.web.job import files, whole_shop
from tests.web.conftest import BOOKING, Client


def waited(client):
    """The page once nothing is written any more."""
    until = time.monotonic() + 60
    while "Writing:" in (page := client.get("/shop/file")):
        assert time.monotonic() < until
        time.sleep(0.05)
    return page


@pytest.fixture
def written(demo):
    demo.post("/shop/file", do="begin")
    assert "Fetch shop.zip" in waited(demo)
    return demo.http.get("/shop/file.zip").data


def shop_of(folder):
    with open_database(folder)() as session:
        return shop_file.filed_shop(session)


def test_another_shop_takes_it_in_without_loss_and_twice_without_doubling(written, demo, tmp_path):
    other = Client(tmp_path / "other")
    looked = other.http.post("/shop/take-in", data={"file": (io.BytesIO(written), "shop.zip")})
    assert "Of the shop itself:" in looked.text
    digest = looked.text.partition('name="sum" value="')[2].partition('"')[0]
    assert "New besides:" in other.post("/shop/take-in", do="take", sum=digest)
    theirs, ours = shop_of(tmp_path / "other"), shop_of(demo.folder)
    for name in ("light_sources", "routes", "aim_rules", "setups", "settings"):
        assert sorted(map(json.dumps, theirs[name])) == sorted(map(json.dumps, ours[name])), name
    with open_database(tmp_path / "other")() as there, open_database(demo.folder)() as here:
        assert job_files.numbers_of(there, ()) == job_files.numbers_of(here, ())
        assert shop_file.take_in(there, ours) == shop_file.ShopHeld()


def test_nothing_that_lets_anybody_in_goes_along(written):
    with zipfile.ZipFile(io.BytesIO(written)) as source:
        settings = json.loads(source.read("shop.json"))["settings"]
    assert settings["shop_name"] == "Tallow Lane Lampworks"
    assert settings.keys() <= set(shop_file.SETTINGS)


def test_what_is_here_stays_as_it_is(demo, tmp_path):
    theirs, ours = shop_of(demo.folder), tmp_path / "ours"
    with open_database(ours).begin() as session:
        catalogue.set_setting(session, "shop_name", "Ours")
        taken = shop_file.take_in(session, theirs)
    assert taken.settings == len([text for text in theirs["settings"].values() if text]) - 1
    with open_database(ours)() as session:
        assert catalogue.setting(session, "shop_name") == "Ours"
        assert len(catalogue.light_sources(session)) == taken.light_sources


@pytest.mark.parametrize(
    "damaged",
    [
        {"light_sources": [{"name": 7}], "routes": [{"steps": "?"}], "aim_rules": [{}]},
        {"setups": [{"name": "", "facts": {}}], "settings": {"calendar": "let me in"}},
        {},
    ],
)
def test_what_can_not_be_read_of_a_shop_is_left_out(shop, damaged):
    with open_database(shop.folder).begin() as session:
        assert shop_file.held(damaged) == shop_file.take_in(session, damaged)
        assert shop_file.held(damaged) == shop_file.ShopHeld()
        assert (aim_rules.all_rules(session), bench.kept_setups(session)) == ({}, {})


def test_it_can_be_stopped_and_leaves_nothing_behind(demo, monkeypatch):
    begun, going_on = [], []

    def slow(*_, **__):
        begun.append(True)
        while not going_on:
            time.sleep(0.01)
        return {}

    monkeypatch.setattr(files, "beside_of", slow)
    demo.post("/shop/file", do="begin")
    while not begun:
        time.sleep(0.01)
    assert "Writing: 0 %" in demo.get("/shop/file")
    demo.post("/shop/file", do="stop")
    going_on.append(True)
    assert "Stopped." in waited(demo)
    assert list((demo.folder / whole_shop.OUTGOING).iterdir()) == []
    assert demo.http.get("/shop/file.zip").status_code == 404


def test_a_shop_without_jobs_is_a_file_too(shop, tmp_path, monkeypatch, capsys):
    monkeypatch.setenv("COLD_ARC_DATA", str(shop.folder))
    with open_database(shop.folder).begin() as session:
        catalogue.set_setting(session, "shop_name", "Alone")
    to = tmp_path / "shop.zip"
    assert cli.main(["export", "--to", str(to)]) == 0
    monkeypatch.setenv("COLD_ARC_DATA", str(tmp_path / "new"))
    assert cli.main(["import", str(to), "--json"]) == 0
    assert json.loads(capsys.readouterr().out.splitlines()[-1])["shop"]["settings"] == 1


def test_named_jobs_go_without_the_shop(shop, tmp_path, monkeypatch):
    monkeypatch.setenv("COLD_ARC_DATA", str(shop.folder))
    shop.http.post("/jobs/new", data=BOOKING)
    with open_database(shop.folder)() as session:
        assert jobs.load(session, 1) is not None
    to = tmp_path / "one.zip"
    assert cli.main(["export", "A-1", "--to", str(to)]) == 0
    with zipfile.ZipFile(to) as source:
        assert "shop.json" not in source.namelist()
