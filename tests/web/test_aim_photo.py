"""Photographs at Aim: sent, marked, measured, recorded; the printed target; the wall kept with the
job.
"""

import io
import json
import math
import re
from functools import cache

import pytest
from PIL import Image

from cold_arc.core.aim.taping import CHECKS
from cold_arc.core.car.lamps import Side
from cold_arc.core.job.entries.aim import (
    Aimed,
    OriginalsDeleted,
    Readied,
    WallLaid,
    WallPhotographed,
)
from cold_arc.core.wallphoto.merging import MOST_EXPOSURES
from cold_arc.devices.wall_camera import Pose, Shot, photograph
from cold_arc.formats.photo import read_pixels
from cold_arc.store import jobs
from cold_arc.store import pictures as stored
from cold_arc.store.database import open_database
from tests.core.wallphoto.rendered import SETUPS, ideal, lit

PAGE = "/jobs/1/low/aim/photo"
POSE = Pose(x_m=0.3, y_m=1.3, z_m=6.5, tilt_deg=-5.0)
CROSSES = ((-130.0, 15.0), (130.0, 15.0), (130.0, 120.0), (-130.0, 120.0))


@cache
def taken(exposure=-0.3, target=None, crosses=CROSSES):
    pose = POSE if crosses else Pose(x_m=0.4, y_m=1.4, z_m=5.0, pan_deg=-4.0, tilt_deg=-8.0)
    shot = Shot(1600, 1200, exposure=exposure, ambient=0.004 * 2**exposure)
    return photograph(lit(SETUPS[0][0]), pose, shot, crosses, 7.62, 0.72, (0.0, 0.0), target)


def send(demo, *files, status=200, **more):
    sent = {"lamp": "low-left", "phase": "found", "distance": "7.62 m", "height": "72 cm"} | more
    pictures = [(io.BytesIO(it), f"{number}.jpg") for number, it in enumerate(files)]
    answer = demo.http.post(PAGE, data=sent | {"photos": pictures}, follow_redirects=True)
    assert answer.status_code == status
    return answer.text, answer.request.path


def mark(demo, where, marks, **more):
    """Marks a photograph as its page would."""
    fields = {}
    for number, it in enumerate(marks):
        side = "right" if it.wall_cm[0] >= 0 else "left"
        fields |= {
            f"marks-{number}-px": "{:.2f},{:.2f}".format(*it.px),
            f"marks-{number}-across": f"{abs(it.wall_cm[0])} cm {side}",
            f"marks-{number}-up": f"{it.wall_cm[1]} cm",
        }
    answer = demo.http.post(where, data=fields | more, follow_redirects=True)
    return answer.status_code, answer.text


def kept(demo, kind):
    with open_database(demo.folder)() as session:
        return [it.payload for it in jobs.load(session, 1).entries if isinstance(it.payload, kind)]


def test_a_photograph_is_sent_marked_measured_and_recorded(demo):
    it = taken()
    page, where = send(demo, it.jpeg())
    assert "Marks on the photograph" in page
    assert kept(demo, WallPhotographed)[-1].found is None
    status, page = mark(demo, where, it.marks)
    assert status == 200
    newest = kept(demo, WallPhotographed)[-1]
    level = ideal(*SETUPS[0]).cutoff_v_deg
    assert newest.found.cutoff_v_deg == pytest.approx(level, abs=0.05)
    assert "Cut-off" in page
    assert f"{newest.found.cutoff_v_deg:+.2f}°".replace("-", "−") in page
    doubt = newest.found.uncertainty["cutoff_v_deg"]
    share = math.tan(math.radians(doubt))
    said = f"± {doubt:.2f}° · {share * newest.distance_m * 100:.1f} cm · {share:.2%}".replace(
        "%", " %"
    )
    assert said in page.replace("\u00a0", " ")
    assert (
        demo.http.get(f"/jobs/1/wall-picture/{newest.wall}.jpg?phase=found").mimetype
        == "image/jpeg"
    )
    assert demo.http.get(f"/jobs/1/wall-picture/{newest.wall}.jpg?phase=odd").status_code == 404
    demo.http.post(where, data={"do": "aim"})
    aimed = kept(demo, Aimed)[-1]
    assert (aimed.phase, aimed.typed) == ("found", "from a photograph")
    assert aimed.slope == pytest.approx(newest.found.cutoff_slope_pct / 100)
    assert demo.get(PAGE).count("not marked yet") == 0
    assert f"wall-picture/{newest.wall}.jpg?phase=found" in demo.get("/jobs/1/sheet")


