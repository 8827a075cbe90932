"""A lamp's wall read on the pages: its own housing from the picture as found, how the bulb sits
from the picture after; kept, stopped, begun again; what binds afterwards.
"""

import io
import re
import time
from dataclasses import replace

import numpy as np
import pytest

from cold_arc.core.beam import model
from cold_arc.core.car.keys import parse_key
from cold_arc.core.car.lamps import Side
from cold_arc.core.inverse import housing
from cold_arc.core.inverse.light_map import LampBeside
from cold_arc.core.job.entries.aim import WallPhotographed
from cold_arc.core.job.entries.book_in import Identified
from cold_arc.core.job.entries.inspect import Inspected
from cold_arc.core.job.entries.wall_read import HousingRead, SeatRead, housing_read
from cold_arc.core.job.stages import Stage
from cold_arc.core.match import measuring, wall_reading
from cold_arc.devices.wall_camera import Shot, before_the_wall, photograph
from cold_arc.formats.light_maps import read_map
from cold_arc.store import jobs
from cold_arc.store.database import open_database
from cold_arc.web.job.sheet import CustomerSheet
from cold_arc.web.job.stage_page import open_stage
from cold_arc.web.scope import Scope
from cold_arc.web.shell import tasks
from tests.core.inverse.lamps import drawn_lamp

PAGE = "/jobs/1/low/aim/photo"
LOW_LEFT = parse_key("low-left")
TURNED_DEG, LONGEST_S = 15.0, 240.0


@pytest.fixture(autouse=True)
def nothing_runs():
    """No work of one test is found by the next."""
    yield
    for name in list(tasks._kept):
        tasks.forget(name)


def record_of(demo):
    with open_database(demo.folder)() as session:
        return jobs.load(session, 1)


def setups(demo):
    job = record_of(demo)
    return measuring.setups(job.record, job.booking, LOW_LEFT, "right")


def pictured(demo, beam, phase):
    """A photograph of a beam sent and measured by its printed target; its reading page."""
    wall = (7.62, 0.72)
    taken = photograph(
        beam,
        before_the_wall(*wall),
        Shot(1600, 1200, exposure=-0.3),
        (),
        *wall,
        (0.0, 0.0),
        Side.LEFT,
    )
    sent = {"lamp": "low-left", "phase": phase, "distance": "7.62 m", "height": "72 cm"}
    files = {"photos": [(io.BytesIO(taken.jpeg()), "wall.jpg")]}
    answer = demo.http.post(PAGE, data=sent | files, follow_redirects=True)
    assert "Cut-off" in answer.text
    return answer.request.path + "/read"


def waited(demo, page, **form):
    """The page once its work is done."""
    model.warm()
    demo.post(page, do="begin", **form)
    until = time.monotonic() + LONGEST_S
    while "Reading the wall" in (text := demo.get(page)):
        assert time.monotonic() < until
        time.sleep(0.2)
    return re.sub(r"\s+", " ", text)


def kept(demo, kind):
    return record_of(demo).record.all(kind, LOW_LEFT)


