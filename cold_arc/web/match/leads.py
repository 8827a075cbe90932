"""Match's leads: what lies between plug and lamp, which wire is which, how a lamp the car lacked is
switched.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from functools import cache
from typing import Any

from flask import Blueprint, abort, request
from flask.typing import ResponseReturnValue
from flask_wtf import FlaskForm
from wtforms import BooleanField, Field, StringField
from wtforms.validators import Length, Optional

from cold_arc.core.car.lamps import Holds
from cold_arc.core.job.entries.kind import Payload
from cold_arc.core.job.entries.match import LeadLaid, SwitchingPlanned, WiresMapped
from cold_arc.core.job.facts import lead_of, supply_facts, switching_of, wires_of
from cold_arc.core.job.stages import Stage
from cold_arc.core.wiring import leads
from cold_arc.core.wiring.leads import Lead, LeadPart, MappedWire, Switching, WireMap
from cold_arc.core.wiring.ribbon import ribbon
from cold_arc.core.wiring.working import findings, roles_of
from cold_arc.web.forms import fields
from cold_arc.web.job.stage_page import StagePage, after_save, open_stage
from cold_arc.web.match.shortlist import shortlist_for
from cold_arc.web.match.wiring import looked_at
from cold_arc.web.scope import Scope

bp = Blueprint("match_leads", __name__)
LONGEST_PLUG, LONGEST_COLOUR = 30, 30
NOT_TOLD = {"": "not told"}
HALF_A_ROW = "Tell both colours and how the wire was found, or nothing of it."


class LeadForm(FlaskForm):
    """What lies between plug and lamp: fields of each part by its kind, see ``lead_form``."""

    reach_m = fields.distance("How far it has to go", 0.02, leads.LONGEST_LEAD_M, required=False)

    def rows(self) -> list[LeadRow]:
        """The parts of a lead, in order."""
        return [LeadRow(kind, words, self) for kind, words in leads.PARTS.items()]

    def lead(self) -> Lead:
        """The lead as told."""
        return Lead(tuple(row.part() for row in self.rows() if row.inside.data), self.reach_m.data)


@dataclass(frozen=True)
class LeadRow:
    """One kind of part in the form."""

    kind: str
    words: str
    form: LeadForm

    def _of(self, name: str) -> Field:
        return self.form[f"{self.kind}_{name}"]

    @property
    def inside(self) -> Field:
        """Whether it is in the lead."""
        return self._of("inside")

    @property
    def cells(self) -> list[Field]:
        """What is told of it."""
        return [self._of(name) for name in ("plug", "lock", "length", "tie", "place")]

    def part(self) -> LeadPart:
        """The part as told."""
        plug, lock, length, tie, place = (field.data for field in self.cells)
        plug, place = (plug or "").strip(), (place or "").strip()
        return LeadPart(self.kind, plug, lock or "", length, tie or "", place)


def _part_fields(words: str) -> dict[str, Field]:
    """The form's fields for one kind of part."""
    return {
        "inside": BooleanField(words),
        "plug": StringField("Ends in plug", [Optional(), Length(max=LONGEST_PLUG)]),
        "lock": fields.listed("Lock", {**NOT_TOLD, **leads.LOCKS}, ""),
        "length": fields.distance("Length", 0.02, leads.LONGEST_LEAD_M, required=False),
        "tie": fields.listed("Tied to", {**NOT_TOLD, **leads.TIES}, ""),
        "place": StringField("Lies where", [Optional(), Length(max=leads.LONGEST_PLACE)]),
    }


@cache
def lead_form() -> type[LeadForm]:
    """The form with the fields of every kind of part."""
    each = {
        f"{kind}_{name}": field
        for kind, words in leads.PARTS.items()
        for name, field in _part_fields(words).items()
    }
    return type("EveryLeadForm", (LeadForm,), each)


class MapForm(FlaskForm):
    """Which wire is which: fields of each wire by its role, see ``map_form``."""

    reversed = fields.one_of_or_none("Reversed it", leads.REVERSED)
    joint = fields.one_of_or_none("Joined", leads.JOINTS)

    def rows(self) -> list[WireRow]:
        """The wires that are asked for, in order."""
        return [
            WireRow(role, words, self)
            for role, words in leads.ROLES.items()
            if f"{role}_car" in self
        ]

    def validate(self, extra_validators: Mapping[str, Any] | None = None) -> bool:
        """Besides each field: a wire's row is told whole, or not at all."""
        sound = super().validate(extra_validators)
        half = [field for row in self.rows() if row.is_begun for field in row.blanks]
        for field in half:
            field.errors = [*field.errors, HALF_A_ROW]
        return sound and not half

    def map(self) -> WireMap:
        """The map as told."""
        wires = tuple(wire for row in self.rows() if (wire := row.wire()))
        return WireMap(wires, self.reversed.data or "", self.joint.data or "")


