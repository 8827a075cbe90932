"""The shop's own aim rules: copies of those that come with the program, changed."""

from __future__ import annotations

from flask import Blueprint, abort, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue
from flask_wtf import FlaskForm
from werkzeug.wrappers import Response
from wtforms import FieldList, Form, FormField, StringField
from wtforms.validators import Length

from cold_arc.core.aim.rules import built_in
from cold_arc.core.aim.shop_rules import MOST_BANDS, ShopBand, ShopRule, ShopRuleError, copy_of
from cold_arc.store import aim_rules
from cold_arc.web.forms import fields
from cold_arc.web.forms.stale import is_stale, state_of
from cold_arc.web.shell.db import session, writable

bp = Blueprint("aim_rules", __name__)


def _per_cent(label: str, required: bool = True) -> fields.TypedField:
    return fields.number(label, -10, 10, "%", required)


class BandForm(Form):
    """One band: lamps up to a height, what they are kept within and set to."""

    upto = fields.distance("Lamps up to", 0.2, 3, required=False)
    keep_low = _per_cent("Keep from", required=False)
    keep_high = _per_cent("Keep to")
    set_low = _per_cent("Set from")
    set_high = _per_cent("Set to")

    def band(self) -> ShopBand:
        """The band told."""
        low = None if self.keep_low.data is None else self.keep_low.data / 100
        return ShopBand(
            self.keep_high.data / 100,
            self.set_low.data / 100,
            self.set_high.data / 100,
            low,
            self.upto.data,
        )


class RuleForm(FlaskForm):
    """A rule of the shop's own."""

    name = StringField("Name", [fields.needed(), Length(max=80)])
    bands = FieldList(FormField(BandForm), min_entries=1, max_entries=MOST_BANDS)
    left = _per_cent("Elbow or hot spot from, left negative", required=False)
    right = _per_cent("to, right positive", required=False)

    def build(self, tap: str) -> None:
        """One band more, or one fewer."""
        if tap == "band" and len(self.bands) < MOST_BANDS:
            self.bands.append_entry()
        elif tap == "fewer" and len(self.bands) > 1:
            self.bands.pop_entry()

    def rule(self, based_on: str) -> ShopRule | None:
        """The rule told; None, with what is wrong marked, where it can't be."""
        if not self.validate():
            return None
        if (self.left.data is None) != (self.right.data is None):
            (self.left if self.left.data is None else self.right).errors = [
                "Both sides, or neither."
            ]
            return None
        sideways = None if self.left.data is None else (self.left.data / 100, self.right.data / 100)
        made = ShopRule(
            self.name.data.strip(),
            based_on,
            tuple(band.form.band() for band in self.bands),
            sideways,
        )
        try:
            made.check()
        except ShopRuleError as error:
            field = self.name if error.band is None else self.bands[error.band].form.set_low
            field.errors = [str(error)]
            return None
        return made


def _data(rule: ShopRule) -> dict[str, object]:
    """A rule as its form holds it."""
    rows = [
        {name: None if (value := getattr(band, name)) is None else 100 * value for name in PER_CENT}
        | {"upto": band.upto_m}
        for band in rule.bands
    ]
    side = (
        {"left": 100 * rule.sideways[0], "right": 100 * rule.sideways[1]} if rule.sideways else {}
    )
    return {"name": rule.name, "bands": rows, **side}


PER_CENT = ("keep_low", "keep_high", "set_low", "set_high")


@bp.get("/shop/aim-rules")
def page() -> str:
    """The shop's own rules, and those to copy."""
    return render_template("aim_rules.html", own=aim_rules.all_rules(session()), rules=built_in())


@bp.route("/shop/aim-rules/copy/<rule_id>", methods=["GET", "POST"])
def copy(rule_id: str) -> ResponseReturnValue:
    """A new rule, from a copy."""
    rule = built_in().get(rule_id)
    return _edit(copy_of(rule), None) if rule else abort(404)


@bp.route("/shop/aim-rules/<int:number>", methods=["GET", "POST"])
def edit(number: int) -> ResponseReturnValue:
    """A rule of the shop's own, to be changed or taken out."""
    rule = aim_rules.all_rules(session()).get(number)
    return _edit(rule, number) if rule else abort(404)


def _edit(rule: ShopRule, number: int | None) -> ResponseReturnValue:
    form = RuleForm(data=None if request.method == "POST" else _data(rule))
    is_sent = request.method == "POST" and "build" not in request.form
    if is_sent and (answer := _sent(form, rule, number)):
        return answer
    form.build(request.form.get("build", ""))
    page = render_template(
        "aim_rule.html",
        form=form,
        base=built_in()[rule.based_on],
        number=number,
        made_from=request.form.get("made_from") if "build" in request.form else state_of(rule),
    )
    return page, 422 if is_sent else 200


def _sent(form: RuleForm, rule: ShopRule, number: int | None) -> Response | None:
    """Keeps a rule as sent, or takes it out; None, with what is wrong beside its field, where it
    can't be.
    """
    is_drop = request.form.get("do") == "drop" and number is not None
    made = None if is_drop else form.rule(rule.based_on)
    if not (is_drop or made):
        return None
    if _kept(made, number):
        return _saved(DROPPED if is_drop else KEPT)
    form.name.errors = [
        f"Somebody changed this rule meanwhile. Now: {_words(rule)}. Press again for yours."
    ]
    return None


def _kept(made: ShopRule | None, number: int | None) -> bool:
    """Keeps a rule, or (None) takes it out; not where it was changed since the form was made."""
    if number is not None:
        stands = aim_rules.all_rules(writable()).get(number)
        if stands is None:
            abort(404)
        if is_stale(stands):
            return False
    if made:
        aim_rules.keep(writable(), made, number)
    elif number is not None:
        aim_rules.drop(writable(), number)
    return True


def _words(rule: ShopRule) -> str:
    """A rule as it stands, in words."""
    bands = "; ".join(
        f"band {place} keep {_low(band)} to {band.keep_high:+.1%}, set "
        f"{band.set_low:+.1%} to {band.set_high:+.1%}"
        for place, band in enumerate(rule.bands, 1)
    )
    return f"{rule.name}; {bands}"


def _low(band: ShopBand) -> str:
    return "any lower" if band.keep_low is None else f"{band.keep_low:+.1%}"


DROPPED = "The rule is taken out; what was aimed by it stays as it was."
KEPT = "The rule is kept: it stands first where such lamps are aimed."


def _saved(words: str) -> Response:
    writable().commit()
    flash(words)
    return redirect(url_for("aim_rules.page"), 303)