def test_a_housing_is_read_kept_predicted_in_and_the_turned_bulb_is_told(demo):
    model.warm()
    present, chosen = setups(demo)
    true = drawn_lamp(present, 5)
    page = pictured(demo, true.beam(present), "found")
    assert "Keep it with this lamp" in waited(demo, page)
    saved = demo.http.get(page.replace("/read", "/map.json"))
    light = read_map(saved.data, ".json")
    assert light.known.sum() > 100
    for ending in ("csv", "ies", "ldt"):
        answer = demo.http.get(page.replace("/read", f"/map.{ending}"))
        assert answer.status_code == (200 if light.absolute or ending == "csv" else 404), ending
    assert not kept(demo, HousingRead)  # nothing is recorded before somebody says so
    assert "Kept with this lamp" in demo.post(page, do="keep")
    (read,) = kept(demo, HousingRead)
    assert read.texture == read.lamp.texture.times
    assert np.std(read.texture) < 0.1
    figures = dict(zip(true.names, true.values, strict=True))
    for name in ("narrow", "wide", "aim_v"):
        value, standard = read.lamp.figures[name]
        assert value == pytest.approx(figures[name], rel=0.1, abs=3 * standard)
        assert standard < 0.1 * max(abs(figures[name]), 0.3)
    assert "read from its wall" in re.sub(r"\s+", " ", demo.get("/jobs/1/low/match?go=1"))
    # Aimed since, as the record has it, so that only the clock is off.
    up, right = wall_reading.turned_since(record_of(demo).record, LOW_LEFT)
    after = pictured(demo, true.turned(up, right).beam(replace(chosen, clock=TURNED_DEG)), "left")
    text = waited(demo, after)
    assert "Sits" in text
    demo.post(after, do="keep")
    (seat,) = kept(demo, SeatRead)
    assert seat.first.id == "clock"
    assert seat.clock_deg[0] == pytest.approx(TURNED_DEG, abs=4)
    told = "Left, read from the wall: Its faces do not look to 3 and 9"
    assert told in demo.get("/jobs/1/low/fit")
    at_the_end = ", read from the wall: Its faces do not look to 3 and 9 o'clock"
    assert at_the_end in demo.get("/jobs/1/low/hand-over")
    assert any(at_the_end in line for line in standing(demo))
    clocked = {"do": "clock:headlamp-1-left", "headlamp-1-left-stopped": "0"}
    demo.post("/jobs/1/low/fit", **clocked)
    assert told not in demo.get("/jobs/1/low/fit")
    assert at_the_end not in demo.get("/jobs/1/low/hand-over")
    assert not any(at_the_end in line for line in standing(demo))


def standing(demo):
    """What the customer's sheet says is open."""
    with demo.app.test_request_context():
        demo.app.preprocess_request()
        return CustomerSheet(open_stage(1, Scope(), Stage.HAND_OVER)).standing


@pytest.fixture
def endless(monkeypatch):
    """A fit that goes on until it is stopped."""

    def fit(setup, light, progress, beside):
        while True:
            progress(0.5)
            time.sleep(0.01)

    monkeypatch.setattr(wall_reading, "fit_lamp", fit)


@pytest.fixture
def found(demo):
    """The reading page of a photograph as found."""
    present, _ = setups(demo)
    model.warm()
    return pictured(demo, housing.typical(present).beam(present), "found")


def test_it_is_stopped_and_nothing_is_left(demo, found, endless):
    assert "Reading the wall" in demo.post(found, do="begin")
    demo.post(found, do="stop")
    until = time.monotonic() + 20
    while "Reading the wall" in (text := demo.get(found)):
        assert time.monotonic() < until
    assert "Stopped." in text
    assert "Read this housing" in text
    demo.post(found, do="keep")
    assert not kept(demo, HousingRead)


def test_what_fails_is_said_and_begun_again(demo, found, monkeypatch):
    def fit(setup, light, progress, beside):
        raise ValueError("The picture shows too little.")

    monkeypatch.setattr(wall_reading, "fit_lamp", fit)
    text = waited(demo, found)
    assert "The picture shows too little." in text
    assert "Read this housing" in text


def test_another_measurement_is_not_answered_with_the_one_before(demo, found, endless):
    demo.post(found, do="begin")
    job = record_of(demo)
    photo = job.record.all(WallPhotographed, LOW_LEFT)[-1]
    name = (demo.folder, 1, photo.shown)
    question = wall_reading.asked_of(job.record, job.booking, LOW_LEFT, photo, "right")
    assert tasks.find(name, question) is not None
    moved = replace(question, photograph=replace(photo, distance_m=10.0))
    assert tasks.find(name, moved) is None