@dataclass(frozen=True)
class WireRow:
    """One wire in the form."""

    role: str
    words: str
    form: MapForm

    @property
    def cells(self) -> list[Field]:
        """Its colours, and how it was found."""
        return [self.form[f"{self.role}_{name}"] for name in ("car", "new", "by")]

    @property
    def blanks(self) -> list[Field]:
        """What of it is not told."""
        return [field for field in self.cells if not (field.data or "").strip()]

    @property
    def is_begun(self) -> bool:
        """Whether anything of it is told."""
        return len(self.blanks) < len(self.cells)

    def wire(self) -> MappedWire | None:
        """The wire as told; None where nothing was."""
        car, new, found_by = ((field.data or "").strip() for field in self.cells)
        return MappedWire(self.role, car, new, found_by) if car and new else None


def _wire_fields() -> dict[str, Field]:
    """The form's fields for one wire."""
    return {
        "car": StringField("On the car", [Length(max=LONGEST_COLOUR)]),
        "new": StringField("On the new part", [Length(max=LONGEST_COLOUR)]),
        "by": fields.one_of_or_none("Found by", leads.FOUND_BY),
    }


@cache
def map_form(roles: tuple[str, ...]) -> type[MapForm]:
    """The form with the fields of these wires."""
    each = {f"{role}_{name}": field for role in roles for name, field in _wire_fields().items()}
    return type("EveryMapForm", (MapForm,), each)


class SwitchForm(FlaskForm):
    """How a lamp the car lacked is switched."""

    by = fields.one_of("Switched on", leads.SWITCHED_BY, required="Say what switches it on.")
    off_with = fields.several("Goes off with", leads.OFF_WITH)
    relay = BooleanField("Through a relay")
    telltale = BooleanField("With a tell-tale")

    def switching(self) -> Switching:
        """The switching as told."""
        off_with = tuple(name for name in leads.OFF_WITH if name in (self.off_with.data or ()))
        return Switching(self.by.data, off_with, self.relay.data, self.telltale.data)


def _lead_told(lead: Lead) -> Mapping[str, object]:
    known: dict[str, object] = {"reach_m": lead.reach_m}
    for part in lead.parts:
        kept_as = ("plug", "lock", "tie", "place")
        each = {"inside": True, **{name: getattr(part, name) for name in kept_as}}
        known |= {f"{part.kind}_{name}": value for name, value in each.items()}
        known[f"{part.kind}_length"] = part.length_m
    return known


def _map_told(wires: WireMap) -> Mapping[str, object]:
    known: dict[str, object] = {"reversed": wires.reversed or None, "joint": wires.joint or None}
    for wire in wires.wires:
        each = {"car": wire.car, "new": wire.new, "by": wire.found_by}
        known |= {f"{wire.role}_{name}": value for name, value in each.items()}
    return known


class LeadForms:
    """The page's forms: the one sent, the others as known."""

    def __init__(self, page: StagePage, roles: Iterable[str]) -> None:
        sent = request.form.get("part") if request.method == "POST" else None
        key, record = page.first, page.record
        self.lead = fields.as_sent(lead_form(), sent == "lead", _lead_told(lead_of(record, key)))
        mapped = wires_of(record, key)
        asked = tuple(dict.fromkeys([*roles, *(wire.role for wire in mapped.wires)]))
        self.map = fields.as_sent(map_form(asked), sent == "map", _map_told(mapped))
        switching = switching_of(record, key)
        known = vars(switching) if switching else None
        self.switch = fields.as_sent(SwitchForm, sent == "switch", known)

    def payload(self, part: str) -> Payload | None:
        """What the form sent says; None where it has faults."""
        made: dict[str, tuple[FlaskForm, Callable[[], Payload]]] = {
            "lead": (self.lead, lambda: LeadLaid(self.lead.lead())),
            "map": (self.map, lambda: WiresMapped(self.map.map())),
            "switch": (self.switch, lambda: SwitchingPlanned(self.switch.switching())),
        }
        if part not in made:
            abort(404)
        form, tell = made[part]
        return tell() if form.validate() else None


@bp.route("/jobs/<int:job_id>/<scope:scope>/match/leads", methods=["GET", "POST"])
def page(job_id: int, scope: Scope) -> ResponseReturnValue:
    """Keeps the lead, the wire map and the switching of the sockets in scope."""
    page = open_stage(job_id, scope, Stage.MATCH)
    shortlist = shortlist_for(page)
    source, words = looked_at(shortlist)
    setting = shortlist.setting
    forms = LeadForms(page, roles_of(setting, source))
    if request.method == "POST" and (payload := forms.payload(request.form.get("part", ""))):
        after_save(f"Kept. {payload.in_words()}.")
        return page.save(payload, back=request.full_path.rstrip("?"))
    facts = supply_facts(page.record, page.first)
    return page.render(
        findings(setting, facts, source, shortlist.lamps),
        ["battery"],
        "match-leads",
        shortlist=shortlist,
        forms=forms,
        source_words=words,
        ribbon=ribbon(setting, facts, source, shortlist.lamps),
        lacked=setting.socket.holds is Holds.NOTHING,
        look=request.args.get("look", ""),
    )
