"""Compiled templates, kept beside them as Python keeps its modules': compiling them takes a start,
and each process that reads beside it, seconds.
"""

from __future__ import annotations

from contextlib import suppress
from pathlib import Path

from jinja2 import FileSystemBytecodeCache
from jinja2.bccache import Bucket

FOLDER = Path(__file__).parents[1] / "templates" / "__pycache__"


class CompiledTemplates(FileSystemBytecodeCache):
    """What is compiled already, in FOLDER; where that can't be written (or the disk is full) each
    start compiles anew.
    """

    def __init__(self) -> None:
        super().__init__(str(FOLDER))

    def load_bytecode(self, bucket: Bucket) -> None:
        """Takes one that is kept."""
        with suppress(OSError):
            super().load_bytecode(bucket)

    def dump_bytecode(self, bucket: Bucket) -> None:
        """Keeps one."""
        with suppress(OSError):
            FOLDER.mkdir(exist_ok=True)
            super().dump_bytecode(bucket)