def test_the_picture_as_it_came_is_deleted_with_a_trace(demo):
    it = taken()
    _, where = send(demo, it.jpeg())
    mark(demo, where, it.marks)
    before = kept(demo, WallPhotographed)[-1]
    page = demo.post(where, do="delete")
    assert "Deleted. What was measured in them stays" in page
    assert "is deleted: measured once for all" in page
    (gone,) = kept(demo, OriginalsDeleted)
    assert (gone.shown, gone.count) == (before.shown, 1)
    with open_database(demo.folder)() as session:
        assert stored.original(session, 1, before.shown) is None
        assert stored.picture(session, 1, before.shown, small=False)
    status, page = mark(demo, where, it.marks)
    assert status == 422
    assert "measured again" in page
    assert kept(demo, WallPhotographed)[-1] == before
    assert "deleted already" in demo.post(where, do="delete")
    assert len(kept(demo, OriginalsDeleted)) == 1


def test_the_printed_target_is_found_and_exposures_are_joined(demo):
    series = [taken(exposure, Side.LEFT, ()).jpeg() for exposure in (0.0, -2.0, 2.0)]
    page, _ = send(demo, *series)
    newest = kept(demo, WallPhotographed)[-1]
    assert newest.by_target
    assert len(newest.pictures) == 3
    assert newest.found.cutoff_v_deg == pytest.approx(ideal(*SETUPS[0]).cutoff_v_deg, abs=0.05)
    assert "3 exposures joined" in page
    assert "found by the printed target" in page


def test_a_meters_reading_makes_lines_of_equal_light(demo):
    it = taken()
    _, where = send(demo, it.jpeg())
    held = {"lux": "300 lx", "lux_across": "20 cm right", "lux_up": "55 cm"}
    status, page = mark(demo, where, it.marks, **held)
    assert status == 200
    assert page.count('class="isolux"') >= 4
    assert "Brightest" in page
    assert "the car's own lean" not in page
    leaning = {"rear_right": "18", "front_right": "18", "spacing": "1.2 m"}
    demo.post(
        "/jobs/1/low/aim/wall", rule="un-r48-low", height="0.70 m", distance="7.62 m", **leaning
    )
    page = demo.get(where)
    assert "the car's own lean is in it" in page
    assert "+0.69°" in page  # 12 mm a metre
    status, page = mark(demo, where, it.marks, lux="300 lx")
    assert status == 422
    assert "Say where it was held." in page
    status, page = mark(demo, where, it.marks, lux_up="55 cm")
    assert status == 422
    assert "Say what it read." in page


def test_a_reading_is_added_to_what_the_target_gave(demo):
    send(demo, taken(target=Side.LEFT, crosses=()).jpeg())
    first = kept(demo, WallPhotographed)[-1]
    rows = {f"marks-{number}-px": "10,10" for number in range(4)}
    rows |= {f"marks-{number}-across": "1 m left" for number in range(4)}
    rows |= {f"marks-{number}-up": "1 m" for number in range(4)}
    held = {"lux": "300 lx", "lux_across": "20 cm right", "lux_up": "55 cm", "do": "target"}
    page = demo.http.post(f"{PAGE}/{first.shown}", data=rows | held, follow_redirects=True).text
    newest = kept(demo, WallPhotographed)[-1]
    assert (newest.by_target, newest.marks) == (True, first.marks)
    assert newest.found.cutoff_v_deg == pytest.approx(first.found.cutoff_v_deg)
    assert newest.found.peak_cd > 300 * 7.62**2
    assert 'class="isolux"' in page


def test_before_and_after_lie_over_one_another(demo):
    for phase in ("found", "left"):
        it = taken()
        _, where = send(demo, it.jpeg(), phase=phase)
        mark(demo, where, it.marks)
    first, second = (it for it in kept(demo, WallPhotographed) if it.found)
    page = demo.http.get(f"{PAGE}/{second.shown}?with={first.shown}").text
    assert f"wall-picture/{first.wall}.jpg?phase=found" in page
    assert f"wall-picture/{second.wall}.jpg?phase=left" in page
    assert "data-wipe" in page