def test_the_other_lamp_is_told_apart_where_it_was_lit_too(demo, found, monkeypatch):
    """It stands as far away as the two were told to be, on its own side; else it is not offered."""
    given = []

    def fit(setup, light, progress, beside):
        given.append(beside)
        raise ValueError("Seen.")

    monkeypatch.setattr(wall_reading, "fit_lamp", fit)
    assert "1.24 m away, was lit too" in re.sub(r"\s+", " ", demo.get(found))
    for form in ({}, {"both": "on"}):
        assert "Seen." in waited(demo, found, **form)
    assert given == [None, LampBeside(1.24, 7.62)]
    record = record_of(demo).record
    photo = record.all(WallPhotographed, LOW_LEFT)[-1]
    right = wall_reading.lamp_beside(record, parse_key("low-right"), photo)
    assert right == LampBeside(-1.24, 7.62)
    with open_database(demo.folder)() as session:
        untold = jobs.load(session, 2).record
    assert wall_reading.lamp_beside(untold, LOW_LEFT, photo) is None


def test_what_can_not_be_read_says_why(demo):
    present, _ = setups(demo)
    model.warm()
    page = pictured(demo, housing.typical(present).beam(present), "found")
    demo.post(page.removesuffix("/read"), do="delete")
    assert "nothing is left to be read" in demo.get(page)
    assert demo.http.get("/jobs/1/low/aim/photo/999/read").status_code == 404


def test_so_much_waits_that_no_more_is_taken_on(endless_work):
    for name in range(tasks.MOST_WAITING + 1):
        tasks.start(("wait", name), name, endless_work)
    with pytest.raises(tasks.TooManyError, match="waits already"):
        tasks.start(("wait", "more"), 0, endless_work)


@pytest.fixture
def endless_work():
    def work(progress):
        while True:
            progress(0.1)
            time.sleep(0.01)

    return work


def test_the_next_car_of_the_same_model_begins_with_it(demo):
    """Entered by hand: reading is tried above."""
    model.warm()
    job = record_of(demo)
    present, _ = setups(demo)
    true = replace(drawn_lamp(present, 5), covariance=tuple((0.0,) * 12 for _ in range(12)))
    with open_database(demo.folder)() as session:
        jobs.append(session, 1, housing_read(true, 0.05, 1), [LOW_LEFT])
        next_id = jobs.open_job(
            session, replace(job.booking, reference="N-2"), job.record.front, job.record.sockets
        )
        for entry in job.record.entries:
            if isinstance(entry.payload, Identified | Inspected):
                jobs.append(session, next_id, entry.payload, entry.about)
        session.commit()
    page = re.sub(r"\s+", " ", demo.get(f"/jobs/{next_id}/low/match?go=1"))
    assert f"another such car's projector, as read on job {job.booking.reference}" in page
    own = re.sub(r"\s+", " ", demo.get("/jobs/1/low/match?go=1"))
    assert "own projector, read from its wall" in own
    listed = re.sub(r"\s+", " ", demo.get("/measured"))
    assert f"{job.booking.vehicle}</th><td>H7 projector, low" in listed
    with open_database(demo.folder)() as session:
        jobs.append(session, next_id, replace(job.booking, model="Other", reference="N-2"))
        session.commit()
    assert "another such car" not in demo.get(f"/jobs/{next_id}/low/match?go=1")


@pytest.mark.thorough
def test_a_bulb_that_sits_right_in_an_aimed_lamp_is_told_right(demo):
    """Its own housing was not read, and its screws were turned since: the aim is nobody's fault."""
    model.warm()
    camera = {"lamp": "low-left", "phase": "left", "distance": "7.62 m", "camera": "simulated"}
    sent = demo.http.post(PAGE, data=camera, follow_redirects=True)
    page = f"{sent.request.path}/read"
    assert "It sits as it should." in waited(demo, page).split("What explains it")[1][:400]
    assert "own was not read as it came" in demo.get(page)
