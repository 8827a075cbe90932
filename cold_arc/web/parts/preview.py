"""Preview: a lamp's beam with its present source (before) and a candidate (after), drawn by the bench's pictures."""

from __future__ import annotations

from urllib.parse import urlencode

from flask import url_for

from cold_arc.core.beam import model
from cold_arc.core.beam.setup import SetUp
from cold_arc.web.bench.setup_query import query
from cold_arc.web.forms.fields import unit_system
from cold_arc.web.parts.beam_wall import BeamWall, build_beam_wall


def build_preview(present: SetUp | None, candidate: SetUp | None) -> BeamWall | None:
    """The wall of a preview; None where the lamp can't be modelled or the computation is still being prepared."""
    if present is None or not model.is_warm():
        return None
    address = url_for("bench.beam")
    before = f"{address}?{query(present)}&{urlencode({'shade': 'warm'})}"
    after = f"{address}?{query(candidate)}&{urlencode({'shade': 'cold'})}" if candidate else before
    return build_beam_wall(before, after, present.built_housing().cut_off, (), None, unit_system())
