"""Files that are their owner's alone, such as keys: written whole or not at all."""

from __future__ import annotations

import os
import secrets
from pathlib import Path

OWNER_ONLY = 0o600


def write_for_owner(path: Path, data: bytes) -> None:
    """Writes a file, reaching the disk before it takes its name; OSError where it can't."""
    made = path.with_name(f"{path.name}.{secrets.token_hex(4)}.part")
    try:
        with os.fdopen(
            os.open(made, os.O_WRONLY | os.O_CREAT | os.O_EXCL, OWNER_ONLY), "wb"
        ) as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        made.replace(path)
    except OSError:
        made.unlink(missing_ok=True)
        raise
