"""The shelf as files: round trips, the published schema, and every kind of broken file told row by
row.
"""

import json
from dataclasses import fields, replace
from pathlib import Path

import jsonschema
import pytest
from hypothesis import given
from hypothesis import strategies as st

from cold_arc.core import light_source
from cold_arc.core.light_source import LIMITS, LightSource
from cold_arc.demo.shelf import SHELF
from cold_arc.formats import light_sources as files

ALL = list(SHELF.values())


@pytest.mark.parametrize("suffix", [".json", ".csv"])
def test_the_demo_shelf_survives_a_round_trip(suffix):
    read = files.READERS[suffix](files.WRITERS[suffix](ALL))
    assert read.faults == ()
    assert list(read.sources) == ALL


def _figures(name):
    low, high = LIMITS[name].low, LIMITS[name].high
    return st.floats(low, high).map(lambda value: min(max(round(value, 4), low), high))


SOURCES = st.builds(
    LightSource,
    name=st.text(
        st.characters(codec="utf-8", exclude_categories=("C", "Z")), min_size=1, max_size=60
    ),
    kind=st.just("bulb"),
    base=st.sampled_from(["H7", "H11", "D2S"]),
    watts=_figures("watts"),
    claimed_lm=_figures("claimed_lm"),
    supply_min_v=st.just(9.0),
    supply_max_v=_figures("supply_max_v").filter(lambda volts: volts >= 9),
    price=_figures("price"),
    cct_k=st.none() | _figures("cct_k"),
    faces=st.none() | st.integers(1, 6),
    gap_mm=st.none() | _figures("gap_mm"),
    adapters=st.lists(st.sampled_from(["H8", "H9", "9005"]), max_size=3).map(tuple),
    monitor_proof=st.booleans(),
)


@given(SOURCES, st.sampled_from([".json", ".csv"]))
def test_any_source_survives_a_round_trip(source, suffix):
    read = files.READERS[suffix](files.WRITERS[suffix]([source]))
    assert read.faults == ()
    assert read.sources == (source,)


def test_what_is_written_obeys_the_published_schema():
    """Against the reference validator, the schema itself included."""
    jsonschema.Draft202012Validator.check_schema(files.schema())
    jsonschema.validate(json.loads(files.write_json(ALL)), files.schema())


def test_the_schema_in_the_docs_is_the_one_in_use():
    published = Path(__file__).parents[2] / "docs" / "light-sources.schema.json"
    assert json.loads(published.read_text(encoding="utf-8")) == files.schema()


def test_the_schema_knows_every_field_choice_and_limit():
    row = files.schema()["$defs"]["light_source"]["properties"]
    assert set(row) == {field.name for field in fields(LightSource)}
    for name, limit in LIMITS.items():
        low, high = limit.low, limit.high
        assert (row[name]["minimum"], row[name]["maximum"]) == (low, high)
    assert row["driver"]["enum"] == list(light_source.DRIVERS)


GOOD = {
    "name": "x",
    "kind": "bulb",
    "base": "H7",
    "watts": 20,
    "claimed_lm": 1500,
    "supply_min_v": 9,
    "supply_max_v": 16,
    "price": 30,
}


def table(*rows):
    return json.dumps({"format": files.FORMAT, "version": 1, "light_sources": rows}).encode()


@pytest.mark.parametrize(
    ("change", "field", "words"),
    [
        ({"watts": "many"}, "watts", "Must be a number"),
        ({"watts": 900}, "watts", "between 0.1 and 200 W"),
        ({"kind": "candle"}, "kind", "Must be one of bulb"),
        ({"base": "Q9"}, "base", "not a base in the catalogue"),
        ({"adapters": ["H8", "Q9"]}, "adapters", "not a base"),
        ({"watts": None}, "watts", "Is missing"),
        ({"colour": 7}, "colour", "Must be"),
        ({"wheels": 4}, "wheels", "Is not a field"),
        ({"name": ""}, "name", "Must not be empty"),
        ({"name": "n" * 90}, "name", "no longer than 80"),
        ({"supply_max_v": 5}, "supply_max_v", "Must not be below"),
        ({"kind": "assembly"}, "optic", "makes its pattern"),
        ({"chroma_x": 0.4}, "chroma_y", "both x and y"),
    ],
)
def test_each_fault_is_told_with_row_and_field(change, field, words):
    read = files.read_json(table(GOOD, GOOD | change))
    assert [source.name for source in read.sources] == ["x"]
    assert {(fault.row, fault.field) for fault in read.faults} == {(2, field)}
    assert any(words in fault.message for fault in read.faults), read.faults


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"\xff\xfe\x00", "not UTF-8"),
        (b"{", "not JSON"),
        (b"[" * 100_000, "not JSON"),
        (b"[]", "“format”"),
        (b'{"format": "cold-arc-light-sources", "version": 2}', "“version”: 1"),
        (b'{"format": "cold-arc-light-sources", "version": 1, "light_sources": 3}', "a list"),
        (table(*[GOOD] * 2001), "up to 2000"),
        (table("a row"), "object of fields"),
    ],
)
def test_broken_json(data, words):
    read = files.read_json(data)
    assert read.sources == ()
    assert words in read.faults[0].message


