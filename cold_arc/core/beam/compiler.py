"""The compiler that made the kernel, out of memory once the kernel is there.

Numba brings LLVM, of which some 65 MB stay in memory though only its results are run. Its code is
read from its file again, should anything be compiled later. Linux alone tells what of a file is in
memory; elsewhere nothing is given back.
"""

from __future__ import annotations

import ctypes
from collections.abc import Iterator
from pathlib import Path

COMPILER = "libllvmlite"
_MAPS = Path("/proc/self/smaps")
# madvise(2): these pages are not needed, and come from their file again.
_DONT_NEED = 4


def give_back() -> int:
    """Lets go of the compiler's code in memory; how many bytes of it are laid out."""
    given_back = 0
    for first, past in _as_in_its_file() if _MAPS.exists() else ():
        size = past - first
        ctypes.CDLL(None).madvise(ctypes.c_void_p(first), ctypes.c_size_t(size), _DONT_NEED)
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
