"""Aim's old lamps: how their rims stand against a straight edge and a level, before the wall."""

from __future__ import annotations

from collections.abc import Sequence

from flask import Blueprint, redirect
from flask.typing import ResponseReturnValue
from flask_wtf import FlaskForm

from cold_arc.core.aim import rims
from cold_arc.core.aim.rims import Rim
from cold_arc.core.car.front import BeamKey
from cold_arc.core.car.lamps import Optic, Side
from cold_arc.core.job.entries.aim import RimSet
from cold_arc.core.job.stages import Stage
from cold_arc.web.forms import fields
from cold_arc.web.job.stage_page import StagePage, after_save, open_stage
from cold_arc.web.scope import Scope

bp = Blueprint("aim_rims", __name__)


class RimForm(FlaskForm):
    """How one old lamp's rim stands."""

    lamp = fields.one_of("Lamp", {}, required="Say which lamp.")
    inner = fields.number("Gap at its inner edge", 0, rims.WIDEST_GAP_MM, "mm")
    outer = fields.number("Gap at its outer edge", 0, rims.WIDEST_GAP_MM, "mm")
    across = fields.number("Across the rim", *rims.RIM_MM, "mm")
    bubble = fields.one_of("Level on the glass", rims.BUBBLES, required="Say where it stands.")


def rim_form(page: StagePage) -> RimForm:
    """The form for the lamps in hand."""
    form = RimForm()
    names = {str(key): key.side.value.capitalize() for key in page.beams_alike}
    form.lamp.choices = fields.choices(names)
    return form


def is_vintage(page: StagePage, beam: BeamKey) -> bool:
    """Whether a lens with flutes makes the beam."""
    optics = {page.record.socket(giver).optic for giver in page.record.givers(beam)}
    return Optic.LENS_OPTIC in optics


def rims_of(page: StagePage, beams: Sequence[BeamKey]) -> dict[Side, Rim]:
    """How the rims of some lamps stand, as last told."""
    newest = {key.side: page.record.latest(RimSet, key) for key in beams}
    return {side: each.rim for side, each in newest.items() if each}


@bp.post("/jobs/<int:job_id>/<scope:scope>/aim/rims")
def keep(job_id: int, scope: Scope) -> ResponseReturnValue:
    """Keeps how an old lamp's rim stands."""
    page = open_stage(job_id, scope, Stage.AIM)
    form, beams = rim_form(page), page.beams_alike
    if form.validate() and beams and is_vintage(page, beams[0]):
        rim = Rim(form.inner.data, form.outer.data, form.across.data, form.bubble.data)
        return page.save(RimSet(rim), about=[key for key in beams if str(key) == form.lamp.data])
    first = next((errors[0] for errors in form.errors.values() if errors), "")
    after_save(f"Not recorded: {first or 'no old lamp here.'}")
    return redirect(page.url, 303)