@pytest.mark.parametrize(
    ("data", "said"),
    [(b"", "No picture was chosen"), (b"\xff\xd8junk", "no picture that can be read")],
)
def test_what_is_no_picture_is_told_and_what_was_typed_stays(demo, data, said):
    page, _ = send(demo, data, status=422, distance="25 ft")
    assert said in page
    assert 'value="25 ft"' in page
    assert kept(demo, WallPhotographed) == []


def test_a_photograph_that_cant_be_measured_is_refused_and_its_marks_stay(demo):
    dark = io.BytesIO()
    Image.new("RGB", (1600, 1200)).save(dark, "JPEG")
    page, where = send(demo, dark.getvalue())
    it = taken()
    status, page = mark(demo, where, it.marks)
    assert status == 422
    assert "too dark" in page
    assert "{:.2f},{:.2f}".format(*it.marks[0].px) in page
    _, where = send(demo, it.jpeg())
    lined = [*it.marks[:2], *it.marks[:2]]
    assert "quadrilateral" in mark(demo, where, lined)[1]
    status, page = mark(demo, where, it.marks, **{"marks-0-px": "here"})
    assert status == 422
    assert "Put its cross on the picture." in page
    status, page = mark(demo, where, it.marks, **{"marks-1-up": "high"})
    assert "is not a length" in page


def test_a_mark_more_is_asked_for_without_saving(demo):
    it = taken()
    _, where = send(demo, it.jpeg())
    before = len(kept(demo, WallPhotographed))
    status, page = mark(demo, where, it.marks, build="mark")
    assert status == 200
    assert len(re.findall(r"data-mark=", page)) == 5
    assert 'value="800.00,600.00"' in page  # in the middle, to be dragged from there
    assert len(re.findall(r"data-mark=", mark(demo, where, it.marks, build="fewer")[1])) == 4
    assert len(kept(demo, WallPhotographed)) == before


def test_the_simulated_camera_takes_the_lamp_as_it_was_aimed(demo):
    page, _ = send(demo, camera="simulated", phase="left", distance="10 m", height="66 cm")
    newest = kept(demo, WallPhotographed)[-1]
    aimed = next(it for it in kept(demo, Aimed) if it.phase == "left")
    assert newest.found.cutoff_slope_pct == pytest.approx(100 * aimed.slope, abs=0.15)
    assert newest.simulated
    page = demo.http.post(f"{PAGE}/{newest.shown}", data={"do": "aim"}, follow_redirects=True).text
    assert "it looked at no lamp" in page
    assert kept(demo, Aimed)[-1].simulated
    sheet = demo.get("/jobs/1/sheet")  # says what was read of lamps, nothing practised
    assert "wall-picture" not in sheet
    assert f"{aimed.slope:.2%}".replace("-", "−").replace("%", " %") in sheet.replace("\u00a0", " ")


def test_lamps_of_two_heights_keep_each_their_own(demo):
    told = {
        "rule": "un-r48-low",
        "height": "66 cm",
        "right_height": "0.70 m",
        "distance": "10 m",
        "spacing": "1.2 m",
    }
    page = demo.post("/jobs/1/low/aim/wall", **told)
    assert "Right lamp: line to set to from the floor 57.5 cm" in " ".join(
        re.sub("<[^>]+>", " ", page).split()
    )
    assert kept(demo, WallLaid)[-1].right_height_m == 0.7
    assert (
        'value="0.7 m"'
        in re.search(r'<input[^>]*name="right_height"[^>]*>', demo.get("/jobs/1/low/aim"))[0]
    )
    for lamp in ("low-left", "low-right"):
        demo.post("/jobs/1/low/aim", **told, lamp=lamp, phase="left", stands="12 cm")
    assert [it.height_m for it in kept(demo, Aimed)[-2:]] == [0.66, 0.7]
    own = demo.get("/jobs/1/low-right/aim")
    assert "right_height" not in own
    assert 'value="0.7 m"' in re.search(r'<input[^>]*name="height"[^>]*>', own)[0]
    page = demo.post("/jobs/1/low/aim/wall", status=422, **told | {"right_height": "7 m"})
    assert "field-error" in page


