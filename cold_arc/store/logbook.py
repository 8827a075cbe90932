"""What went wrong, kept in the data folder, its owner's alone, turned over by size."""

from __future__ import annotations

import logging
import os
from logging.handlers import RotatingFileHandler
from pathlib import Path

from cold_arc.store.owned import OWNER_ONLY

LOGGER = "cold_arc"
FILE_NAME = "cold-arc.log"
# One file's size, and how many older ones are kept.
MOST_BYTES, KEPT = 1_000_000, 3
FORMAT = "%(asctime)s %(levelname)s %(name)s: %(message)s"


class _OwnersFile(RotatingFileHandler):
    """A log file only its owner reads, made when the first line is written."""

    def _open(self):  # type: ignore[no-untyped-def]
        stream = super()._open()
        os.chmod(self.baseFilename, OWNER_ONLY)
        return stream


def open_log(folder: Path) -> None:
    """From now on what our modules log goes to *folder*'s file, and to no other's."""
    logger = logging.getLogger(LOGGER)
    for handler in [each for each in logger.handlers if isinstance(each, _OwnersFile)]:
        logger.removeHandler(handler)
        handler.close()
    path = folder / FILE_NAME
    kept = _OwnersFile(path, maxBytes=MOST_BYTES, backupCount=KEPT, encoding="utf-8", delay=True)
    kept.setFormatter(logging.Formatter(FORMAT))
    logger.addHandler(kept)
