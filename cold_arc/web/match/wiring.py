"""Match's wiring: what the choice changes electrically, worked out as the facts of the feed are
typed.
"""

from __future__ import annotations

from flask import Blueprint, request
from flask.typing import ResponseReturnValue
from flask_wtf import FlaskForm
from wtforms import Field, StringField
from wtforms.validators import Length, ValidationError

from cold_arc.core import electrical
from cold_arc.core.car.lamps import Present
from cold_arc.core.electrical import LIMITS, SupplyFacts
from cold_arc.core.job.entries.match import Chosen, Supplied
from cold_arc.core.job.facts import supply_facts
from cold_arc.core.job.stages import Stage
from cold_arc.core.light_source import LightSource
from cold_arc.core.wiring.ribbon import feed_ribbon, ribbon, steps
from cold_arc.core.wiring.working import findings, work_out
from cold_arc.web.forms import fields
from cold_arc.web.job.stage_page import open_stage
from cold_arc.web.match.shortlist import Shortlist, shortlist_for
from cold_arc.web.scope import Scope

bp = Blueprint("match_wiring", __name__)
SIZES = ", ".join(f"{mm2:g}" for mm2 in electrical.WIRES_A)


# What an added feed may be for, the lamp itself under a word a form can hold.
OWN = "own"
FEEDS = {name or OWN: words for name, words in electrical.FEEDS.items()}


class SupplyForm(FlaskForm):
    """What is known of the feed."""

    monitored_w = fields.number(
        "Bulb-out monitor, least watts", *LIMITS["monitored_w"], "W", required=False
    )
    pwm_hz = fields.number("Pulsed supply, Hz", *LIMITS["pwm_hz"], "Hz", required=False)
    duty = fields.number("of which on, %", 1, 100, "%", required=False)
    run_m = fields.distance("Added feed, length one way", *LIMITS["run_m"], required=False)
    feed_for = fields.one_of_or_none("What the added feed is for", FEEDS)
    feed_w = fields.number("What it feeds takes, a lamp", *LIMITS["feed_w"], "W", required=False)
    slot_a = fields.number("The slot is rated", *LIMITS["slot_a"], "A", required=False)
    wire_mm2 = fields.number("Wire laid, mm²", *LIMITS["wire_mm2"], "mm²", required=False)
    air_c = fields.number("Warmest there, °C", *LIMITS["air_c"], "°C", default=60.0)
    insulation = fields.one_of("Its insulation", electrical.INSULATION, electrical.RATED_CLASS)
    slot = fields.one_of_or_none("The tap's slot", electrical.SLOTS)
    slot_name = StringField("Which slot", [Length(max=30)])
    tap_loads = fields.number("Loads on the tap", *LIMITS["tap_loads"], required=False, whole=True)
    fuse_a = fields.number("Fuse in the tap, A", *LIMITS["fuse_a"], "A", required=False)
    resistor_on = fields.one_of_or_none("Load resistor sits on", electrical.MOUNTS)
    feed_at = fields.one_of_or_none("Where the 12 V feed is taken", electrical.FEED_POINTS)
    feed_volts = fields.volts("Volts read there, d.c.", required=False)

    def validate_duty(self, field: Field) -> None:
        """A pulsed feed has both figures."""
        if self.duty.is_blank is not self.pwm_hz.is_blank:
            raise ValidationError("Give both frequency and share on, or neither.")

    validate_pwm_hz = validate_duty

    def validate_feed_w(self, field: Field) -> None:
        """A feed for something else says what that takes; the lamp's own is known."""
        if self._fed and field.is_blank:
            raise ValidationError("Say what it takes: the feed is sized for that alone.")

    @property
    def _fed(self) -> str:
        return "" if self.feed_for.data in (None, OWN) else str(self.feed_for.data)

    def facts(self) -> SupplyFacts:
        """The facts entered."""
        return SupplyFacts(
            monitored_w=self.monitored_w.data,
            pwm_hz=self.pwm_hz.data,
            pwm_duty=self.duty.data / 100 if self.duty.data is not None else None,
            run_m=self.run_m.data,
            wire_mm2=self.wire_mm2.data,
            air_c=self.air_c.data if self.air_c.data is not None else 60.0,
            insulation=self.insulation.data,
            feed_at=self.feed_at.data or "",
            feed_volts=self.feed_volts.data,
            slot=self.slot.data or "",
            slot_name=(self.slot_name.data or "").strip(),
            tap_loads=int(self.tap_loads.data) if self.tap_loads.data is not None else None,
            fuse_a=self.fuse_a.data,
            resistor_on=self.resistor_on.data or "",
            feed_for=self._fed,
            feed_w=self.feed_w.data,
            slot_a=self.slot_a.data,
        )


def _known(facts: SupplyFacts) -> dict[str, object]:
    fed = facts.feed_for or OWN
    return {
        **vars(facts),
        "feed_for": fed,
        "duty": facts.pwm_duty * 100 if facts.pwm_duty is not None else None,
    }


@bp.route("/jobs/<int:job_id>/<scope:scope>/match/wiring", methods=["GET", "POST"])
def page(job_id: int, scope: Scope) -> ResponseReturnValue:
    """Works the wiring out for the source looked at or chosen; keeps the facts of the feed."""
    page = open_stage(job_id, scope, Stage.MATCH)
    shortlist = shortlist_for(page)
    known = supply_facts(page.record, page.first)
    trying = request.method == "GET" and "air_c" in request.args
    form = (
        SupplyForm(request.args, meta={"csrf": False}) if trying else SupplyForm(data=_known(known))
    )
    entered = trying or request.method == "POST"
    valid = entered and form.validate()
    if request.method == "POST" and valid:
        return page.save(Supplied(form.facts()), back=shortlist.here(look=request.args.get("look")))
    facts = form.facts() if valid else known
    source, words = looked_at(shortlist)
    return page.render(
        findings(shortlist.setting, facts, source, shortlist.lamps),
        [
            "battery",
            "hot",
            *(["high-voltage"] if shortlist.setting.socket.present is Present.HID else []),
        ],
        "match-wiring",
        shortlist=shortlist,
        form=form,
        trying=trying,
        worked=work_out(shortlist.setting, facts, source, shortlist.lamps),
        ribbon=(line := ribbon(shortlist.setting, facts, source, shortlist.lamps)),
        feed_ribbon=(feed := feed_ribbon(shortlist.setting, facts, shortlist.lamps)),
        connecting=steps(line, facts) + (steps(feed, facts) if feed else []),
        source_words=words,
        source=source,
        is_hid=shortlist.setting.socket.present is Present.HID,
        look=request.args.get("look", ""),
        sizes=SIZES,
    )


def looked_at(shortlist: Shortlist) -> tuple[LightSource | None, str]:
    """Whom it is worked out for: the one looked at, the one chosen, or the first of the ranking."""
    looked = shortlist.find(request.args.get("look"))
    if looked:
        return looked.source, looked.source.name
    chosen = shortlist.page.record.latest(Chosen, shortlist.page.first)
    if chosen:
        return chosen.source, chosen.source.name if chosen.source else shortlist.setting.kept
    first = shortlist.candidates[0].source if shortlist.candidates else None
    return first, f"{first.name}, first of the ranking" if first else shortlist.setting.kept
