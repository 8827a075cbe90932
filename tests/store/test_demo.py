"""The demo garage: loaded once, kept, started over only on request."""

import pytest
from sqlalchemy import select

from cold_arc import cli
from cold_arc.core.car import bases
from cold_arc.core.job.progress import Progress
from cold_arc.core.job.stages import Stage
from cold_arc.demo.garage import load_once
from cold_arc.demo.shelf import SHELF
from cold_arc.store import catalogue, jobs
from cold_arc.store.database import open_database
from cold_arc.store.models import JobRow


def open_jobs(folder):
    with open_database(folder)() as session:
        rows = session.scalars(select(JobRow.id).where(JobRow.closed_at.is_(None)))
        return [jobs.load(session, job_id) for job_id in rows.all()]


def test_five_cars_at_different_stages(demo_folder):
    found = {job.booking.reference: job for job in open_jobs(demo_folder)}
    waiting = {reference: Progress(job.record).waits_on for reference, job in found.items()}
    assert waiting == {
        "TL-318": Stage.VERIFY,
        "TL-321": Stage.INSPECT,
        "TL-316": Stage.MATCH,
        "TL-309": Stage.AIM,
        "TL-322": Stage.BOOK_IN,
        "TL-331": Stage.FIT,
        "TL-332": Stage.PLAN,
        "TL-333": Stage.MATCH,
    }
    vintage = found["TL-309"].booking
    assert (vintage.volts, vintage.earth_positive) == (6.0, True)


def test_loading_again_keeps_what_the_user_added(demo_folder):
    with open_database(demo_folder).begin() as session:
        catalogue.set_setting(session, "shop_name", "My shop")
    assert not load_once(demo_folder)
    assert len(open_jobs(demo_folder)) == 8
    with open_database(demo_folder)() as session:
        assert catalogue.setting(session, "shop_name") == "My shop"


def test_the_shelf_names_only_known_bases():
    assert [
        source.name for source in SHELF.values() if source.base and bases.find(source.base) is None
    ] == []


@pytest.fixture
def data_at(tmp_path, monkeypatch):
    monkeypatch.setenv("COLD_ARC_DATA", str(tmp_path / "data"))
    return tmp_path / "data"


def test_reset_starts_over(data_at):
    assert cli.main(["demo", "--no-serve"]) == 0
    with open_database(data_at).begin() as session:
        catalogue.set_setting(session, "shop_name", "My shop")
    assert cli.main(["demo", "--reset", "--no-serve"]) == 0
    with open_database(data_at)() as session:
        assert catalogue.setting(session, "shop_name") == "Tallow Lane Lampworks"


def test_reset_refuses_a_real_shop(data_at, capsys):
    assert cli.main(["serve", "--no-serve"]) == 0
    assert cli.main(["demo", "--reset", "--no-serve"]) == 1
    assert "nothing was removed" in capsys.readouterr().err
    assert (data_at / "cold-arc.sqlite").exists()


def test_a_bad_port_is_said(data_at, monkeypatch, capsys):
    monkeypatch.setenv("PORT", "lots")
    assert cli.main(["serve"]) == 1
    assert "PORT" in capsys.readouterr().err
