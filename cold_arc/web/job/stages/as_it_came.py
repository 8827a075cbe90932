"""Inspect's damage page: what is broken before anything is touched, tapped on a drawing of the
front, shown and signed.
"""

from __future__ import annotations

from flask import Blueprint, abort, request
from flask.typing import ResponseReturnValue
from flask_wtf import FlaskForm
from wtforms import StringField
from wtforms.validators import Length

from cold_arc.core.car import damage
from cold_arc.core.job import as_it_came
from cold_arc.core.job.entries.fit import Pictured
from cold_arc.core.job.entries.inspect import AsItCameShown, DamageSeen
from cold_arc.core.job.entries.kind import Payload, Phase
from cold_arc.core.job.stages import Stage
from cold_arc.formats.photo import PhotoError
from cold_arc.web.forms import fields
from cold_arc.web.job.at_car import kept_picture
from cold_arc.web.job.stage_page import StagePage, open_stage
from cold_arc.web.parts.front_drawing import drawn_front
from cold_arc.web.scope import Scope

bp = Blueprint("as_it_came", __name__)
LONGEST_NOTE, LONGEST_NAME = 120, 60
# What pictures of damage are kept under, in place of a step's id.
AS_IT_CAME = "as-it-came"


class DamageForm(FlaskForm):
    """One damage; its places are those of the car in hand."""

    place = fields.one_of_by_form("Where", {})
    what = fields.one_of("What", damage.KINDS, required="Say what it is.")
    note = StringField("Note", [Length(max=LONGEST_NOTE)])

    def validate_place(self, field: fields.RadioField) -> None:
        """One of the car's places."""
        fields.must_choose(field, wanted=True)


class SignedForm(FlaskForm):
    """Who signed."""

    signed = StringField(
        "Shown to, and signed by", [fields.needed("Who signed?"), Length(max=LONGEST_NAME)]
    )


@bp.route("/jobs/<int:job_id>/<scope:scope>/inspect/damage", methods=["GET", "POST"])
def page(job_id: int, scope: Scope) -> ResponseReturnValue:
    """Keeps damage by its place, takes it back, keeps who signed."""
    page = open_stage(job_id, scope, Stage.INSPECT)
    what, _, rest = request.form.get("do", "").partition(":")
    picture_error = ""
    damages = as_it_came.damages(page.record)
    form = fields.as_sent(DamageForm, what == "damage", None)
    form.place.choices = fields.choices(damage.places(page.record.front))
    signing = fields.as_sent(SignedForm, what == "sign", None)
    if request.method == "POST":
        try:
            payload = _sent(page, rest, form, signing, damages)
        except PhotoError as error:
            payload, picture_error = None, str(error)
        if payload is not None:
            return page.save(payload, about=(), back=request.path)
    return page.render(
        as_it_came.unsigned(page.record),
        template="damage",
        form=form,
        signing=signing,
        drawing=_drawing(page, damages),
        damages=[
            (f"{seen.place}:{seen.what}", as_it_came.damage_words(page.record, seen))
            for seen in damages
        ],
        others=as_it_came.lamp_words(page.record),
        shown=as_it_came.signed(page.record),
        pictures=[taken for taken in page.record.all(Pictured) if taken.step == AS_IT_CAME],
        picture_error=picture_error,
    )


def _drawing(page: StagePage, damages: list[DamageSeen]) -> object:
    return drawn_front(
        page.record.front, page.record.units, damaged={seen.place for seen in damages}
    )


def _sent(
    page: StagePage, rest: str, form: DamageForm, signing: SignedForm, damages: list[DamageSeen]
) -> Payload | None:
    """What was sent, where it was good; 404 for what the page does not offer."""
    what = request.form.get("do", "").partition(":")[0]
    if what == "picture":
        return kept_picture(page.job.id, Phase.BEFORE, AS_IT_CAME)
    if what == "damage":
        if not form.validate():
            return None
        return DamageSeen(form.place.data, form.what.data, (form.note.data or "").strip())
    if what == "sign":
        return AsItCameShown(signing.signed.data.strip()) if signing.validate() else None
    for seen in damages:
        if what == "off" and rest == f"{seen.place}:{seen.what}":
            return DamageSeen(seen.place, seen.what, seen.note, off=True)
    abort(404)
