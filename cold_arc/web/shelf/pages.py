"""The shelf: the shop's light sources, kept by hand or by file."""

from __future__ import annotations

from pathlib import PurePath
from typing import Any

from flask import (
    Blueprint,
    Response,
    abort,
    flash,
    jsonify,
    redirect,
    render_template,
    request,
    url_for,
)
from flask.typing import ResponseReturnValue
from flask_wtf import FlaskForm
from werkzeug.wrappers import Response as AnyResponse
from wtforms import BooleanField, Field, FileField, StringField
from wtforms.validators import Length, ValidationError

from cold_arc.core import light_source
from cold_arc.core.car import bases
from cold_arc.core.job.codec import to_plain
from cold_arc.core.job.later import claim_findings
from cold_arc.core.light_source import LIMITS, LONGEST_TEXT, LightSource, faults
from cold_arc.formats import light_sources as files
from cold_arc.store import cars, catalogue
from cold_arc.web.forms import fields
from cold_arc.web.forms.stale import is_stale, state_of
from cold_arc.web.shell.db import session, writable

bp = Blueprint("shelf", __name__)
MIME = {".json": "application/json", ".csv": "text/csv; charset=utf-8"}
MOST_FAULTS_SHOWN = 200


def _figure(label: str, name: str, required: bool = False, **kw: object) -> fields.TypedField:
    return fields.TypedField(label, LIMITS[name], required, **kw)


class LightSourceForm(FlaskForm):
    """One light source as its maker describes it."""

    name = StringField("Name", [fields.needed("Name it."), Length(max=LONGEST_TEXT["name"])])
    kind = fields.one_of("Kind", light_source.KINDS, next(iter(light_source.KINDS)))
    base = StringField("Base", [fields.AskedByForm()])
    watts = _figure("Watts, one bulb", "watts", required=True)
    claimed_lm = _figure("Claimed lumens", "claimed_lm", required=True)
    claim_basis = fields.one_of("Claimed", light_source.BASIS, next(iter(light_source.BASIS)))
    colour = fields.one_of("Colour", light_source.COLOURS, next(iter(light_source.COLOURS)))
    cct_k = _figure("Colour temperature, K", "cct_k")
    chroma_x = _figure("Colour point x", "chroma_x")
    chroma_y = _figure("Colour point y", "chroma_y")
    faces = _figure("Faces", "faces")
    rows = _figure("Rows of chips", "rows")
    gap_mm = _figure("Gap between faces", "gap_mm")
    width_mm = _figure("Face width", "width_mm")
    emitter_mm = _figure("Lit length", "emitter_mm")
    lcl_mm = _figure("Light centre length", "lcl_mm")
    off_axis_mm = _figure("Chips above the axis", "off_axis_mm")
    tail_mm = _figure("Tail behind the base", "tail_mm")
    tail_width_mm = _figure("Tail width", "tail_width_mm")
    dip_shield = BooleanField("Shield under the low row")
    high_by = fields.listed("High beam on a dual base", light_source.HIGH_BY)
    optic = fields.listed("Own optic, if not a bulb", {"": "None", **light_source.OPTICS})
    plug = StringField("Plug mates with the base", [Length(max=LONGEST_TEXT["plug"])])
    adapters = StringField("Also fits, by adapter", [Length(max=200)])
    supply_min_v = _figure("Supply from", "supply_min_v", required=True)
    supply_max_v = _figure("Supply to", "supply_max_v", required=True)
    polarity = fields.one_of("Polarity", light_source.POLARITY, next(iter(light_source.POLARITY)))
    driver = fields.listed("Driver", light_source.DRIVERS)
    cooling = fields.one_of("Cooling", light_source.COOLING, next(iter(light_source.COOLING)))
    ip = _figure("Sealing, IP code", "ip")
    earth_insulated = BooleanField("Body insulated from earth")
    monitor_proof = BooleanField("Answers bulb-out monitoring")
    pwm_proof = BooleanField("Made for a pulsed supply")
    price = _figure("Price, one", "price", required=True)
    warranty_years = _figure("Warranty, years", "warranty_years", required=True, default=1.0)
    life_h = _figure("Claimed life to 70 %", "life_h")
    approval = StringField("Approval marks", [Length(max=LONGEST_TEXT["approval"])])
    marks_at = StringField("Where they stand", [Length(max=LONGEST_TEXT["marks_at"])])
    functions = fields.several("Takes over", light_source.LISTS["functions"])
    modes = fields.several("Can do besides", light_source.MODES)
    levelling = fields.listed("Levelling", light_source.LEVELLING, "")
    coding = BooleanField("The car must be coded to it")
    connectors = StringField("Its plugs", [Length(max=LONGEST_TEXT["connectors"])])

    def validate_base(self, field: Field) -> None:
        """The base must be in the catalogue."""
        for name in filter(None, map(str.strip, (field.data or "").split(","))):
            if bases.find(name) is None:
                raise ValidationError(f"“{name}” is not a base in the catalogue.")

    validate_plug = validate_adapters = validate_base

    def validate(self, extra_validators: fields.ExtraValidators = None) -> bool:
        """Each field by itself, then what no single field shows."""
        if not super().validate(extra_validators):
            return False
        wrong = faults(self.light_source())
        for name, message in wrong.items():
            self[name].errors = [message]
        return not wrong

    def light_source(self) -> LightSource:
        """The source entered."""
        facts = {name: field.data for name, field in self._fields.items() if name != "csrf_token"}
        return LightSource(**(facts | _read_facts(facts)))


