"""`cold-arc aim` and `cold-arc photo`. Rules: UN R48, the UK inspection, 49 CFR 571.108 and SAE
J599, from memory.
"""

import json

import pytest

from cold_arc.cli import main
from cold_arc.devices.wall_camera import Pose, Shot, photograph
from tests.core.wallphoto.rendered import SETUPS, lit

CORNERS = [(-130.0, 15.0), (130.0, 15.0), (130.0, 120.0), (-130.0, 120.0)]


def ran(capsys, *arguments):
    code = main(list(arguments))
    out, err = capsys.readouterr()
    return code, out, err


@pytest.mark.parametrize(
    ("rule", "function", "height", "set_pct", "limits_pct"),
    [
        ("un-r48", "low", "0.72m", [-1.5, -1.0], [-2.5, -0.5]),
        ("un-r48", "low", "0.8m", [-1.5, -1.0], [-2.5, -0.5]),
        ("un-r48", "low", "1.0m", [-1.5, -1.0], [-2.5, -0.5]),
        ("un-r48", "low", "1.001m", [-2.0, -1.5], [-3.0, -1.0]),
        ("un-r48", "fog", "0.8m", [-2.0, -1.5], [-3.0, -1.0]),
        ("un-r48", "fog", "0.81m", [-2.5, -2.0], [-3.5, -1.5]),
        ("uk-inspection", "low", "85 cm", [-1.5, -1.0], [-2.0, -0.5]),
        ("uk-inspection", "low", "0.86m", [-2.0, -1.5], [-2.75, -1.25]),
        ("us-vol", "low", "28 in", [-0.6981, -0.6981], [-2.0315, 0.6352]),
        ("us-vor", "low", "28 in", [0.0, 0.0], [-1.3333, 1.3333]),
    ],
)
def test_what_a_rule_asks(capsys, rule, function, height, set_pct, limits_pct):
    """US: 0.4° is 0.698 %, four inches at 25 ft are 1.333 %."""
    code, out, _ = ran(
        capsys,
        "aim",
        "--rule",
        rule,
        "--function",
        function,
        "--height",
        height,
        "--distance",
        "10m",
        "--json",
    )
    told = json.loads(out)
    assert code == 0
    assert told["set_pct"] == pytest.approx(set_pct, abs=1e-4)
    assert told["limits_pct"] == pytest.approx(limits_pct, abs=1e-4)
    assert told["drop_cm"]["limits"] == pytest.approx([-10 * it for it in limits_pct], abs=1e-3)
    assert "memory" in told["rule_source"]


def test_a_makers_mark_is_what_is_set(capsys):
    asked = ("aim", "--rule", "un-r48", "--height", "0.9m", "--distance", "10m", "--json", "--mark")
    _, out, _ = ran(capsys, *asked, "1.8%")
    assert json.loads(out)["set_pct"] == pytest.approx([-1.9, -1.7])
    assert json.loads(out)["limits_pct"] == pytest.approx([-3.0, -1.0])
    code, _, err = ran(capsys, *asked, "4%")
    assert code == 1
    assert "lets no maker mark" in err
    assert ran(capsys, *asked, "steep")[0] == 1


def test_an_open_band_has_no_lower_edge(capsys):
    asked = ("--function", "fog", "--fog-class", "B", "--height", "0.4m", "--distance", "10m")
    _, out, _ = ran(capsys, "aim", "--rule", "un-r48", *asked, "--json")
    assert json.loads(out)["limits_pct"] == [None, -1.5]
    _, out, _ = ran(capsys, "aim", "--rule", "un-r48", *asked)
    assert "−1.50 % or lower" in out.replace("\u00a0", " ")


@pytest.mark.parametrize(
    ("height", "distance"), [("ten", "10m"), ("0.7m", "900m"), ("0.7m", "-3m")]
)
def test_lengths_that_are_none_are_refused_in_words(capsys, height, distance):
    code, out, err = ran(
        capsys, "aim", "--rule", "un-r48", f"--height={height}", f"--distance={distance}"
    )
    assert (code, out) == (1, "")
    assert err.startswith("cold-arc: ")
    assert "Traceback" not in err


@pytest.fixture(scope="module")
def wall(tmp_path_factory):
    folder = tmp_path_factory.mktemp("wall")
    it = photograph(
        lit(SETUPS[2][0]),
        Pose(y_m=1.3, z_m=6.5, tilt_deg=-5.0),
        Shot(1200, 900),
        CORNERS,
        7.62,
        0.72,
    )
    (folder / "wall.jpg").write_bytes(it.jpeg())
    rows = [{"px": mark.px, "wall_cm": mark.wall_cm} for mark in it.marks]
    (folder / "marks.json").write_text(json.dumps(rows))
    return folder


def test_a_photograph_is_measured(capsys, wall):
    asked = ("--marks", str(wall / "marks.json"), "--distance", "25 ft", "--lamp-height", "72 cm")
    code, out, _ = ran(capsys, "photo", str(wall / "wall.jpg"), *asked, "--json")
    told = json.loads(out)
    assert code == 0
    assert told["cutoff_v_deg"] == pytest.approx(-0.54, abs=0.05)
    assert told["cutoff_slope_pct"] == pytest.approx(-0.94, abs=0.09)
    assert told["roll_deg"] == pytest.approx(0.0, abs=0.25)
    assert set(told["elbow"]) == set(told["hot_spot"]) == {"h_deg", "v_deg"}
    assert 0.1 < told["sharpness_g"] < 0.5
    assert set(told["uncertainty"]) >= {"cutoff_v_deg", "roll_deg", "elbow_h_deg", "hot_spot_v_deg"}
    code, out, _ = ran(capsys, "photo", str(wall / "wall.jpg"), *asked)
    assert code == 0
    assert out.startswith("Cut-off −0.5") or out.startswith("Cut-off -0.5")


@pytest.mark.parametrize(
    ("marks", "said"),
    [
        ("not json", "no list of marks"),
        ("[]", "Four marks"),
        ('[{"px": [1, 2]}]', "no list of marks"),
        ('[{"px": [1, "2"], "wall_cm": [1, 2]}]', "no list of marks"),
        ('{"px": [1, 2], "wall_cm": [1, 2]}', "no list of marks"),
        (json.dumps([{"px": [1, 2], "wall_cm": [1, 2]}] * 5), "quadrilateral"),
    ],
)
def test_marks_that_are_none_are_refused_in_a_sentence(capsys, wall, tmp_path, marks, said):
    (tmp_path / "marks.json").write_text(marks)
    asked = (
        "--marks",
        str(tmp_path / "marks.json"),
        "--distance",
        "7.62m",
        "--lamp-height",
        "0.72m",
        "--json",
    )
    code, out, err = ran(capsys, "photo", str(wall / "wall.jpg"), *asked)
    assert (code, out) == (1, "")
    assert said in err


@pytest.mark.parametrize("content", [b"", b"no picture", b"\xff\xd8\xff\xe0junk"])
def test_what_is_no_picture_is_refused_in_a_sentence(capsys, wall, tmp_path, content):
    (tmp_path / "wall.jpg").write_bytes(content)
    asked = ("--marks", str(wall / "marks.json"), "--distance", "7.62m", "--lamp-height", "0.72m")
    code, _, err = ran(capsys, "photo", str(tmp_path / "wall.jpg"), *asked)
    assert code == 1
    assert "no picture that can be read" in err
    assert ran(capsys, "photo", str(tmp_path / "gone.jpg"), *asked)[0] == 1
