"""Jobs of any content go into a file and out of it in another shop, and come back the same."""

import datetime as dt
import shutil
import tempfile
import zipfile
from pathlib import Path

from hypothesis import given, settings
from hypothesis import strategies as st

from cold_arc.core.car import front_building as fronts
from cold_arc.core.car.keys import SocketKey
from cold_arc.core.car.lamps import Drive, Side
from cold_arc.core.job.entries.book_in import Booking
from cold_arc.core.job.entries.hand_over import HandedOver, TestDriven
from cold_arc.core.job.entries.later import CLAIMS, Claimed, HoursLit
from cold_arc.core.job.entries.match import Refused
from cold_arc.core.job.entries.stages import Passed
from cold_arc.core.job.plausible import is_text
from cold_arc.core.job.stages import Stage
from cold_arc.formats import job_file
from cold_arc.store import chain, job_files, jobs, pictures
from cold_arc.store.database import open_database
from tests.thorough import THOROUGH

KEYS = [SocketKey("headlamp", 1, side) for side in Side]
TEXT = st.text(max_size=40).filter(is_text)
WORDS = st.text(min_size=1, max_size=20).filter(lambda text: is_text(text) and text.strip())
NUMBER = st.floats(0.001, 1e5)
DAY = st.dates(dt.date(1990, 1, 1), dt.date(2090, 1, 1))
ENTRY = st.one_of(
    st.builds(Passed, st.sampled_from([stage.value for stage in Stage]), TEXT),
    st.builds(Refused, WORDS, TEXT, TEXT),
    st.builds(HoursLit, NUMBER),
    st.builds(TestDriven, WORDS, st.floats(0.1, 600), TEXT, note=TEXT),
    st.builds(Claimed, WORDS, st.lists(st.sampled_from(list(CLAIMS)), min_size=1).map(tuple)),
    st.builds(HandedOver, WORDS, st.just(()), st.booleans(), st.booleans(), DAY, asked=NUMBER),
)
BOOKING = st.builds(
    Booking, WORDS, WORDS, TEXT, st.sampled_from(Drive), st.sampled_from(["un", "us", "uk"]),
    complaint=TEXT, due=st.none() | DAY, plate=st.text(max_size=15).filter(is_text),
)  # fmt: skip
# What is done to a job: an entry, an entry undone or brought back by its place, a picture.
STEP = st.one_of(
    st.tuples(st.just("add"), ENTRY, st.sets(st.sampled_from(KEYS))),
    st.tuples(st.sampled_from(["undo", "redo"]), st.integers(3, 20), st.none()),
    st.tuples(st.just("picture"), st.binary(max_size=200), st.none() | st.binary(max_size=200)),
)


def written(folder, to):
    with open_database(folder)() as session, to.open("wb") as file:
        numbers = job_files.numbers_of(session, ())
        every = ((job_files.filed(session, number), {}) for number in numbers)
        moment = dt.datetime(2026, 11, 30, tzinfo=dt.UTC)
        assert list(job_file.write(file, every, len(numbers), moment)) == [
            *range(1, len(numbers) + 1)
        ]
        assert not any(chain.faults(session, number) for number in numbers)
    with zipfile.ZipFile(to) as source:
        return {name: source.read(name) for name in source.namelist()}


def work(session, number, step):
    what, given_, more = step
    entries = jobs.load(session, number).entries
    if what == "add":
        jobs.append(session, number, given_, more)
    elif what == "picture":
        pictures.keep(session, number, given_, given_[:9], more)
    elif given_ < len(entries):
        (jobs.undo if what == "undo" else jobs.redo)(session, number, entries[given_].id)


@settings(max_examples=60 if THOROUGH else 8, deadline=None)
@given(st.lists(st.tuples(BOOKING, st.lists(STEP, max_size=8)), min_size=1, max_size=3))
def test_what_is_written_and_taken_in_is_written_the_same_again(blank, made):
    with tempfile.TemporaryDirectory() as name:
        one, two = (Path(shutil.copytree(blank, Path(name) / shop)) for shop in ("one", "two"))
        with open_database(one).begin() as session:
            for booking, steps in made:
                number = jobs.open_job(session, booking, fronts.made("dual"), KEYS)
                for step in steps:
                    work(session, number, step)
        first = written(one, Path(name) / "first.zip")
        for state in (job_files.NEW, job_files.SAME):
            with open_database(two).begin() as session:
                came = job_files.take_in(session, job_file.read(Path(name) / "first.zip"))
                assert {each.state for each in came} == {state}
        assert written(two, Path(name) / "second.zip") == first
