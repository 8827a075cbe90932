"""Jobs as one open file (docs/job-file.md): a zip of `manifest.json` and, for each job, `job.json`,
its pictures, and for other programs its readings as CSV and its beams as IES; of a whole shop
`shop.json` too.

A file is read as if somebody wished harm by it: names, sizes, links and sums are looked at before
anything is believed.
"""

from __future__ import annotations

import datetime as dt
import hashlib
import json
import re
import stat
import zipfile
import zlib
from collections.abc import Iterable, Iterator, Mapping
from contextlib import contextmanager
from functools import cache
from pathlib import Path
from typing import Any, BinaryIO

from jsonschema import Draft202012Validator

from cold_arc.core.job.chain import MOMENT, Link, StoredContent, moment_text
from cold_arc.core.job.filed import FiledEntry, FiledJob, FiledJobError, FiledPicture

FORMAT, VERSION = "cold-arc-jobs", 1
MANIFEST, SHOP = "manifest.json", "shop.json"
NAME = re.compile(
    r"manifest\.json|shop\.json|jobs/\d{4,6}/(job\.json|readings\.csv|beams/[a-z0-9-]{1,60}\.ies"
    r"|pictures/\d{1,9}\.(jpg|small\.jpg|original))",
    re.ASCII,
)
# What a file may hold at most: names; bytes of a table and of a picture; jobs; how much larger a
# part may be than what it is packed in.
MOST_NAMES, MOST_TABLE, MOST_PICTURE, MOST_JOBS, MOST_RATIO = (
    400_000,
    64_000_000,
    40_000_000,
    9999,
    400,
)
# What a part that is damaged, encrypted or packed otherwise is met with, by zipfile and zlib.
DAMAGED = (zipfile.BadZipFile, zlib.error, EOFError, RuntimeError)


class JobFileError(FiledJobError):
    """A file that is no job file, or a damaged one; the message says why."""


def write(
    to: BinaryIO,
    jobs: Iterable[tuple[FiledJob, Mapping[str, bytes]]],
    count: int,
    made: dt.datetime,
    shop: Mapping[str, Any] | None = None,
) -> Iterator[int]:
    """Writes *count* jobs one after the other, each with what else stands beside it by name, and
    the *shop* besides where it is given; yields how many jobs are written.
    """
    with zipfile.ZipFile(to, "w", zipfile.ZIP_DEFLATED, allowZip64=True) as target:
        folders = [f"jobs/{place:04}" for place in range(1, count + 1)]
        manifest = {
            "format": FORMAT,
            "version": VERSION,
            "made": moment_text(made),
            "jobs": folders,
        }
        target.writestr(MANIFEST, json.dumps(manifest, indent=1))
        if shop is not None:
            target.writestr(SHOP, json.dumps(shop, indent=1))
        for done, (folder, (job, beside)) in enumerate(zip(folders, jobs, strict=True), 1):
            _write_job(target, folder, job, beside)
            yield done


def _write_job(
    target: zipfile.ZipFile, folder: str, job: FiledJob, beside: Mapping[str, bytes]
) -> None:
    described = []
    for picture in job.pictures():
        for ending, data in picture.parts.items():
            name = f"{folder}/pictures/{picture.number}.{ending}"
            target.writestr(name, data, zipfile.ZIP_STORED)
        sums = {ending: hashlib.sha256(data).hexdigest() for ending, data in picture.parts.items()}
        described.append({"number": picture.number, "at": moment_text(picture.at), "sha256": sums})
    plain: dict[str, Any] = {
        "opened": moment_text(job.opened_at),
        "closed": moment_text(job.closed_at) if job.closed_at else None,
        "entries": [_plain_entry(entry) for entry in job.entries],
        "chain": [_plain_link(link) for link in job.links],
        "pictures": described,
        **job.carried.get("job", {}),
    }
    for place, more in _of_entries(job.carried):
        plain["entries"][place] |= more
    target.writestr(f"{folder}/job.json", json.dumps(plain, indent=1))
    for name, data in beside.items():
        target.writestr(f"{folder}/{name}", data)


# What of a newer version is carried on at most, characters.
MOST_CARRIED = 100_000


def _of_entries(carried: Mapping[str, Any]) -> Iterator[tuple[int, dict[str, Any]]]:
    """What is carried of entries, by their place from 0."""
    for name, more in carried.items():
        word, _, place = name.partition(" ")
        if word == "entry":
            yield int(place) - 1, more


def _carried(plain: dict[str, Any]) -> dict[str, Any]:
    """The fields this version does not know, by where they stand; JobFileError for more of them
    than are carried.
    """
    known = schema()["properties"]
    of_entry = known["entries"]["items"]["properties"]
    more = {"job": _unknown(plain, known)}
    more |= {
        f"entry {place}": _unknown(entry, of_entry)
        for place, entry in enumerate(plain["entries"], 1)
    }
    carried = {name: fields for name, fields in more.items() if fields}
    if len(json.dumps(carried)) > MOST_CARRIED:
        raise JobFileError("The file holds more of a newer version than is carried on.")
    return carried