def _read_facts(facts: dict[str, Any]) -> dict[str, Any]:
    """What the form's texts and choices mean to a light source."""
    adapters = filter(str.strip, (facts["adapters"] or "").split(","))
    figures = ("faces", "rows", "ip")
    whole = {name: None if facts[name] is None else int(facts[name]) for name in figures}
    return {
        **whole,
        "rows": whole["rows"] or 1,
        "base": _base_name(facts["base"] or ""),
        "plug": _base_name(facts["plug"] or ""),
        "adapters": tuple(map(_base_name, adapters)),
        "optic": facts["optic"] or None,
        **{name: facts[name] or "" for name in ("approval", "marks_at", "connectors", "levelling")},
        **_of_whole(facts),
    }


def _of_whole(facts: dict[str, Any]) -> dict[str, tuple[str, ...]]:
    """What a whole lamp or a module gives and can do; of a bulb it is not asked, nor taken."""
    asked = facts["kind"] in light_source.OWN_PLACE
    return {name: tuple(facts[name] or ()) if asked else () for name in light_source.LISTS}


def _base_name(typed: str) -> str:
    base = bases.find(typed)
    return base.name if base else typed.strip()


def _form_data(source: LightSource) -> dict[str, object]:
    return {**vars(source), "adapters": ", ".join(source.adapters), "optic": source.optic or ""}


class FileForm(FlaskForm):
    """A file to take in."""

    file = FileField("CSV or JSON file")


@bp.get("/light-sources")
def page() -> str:
    """The light sources on the shelf, and those retired."""
    return _shelf()


def _shelf(**context: object) -> str:
    return render_template(
        "shelf.html",
        on_shelf=catalogue.light_sources(session()),
        retired=catalogue.light_sources(session(), retired=True),
        kinds=light_source.KINDS,
        colours=light_source.COLOURS,
        **{"form": FileForm(), **context},
    )


@bp.route("/light-sources/new", methods=["GET", "POST"])
def new() -> ResponseReturnValue:
    """Adds a light source, by itself or from a copy of another."""
    copied = catalogue.light_sources(session()).get(request.args.get("like", 0, int))
    data = (
        {**_form_data(copied), "name": f"{copied.name}, copy"[: LONGEST_TEXT["name"]]}
        if copied
        else None
    )
    form = LightSourceForm(data=data)
    if form.validate_on_submit():
        catalogue.add_light_source(writable(), form.light_source())
        writable().commit()
        return redirect(url_for("shelf.page"), 303)
    return render_template(
        "light_source.html", form=form, catalogue=bases.catalogue()
    ), 422 if form.errors else 200


@bp.route("/light-sources/<int:source_id>", methods=["GET", "POST"])
def source(source_id: int) -> ResponseReturnValue:
    """Changes a light source."""
    known = catalogue.light_sources(session()).get(source_id)
    if known is None:
        abort(404)
    form = LightSourceForm(data=_form_data(known))
    clash: tuple[tuple[str, Any, Any], ...] = ()
    if form.validate_on_submit():
        entered = form.light_source()
        known = catalogue.light_sources(writable())[source_id]
        if entered == known or not is_stale(known):
            catalogue.change_light_source(writable(), source_id, entered)
            writable().commit()
            return redirect(url_for("shelf.page"), 303)
        clash = catalogue.changed_facts(to_plain(known), to_plain(entered))
    return render_template(
        "light_source.html",
        form=form,
        catalogue=bases.catalogue(),
        source_id=source_id,
        made_from=state_of(known),
        clash=clash,
        history=catalogue.history(session(), source_id),
        claimed=claim_findings(cars.claims_on(session(), known.name)),
    ), 409 if clash else 422 if form.errors else 200


@bp.post("/light-sources/<int:source_id>/<any(retire, restore):what>")
def retire(source_id: int, what: str) -> AnyResponse:
    """Takes a light source off the shelf, or puts it back."""
    known = catalogue.light_sources(session()) | catalogue.light_sources(session(), retired=True)
    if source_id not in known:
        abort(404)
    catalogue.retire_light_source(writable(), source_id, what == "retire")
    writable().commit()
    return redirect(url_for("shelf.page"), 303)


@bp.get("/light-sources/shelf<suffix>")
def export(suffix: str) -> Response:
    """The shelf as a file."""
    if suffix not in files.WRITERS:
        abort(404)
    data = files.WRITERS[suffix](list(catalogue.light_sources(session()).values()))
    headers = {"Content-Disposition": f'attachment; filename="light-sources{suffix}"'}
    return Response(data, content_type=MIME[suffix], headers=headers)


@bp.get("/light-sources/schema.json")
def schema() -> Response:
    """The published schema of the files."""
    return jsonify(files.schema())


@bp.post("/light-sources/import")
def take_in() -> ResponseReturnValue:
    """Takes a file in: its good rows are kept, every fault of the others is told."""
    form = FileForm()
    upload = request.files.get("file")
    name = (upload.filename or "") if upload and form.validate() else ""
    suffix = PurePath(name).suffix.lower()
    if upload is None or not name:
        form.file.errors = ["Choose a file first."]
    elif suffix not in files.READERS:
        form.file.errors = ["The file’s name must end in .csv or .json."]
    if upload is None or form.file.errors:
        return _shelf(form=form), 422
    return _taken_in(name, files.READERS[suffix](upload.read()))


def _taken_in(name: str, read: files.ShelfFile) -> ResponseReturnValue:
    """Keeps a file's good rows, and tells every fault of the others."""
    added, changed = catalogue.take_in(writable(), read.sources)
    writable().commit()
    if not read.faults:
        flash(f"{name}: {added} added, {changed} changed.")
        return redirect(url_for("shelf.page"), 303)
    report = {
        "name": name,
        "added": added,
        "changed": changed,
        "faults": read.faults[:MOST_FAULTS_SHOWN],
        "refused": len({fault.row for fault in read.faults}),
    }
    return _shelf(report=report), 200 if read.sources else 422
