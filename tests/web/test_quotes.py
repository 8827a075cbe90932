"""The quote: ways side by side, chosen and signed, kept with the record, printed; what is fitted is
held against it.
"""

import io
import re
from dataclasses import replace

import pypdf
import pytest

from cold_arc.core.beam import model
from cold_arc.core.car.keys import parse_key
from cold_arc.core.job import plausible
from cold_arc.core.job.entries.kind import ImplausibleError
from cold_arc.core.job.entries.match import Chosen, Quoted, QuotedWay
from cold_arc.core.job.outcome import quoted_findings
from cold_arc.store import catalogue, jobs
from cold_arc.store.database import open_database

PAGE = "/jobs/2/low/match/quote"
LEFT = parse_key("headlamp-1-left")
SIGNED = {"tax": "20", "signed": "R. Amsel", "drawn": "M10 20L30 40L31 44M5 5"}


def ways_of(page):
    return re.findall(r'name="way"\s+value="([\w-]+)"', page)


def ready(demo):
    """The page with every beam worked out."""
    model.warm()
    while "beams" in (page := demo.get(f"{PAGE}?go=1")) and "predicted</span>" in page:
        pass
    return re.sub(r"\s+", " ", page)


def sign(demo, status=200, **fields):
    """The form as the page gives it, signed."""
    shown = re.search(r'name="shown"[^>]*value="([0-9a-f]{64})"', ready(demo))[1]
    return demo.post(PAGE, status, **{"shown": shown} | SIGNED | fields)


def quoted(demo):
    with open_database(demo.folder)() as session:
        return jobs.load(session, 2).record.all(Quoted, LEFT)


def test_at_most_three_ways_are_shown_each_with_its_beam_price_time_and_law(demo):
    page = ready(demo)
    ways = ways_of(page)
    assert 2 <= len(ways) <= 3
    assert ways[-1] == "stay"
    for said in ("Hot spot", "(from", "not to be borne", "labour", "Goes back", "Check locally"):
        assert said in page


def test_it_is_signed_kept_and_another_takes_its_place(demo):
    first, *_ = ways_of(ready(demo))
    sign(demo, way=first)
    (entry,) = quoted(demo)
    assert (entry.chosen, entry.tax_pct, entry.signed) == (first, 20.0, "R. Amsel")
    assert entry.drawn == SIGNED["drawn"]
    way = entry.way
    assert way.asked(20.0) == pytest.approx((way.parts + way.labour) * 1.2)
    assert "Quote signed by R. Amsel" in demo.get(PAGE)
    assert re.search(r'name="tax"[^>]*value="20', demo.get(PAGE))
    sign(demo, way="stay")
    assert [entry.chosen for entry in quoted(demo)][-1] == "stay"


@pytest.mark.parametrize(
    ("field", "value", "words"),
    [
        ("way", "", "Say which way."),
        ("way", "nothing", "Not a valid choice"),
        ("signed", " ", "Say who signs."),
        ("tax", "-5", "between 0"),
        ("tax", "much", "much"),
        ("drawn", "<script>", "Draw it again."),
        ("drawn", "M1 1" * 1001, "fewer strokes"),
    ],
)
def test_what_can_not_be_is_said_and_what_was_typed_stays(demo, field, value, words):
    first, *_ = ways_of(ready(demo))
    page = re.sub(r"\s+", " ", sign(demo, 422, **{"way": first, field: value}))
    assert words in page
    assert not quoted(demo)
    if field != "signed":
        assert 'value="R. Amsel"' in page


def test_what_is_signed_is_what_was_shown(demo):
    """A price that changed while the customer read: shown again, nothing kept."""
    first, *_ = ways_of(ready(demo))
    page = ready(demo)
    shown = re.search(r'name="shown"[^>]*value="([0-9a-f]{64})"', page)[1]
    with open_database(demo.folder).begin() as session:
        for number, source in catalogue.light_sources(session).items():
            dearer = replace(source, price=source.price + 100)
            catalogue.change_light_source(session, number, dearer)
    ready(demo)
    answer = demo.post(PAGE, 422, way=first, shown=shown, **SIGNED)
    assert "The ways changed since they were shown" in answer
    assert 'value="R. Amsel"' in answer
    assert not quoted(demo)
    sign(demo, way=first)
    assert len(quoted(demo)) == 1


def test_the_pdf_says_what_was_signed(demo):
    first, *_ = ways_of(ready(demo))
    sign(demo, way=first)
    answer = demo.http.get(f"{PAGE}-letter.pdf?go=1")
    reader = pypdf.PdfReader(io.BytesIO(answer.data))
    text = " ".join(" ".join(page.extract_text() for page in reader.pages).split())
    assert "Signed by R. Amsel" in text
    assert "taxes of 20 % in it" in text.replace("\u00a0", " ")
    drawn = reader.pages[0].get_contents().get_data().decode("latin-1")
    unsigned = demo.http.get(f"{PAGE.replace('/2/', '/3/')}-letter.pdf?go=1").data
    strokes = re.compile(r"m [\d.]+ [\d.]+ l [\d.]+ [\d.]+ l\nS\n")  # down, and two lines on
    assert strokes.search(drawn)
    other = pypdf.PdfReader(io.BytesIO(unsigned)).pages[0].get_contents().get_data()
    assert not strokes.search(other.decode("latin-1"))
    assert len(list(reader.pages[0].images)) >= 3  # two beams of a way, and the code
    assert demo.http.get(f"{PAGE}-card.pdf").status_code == 404
    led = demo.http.get(f"{PAGE}-letter.pdf?lens=restored")
    assert (led.status_code, led.location) == (303, f"{PAGE}-letter.pdf?lens=restored&go=1")


WAY = QuotedWay("halogen-led", "LED bulb", "Sableline H7 slim", 50.0, 30.0, 60.0, "As it is.", "")
QUOTE = Quoted((WAY,), WAY.id, 20.0, "R. Amsel")


def test_what_was_fitted_is_held_against_what_was_signed(demo):
    with open_database(demo.folder).begin() as session:
        source = next(iter(catalogue.light_sources(session).values()))
        jobs.append(session, 2, QUOTE, [LEFT])
        jobs.append(session, 2, Chosen(replace(source, name=WAY.source), ""), [LEFT])
        assert quoted_findings(jobs.load(session, 2).record) == []
        jobs.append(session, 2, Chosen(replace(source, name="Another"), ""), [LEFT])
    with open_database(demo.folder)() as session:
        (finding,) = quoted_findings(jobs.load(session, 2).record)
    assert "signed for was “LED bulb, Sableline H7 slim”; fitted is Another." in finding.text
    assert "fitted is Another" in demo.get("/jobs/2/low/hand-over")


@pytest.mark.parametrize(
    "wrong",
    [
        replace(QUOTE, chosen="other"),
        replace(QUOTE, ways=()),
        replace(QUOTE, ways=(WAY,) * 4),
        replace(QUOTE, tax_pct=60.0),
        replace(QUOTE, signed=" "),
        replace(QUOTE, drawn="M1 1Z"),
        replace(QUOTE, ways=(replace(WAY, parts=-1.0),)),
    ],
)
def test_what_no_quote_can_be_is_not_recorded(wrong):
    plausible.check(QUOTE)
    with pytest.raises(ImplausibleError):
        plausible.check(wrong)
