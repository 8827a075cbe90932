"""Readings as CSV and JSON, and `cold-arc compare`: what comes back, what is refused, inverse
square by hand.
"""

import json
import math
from contextlib import suppress

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cold_arc.cli import main
from cold_arc.core.metering.readings import POINTS, WallReading
from cold_arc.core.units import FOOT_CANDLE_LX
from cold_arc.formats.photometric import MalformedFileError
from cold_arc.formats.readings import COLUMNS, read_csv, write_csv, write_json

HEAD = ",".join(COLUMNS)


def lines(*rows, head=HEAD):
    return "\n".join([head, *rows]).encode()


def test_display_range_unit_and_true_ambient():
    """lux is the display, range its factor; ambient light is true lux whatever the range."""
    (taken,) = read_csv(lines("peak,30,-23,41,10,7.62,13.2,2,lx")).readings
    assert (taken.lux, taken.net_lux, taken.across_m, taken.drop_m) == (410, 408, 0.3, 0.23)
    (foot,) = read_csv(lines("peak,,,41,10,7.62,13.2,2,fc")).readings
    assert foot.net_lux == pytest.approx(410 * FOOT_CANDLE_LX - 2)


def test_what_is_missing_is_taken_for_granted_and_said():
    told = read_csv(b"point,lux\nedge,200\n")
    (taken,) = told.readings
    assert (taken.distance_m, taken.volts, taken.range_factor, taken.ambient_lx) == (
        10.0,
        13.2,
        1.0,
        0.0,
    )
    assert taken.drop_m == pytest.approx(10 * math.tan(math.radians(0.86)))
    assert "distance_m is not given for any reading: 10 taken" in told.warnings


def test_rows_of_one_point_are_repeats():
    taken = read_csv(b"point,lux\npeak,400\npeak,410\npeak,405\n").by_point()["peak"]
    assert (taken.lux, taken.repeats) == (405, 3)


def test_semicolons_and_decimal_commas():
    (taken,) = read_csv(b"point;lux;distance_m\npeak;41,5;7,62\n").readings
    assert (taken.lux, taken.distance_m) == (41.5, 7.62)


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b"", "line 1: the file is empty"),
        (b"point,cd\npeak,3\n", "the column lux"),
        (lines(), "no reading follows"),
        (b'point,lux\npeak,"1,013"\n', "line 2: lux must be a plain figure"),
        (b"point,lux\npeak,1,013\n", "line 2: 3 cells under 2"),
        (b"point,lux\npeak,nan\n", "plain figure"),
        (b"point,lux\npeak,inf\n", "plain figure"),
        (b"point,lux\npeak,-4\n", "between 0 and"),
        (b"point,lux\npeak,1e99\n", "between 0 and"),
        (b"point,lux\npeak,\n", "lux is missing"),
        (b"point,lux\n,4\n", "point is missing"),
        (b"point,lux,unit\npeak,4,cd\n", "unit must be lx or fc"),
        (b"point,lux,lux\npeak,4,4\n", "stands twice"),
        (b"point,lux,distance_m\npeak,4,0\n", "distance_m must be between"),
        (b"point,lux\npeak,4\x00\n", "binary data"),
        (b'point,lux\n"peak,4\n', "not a table"),
    ],
)
def test_what_can_not_be_understood_is_refused_with_its_line(data, said):
    with pytest.raises(MalformedFileError, match=said):
        read_csv(data)


FIGURES = st.floats(0.01, 1e5).map(lambda value: float(f"{value:.6g}"))
READINGS = st.builds(
    WallReading,
    point=st.sampled_from([*POINTS, "free-1", "kerb"]),
    lux=FIGURES,
    distance_m=st.floats(0.5, 60).map(lambda value: round(value, 3)),
    volts=st.floats(5, 30).map(lambda value: round(value, 2)),
    ambient_lx=st.floats(0, 100).map(lambda value: round(value, 2)),
    range_factor=st.sampled_from([1.0, 10.0, 100.0]),
    across_m=st.floats(-5, 5).map(lambda value: round(value, 3)),
    drop_m=st.floats(-5, 5).map(lambda value: round(value, 3)),
)


@given(st.lists(READINGS, min_size=1, max_size=8))
def test_what_is_written_is_read_back(taken):
    for was, now in zip(taken, read_csv(write_csv(taken)).readings, strict=True):
        assert now.point == was.point
        assert now.lux == pytest.approx(was.lux, rel=1e-8)
        assert (now.distance_m, now.volts, now.range_factor) == (
            was.distance_m,
            was.volts,
            was.range_factor,
        )
        assert (now.across_m, now.drop_m) == pytest.approx((was.across_m, was.drop_m), abs=1e-6)


