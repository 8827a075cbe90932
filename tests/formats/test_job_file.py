"""The job file: what is written is read again, what would do harm is refused with a sentence."""

import datetime as dt
import io
import json
import stat
import zipfile
from dataclasses import replace
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cold_arc.core.job import chain
from cold_arc.core.job.chain import Link, StoredContent
from cold_arc.core.job.filed import FiledEntry, FiledJob, FiledPicture
from cold_arc.formats import job_file
from cold_arc.formats.job_file import JobFileError

AT = dt.datetime(2026, 11, 30, 9, 15, 0, 250_000, tzinfo=dt.UTC)
DOCS = Path(__file__).parent.parent.parent / "docs"
PLAIN = st.recursive(
    st.none()
    | st.booleans()
    | st.integers(-(2**60), 2**60)
    | st.floats(allow_nan=False)
    | st.text(),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(), inner, max_size=3),
    max_leaves=8,
)


def linked(entries):
    """A chain over entries, undone ones undone at the end."""
    before, links = "", []
    acts = [("entry", place) for place in range(1, len(entries) + 1)]
    acts += [("undo", place) for place, entry in enumerate(entries, 1) if entry.undone_at]
    for what, place in acts:
        link = Link(what, place, AT, False, "")
        content = entries[place - 1].content if what == "entry" else None
        before = chain.digest_of(before, link, content)
        links.append(replace(link, digest=before))
    return tuple(links)


def job_of(payloads=("{}",), pictures=()):
    entries = tuple(
        FiledEntry(StoredContent(AT, "remark", 1, '["low-left"]', text), AT if odd % 2 else None)
        for odd, text in enumerate(payloads)
    )
    numbers = tuple(picture.number for picture in pictures)
    return FiledJob(AT, None, entries, linked(entries), numbers, lambda: iter(pictures))


def written(*jobs, beside=None):
    to = io.BytesIO()
    list(job_file.write(to, [(job, beside or {}) for job in jobs], len(jobs), AT))
    return to.getvalue()


def read(tmp_path, data):
    path = tmp_path / "jobs.zip"
    path.write_bytes(data)
    return [(job, list(job.pictures())) for job in job_file.read(path)]


@given(st.lists(PLAIN, min_size=1, max_size=4))
def test_whatever_an_entry_says_is_read_as_it_was_stored(tmp_path_factory, payloads):
    """Numbers beyond what JSON is sure of, and texts written by others' hands, too."""
    texts = [json.dumps(plain) for plain in payloads] + ['{"a":1}', "no JSON", '{"a": 1e400}']
    job = job_of(texts)
    ((again, _),) = read(tmp_path_factory.mktemp("file"), written(job))
    assert again == job
    stored = [(entry.content, entry.undone_at is not None) for entry in again.entries]
    assert chain.faults(stored, again.links) == []


def test_pictures_come_whole(tmp_path):
    parts = {"jpg": b"large", "small.jpg": b"small", "original": b"as it came"}
    picture = FiledPicture(7, AT, parts)
    ((job, pictures),) = read(tmp_path, written(job_of(pictures=[picture])))
    assert job.picture_numbers == (7,)
    assert pictures == [picture]


def test_a_newer_file_s_unknown_fields_are_let_be(tmp_path):
    data = changed(written(job_of()), "jobs/0001/job.json", lambda t: '{"new": 1,' + t[1:])
    assert len(read(tmp_path, data)) == 1


def test_the_schema_in_the_docs_is_this_one():
    assert json.loads((DOCS / "job-file.schema.json").read_text()) == job_file.schema()


def changed(data, name, how, **info):
    """The file with one part changed: its text by *how*."""
    to = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as source, zipfile.ZipFile(to, "w") as target:
        for part in source.namelist():
            text = source.read(part)
            target.writestr(part, how(text.decode()).encode() if part == name else text)
    return to.getvalue()


