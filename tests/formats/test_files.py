"""Open formats: round trips, a general-purpose reader (luxpy) on the same files, malformed
files.
"""

import contextlib
import csv
import datetime as dt
import io
import re
import time
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from cold_arc.core.beam import derived
from cold_arc.core.beam.report import beam_of, report_on
from cold_arc.core.beam.setup import SetUp
from cold_arc.core.car.lamps import Traffic
from cold_arc.formats import eulumdat, ies, picture, road, table, write_beam
from cold_arc.formats.onto_grid import to_beam
from cold_arc.formats.photometric import MalformedFileError, Photometry
from tests.formats.photometry_package import reader


def led_beam():
    """An LED's beam in the usual housing; remembered."""
    return beam_of(SetUp(source="led"))


def photometry(kind="C", horizontals=5, verticals=4, seed=1):
    random = np.random.default_rng(seed)
    span = 360 if kind == "C" else 90
    horizontal = np.arange(horizontals) * (span / horizontals) - (0 if kind == "C" else 45)
    candela = random.uniform(0, 5000, (horizontals, verticals)).round(3)
    return Photometry(
        kind, horizontal, np.arange(verticals) * 10.0, candela, 1350.0, 55.0, (120.0, 80.0, 0.0)
    )


def same(one, other, rel=1e-6):
    assert one.kind == other.kind
    for name in ("horizontal", "vertical", "candela"):
        np.testing.assert_allclose(getattr(one, name), getattr(other, name), rtol=rel, atol=1e-6)
    assert one.lumens == pytest.approx(other.lumens)


@pytest.mark.parametrize("kind", ["B", "C"])
def test_ies_round_trip(kind):
    original = photometry(kind)
    read = ies.read(ies.write(original))
    same(read, original)
    assert read.watts == 55
    assert read.size_mm == pytest.approx((120, 80, 0))
    assert ies.read(ies.write(read)) is not None
    assert ies.write(ies.read(ies.write(read))) == ies.write(read)


def test_eulumdat_round_trip():
    original = photometry("C", 8, 6)
    read = eulumdat.read(eulumdat.write(original))
    same(read, original)
    assert eulumdat.write(eulumdat.read(eulumdat.write(read))) == eulumdat.write(read)


@given(st.integers(1, 12), st.integers(2, 12), st.integers(0, 99))
def test_any_photometry_survives_both_formats(horizontals, verticals, seed):
    original = photometry("C", horizontals, verticals, seed)
    same(ies.read(ies.write(original)), original)
    same(eulumdat.read(eulumdat.write(original)), original)


def test_a_beam_reads_back_with_its_candela():
    read = ies.read(ies.from_beam(led_beam(), "test"))
    peak = np.unravel_index(read.candela.argmax(), read.candela.shape)
    at = float(led_beam().at(read.horizontal[peak[0]], read.vertical[peak[1]]))
    assert read.candela.max() == pytest.approx(at, rel=1e-6)
    assert read.keywords["LUMINAIRE"] == "test"


def test_a_beam_in_c_planes_agrees_with_its_grid():
    read = eulumdat.read(eulumdat.from_beam(led_beam(), "test"))
    plane = int(np.argmin(np.abs(read.horizontal - 270)))  # C270: straight down
    gamma = int(np.argmin(np.abs(read.vertical - 2.0)))
    assert read.candela[plane, gamma] == pytest.approx(float(led_beam().at(0, -2.0)), rel=1e-5)


@pytest.mark.parametrize("kind", ["reflector", "projector"])
def test_files_keep_the_edge(kind):
    """What is exported and read back aims alike: sharpness G (UN R112, from memory), cut-off, flux,
    peak.
    """
    beam = beam_of(SetUp(kind))
    for module, rel in ((ies, 0.02), (eulumdat, 0.06)):
        again = to_beam(module.read(module.from_beam(beam, "test")))
        assert derived.sharpness(again) == pytest.approx(derived.sharpness(beam), rel=rel)
        height = derived.cut_off_height(beam)
        assert derived.cut_off_height(again) == pytest.approx(height, abs=2e-3)
        assert again.flux_lm == pytest.approx(beam.flux_lm, rel=2e-3)
        assert derived.peak(again).candela == pytest.approx(derived.peak(beam).candela, rel=0.01)
        assert len(module.from_beam(beam, "test")) < 1_000_000, "the bench takes it back"


