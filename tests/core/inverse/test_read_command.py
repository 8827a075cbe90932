"""`cold-arc read`, `cold-arc beam --housing-file`, `cold-arc seat`: from one photograph before and
one after, or from maps; bad input is a sentence and exit 1.
"""

import json
from dataclasses import replace

import pytest

from cold_arc.cli import main
from cold_arc.core.beam import derived
from cold_arc.devices.wall_camera import Shot, before_the_wall, photograph
from cold_arc.formats import ies, table
from tests.core.inverse.lamps import LED, OWN, drawn_lamp

MARKS_CM = [(-200, 20), (200, 20), (-200, 130), (200, 130), (0, 140), (0, 10)]
LED_OPTIONS = ("--source", "led", "--gap", "1.6", "--flux", "1500", "--length", "4.2")
TRUE = drawn_lamp(OWN, 5)


def ran(capsys, *arguments):
    code = main(list(map(str, arguments)))
    out, err = capsys.readouterr()
    return code, out, err


def taken(folder, name, beam):
    """A photograph and the options that tell of it."""
    pose = before_the_wall(7.62, 0.72)
    photo = photograph(beam, pose, Shot(1200, 900, exposure=-0.3), MARKS_CM, 7.62, 0.72)
    (folder / f"{name}.jpg").write_bytes(photo.jpeg())
    rows = [{"px": mark.px, "wall_cm": mark.wall_cm} for mark in photo.marks]
    (folder / f"{name}.json").write_text(json.dumps(rows))
    marks = ("--marks", folder / f"{name}.json")
    return (folder / f"{name}.jpg", *marks, "--distance", "7.62m", "--lamp-height", "0.72m")


@pytest.fixture(scope="module")
def fitted(tmp_path_factory):
    """What `read` printed of the lamp as it came, and the file it saved."""
    folder = tmp_path_factory.mktemp("read")
    beam = TRUE.beam(OWN)
    lux = float(derived.wall_lux(beam, [0.0], [0.15], 7.62)[0])
    asked = taken(folder, "before", beam)
    with pytest.MonkeyPatch.context() as patch:
        said = []
        patch.setattr("builtins.print", lambda *words, **_: said.append(" ".join(map(str, words))))
        code = main(
            [
                *map(str, ("read", *asked, "--housing", "reflector", "--base", "H7")),
                *("--reading", f"{lux:.1f} lx @ 0, 57"),
                *("--save", str(folder / "fitted.json"), "--json"),
            ]
        )
    assert code == 0
    return json.loads(said[0]), folder / "fitted.json"


def test_a_photograph_tells_the_housing(fitted):
    said, _ = fitted
    true = dict(zip(TRUE.names, TRUE.values, strict=True))
    assert set(said) == {"housing", "residual_pct", "notes"}
    assert set(said["housing"]) == set(TRUE.names)
    for name in ("wide", "narrow", "gain"):
        assert said["housing"][name]["value"] == pytest.approx(true[name], rel=0.15)
        assert said["housing"][name]["standard"] > 0
    assert said["residual_pct"] < 3


def test_any_source_is_foretold_in_it_with_its_doubt(fitted, capsys, tmp_path):
    _, file = fitted
    out = tmp_path / "led.ies"
    code, text, _ = ran(
        capsys, "beam", "--housing-file", file, *LED_OPTIONS, "--out", out, "--json"
    )
    numbers = json.loads(text)
    assert code == 0
    assert numbers["peak_cd"] == pytest.approx(derived.peak(TRUE.beam(LED)).candela, rel=0.1)
    assert set(numbers["uncertainty"]) == {"peak_cd", "share_above_cutoff", "flux_beam_lm"}
    assert ies.read(out.read_bytes()).candela.max() == pytest.approx(numbers["peak_cd"], rel=0.02)


@pytest.mark.thorough
def test_the_picture_after_tells_how_the_bulb_sits(fitted, capsys, tmp_path):
    _, file = fitted
    after = taken(tmp_path, "after", TRUE.beam(replace(LED, clock=-18.0)))
    code, text, _ = ran(capsys, "seat", *after, "--housing-file", file, *LED_OPTIONS, "--json")
    said = json.loads(text)
    assert code == 0
    assert said["hypotheses"][0]["id"] in ("clock", "seat")
    assert said["clock_deg"]["value"] == pytest.approx(-18.0, abs=8.0)
    assert abs(said["depth_mm"]["value"]) < 0.5
    assert {"right_mm", "up_mm", "tilt_deg", "advice"} <= set(said)


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (("read", "{photo}"), "A photograph needs --marks, --distance, --lamp-height."),
        (("read", "{table}", "{photo}"), "One map, or a series of photographs"),
        (("read", "{bad}"), "line 1: the columns must be"),
        (("read", "{table}", "--base", "H4X"), "--base"),
        (("read", "{table}", "--other-lamp", "beside"), "--other-lamp: like"),
        (("read", "{table}", "--other-lamp", "1.2m left"), "--other-lamp needs --distance"),
        (
            ("read", "{table}", "--distance", "8m", "--other-lamp", "9 m left"),
            "between 0.3 and 2.5",
        ),
        (("seat", "{table}", "--housing-file", "{bad}"), "no JSON"),
        (("seat", "{table}", "--housing-file", "{none}"), "No such file"),
        (("beam", "--housing-file", "{bad}", "--json"), "no JSON"),
        (("beam", "--housing-file", "{bad}", "--aim-v", "1"), "--aim-v: the housing's file tells"),
        (("beam", "--housing-file", "{bad}", "--base", "H4"), "--base: the housing's file tells"),
    ],
)
def test_bad_input_is_a_sentence(capsys, tmp_path, arguments, words):
    files = {
        "photo": tmp_path / "p.jpg",
        "table": tmp_path / "t.csv",
        "bad": tmp_path / "b.csv",
        "none": tmp_path / "n.json",
    }
    files["photo"].write_bytes(b"no picture")
    files["table"].write_bytes(table.from_beam(TRUE.beam(OWN), ""))
    files["bad"].write_text("height,light\n1,2\n")
    code, _, err = ran(capsys, *(each.format(**files) for each in arguments))
    assert code == 1
    assert words in err
    assert "Traceback" not in err


@pytest.mark.parametrize("typed", ["236", "236 lx @ 0", "-3 lx @ 0, 64", "1e9 lx @ 0, 64"])
def test_a_reading_that_is_none_is_asked_back(capsys, tmp_path, typed):
    asked = taken(tmp_path, "before", TRUE.beam(OWN))
    code, _, err = ran(capsys, "read", *asked, f"--reading={typed}")
    assert code == 1
    assert err.startswith("cold-arc: reading: ")