def test_the_list_before_aiming_is_ticked_and_kept(demo):
    assert "Before aiming: 6 of 6 checked" in demo.get("/jobs/1/low/aim")
    assert "Checked before aiming: tyres, load, levelling, springs, lens, wall." in demo.get(
        "/jobs/1/sheet"
    )
    demo.http.post("/jobs/1/low/aim/ready", data={"done": ["tyres", "load", "nonsense"]})
    assert kept(demo, Readied)[-1].done == ("tyres", "load")
    page = demo.get("/jobs/1/low/aim")
    assert "Before aiming: 2 of 6 checked" in page
    assert "Before aiming, 4 of 6 are not ticked." in page
    every = {"done": list(CHECKS), "back": "wall"}
    assert demo.http.post("/jobs/1/low/aim/ready", data=every).location == "/jobs/1/low/aim/wall"
    assert "are not ticked" not in demo.get("/jobs/1/low/aim")
    demo.http.post("/jobs/1/low/aim/ready", data={})
    assert "6 of 6 are not ticked" in demo.get("/jobs/1/low/aim")


def test_a_floor_that_leans_gives_each_lamp_its_own_axis(demo):
    """By hand: 18 mm over a track of 1.5 m lifts the car by 9 mm and a lamp 0.6 m off its middle by
    7.2 mm.
    """
    told = {
        "rule": "un-r48-low",
        "height": "0.70 m",
        "distance": "10 m",
        "rear_right": "18",
        "front_right": "18",
    }
    page = demo.post("/jobs/1/low/aim/wall", status=422, **told)
    assert "Say how far apart the lamps are" in page
    page = demo.post("/jobs/1/low/aim/wall", **told, spacing="1.2 m")
    assert "leans with the car: 12.0 mm a metre, up to the right" in page
    assert "off the plane" not in page
    assert 'placeholder="left 70.2 cm, right 71.6 cm"' in demo.get(PAGE)
    send(demo, camera="simulated", lamp="low-right", phase="left", distance="10 m", height="")
    assert kept(demo, WallPhotographed)[-1].axis_m == pytest.approx(0.7162)
    page = demo.post("/jobs/1/low/aim/wall", **(told | {"rear_right": ""}), spacing="1.2 m")
    assert "One wheel stands off the plane" in page


def test_the_wall_is_kept_with_its_floor_and_the_makers_mark(demo):
    told = {
        "rule": "un-r48-low",
        "height": "0.85 m",
        "distance": "10 m",
        "spacing": "1.2 m",
        "mark": "1.7 %",
        "rear": "0",
        "front": "26",
        "wall": "-10",
        "wheelbase": "2.6 m",
        "overhang": "0.8 m",
    }
    page = demo.post("/jobs/1/low/aim/wall", **told)
    laid = kept(demo, WallLaid)[-1]
    assert (laid.mark, laid.floor.front_m, laid.spacing_m) == (pytest.approx(-0.017), 0.026, 1.2)
    assert "Set, no higher than" in page
    again = demo.http.get("/jobs/1/low/aim/wall").text
    assert 'value="26 mm"' in again or 'value="26"' in again
    assert (
        'value="1.7%"' in demo.http.get("/jobs/1/low/aim").text
        or "1.7" in demo.http.get("/jobs/1/low/aim").text
    )
    page = demo.post("/jobs/1/low/aim/wall", status=422, **(told | {"mark": "4 %"}))
    assert "lets no maker mark" in page
    axis = re.search(r'name="height"[^>]*placeholder="([^"]+)"', demo.get(PAGE))[1]
    assert (
        axis == "left 99.4 cm, right 99.4 cm"
    )  # 26 mm + 8 mm + 0.85 m + 10 cm of pitch + 10 mm of wall


def test_the_target_is_printed_for_each_lamp(demo):
    asked = "rule=un-r48-low&height=0.66+m&distance=10+m&spacing=1.24+m"
    pdf = demo.http.get(f"/jobs/1/low/aim/target-left.pdf?{asked}")
    assert pdf.data.startswith(b"%PDF")
    assert demo.http.get(f"/jobs/1/low/aim/target-right.svg?{asked}").text.startswith("<svg")
    assert demo.http.get("/jobs/1/low/aim/target-left.pdf?height=tall").status_code == 404
    assert demo.http.get(f"/jobs/1/low/aim/target-left.txt?{asked}").status_code == 404


