"""Bases found by eye, and the shelf kept by hand and by file."""

import io
import json
import re

import pytest

from cold_arc.core.car import bases
from cold_arc.formats import light_sources as files
from cold_arc.web.parts.base_face import build_base_face
from cold_arc.web.parts.seat_chart import build_seat_chart
from tests.core.match.test_ranking import SEAT
from tests.web.conftest import identification, plain
from tests.web.test_pages import add_source


def test_answers_narrow_and_say_what_to_look_at_next(shop):
    assert "32</strong> of 32 bases agree" in shop.get("/bases")
    page = shop.get("/bases?beams=dual&contacts=3&looks=round-metal")
    assert "1</strong> of 32 base agrees" in page
    assert "H4 from behind" in page
    page = shop.get("/bases?printed=pgj19")
    assert "Next, look at: <strong>watts printed" in page
    assert "H8, H9, H11, H16 look alike." in page


def test_contradictions_and_bad_answers_are_pointed_out(shop):
    page = shop.get("/bases?printed=H7&beams=dual")
    assert "contradicts the other answers" in page
    assert "nearest below" in page
    page = shop.get("/bases?diameter=wide", 422)
    assert re.search(r'class="field-error"[^>]*>[^<]*wide', page)
    assert 'value="wide"' in page
    page = shop.get("/bases?looks=odd&watts=many&beams=dual", 422)
    assert page.count("is not") == 2
    assert "4</strong> of 32 bases agree" in page


def test_a_base_found_is_carried_to_book_in(booked):
    page = booked.get("/jobs/1/low/identify?printed=D2R")
    link = re.search(r'href="([^"]*book-in[^"]*)"[^>]*>Take D2R', page)[1]
    assert 'value="D2R"' in booked.get(link.partition("#")[0])
    for path in ("/jobs/9/low/identify", "/jobs/1/fog/identify", "/jobs/1/all/identify"):
        booked.get(path, 404)


def test_an_s_in_a_reflector_is_doubted_at_book_in(booked):
    booked.post(
        "/jobs/1/all/book-in",
        **identification("D2S", "reflector", "hid"),
    )
    page = booked.get("/jobs/1/all/book-in")
    assert "D2S belongs in a projector" in page
    assert "D2S is mistaken for D4S" in page


def test_bases_are_drawn_to_one_scale():
    """One unit is a millimetre: the rim's radius is half the cap's designation (IEC 60061-1, from
    memory).
    """
    for name in ("H7", "H4", "9006", "D2S"):
        base = bases.find(name)
        points = re.findall(r"(-?[\d.]+) (-?[\d.]+)", build_base_face(base).rim)
        reaches = sorted((float(x) ** 2 + float(y) ** 2) ** 0.5 for x, y in points)
        assert reaches[len(reaches) // 2] == pytest.approx(base.diameter_mm / 2, abs=0.01)
    assert not build_base_face(bases.find("D5S")).rim_known
    assert "9.5" in build_base_face(bases.find("W5W")).rim


def test_the_seat_chart_is_to_scale():
    chart = build_seat_chart(SEAT)
    kept = [bar.kept.height for bar in chart.bars]
    assert kept == pytest.approx(
        [0.8 * chart.full, 0.9 * chart.full, chart.full, 0.95 * chart.full]
    )
    assert [bar.label for bar in chart.bars[:2]] == ["−1", "+1"]
    assert chart.bars[0].words.startswith("−1 mm: hot spot 80\u00a0%")
    assert "−10°" in chart.words
    assert build_seat_chart(None) is None


def send(client, name, data, status=200):
    sent = {"file": (io.BytesIO(data), name)}
    answer = client.http.post("/light-sources/import", data=sent, follow_redirects=True)
    assert answer.status_code == status, plain(answer.text)[:800]
    return plain(answer.text)


def test_the_shelf_goes_out_and_comes_back(demo):
    for suffix in (".json", ".csv"):
        data = demo.http.get(f"/light-sources/shelf{suffix}").data
        page = send(demo, f"mine{suffix}", data)
        assert "0 added, 33 changed" in page
    assert demo.http.get("/light-sources/schema.json").json == json.loads(
        json.dumps(files.schema())
    )
    demo.get("/light-sources/shelf.xls", 404)


def test_good_rows_are_kept_and_every_fault_of_the_others_is_told(shop):
    add_source(shop)
    header = "name,kind,base,watts,claimed_lm,supply_min_v,supply_max_v,price"
    rows = (
        "Fresh,bulb,H7,20,1500,9,16,30\nTest "
        "slim,bulb,H7,22,1500,9,16,30\nBad,bulb,Q9,900,1500,9,16,30\n"
    )
    page = send(shop, "list.csv", f"{header}\n{rows}".encode())
    assert "1 added, 1 changed, 1 refused" in page
    assert "between 0.1 and 200 W" in page
    assert "“Q9” is not a base" in page
    assert "Fresh" in shop.get("/light-sources")


@pytest.mark.parametrize(
    ("name", "data", "words"),
    [
        ("", b"", "Choose a file first"),
        ("list.xls", b"x", "must end in .csv or .json"),
        ("list.json", b"{", "not JSON"),
        ("list.csv", b"\xff\xfe", "not UTF-8"),
    ],
)
def test_files_that_are_none(shop, name, data, words):
    assert words in send(shop, name, data, 422)


def test_a_source_is_duplicated(shop):
    add_source(shop, adapters="h8, HB4", plug="H8")
    page = shop.get("/light-sources/new?like=1")
    assert 'value="Test slim, copy"' in page
    assert 'value="H8, 9006"' in page
    assert shop.get("/light-sources/new?like=banana")
