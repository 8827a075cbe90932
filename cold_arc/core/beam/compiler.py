"""The compiler that made the kernel, out of memory once the kernel is there.

Numba brings LLVM, of which some 65 MB (measured) stay in memory though only its results are run.
Its code is read from its file again, should anything be compiled later. Linux alone tells what of a
file is in memory; elsewhere nothing is given back.
"""

from __future__ import annotations

import ctypes
import mmap
from collections.abc import Iterator
from pathlib import Path

COMPILER = "libllvmlite"
_MAPS = Path("/proc/self/smaps")


def give_back() -> int:
    """Lets go of the compiler's code in memory; how many bytes of it are laid out."""
    if not _MAPS.exists():
        return 0
    given_back, advise = 0, ctypes.CDLL(None).madvise
    for first, past in _as_in_its_file():
        size = past - first
        advise(ctypes.c_void_p(first), ctypes.c_size_t(size), mmap.MADV_DONTNEED)
        given_back += size
    return given_back


def _as_in_its_file() -> Iterator[tuple[int, int]]:
    """Where the compiler lies that can't be written to and never was, from and to: what was put
    right in memory as it was loaded would be lost.
    """
    place, rights, path = "", "", ""
    for line in _MAPS.read_text(encoding="utf-8").splitlines():
        name, *rest = line.split()
        if not name.endswith(":"):
            place, rights, path = name, rest[0], rest[-1]
        elif name == "Anonymous:" and rest[0] == "0" and "w" not in rights and COMPILER in path:
            first, past = (int(each, 16) for each in place.split("-"))
            yield first, past