def test_a_photograph_reads_back_as_it_was_stored(demo):
    it = taken()
    _, where = send(demo, it.jpeg())
    mark(demo, where, it.marks)
    with open_database(demo.folder)() as session:
        (row,) = (
            session.connection()
            .exec_driver_sql(
                "select payload from entries where kind = 'wall-photographed' order by id "
                "desc limit 1"
            )
            .fetchall()
        )
    told = json.loads(row[0])
    assert set(told["found"]["uncertainty"]) >= {"cutoff_v_deg", "roll_deg"}
    assert len(told["marks"]) == 4


@pytest.mark.parametrize("size", [(1, 1), (3, 2), (1999, 400), (40, 30)])
def test_pictures_of_odd_sizes_break_nothing(demo, size):
    odd = io.BytesIO()
    Image.new("RGB", size, (90, 90, 80)).save(odd, "PNG")
    page, where = send(demo, odd.getvalue())
    assert "Marks on the photograph" in page
    status, page = mark(demo, where, taken().marks)
    assert status == 422
    assert "field-error" in page


@pytest.mark.parametrize("size", [(2000, 1), (1, 20_000), (12_001, 2000)])
def test_a_strip_is_no_photograph(demo, size):
    strip = io.BytesIO()
    Image.new("RGB", size, (90, 90, 80)).save(strip, "PNG")
    page, _ = send(demo, strip.getvalue(), status=422)
    assert "a strip, no photograph" in page
    assert kept(demo, WallPhotographed) == []


def test_a_picture_turned_by_its_tag_is_measured_upright(demo):
    it = taken()
    turned = io.BytesIO()
    exif = Image.Exif()
    exif[0x0112] = 6  # turn it a quarter clockwise to stand upright
    Image.fromarray(it.pixels).rotate(90, expand=True).save(turned, "JPEG", quality=92, exif=exif)
    _, where = send(demo, turned.getvalue())
    newest = kept(demo, WallPhotographed)[-1]
    assert (newest.across, newest.down) == (1600, 1200)
    assert mark(demo, where, it.marks)[0] == 200
    assert kept(demo, WallPhotographed)[-1].found.cutoff_v_deg == pytest.approx(
        ideal(*SETUPS[0]).cutoff_v_deg, abs=0.05
    )


def test_a_form_without_a_picture_is_asked_for_one(demo):
    for pictures in ((), (b"",)):
        page, _ = send(demo, *pictures, status=422)
        assert "field-error" in page
    assert "series of up to" in send(demo, *[taken().jpeg()] * (MOST_EXPOSURES + 1), status=422)[0]


def test_marks_that_are_no_numbers_are_refused(demo):
    it = taken()
    _, where = send(demo, it.jpeg())
    for px in ("nan,nan", "inf,1", "1e300,1", "-5,-5", ""):
        status, page = mark(demo, where, it.marks, **{"marks-0-px": px})
        assert status == 422, px
        assert "field-error" in page
    assert demo.http.get(f"{PAGE}/99999").status_code == 404
    assert demo.http.get(f"{where}?with=x").status_code == 200


def test_a_picture_kept_tells_neither_place_nor_maker_but_is_the_same(demo):
    """The pixels to the last bit, and how it is turned."""
    exif, whole = Image.Exif(), io.BytesIO()
    exif[0x0112], exif[0x010F], exif[0x8825] = 6, "Maker of secrets", {2: (51.0, 30.0, 0.0)}
    upright = Image.fromarray(taken().pixels).rotate(90, expand=True)
    upright.save(whole, "JPEG", quality=92, exif=exif, comment=b"secret note")
    send(demo, whole.getvalue())
    with open_database(demo.folder)() as session:
        number = kept(demo, WallPhotographed)[-1].pictures[0]
        original = stored.original(session, 1, number)
    assert b"secret" in whole.getvalue()
    assert b"ecret" not in original
    assert (read_pixels(original) == read_pixels(whole.getvalue())).all()