def test_the_head_of_a_eulumdat_file_agrees_with_itself():
    """From memory of the format: type 3 is a point source of no symmetry (0); line 23 is the light
    output ratio, %.
    """
    lines = eulumdat.from_beam(led_beam(), "test").decode("cp1252").splitlines()
    assert (lines[1], lines[2]) == ("3", "0")
    assert float(lines[22]) == pytest.approx(
        100 * led_beam().flux_lm / led_beam().emitted_lm, rel=1e-4
    )
    assert 0 < float(lines[22]) < 100


def test_a_general_package_reads_our_eulumdat(tmp_path):
    path = tmp_path / "beam.ldt"
    write_beam(led_beam(), path, "test")
    theirs = reader.read_ldt_lamp_data(str(path), normalize=None)
    ours = eulumdat.read(path.read_bytes())
    np.testing.assert_allclose(
        theirs["candela_2d"][:, : ours.vertical.size][: ours.horizontal.size].max() * 1.35,
        ours.candela.max(),
        rtol=1e-3,
    )
    assert theirs["tflux"] == pytest.approx(1350)


def test_a_general_package_reads_our_ies(tmp_path):
    path = tmp_path / "lamp.ies"
    original = photometry("C", 5, 10)
    original = Photometry(
        "C", np.arange(5) * 22.5, np.arange(10) * 10.0, original.candela, 1350.0, 55.0
    )
    path.write_bytes(ies.write(original))
    theirs = reader.read_IES_lamp_data(str(path), normalize=None)
    np.testing.assert_allclose(theirs["candela_values"], original.candela.ravel(), rtol=1e-6)
    np.testing.assert_allclose(theirs["v_angs"], original.vertical)
    np.testing.assert_allclose(theirs["h_angs"], original.horizontal)


@pytest.mark.parametrize(("symmetry", "planes"), [(1, 8), (2, 8), (3, 8), (4, 8)])
def test_eulumdat_symmetries_unfold(symmetry, planes):
    """Every plane of an unfolded file mirrors the plane its symmetry names."""
    c = np.arange(planes) * (360 / planes)
    angle = np.radians(c)
    shape = {1: 1 + 0 * c, 2: 2 + np.cos(angle), 3: 2 + np.sin(angle), 4: 2 + np.cos(2 * angle)}[
        symmetry
    ]
    full = Photometry("C", c, np.array([0.0, 30.0]), np.outer(shape, [100.0, 50.0]), 1000.0)
    lines = eulumdat.write(full).decode("cp1252").splitlines()
    lines[2] = str(symmetry)
    held = {1: [0], 2: [0, 1, 2, 3, 4], 3: [6, 7, 0, 1, 2], 4: [0, 1, 2]}[symmetry]
    body = [line for plane in held for line in lines[-16:][2 * plane : 2 * plane + 2]]
    read = eulumdat.read("\r\n".join(lines[:-16] + body).encode("cp1252"))
    np.testing.assert_allclose(read.candela, full.candela, rtol=1e-6)


GOOD_IES = ies.write(photometry("C")).decode()
GOOD_LDT = eulumdat.write(photometry("C", 8, 6)).decode("cp1252")