def _unknown(plain: dict[str, Any], known: Mapping[str, Any]) -> dict[str, Any]:
    return {name: value for name, value in plain.items() if name not in known}


def _plain_entry(entry: FiledEntry) -> dict[str, Any]:
    content = entry.content
    return {
        "at": moment_text(content.at),
        "kind": content.kind,
        "version": content.version,
        **_named("about", content.about),
        **_named("payload", content.payload),
        "undone": moment_text(entry.undone_at) if entry.undone_at else None,
    }


def _named(name: str, text: str) -> dict[str, Any]:
    """A stored text as its value; as itself, under another name, where it would be written
    otherwise.
    """
    try:
        value = json.loads(text)
    except (ValueError, RecursionError):
        return {f"{name}_text": text}
    return {name: value} if json.dumps(value) == text else {f"{name}_text": text}


def _plain_link(link: Link) -> dict[str, Any]:
    return {
        "what": link.what,
        "place": link.place,
        "at": moment_text(link.at),
        "late": link.late,
        "digest": link.digest,
    }


@cache
def schema() -> dict[str, Any]:
    """The JSON schema of `job.json`; what it does not name is let be."""
    moment = {"type": "string", "pattern": r"^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d\.\d{6}Z$"}
    or_none = {"anyOf": [moment, {"type": "null"}]}
    digest = {"type": "string", "pattern": "^[0-9a-f]{64}$"}
    entry = {
        "type": "object",
        "required": ["at", "kind", "version", "undone"],
        "properties": {
            "at": moment,
            "kind": {"type": "string", "minLength": 1, "maxLength": 40},
            "version": {"type": "integer", "minimum": 1, "maximum": 10_000},
            "about": {"type": "array", "items": {"type": "string"}},
            "about_text": {"type": "string"},
            "payload": {},
            "payload_text": {"type": "string"},
            "undone": or_none,
        },
    }
    link = {
        "type": "object",
        "required": ["what", "place", "at", "late", "digest"],
        "properties": {
            "what": {"enum": ["entry", "undo", "redo"]},
            "place": {"type": "integer", "minimum": 1},
            "at": moment,
            "late": {"type": "boolean"},
            "digest": digest,
        },
    }
    picture = {
        "type": "object",
        "required": ["number", "at", "sha256"],
        "properties": {
            "number": {"type": "integer", "minimum": 1, "maximum": 999_999_999},
            "at": moment,
            "sha256": {
                "type": "object",
                "required": ["jpg", "small.jpg"],
                "additionalProperties": False,
                "properties": dict.fromkeys(("jpg", "small.jpg", "original"), digest),
            },
        },
    }
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "One job of a Cold Arc job file",
        "type": "object",
        "required": ["opened", "closed", "entries", "chain", "pictures"],
        "properties": {
            "opened": moment,
            "closed": or_none,
            "entries": {"type": "array", "minItems": 1, "items": entry},
            "chain": {"type": "array", "minItems": 1, "items": link},
            "pictures": {"type": "array", "items": picture},
        },
    }


@contextmanager
def _opened(path: Path) -> Iterator[zipfile.ZipFile]:
    """A file whose names were looked at; JobFileError for what is none, or damaged."""
    try:
        source = zipfile.ZipFile(path)
    except zipfile.BadZipFile as error:
        raise JobFileError(f"{path.name} is no job file, or is damaged: {error}.") from error
    with source:
        _look_at_names(source)
        yield source


def read(path: Path) -> Iterator[FiledJob]:
    """The jobs of a file, one after the other; JobFileError for what is none, or damaged."""
    with _opened(path) as source:
        for folder in _folders(source):
            yield _read_job(source, folder)


def count(path: Path) -> int:
    """How many jobs a file holds; JobFileError as `read`."""
    with _opened(path) as source:
        return len(_folders(source))


def read_shop(path: Path) -> dict[str, Any] | None:
    """What a file holds of a shop besides its jobs; None where it holds nothing. JobFileError as
    `read`.
    """
    with _opened(path) as source:
        if SHOP not in source.namelist():
            return None
        plain = _table(source, SHOP)
    wrong = next(Draft202012Validator(SHOP_SCHEMA).iter_errors(plain), None)
    if wrong is not None:
        raise JobFileError(f"{SHOP}: {wrong.json_path}: {wrong.message[:120]}")
    return dict(plain)


_ROWS = {"type": "array", "maxItems": 10_000, "items": {"type": "object"}}
# What of a shop may stand in a file; what it does not name is let be.
SHOP_SCHEMA: dict[str, Any] = {
    "type": "object",
    "properties": {
        **dict.fromkeys(("light_sources", "routes", "aim_rules", "setups"), _ROWS),
        "settings": {"type": "object", "additionalProperties": {"type": "string"}},
    },
}