def added(data, name, content=b"", **more):
    to = io.BytesIO(data)
    with zipfile.ZipFile(to, "a", zipfile.ZIP_DEFLATED) as target:
        part = zipfile.ZipInfo(name)
        part.compress_type = zipfile.ZIP_DEFLATED
        for attribute, value in more.items():
            setattr(part, attribute, value)
        target.writestr(part, content)
    return to.getvalue()


WHOLE = written(job_of(pictures=[FiledPicture(1, AT, {"jpg": b"a", "small.jpg": b"b"})]))
JOB = "jobs/0001/job.json"


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "no job file, or is damaged"),
        (b"PK nothing", "no job file, or is damaged"),
        (WHOLE[: len(WHOLE) // 2], "no job file, or is damaged"),
        (added(WHOLE, "../../etc/passwd"), "no part of a job file"),
        (added(WHOLE, "/abs.json"), "no part of a job file"),
        (added(WHOLE, "jobs/0001/pictures/..%2f1.jpg"), "no part of a job file"),
        (added(WHOLE, "jobs\\0001\\job.json"), "no part of a job file"),
        (added(WHOLE, "jobs/0002/job.json", external_attr=stat.S_IFLNK << 16), "is a link"),
        (added(WHOLE, "jobs/0002/job.json", b"0" * 30_000_000), "larger than it may be"),
        (
            changed(WHOLE, "manifest.json", lambda t: t.replace('"version": 1', '"version": 2')),
            "another version",
        ),
        (changed(WHOLE, "manifest.json", lambda t: t.replace("cold-arc-jobs", "x")), "no job file"),
        (changed(WHOLE, "manifest.json", lambda t: "[" * 100_000), "no JSON"),
        (changed(WHOLE, "manifest.json", lambda t: t.replace("0001", "0002")), "is missing"),
        (changed(WHOLE, JOB, lambda t: "{}"), "required"),
        (changed(WHOLE, JOB, lambda t: t.replace('"version": 1', '"version": "1"')), "not of type"),
        (changed(WHOLE, JOB, lambda t: t.replace("2026-11-30", "2026-19-30")), "time data"),
        (changed(WHOLE, JOB, lambda t: t.replace('"number": 1', '"number": -1')), "minimum"),
        (changed(WHOLE, "jobs/0001/pictures/1.jpg", lambda t: "other"), "not what it was written"),
    ],
)
def test_what_is_broken_or_hostile_is_refused_with_a_sentence(tmp_path, data, words):
    with pytest.raises(JobFileError, match=words):
        read(tmp_path, data)


def garbled(data, name):
    """The file with the packed bytes of one part changed."""
    with zipfile.ZipFile(io.BytesIO(data)) as source:
        part = source.getinfo(name)
        begins = part.header_offset + 30 + len(part.filename)
    spoilt = bytes(255 - byte for byte in data[begins : begins + part.compress_size])
    return data[:begins] + spoilt + data[begins + part.compress_size :]


@pytest.mark.parametrize("name", ["manifest.json", JOB, "jobs/0001/pictures/1.jpg"])
def test_a_part_garbled_on_its_way_is_said(tmp_path, name):
    """What zlib and zipfile raise of packed bytes, not only of a file's head."""
    with pytest.raises(JobFileError, match="is damaged, or packed in a way not known"):
        read(tmp_path, garbled(WHOLE, name))


@pytest.mark.filterwarnings("ignore:Duplicate name")
def test_a_part_that_stands_twice_is_refused(tmp_path):
    with pytest.raises(JobFileError, match="twice"):
        read(tmp_path, added(WHOLE, JOB, b"{}"))


def test_a_head_that_lies_about_its_size_is_not_believed(tmp_path, monkeypatch):
    monkeypatch.setattr(job_file, "MOST_TABLE", 200)
    with pytest.raises(JobFileError, match="larger than it may be"):
        read(tmp_path, WHOLE)