@pytest.mark.parametrize(
    ("read", "data", "line"),
    [
        (ies.read, b"", 1),
        (ies.read, b"hello", 1),
        (ies.read, GOOD_IES.replace("TILT=NONE", "TILT=FILE.TLT").encode(), 6),
        (ies.read, GOOD_IES.replace("TILT=NONE\r\n", "").encode(), None),
        (ies.read, GOOD_IES.replace("[TEST]", "[TEST").encode(), 2),
        (ies.read, GOOD_IES.replace("1 1350 1 4 5", "1 1350 1 400000 500000").encode(), 7),
        (ies.read, GOOD_IES.replace("1 1350 1 4 5", "1 1350 1 4.5 5").encode(), 7),
        (ies.read, GOOD_IES.replace("1 1350 1 4 5 1", "1 1350 1 4 5 7").encode(), 7),
        (ies.read, GOOD_IES.replace("0 10 20 30", "0 10 ten 30").encode(), None),
        (ies.read, GOOD_IES.replace("0 10 20 30", "0 20 10 30").encode(), None),
        (ies.read, GOOD_IES[: len(GOOD_IES) // 2].encode(), None),
        (ies.read, (GOOD_IES + "99 99\r\n").encode(), None),
        (ies.read, GOOD_IES.encode() + b"\x00\x01", None),
        (ies.read, GOOD_IES.replace("0 10 20 30", "0 10 nan 30").encode(), None),
        (ies.read, b"\xff\xfe" + b"\x00", 1),
        (eulumdat.read, b"", 1),
        (eulumdat.read, GOOD_LDT.encode()[:200], None),
        (eulumdat.read, GOOD_LDT.replace("\r\n8\r\n", "\r\n999999999\r\n", 1).encode(), 4),
        (eulumdat.read, GOOD_LDT.replace("\r\n8\r\n", "\r\neight\r\n", 1).encode(), 4),
        (
            eulumdat.read,
            GOOD_LDT.replace("Cold Arc\r\n3\r\n0", "Cold Arc\r\n3\r\n9", 1).encode(),
            3,
        ),
        (eulumdat.read, GOOD_LDT.replace("\r\n1350\r\n", "\r\n0\r\n", 1).encode(), None),
        (eulumdat.read, GOOD_LDT.rsplit("\r\n", 6)[0].encode(), None),
    ],
)
def test_malformed_files_name_the_line_quickly(read, data, line):
    started = time.process_time()
    with pytest.raises(MalformedFileError, match="line") as refused:
        read(data)
    assert time.process_time() - started < 0.5
    if line:
        assert refused.value.line == line


def test_other_encodings_are_understood():
    lines = GOOD_IES.replace("[MANUFAC] none", "[MANUFAC] Größe")
    for encoding in ("cp1252", "utf-8", "utf-8-sig", "utf-16"):
        assert ies.read(lines.encode(encoding)).keywords["MANUFAC"] == "Größe"


def test_a_huge_file_is_refused_before_it_is_read():
    with pytest.raises(MalformedFileError, match="larger than"):
        ies.read(b"IESNA:LM-63-2002\n" + b"0 " * 11_000_000)


def test_tilt_data_is_stepped_over():
    tilt = "TILT=INCLUDE\r\n1\r\n3\r\n0 45 90\r\n1 0.9 0.8"
    same(ies.read(GOOD_IES.replace("TILT=NONE", tilt).encode()), photometry("C"))
    with pytest.raises(MalformedFileError):
        ies.read(GOOD_IES.replace("TILT=NONE", "TILT=INCLUDE\r\n1\r\n3000").encode())


@settings(max_examples=2 * settings.default.max_examples, deadline=None)
@given(st.binary(max_size=300))
def test_any_bytes_are_read_or_refused(data):
    for read in (ies.read, eulumdat.read):
        for start in (b"", GOOD_IES.encode()[:150], GOOD_LDT.encode()[:90]):
            with contextlib.suppress(MalformedFileError):
                assert read(start + data).candela.size > 0


def test_csv_has_a_row_a_direction():
    rows = list(csv.DictReader(io.StringIO(table.from_beam(led_beam(), "").decode())))
    brightest = max(rows, key=lambda row: float(row["cd"]))
    assert float(brightest["cd"]) == pytest.approx(
        float(led_beam().at(float(brightest["h_deg"]), float(brightest["v_deg"]))), rel=1e-3
    )


def test_the_picture_is_bright_where_the_beam_is():
    image = np.asarray(
        Image.open(io.BytesIO(picture.from_beam(led_beam(), ""))).convert("L"), dtype=float
    )
    high, low = (
        image[: image.shape[0] // 4].mean(),
        image[image.shape[0] // 2 : 3 * image.shape[0] // 4].mean(),
    )
    assert low > 3 * high
    brighter = np.asarray(
        Image.open(io.BytesIO(picture.render(led_beam(), exposure=2.0))).convert("L"), dtype=float
    )
    assert brighter.mean() > image.mean()


def test_warm_light_is_warm():
    warm, cold = picture.tint(3200), picture.tint(6000)
    assert warm[0] > warm[2]
    assert cold[2] > cold[0]


def coloured(setup):
    pixels = np.asarray(
        Image.open(io.BytesIO(picture.from_beam(beam_of(setup), ""))).convert("RGB"), dtype=float
    )
    return pixels.reshape(-1, 3).mean(axis=0)


def test_a_file_has_the_colour_of_its_source():
    """Halogen warm, LED cold, a filter yellow, a bulb's own colour temperature where it is told;
    whatever asks for it.
    """
    halogen, led = coloured(SetUp()), coloured(SetUp(source="led"))
    yellow, warm_led = (
        coloured(SetUp(source="led", yellow=True)),
        coloured(SetUp(source="led", cct=3000.0)),
    )
    assert halogen[0] > 1.15 * halogen[2]
    assert led[2] > led[0]
    assert yellow[0] > 2 * yellow[2]
    assert warm_led[0] > warm_led[2]


def test_what_is_brightest_goes_white():
    """As in an eye or a camera: each colour fills by itself."""
    bright = np.asarray(
        Image.open(io.BytesIO(picture.render(beam_of(SetUp()), exposure=3.0))).convert("RGB"),
        dtype=float,
    )
    assert bright.max(axis=(0, 1)).min() > 250


def seen(setup, traffic=Traffic.RIGHT):
    beam = beam_of(replace(setup, traffic=traffic))
    return np.asarray(
        Image.open(io.BytesIO(road.from_the_seat(beam, traffic))).convert("L"), dtype=float
    )


def test_the_driver_sees_road_and_sign_and_the_oncoming_car_when_dazzled():
    view = seen(SetUp())
    rows, columns = view.shape
    assert view[-rows // 4 :, columns // 3 : 2 * columns // 3].mean() > 60
    assert view[: rows // 8].mean() < 30
    assert view[: rows // 3].max() > 80
    high = seen(SetUp(base="H7", high=True))
    assert high[: rows // 3].mean() > view[: rows // 3].mean()


def test_the_drivers_view_is_mirrored_for_the_other_side_of_traffic():
    right, left = seen(SetUp()), seen(SetUp(), Traffic.LEFT)
    assert np.abs(right - left[:, ::-1]).mean() < 3
    assert np.abs(right - left).mean() > 3


def test_an_unknown_ending_is_refused(tmp_path):
    with pytest.raises(ValueError, match="ending"):
        write_beam(led_beam(), tmp_path / "beam.doc", "")


def test_the_road_is_lit_near_and_dark_far():
    image = np.asarray(
        Image.open(io.BytesIO(road.from_above(led_beam()))).convert("L"), dtype=float
    )
    assert image.shape == (360, 180)
    ahead = image[:, 80:100]
    assert ahead[-60:].mean() > 1.5 * ahead[:60].mean()


def test_contours_are_drawn_where_candela_cross_their_values():
    plain = np.asarray(Image.open(io.BytesIO(picture.render(led_beam()))).convert("RGB"))
    lined = np.asarray(
        Image.open(io.BytesIO(picture.render(led_beam(), contours=True))).convert("RGB")
    )
    changed = np.any(plain != lined, axis=2)
    assert 0.005 < changed.mean() < 0.2


@pytest.mark.parametrize("form", [ies, eulumdat])
def test_a_written_beam_reads_back_as_the_same_beam(form):
    """Type B and type C, the latter about the optical axis: hot spot, flux and cut-off survive."""
    again = to_beam(form.read(form.from_beam(led_beam(), "there and back")))
    assert derived.peak(again).candela == pytest.approx(derived.peak(led_beam()).candela, rel=0.02)
    assert derived.peak(again).h_deg == pytest.approx(derived.peak(led_beam()).h_deg, abs=0.5)
    assert again.flux_lm == pytest.approx(led_beam().flux_lm, rel=0.005)
    assert derived.cut_off_height(again) == pytest.approx(
        derived.cut_off_height(led_beam()), abs=0.11
    )


def cone(planes):
    """A turned light of 1000·(1 − γ/40) cd, told on some planes of type C."""
    gamma = np.arange(0.0, 91.0, 5.0)
    along = np.maximum(1000 * (1 - gamma / 40), 0)
    return Photometry("C", np.array(planes), gamma, np.tile(along, (len(planes), 1)), -1.0)


@pytest.mark.parametrize(
    "planes",
    [[0.0], [0.0, 45.0, 90.0], [0.0, 90.0, 180.0], [0.0, 90.0, 180.0, 270.0], [0.0, 180.0, 360.0]],
)
def test_symmetric_files_stand_for_the_whole_round(planes):
    """LM-63: planes to 90 or 180 stand for the rest by symmetry, one plane for all."""
    beam = to_beam(cone(planes))
    for h, v in ((0, 0), (10, 0), (-10, 0), (0, 10), (0, -10), (-6, -8)):
        angle = np.degrees(np.arccos(np.cos(np.radians(h)) * np.cos(np.radians(v))))
        assert float(beam.at(h, v)) == pytest.approx(1000 * (1 - angle / 40), rel=0.01)


def test_half_a_type_b_file_is_mirrored():
    half = Photometry(
        "B",
        np.array([0.0, 10.0, 20.0]),
        np.array([-5.0, 0.0, 5.0]),
        np.array([[9.0] * 3, [6.0] * 3, [0.0] * 3]),
        -1.0,
    )
    beam = to_beam(half)
    assert (
        float(beam.at(-10.0, 0.0)) == pytest.approx(float(beam.at(10.0, 0.0))) == pytest.approx(6.0)
    )
    assert float(beam.at(0.0, 9.0)) == 0


@pytest.mark.parametrize(
    "data",
    [
        b"IESNA:LM-63\nTILT=NONE\n1 -1 1 2 2 2 2 0 0 0\n1 1 0\n-20 15\n-45 45\n1 1 1 1\n",
        ies.write(
            Photometry(
                "B",
                np.arange(-45, 46, 1.0),
                np.arange(-20, 16, 1.0),
                np.full((91, 36), 1000.0),
                -1.0,
            )
        ),
        ies.write(
            Photometry(
                "B",
                np.linspace(-45, 45, 181),
                np.linspace(-20, 15, 141),
                np.random.default_rng(0).uniform(500, 1000, (181, 141)),
                -1.0,
            )
        ),
    ],
    ids=["tiny", "flat", "noise"],
)
def test_no_file_takes_long_to_measure(data):
    times = []
    for _ in range(4):
        started = time.process_time()
        report_on(to_beam(ies.read(data)))
        times.append(time.process_time() - started)
    assert min(times) < 0.5


@pytest.mark.parametrize("candela", [-1.0, 1e9, 1e300])
def test_intensities_no_lamp_has_are_refused(candela):
    told = Photometry(
        "B", np.array([-10.0, 10.0]), np.array([-5.0, 5.0]), np.full((2, 2), candela), -1.0
    )
    with pytest.raises(ValueError, match="no lamp has"):
        to_beam(told)


SPOILERS = ("0", "-1", "1e308", "nan", "3", "4", "9" * 400, "", "abc", "1 2 3", "360")


@settings(max_examples=2 * settings.default.max_examples, deadline=None)
@given(st.sampled_from([ies, eulumdat]), st.data())
def test_a_spoiled_file_is_read_or_refused(module, data):
    whole = (GOOD_IES if module is ies else GOOD_LDT).split("\r\n")
    for _ in range(data.draw(st.integers(1, 3))):
        place = data.draw(st.integers(0, len(whole) - 1))
        whole[place] = data.draw(st.sampled_from(SPOILERS))
    with contextlib.suppress(ValueError):
        report_on(to_beam(module.read("\r\n".join(whole).encode())))


def test_the_keywords_that_lm_63_asks_for_are_there():
    """TEST, TESTLAB, ISSUEDATE and MANUFAC, LM-63-2002, from memory."""
    text = ies.from_beam(led_beam(), "lamp", dt.date(2026, 11, 2)).decode()
    keywords = dict(re.findall(r"^\[(\w+)\] (.+?)\r?$", text, re.M))
    assert {"TEST", "TESTLAB", "ISSUEDATE", "MANUFAC"} <= keywords.keys()
    assert keywords["ISSUEDATE"] == "02-NOV-2026"