HEADER = ",".join(GOOD)
ROW = ",".join(str(value) for value in GOOD.values())


@pytest.mark.parametrize(
    ("text", "row", "words"),
    [
        ("", 1, "Column “name” is missing"),
        (f"{HEADER},wheels\n{ROW},4\n", 1, "Unknown column “wheels”"),
        (f"{HEADER}\n{ROW}\n{ROW},extra\n", 3, "More cells than columns"),
        (f"{HEADER}\n{ROW}\nx,bulb,H7,nan,1500,9,16,30\n", 3, "Must be a number"),
        (f"{HEADER}\nx,bulb,H7,,1500,9,16,30\n", 2, "Is missing"),
        (f'{HEADER}\n"x,bulb\n', 0, "Line"),
        (f"{HEADER},monitor_proof\n{ROW},perhaps\n", 2, "Must be a boolean"),
    ],
)
def test_broken_csv(text, row, words):
    read = files.read_csv(text.encode())
    assert any(fault.row == row and words in fault.message for fault in read.faults), read.faults


def test_csv_as_spreadsheets_write_it():
    """A byte-order mark, semicolons, decimal commas, blank lines' cells, yes and no."""
    header = HEADER.replace(",", ";")
    row = "x;bulb;hb4;20,5;1500;9;16;30;yes;"
    text = f"\ufeff{header};monitor_proof;adapters\n{row}\n"
    read = files.read_csv(text.encode())
    assert read.faults == ()
    (source,) = read.sources
    assert (source.base, source.watts, source.monitor_proof) == ("9006", 20.5, True)


@given(st.binary(max_size=400), st.sampled_from([".json", ".csv"]))
def test_any_bytes_are_answered(data, suffix):
    read = files.READERS[suffix](data)
    assert isinstance(read.faults, tuple)


@pytest.mark.parametrize("bad", ["NaN", "Infinity", "-Infinity", "1e999", "9" * 400])
def test_what_is_no_figure_is_refused_in_its_row(bad):
    rows = json.dumps(
        {
            "format": files.FORMAT,
            "version": files.VERSION,
            "light_sources": [GOOD, {**GOOD, "name": "bad"}],
        }
    )
    read = files.read_json(
        rows.replace(
            '"name": "bad", "kind": "bulb", "base": "H7", "watts": 20',
            f'"name": "bad", "kind": "bulb", "base": "H7", "watts": {bad}',
        ).encode()
    )
    assert [source.name for source in read.sources] == ["x"]
    assert {(fault.row, fault.field) for fault in read.faults} == {(2, "watts")}


@pytest.mark.parametrize("name", ["   ", "\\ud800", "a\\u0000b"])
def test_a_name_must_be_text(name):
    table = json.dumps(
        {
            "format": files.FORMAT,
            "version": files.VERSION,
            "light_sources": [{**GOOD, "name": "NAME"}],
        }
    )
    read = files.read_json(table.replace("NAME", name).encode())
    assert (read.sources, {fault.field for fault in read.faults}) == ((), {"name"})


@pytest.mark.parametrize("name", ["=1+1", "+cmd", "-2", "@sum", "'=kept"])
def test_no_cell_is_a_formula(name):
    """What a spreadsheet would compute gets an apostrophe before it, and loses it on the way
    back.
    """
    source = replace(ALL[0], name=name)
    written = files.write_csv([source]).decode()
    assert not any(
        cell.startswith(("=", "+", "-", "@")) for cell in written.splitlines()[1].split(",")[:1]
    )
    assert files.read_csv(written.encode()).sources == (source,)


def test_a_cell_with_two_readings_is_told():
    read = files.read_csv(f'{HEADER}\n"x",bulb,H7,24,"1,500",9,16,30\n'.encode())
    assert "can be read as 1500 lm or 1.5 lm" in read.faults[0].message
