"""A form made from facts that were changed since: nothing of theirs is overwritten unseen."""

from __future__ import annotations

import hashlib
import json

from flask import request

from cold_arc.core.job.codec import to_plain


def state_of(facts: object) -> str:
    """A short word for facts as they stand: two alike have the same."""
    plain = facts if isinstance(facts, dict) else to_plain(facts)
    return hashlib.sha256(json.dumps(plain, sort_keys=True).encode()).hexdigest()[:16]


def is_stale(facts: object) -> bool:
    """Whether the form sent was made from other facts than stand now."""
    now = state_of(facts)
    return request.form.get("made_from", now) != now
