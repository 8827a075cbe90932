"""Preview: a lamp's beam with its present source (before) and a candidate (after), drawn by the
bench's pictures.
"""

from __future__ import annotations

from cold_arc.core.beam import model
from cold_arc.core.beam.setup import SetUp
from cold_arc.web.forms.fields import unit_system
from cold_arc.web.parts.beam_wall import build_beam_wall, picture_url
from cold_arc.web.parts.wall import View, Wall


def build_preview(present: SetUp | None, candidate: SetUp | None) -> Wall | None:
    """The Wall of a preview; None where the lamp can't be modelled or the computation is still
    being prepared.
    """
    if present is None or not model.is_warm():
        return None
    before = picture_url(present)
    after = picture_url(candidate) if candidate else before
    cut_off, view = present.built_housing().cut_off, View(unit_system(), degrees=True)
    return build_beam_wall(cut_off, view, before=before, after=after)
