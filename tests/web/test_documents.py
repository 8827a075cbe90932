"""A job's documents as PDF: their text, pages, fonts, papers; the stamp on them; the command."""

import io
import json

import numpy as np
import pypdf
import pypdfium2
import pytest

from cold_arc.cli import main
from cold_arc.core.car import front_building as fronts
from cold_arc.core.car.keys import parse_key
from cold_arc.core.car.lamps import Function
from cold_arc.core.job.entries.readings import Read
from cold_arc.core.job.entries.stages import Passed
from cold_arc.core.job.stages import Stage
from cold_arc.core.metering.readings import WallReading
from cold_arc.formats.document import PAPERS, Document, DocumentPart, TableOf, to_pdf
from cold_arc.store import jobs
from cold_arc.store.database import open_database
from cold_arc.web.job import front_builder
from tests.web.conftest import BOOKING

KINDS = [("customer", "a4"), ("customer", "letter"), ("workshop", "a4"), ("card", "card")]


def pdf(demo, kind, paper, job=1):
    answer = demo.http.get(f"/jobs/{job}/documents/{kind}-{paper}.pdf")
    assert (answer.status_code, answer.mimetype) == (200, "application/pdf")
    return pypdf.PdfReader(io.BytesIO(answer.data)), answer.data


def text_of(reader):
    words = " ".join(page.extract_text() for page in reader.pages)
    return " ".join(words.replace("\u00a0", " ").split())


@pytest.mark.parametrize(("kind", "paper"), KINDS)
def test_each_is_titled_in_its_language_with_every_font_in_it(demo, kind, paper):
    reader, _ = pdf(demo, kind, paper)
    assert "TL-318" in reader.metadata.title
    assert reader.trailer["/Root"]["/Lang"] == "en"
    width, height = PAPERS[paper]
    for page in reader.pages:
        assert (float(page.mediabox.width), float(page.mediabox.height)) == pytest.approx(
            (width, height), abs=0.01
        )
        for font in page["/Resources"]["/Font"].values():
            about = font.get_object()
            assert "/FontFile2" in about["/FontDescriptor"].get_object(), about["/BaseFont"]


def test_the_customer_s_says_what_the_page_says(demo):
    reader, _ = pdf(demo, "customer", "a4")
    text, page = text_of(reader), demo.get("/jobs/1/sheet").replace("\u00a0", " ")
    for said in ("Sableline H7 slim", "22 520 cd", "Show car on trade plates", "Better where"):
        assert said in text
        assert said.lower() in page.lower()
    code = text.split("Record ")[1][:14]
    assert code in page
    assert "This record, unchanged since" in demo.get(f"/check?code={code}")


def test_the_workshop_s_says_how_it_was_done(demo):
    reader, _ = pdf(demo, "workshop", "a4")
    text = " ".join(" ".join(page.extract_text() for page in reader.pages).split())
    for heading, row in {
        "Wiring, battery to lamp": "Sableline H7 slim",
        "Fasteners": "2 bolt M6",
        "Adjusters": "1.5 turns",
        "Time": "Hands: ",
        "Who": "Chosen by: Ines Corvane",
    }.items():
        assert row in text.partition(heading)[2], heading
    assert "Class B" in text.partition("Every reading")[2] or "class b" in text.lower()


def test_the_workshop_s_holds_the_whole_record_over_its_pages(demo):
    reader, _ = pdf(demo, "workshop", "a4")
    assert len(reader.pages) > 2
    text = text_of(reader)
    with open_database(demo.folder)() as session:
        entries = jobs.load(session, 1).entries
    assert "Aim as left" in text
    assert text.count("When What Of") >= 2  # the head of a long table stands on every page
    assert "stopped 18° clockwise" in text
    assert len(entries) > 100


@pytest.mark.parametrize("job", range(1, 9))
def test_every_demo_car_has_its_three(demo, job):
    for kind, paper in KINDS:
        reader, _ = pdf(demo, kind, paper, job)
        assert len(text_of(reader)) > 60
    card, _ = pdf(demo, "card", "card", job)
    assert len(card.pages) == 1


def test_nothing_is_told_by_colour_alone(demo):
    """The page as it is drawn, on paper in black and white."""
    _, data = pdf(demo, "customer", "a4")
    drawn = np.asarray(pypdfium2.PdfDocument(data)[0].render(scale=1).to_pil().convert("RGB"))
    assert drawn.min() < 60
    assert np.ptp(drawn.astype(int), axis=2).max() < 12


def test_a_code_that_is_none_is_said_beside_its_field(demo):
    page = demo.get("/check?code=no+code")
    assert "is no code of a sheet" in page
    assert 'value="no code"' in page
    assert "No record of this shop has this code" in demo.get("/check?code=0000-0000-0000")


def test_what_was_added_since_a_sheet_was_printed_is_said(demo):
    code = text_of(pdf(demo, "card", "card")[0]).split("Record ")[1][:14]
    with open_database(demo.folder).begin() as session:
        entry = Passed(Stage.BASELINE.value, "again")
        jobs.append(session, 1, entry, [parse_key("headlamp-1-left")])
    page = " ".join(demo.get(f"/check?code={code}").split())
    assert "unchanged since" in page
    assert "since</dt><dd>1</dd>" in page


def test_signs_the_font_lacks_are_written_out():
    """An eighth of a turn, an arrow; and rows beyond one page."""
    rows = tuple((f"row {number}", "2⅛ turns → left") for number in range(120))
    document = Document("T", "", (), (DocumentPart("S", (TableOf(("a", "b"), rows),)),))
    reader = pypdf.PdfReader(io.BytesIO(to_pdf(document)))
    assert "2 1/8 turns to left" in text_of(reader)
    assert len(reader.pages) > 1
    assert text_of(reader).count("row 119") == 1


def test_what_is_not_there_is_not_found(demo):
    for address in ("customer-a5", "quotation-a4"):
        assert demo.http.get(f"/jobs/1/documents/{address}.pdf").status_code == 404
    assert demo.http.get("/jobs/99/documents/customer-a4.pdf").status_code == 404


def test_the_command_writes_one(demo, tmp_path, monkeypatch, capsys):
    monkeypatch.setenv("COLD_ARC_DATA", str(demo.folder))
    to = tmp_path / "card.pdf"
    assert main(["sheet", "tl-318", "--kind", "card", "--to", str(to), "--json"]) == 0
    assert json.loads(capsys.readouterr().out)["bytes"] == to.stat().st_size
    assert main(["sheet", "none", "--to", str(to)]) == 1
    assert "No job has the reference none" in capsys.readouterr().err


def test_a_beam_two_lamps_give_is_printed_once(shop):
    made = fronts.made("four-round", [])
    work = [str(key) for key in made.sockets()]
    form = {"front": front_builder.write(made), "work": work}
    shop.http.post("/jobs/new", data=BOOKING | form)
    with open_database(shop.folder).begin() as session:
        record = jobs.load(session, 1).record
        high = next(key for key in record.road_beams if key.function is Function.HIGH)
        assert len(record.givers(high)) == 2
        for phase, lux in (("before", 200.0), ("after", 300.0)):
            reading = WallReading("peak", lux, 10.0, 13.2)
            jobs.append(session, 1, Read(phase, f"{lux}", reading), [high])
    page = shop.get("/jobs/1/sheet")
    assert page.count("High beam, measured") == 1
    assert page.count("+50 %") == 1
