"""Every job as rows for a spreadsheet, by page and by command: what it says is what jobs say."""

import csv
import io
import json

import pytest

from cold_arc import cli
from cold_arc.core.job.outcome import compare
from cold_arc.core.job.tables import TABLES
from cold_arc.store import jobs
from cold_arc.store.database import open_database
from tests.web.conftest import BOOKING


def read(data):
    assert data.startswith(b"\xef\xbb\xbf")
    return list(csv.DictReader(io.StringIO(data.decode("utf-8-sig"), newline="")))


def table(client, name):
    answer = client.http.get(f"/shop/tables/{name}.csv")
    assert answer.mimetype == "text/csv"
    return read(answer.data)


def test_every_job_is_a_row_and_every_reading_one(demo):
    rows = table(demo, "jobs")
    assert rows[0]["reference"] == "TL-318"
    left = next(row for row in rows if row["reference"] == "TL-287")
    assert left["fitted"] == "Sableline H7 slim"
    assert (left["plate"], left["waits_on"], left["claims"]) == ("BK 287 F", "", "0")
    readings = [row for row in table(demo, "readings") if row["reference"] == "TL-287"]
    assert len(readings) == 16
    peak = next(row for row in readings if row["point"] == "peak" and row["phase"] == "after")
    # 318 lx less 0.2 lx at 10 m: E·d², and 0.2 m off its axis less than 0.2 % more.
    assert float(peak["candela"]) == pytest.approx(317.8 * 100, rel=2e-3)


def test_gains_are_those_of_verify(demo):
    with open_database(demo.folder)() as session:
        record = jobs.load(session, 1).record
        beam = record.road_beams[0]
        peak = compare(record, beam).gains["peak"]
    row = next(
        row
        for row in table(demo, "gains")
        if (row["reference"], row["beam"], row["point"]) == ("TL-318", str(beam), "peak")
    )
    assert float(row["gain_pct"]) == pytest.approx(100 * peak.relative, rel=1e-4)
    assert float(row["uncertainty_pct"]) == pytest.approx(100 * peak.uncertainty, rel=1e-4)
    assert row["source"] == "Sableline H7 slim"


def test_work_is_told_by_part(demo):
    rows = [row for row in table(demo, "work") if row["reference"] == "TL-287"]
    assert rows
    assert all(float(row["planned_min"]) > 0 for row in rows)


def test_what_is_typed_starts_no_formula_and_breaks_no_row(shop):
    shop.http.post("/jobs/new", data=BOOKING | {"reference": "=1+1", "make": 'A "b", c\nd'})
    (row,) = table(shop, "jobs")
    assert row["reference"] == "'=1+1"
    assert row["vehicle"].startswith('A "b", c')


def test_no_other_table_is_there(shop):
    shop.get("/shop/tables/people.csv", 404)
    for name, each in TABLES.items():
        assert table(shop, name) == [], name
        assert f"/shop/tables/{name}.csv" in shop.http.get("/shop").text, each.title


def test_the_command_writes_the_same(demo, tmp_path, monkeypatch, capsys):
    monkeypatch.setenv("COLD_ARC_DATA", str(demo.folder))
    assert cli.main(["tables", "--to", str(tmp_path / "out"), "--json"]) == 0
    counted = json.loads(capsys.readouterr().out)["tables"]
    for name in TABLES:
        path = tmp_path / "out" / f"{name}.csv"
        assert path.read_bytes() == demo.http.get(f"/shop/tables/{name}.csv").data
        assert counted[str(path)] == len(read(path.read_bytes()))
