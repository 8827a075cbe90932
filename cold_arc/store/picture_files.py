"""Pictures as files beside the database, each under the SHA-256 of what it holds: written once,
never changed, shared by whoever holds the same.
"""

from __future__ import annotations

import hashlib
import os
import secrets
import shutil
import time
from collections.abc import Collection, Iterable, Iterator
from contextlib import suppress
from pathlib import Path

from cold_arc.core.errors import ColdArcError
from cold_arc.store.owned import OWNER_ONLY, write_for_owner

PICTURES = "pictures"
# A file nobody refers to may be one whose job is just being written, for so long, s.
LEFT_ALONE_S = 24 * 3600.0


class ChangedError(ColdArcError, OSError):
    """A file is not as it was put there; the message says how."""


def path_of(folder: Path, digest: str) -> Path:
    """Where the file of a digest stands in a folder of data."""
    return folder / PICTURES / digest[:2] / digest


def put(folder: Path, data: bytes) -> str:
    """Puts a file there, on the disk before this returns; its digest. OSError where it can't."""
    digest = hashlib.sha256(data).hexdigest()
    path = path_of(folder, digest)
    if path.exists():
        os.utime(path)  # somebody refers to it from now on
        return digest
    path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
    write_for_owner(path, data)
    _reach_disk(path.parent)
    return digest


def _reach_disk(folder: Path) -> None:
    """A folder's names on the disk."""
    opened = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(opened)
    finally:
        os.close(opened)


def read(folder: Path, digest: str) -> bytes | None:
    """A file's bytes; None where it is not there."""
    with suppress(OSError):
        return path_of(folder, digest).read_bytes()
    return None


def whole(folder: Path, digest: str) -> bytes:
    """A file's bytes as they were put there; ChangedError, "missing" or "changed", where they are
    not.
    """
    data = read(folder, digest)
    if data is None:
        raise ChangedError("missing")
    if hashlib.sha256(data).hexdigest() != digest:
        raise ChangedError("changed")
    return data


def fault(folder: Path, digest: str) -> str:
    """What is wrong with a file: "missing", "changed", or ""."""
    try:
        whole(folder, digest)
    except ChangedError as error:
        return str(error)
    return ""


def remove(folder: Path, digests: Iterable[str]) -> None:
    """Removes files for good."""
    for digest in digests:
        path_of(folder, digest).unlink(missing_ok=True)


def carry(source: Path, target: Path, digests: Iterable[str]) -> None:
    """Puts the files of some digests beside a copy of the data, those that are not there yet: a
    second name of the same file on one disk, else a copy. OSError where it can't.
    """
    for digest in digests:
        old, new = path_of(source, digest), path_of(target, digest)
        if new.exists() or not old.exists():
            continue
        new.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
        part = new.with_name(f"{digest}.{secrets.token_hex(4)}.part")
        try:
            os.link(old, part)
        except OSError:
            _copy(old, part)
        part.replace(new)


def _copy(old: Path, new: Path) -> None:
    """A file's copy, on the disk before this returns."""
    opened = os.open(new, os.O_WRONLY | os.O_CREAT | os.O_EXCL, OWNER_ONLY)
    with old.open("rb") as source, os.fdopen(opened, "wb") as to:
        shutil.copyfileobj(source, to)
        to.flush()
        os.fsync(to.fileno())


def sweep(folder: Path, wanted: Collection[str], left_alone_s: float = LEFT_ALONE_S) -> None:
    """Removes what nobody refers to, and what was cut short, once it is older than that."""
    for path in _files(folder):
        if path.name not in wanted and time.time() - path.stat().st_mtime > left_alone_s:
            path.unlink(missing_ok=True)


def _files(folder: Path) -> Iterator[Path]:
    yield from (folder / PICTURES).glob("??/*")