@given(
    st.binary(max_size=200) | st.text(max_size=200).map(lambda text: f"point,lux\n{text}".encode())
)
def test_junk_is_a_sentence_or_readings(data):
    told = []
    with suppress(MalformedFileError):
        told = read_csv(data).readings
    assert all(math.isfinite(it.candela) and it.candela >= 0 for it in told)


def test_json_tells_every_beam():
    taken = [WallReading("peak", 410, 10.0, 13.2)]
    told = json.loads(write_json({"low-left": {"before": taken}}))
    assert told["readings"]["low-left"]["before"][0]["candela"] == 41_000


def test_a_cell_a_spreadsheet_would_run_is_quoted():
    data = write_csv([WallReading("=1+1", 4, 10.0, 13.2)])
    assert b"'=1+1" in data


@pytest.fixture
def compared(tmp_path, capsys):
    def run(before, after, *options):
        for name, data in (("before.csv", before), ("after.csv", after)):
            (tmp_path / name).write_bytes(data)
        code = main(
            ["compare", str(tmp_path / "before.csv"), str(tmp_path / "after.csv"), *options]
        )
        said = capsys.readouterr()
        return code, said.out, said.err

    return run


def test_compare_says_candela_ratio_gain_and_uncertainty(compared):
    before = lines("peak,0,0,410,1,6.096,13.2,0,lx", "edge,0,0,20,10,6.096,13.2,0,lx")
    after = lines("peak,0,0,96,10,6.096,13.2,0,lx", "edge,0,0,40,10,6.096,13.2,0,lx")
    code, out, _ = compared(before, after, "--json")
    told = json.loads(out)
    assert code == 0
    assert set(told) == {"points", "overall", "corrections", "warnings"}
    assert told["points"]["peak"]["before_cd"] == pytest.approx(410 * 6.096**2)
    assert told["points"]["peak"]["ratio"] == pytest.approx(960 / 410)
    assert told["points"]["peak"]["gain_pct"] == pytest.approx(134, abs=0.5)
    assert told["overall"]["ratio"] == pytest.approx(math.sqrt(960 / 410 * 2))
    assert 0 < told["points"]["peak"]["uncertainty_pct"] < 60


def test_compare_corrects_distance_and_a_filaments_supply(compared):
    before, after = lines("peak,0,0,100,1,5,12,0,lx"), lines("peak,0,0,25,1,10,13.2,0,lx")
    told = json.loads(compared(before, after, "--json")[1])
    assert told["points"]["peak"]["ratio"] == pytest.approx((12 / 13.2) ** 3.4)
    assert any("Distance differs" in text for text in told["corrections"])
    assert any("brought to 13.2" in text for text in told["corrections"])
    same = json.loads(compared(before, after, "--json", "--was", "hid")[1])
    assert same["points"]["peak"]["ratio"] == pytest.approx(1.0)


def test_compare_warns_of_what_it_took_for_granted_and_left_out(compared):
    told = json.loads(compared(b"point,lux\npeak,4\nedge,3\n", b"point,lux\npeak,9\n", "--json")[1])
    assert any("distance_m is not given" in text for text in told["warnings"])
    assert "edge was read before only" in told["warnings"]


@pytest.mark.parametrize(
    ("before", "after", "said"),
    [
        (b"point,lux\npeak,x\n", b"point,lux\npeak,1\n", "before.csv, line 2: lux must be"),
        (b"point,lux\npeak,1\n", b"nothing\n", "after.csv, line 1: the heading"),
        (b"point,lux\npeak,1\n", b"point,lux\nedge,1\n", "No point stands in both files"),
    ],
)
def test_compare_ends_with_one_sentence_on_bad_input(compared, before, after, said):
    code, out, err = compared(before, after, "--json")
    assert code == 1
    assert out == ""
    assert said in err
    assert "Traceback" not in err


def test_compare_without_light_before_has_no_ratio(compared):
    told = json.loads(compared(b"point,lux\npeak,0\n", b"point,lux\npeak,1\n", "--json")[1])
    assert told["points"]["peak"]["ratio"] is None
    assert told["overall"] is None


def test_compare_in_words(compared):
    code, out, _ = compared(b"point,lux\npeak,4\n", b"point,lux\npeak,9\n")
    assert code == 0
    assert "peak: 400 cd to 900 cd, +125" in out