def _look_at_names(source: zipfile.ZipFile) -> None:
    """JobFileError for a name, a size or a kind that no job file holds."""
    parts = source.infolist()
    if len(parts) > MOST_NAMES:
        raise JobFileError("The file holds more parts than any shop.")
    if len({part.filename for part in parts}) != len(parts):
        raise JobFileError("A part stands in the file twice.")
    for part in parts:
        if not NAME.fullmatch(part.filename):
            raise JobFileError(f"“{part.filename[:60]}” is no part of a job file.")
        if stat.S_ISLNK(part.external_attr >> 16):
            raise JobFileError(f"“{part.filename}” is a link.")
        most = MOST_TABLE if part.filename.endswith((".json", ".csv", ".ies")) else MOST_PICTURE
        if part.file_size > max(most, 1) or part.file_size > MOST_RATIO * part.compress_size + 4096:
            raise JobFileError(f"“{part.filename}” is larger than it may be.")


def _folders(source: zipfile.ZipFile) -> list[str]:
    manifest = _table(source, MANIFEST)
    if not isinstance(manifest, dict) or manifest.get("format") != FORMAT:
        raise JobFileError("The file is no job file of Cold Arc.")
    if manifest.get("version") != VERSION:
        raise JobFileError("The file is of another version of Cold Arc: renew this one first.")
    folders = manifest.get("jobs")
    least = 0 if SHOP in source.namelist() else 1
    if not isinstance(folders, list) or not least <= len(folders) <= MOST_JOBS:
        raise JobFileError("The file names no jobs.")
    if len({str(folder) for folder in folders}) != len(folders):
        raise JobFileError("The file names a job twice.")
    return [str(folder) for folder in folders]


def _table(source: zipfile.ZipFile, name: str) -> Any:
    try:
        return json.loads(_bytes(source, name, MOST_TABLE))
    except (ValueError, RecursionError) as error:
        if isinstance(error, JobFileError):
            raise
        raise JobFileError(f"{name} is no JSON.") from error


def _bytes(source: zipfile.ZipFile, name: str, most: int) -> bytes:
    """One part, never more of it than it may hold whatever its head says."""
    try:
        with source.open(name) as part:
            data = part.read(most + 1)
    except KeyError as error:
        raise JobFileError(f"{name} is missing.") from error
    except DAMAGED as error:
        raise JobFileError(f"{name} is damaged, or packed in a way not known: {error}.") from error
    if len(data) > most:
        raise JobFileError(f"{name} is larger than it may be.")
    return data


@cache
def _validator() -> Draft202012Validator:
    return Draft202012Validator(schema())


def _read_job(source: zipfile.ZipFile, folder: str) -> FiledJob:
    name = f"{folder}/job.json"
    plain = _table(source, name)
    wrong = next(_validator().iter_errors(plain), None)
    if wrong is not None:
        raise JobFileError(f"{name}: {wrong.json_path}: {wrong.message[:120]}")
    try:
        entries = tuple(_entry(entry) for entry in plain["entries"])
        links = tuple(_link(link) for link in plain["chain"])
        opened, closed = _moment(plain["opened"]), _moment_or_none(plain["closed"])
    except ValueError as error:
        raise JobFileError(f"{name}: {error}") from error
    numbers = tuple(picture["number"] for picture in plain["pictures"])
    if len(set(numbers)) != len(numbers):
        raise JobFileError(f"{name}: a picture stands in it twice.")

    def pictures() -> Iterator[FiledPicture]:
        for picture in plain["pictures"]:
            yield _picture(source, folder, picture)

    return FiledJob(opened, closed, entries, links, numbers, pictures, _carried(plain))


def _picture(source: zipfile.ZipFile, folder: str, plain: dict[str, Any]) -> FiledPicture:
    parts = {}
    for ending, digest in plain["sha256"].items():
        name = f"{folder}/pictures/{plain['number']}.{ending}"
        parts[ending] = _bytes(source, name, MOST_PICTURE)
        if hashlib.sha256(parts[ending]).hexdigest() != digest:
            raise JobFileError(f"{name} is not what it was written as.")
    return FiledPicture(plain["number"], _moment(plain["at"]), parts)


def _moment(text: str) -> dt.datetime:
    return dt.datetime.strptime(text, MOMENT).replace(tzinfo=dt.UTC)


def _moment_or_none(text: str | None) -> dt.datetime | None:
    return _moment(text) if text is not None else None


def _entry(plain: dict[str, Any]) -> FiledEntry:
    texts = {}
    for name in ("about", "payload"):
        if f"{name}_text" in plain:
            texts[name] = plain[f"{name}_text"]
        elif name in plain:
            texts[name] = json.dumps(plain[name])
        else:
            raise JobFileError(f"an entry has no {name}.")
    content = StoredContent(
        _moment(plain["at"]), plain["kind"], plain["version"], texts["about"], texts["payload"]
    )
    return FiledEntry(content, _moment_or_none(plain["undone"]))


def _link(plain: dict[str, Any]) -> Link:
    return Link(plain["what"], plain["place"], _moment(plain["at"]), plain["late"], plain["digest"])
