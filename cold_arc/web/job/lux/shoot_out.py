"""A shoot-out: several sources one after another in one lamp, its own first and last, under one
protocol.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from flask import Blueprint, abort, flash, request, url_for
from flask.typing import ResponseReturnValue
from flask_wtf import FlaskForm
from werkzeug.wrappers import Response
from wtforms import StringField
from wtforms.validators import Length

from cold_arc.core.beam import model
from cold_arc.core.beam.setup import SetUp
from cold_arc.core.car.keys import BeamKey
from cold_arc.core.car.lamps import Function, Side
from cold_arc.core.job import stand as stand_of_lamp
from cold_arc.core.job.entries.kind import Phase
from cold_arc.core.job.entries.readings import Eyed, ShootOutEnded, Tried
from cold_arc.core.job.stages import Stage
from cold_arc.core.light_source import LightSource
from cold_arc.core.match import measuring, shoot_outs
from cold_arc.core.match.weighing import suiting
from cold_arc.core.metering import by_eye, readings
from cold_arc.core.metering.by_eye import Patch, patch_findings
from cold_arc.core.metering.comparing import Gain
from cold_arc.core.metering.readings import WallReading
from cold_arc.core.metering.shoot_out import (
    OWN,
    Against,
    ShootOut,
    SourceTurn,
    any_two,
    breaks,
    for_whom,
    shoot_out_findings,
)
from cold_arc.core.units import say_candela, say_count, write_figure
from cold_arc.formats.picture import LampAxis
from cold_arc.store import catalogue
from cold_arc.web.bench.beams import in_turn
from cold_arc.web.forms import fields
from cold_arc.web.forms.plain_numbers import whole
from cold_arc.web.job.lux.stand import brightest_place, stand
from cold_arc.web.job.stage_page import StagePage, open_stage
from cold_arc.web.job.stages.wall_readings import SetUpForm, TypedInput, last_reading, set_up_of
from cold_arc.web.job.wall_light import EXPOSURE, near_frame
from cold_arc.web.parts.beam_wall import picture_url
from cold_arc.web.parts.wall import View, Wall, WallPoint, lamp_wall
from cold_arc.web.scope import Scope
from cold_arc.web.shell.db import session

bp = Blueprint("shoot_out", __name__)
LONGEST_SOURCE = 80
# A reference that changed by more than this makes the whole doubtful (common practice).
# When a simulated lamp has settled, s.
SETTLED_S = 3600.0
# How wide a source's wall is drawn, px.
SMALL_PX = 400.0


class TurnForm(SetUpForm):
    """One turn: the source, and how it is read."""

    source = fields.listed("Source in the lamp", {})
    other = StringField("or another, by name", [Length(max=LONGEST_SOURCE)])


class EyeForm(FlaskForm):
    """What the eye sees on the wall of a turn, degrees from the lamp's axis."""

    turn = StringField("Turn")
    look = fields.one_of("By eye", by_eye.LOOKS, required="Say what it is.")
    h = fields.number("Right, °", -by_eye.FARTHEST_H_DEG, by_eye.FARTHEST_H_DEG, "°")
    v = fields.number("Up, °", -by_eye.FARTHEST_V_DEG, by_eye.FARTHEST_V_DEG, "°")


@dataclass(frozen=True)
class ShownTurn:
    """A turn as shown: its number, its source in words, its readings, its wall, what the eye saw
    there.
    """

    number: int
    words: str
    turn: SourceTurn
    wall: Wall | None
    patches: list[Patch]


@dataclass(frozen=True)
class ShootOutBeam:
    """The beam a shoot-out is about."""

    page: StagePage
    key: BeamKey

    @property
    def url(self) -> str:
        """The shoot-out's page."""
        return url_for("shoot_out.page", job_id=self.page.job.id, scope=self.key)

    def setup(self, source: LightSource | None) -> SetUp | None:
        """The lamp's set-up with a source, or its own, as it is by now."""
        page = self.page
        return measuring.setup_with(
            page.record, page.job.booking, self.key, source, page.market.traffic, by_now=True
        )


def _where(job_id: int, scope: Scope) -> ShootOutBeam:
    page = open_stage(job_id, scope, Stage.VERIFY)
    if not page.beams:
        abort(404)
    return ShootOutBeam(page, page.beams[0])


@bp.route("/jobs/<int:job_id>/<scope:scope>/shoot-out", methods=["GET", "POST"])
@in_turn
def page(job_id: int, scope: Scope) -> ResponseReturnValue:
    """The turns so far, what they come to, and the form for the next; records a turn's readings."""
    where = _where(job_id, scope)
    by_eye_sent = request.form.get("part") == "eye"
    turn_sent = request.method == "POST" and not by_eye_sent
    seen = fields.as_sent(EyeForm, by_eye_sent, None)
    if by_eye_sent and (kept := _kept_patch(where, seen)):
        return kept
    shelf, turns = _shelf(where), shoot_outs.under_way(where.page.record, where.key)
    first = next((reading for turn in turns for reading in turn.readings.values()), None)
    form = _turn_form(where, shelf, turns, first, not by_eye_sent)
    cells = [TypedInput(f"shot-{point}", fields.READING) for point in readings.POINTS]
    if request.form.get("simulate"):
        _simulate(where, form, shelf, cells)
    elif turn_sent and (entries := _entries(where, form, turns, first, cells)):
        return where.page.save(*entries, about=[where.key], back=where.url)
    return _shown(where, form, cells, shelf, turns, seen)


def _turn_form(
    where: ShootOutBeam,
    shelf: Mapping[str, LightSource],
    turns: list[SourceTurn],
    first: WallReading | None,
    sent: bool,
) -> TurnForm:
    """The form for the next turn, as it was *sent* or as the turns before have it."""
    usual = first or last_reading(where.page.record, [where.key])
    set_up = set_up_of(usual, where.page.job.booking.volts)
    lens = first.lens if first else stand_of_lamp.lens(where.page.record, [where.key])
    values = set_up | {"lens": lens, "source": _next_source(turns)} | _meter_of(first)
    form = fields.as_sent(TurnForm, sent, values)
    form.source.choices = fields.choices({OWN: "the lamp's own", **{name: name for name in shelf}})
    return form


def _kept_patch(where: ShootOutBeam, form: EyeForm) -> Response | None:
    """The answer once what the eye sees was told whole, or taken back; None, with errors beside its
    fields, where it was not; 404 for a turn that is none.
    """
    turns = shoot_outs.latest(where.page.record, where.key)
    number = whole(form.turn.data)
    if number is None or not 0 <= number < len(turns):
        abort(404)
    if not form.validate():
        return None
    patch = Patch(form.look.data, form.h.data, form.v.data)
    seen = Eyed(number, turns[number].source, patch, off=request.form.get("off") == "1")
    return where.page.save(seen, about=[where.key], back=where.url)


@bp.post("/jobs/<int:job_id>/<scope:scope>/shoot-out/end")
def end(job_id: int, scope: Scope) -> ResponseReturnValue:
    """Ends the shoot-out: what it measured stays what the shop knows; the next turn begins
    another.
    """
    where = _where(job_id, scope)
    return where.page.save(ShootOutEnded(), about=[where.key], back=where.url)


def _shelf(where: ShootOutBeam) -> dict[str, LightSource]:
    """What is on the shelf for this lamp's base, whole lamps too, by name."""
    record = where.page.record
    giver = record.givers(where.key)[0]
    base = record.base(giver)
    shelf = suiting(catalogue.light_sources(session()), record.socket(giver), base)
    return {source.name: source for source in shelf.values()}


def _next_source(turns: list[SourceTurn]) -> str:
    """What the form begins with: the own source first, then the one in hand."""
    return turns[-1].source if turns else OWN


def _source(form: TurnForm) -> str:
    return (form.other.data or "").strip() or str(form.source.data)


def _is_understood(form: TurnForm, cells: list[TypedInput]) -> bool:
    """Whether the set-up and every reading typed is; each fault is said beside its field."""
    good = form.validate_on_submit()
    chosen = form.range_factor.data
    factor = chosen if chosen in fields.RANGE_FACTORS else "1"
    understood = [cell.understand(factor) for cell in cells]
    return all(understood) and good


def _turn_number(turns: list[SourceTurn], source: str, again: bool) -> int:
    """The turn the readings belong to: the one under way while its source stays in, else the
    next.
    """
    return len(turns) - 1 if turns and turns[-1].source == source and not again else len(turns)


def _is_overtaken(where: ShootOutBeam) -> bool:
    """Whether turns were recorded, or the shoot-out ended, since the form was made."""
    seen = whole(request.form.get("seen"))
    return seen is not None and any(
        entry.id > seen
        and where.key in entry.about
        and isinstance(entry.payload, Tried | ShootOutEnded)
        for entry in where.page.record.entries
    )


def _meter_of(first: WallReading | None) -> dict[str, str]:
    """The meter the shoot-out began with."""
    return {"meter": first.meter} if first and first.meter else {}


def _entries(
    where: ShootOutBeam,
    form: TurnForm,
    turns: list[SourceTurn],
    first: WallReading | None,
    cells: list[TypedInput],
) -> list[Tried]:
    """The readings typed, as entries; none, and errors beside the fields, where anything is
    wrong.
    """
    if not _is_understood(form, cells):
        return []
    if not any(cell.typed for cell in cells):
        flash("Type at least one reading.")
        return []
    if _is_overtaken(where):
        last = f"the last was {_words(turns[-1].source)}" if turns else "none are left"
        form.source.errors = [
            f"Somebody recorded here meanwhile: {_hint(turns)} {last.capitalize()}. Look, then "
            "press again."
        ]
        return []
    number = _turn_number(turns, _source(form), request.form.get("again") == "1")
    entries = [
        Tried(number, _source(form), cell.typed, reading)
        for cell, reading in _read(where, form, cells)
    ]
    if broken := breaks(first or entries[0].reading, entries[0].reading):
        form.distance.errors = [
            f"The protocol is broken: {', '.join(broken)}. All must stay as at the first turn."
        ]
        return []
    return entries


def _read(
    where: ShootOutBeam, form: TurnForm, cells: list[TypedInput]
) -> list[tuple[TypedInput, WallReading]]:
    function, traffic = where.key.function, where.page.market.traffic
    pairs = []
    for point, cell in zip(readings.POINTS, cells, strict=True):
        if cell.value is not None:
            across, drop = readings.place(point, form.distance.data, traffic, function)
            pairs.append((cell, form.reading(point, cell.value, across, drop)))
    return pairs


def _simulate(
    where: ShootOutBeam, form: TurnForm, shelf: Mapping[str, LightSource], cells: list[TypedInput]
) -> None:
    """Fills the fields with what a simulated meter reads of the source; nothing is saved by
    that.
    """
    if not form.validate_on_submit():
        return
    source = _source(form)
    setup = where.setup(shelf.get(source)) if source in shelf or source == OWN else None
    if setup is None or not model.is_warm():
        flash("This source can't be modelled, so no meter can be simulated before it.")
        return
    meter = stand().simulated(where.page.job, where.key, setup, Phase.BEFORE, source)
    meter.distance_m, meter.ambient_lx, meter.range = (
        form.distance.data,
        form.ambient.data or 0.0,
        1.0,
    )
    function, traffic = where.key.function, where.page.market.traffic
    for point, cell in zip(readings.POINTS, cells, strict=True):
        place = readings.place(point, form.distance.data, traffic, function)
        held = brightest_place(meter) if point == "peak" else place
        cell.typed = f"{write_figure(round(meter.reading_at(SETTLED_S, held), 1))} lx x1"
    form.meter.data = "simulated"


def _shown(
    where: ShootOutBeam,
    form: TurnForm,
    cells: list[TypedInput],
    shelf: Mapping[str, LightSource],
    turns: list[SourceTurn],
    seen: EyeForm,
) -> ResponseReturnValue:
    own = where.setup(None)
    warm = own is not None and model.is_warm()
    pattern = (
        measuring.pattern(own, where.key.function, where.page.market.traffic)
        if own and warm
        else None
    )
    record = where.page.record
    last = turns or shoot_outs.latest(record, where.key)
    result = shoot_outs.told_by(record, where.key, last, pattern)
    patches = shoot_outs.seen_by_eye(record, where.key)
    shown = [
        ShownTurn(
            number,
            _words(turn.source),
            turn,
            _wall(where, turn, shelf, patches.get(turn.source, [])),
            patches.get(turn.source, []),
        )
        for number, turn in enumerate(last)
    ]
    by_name = {_words(source): each for source, each in patches.items()}
    named = dict(zip(readings.POINTS, cells, strict=True))
    return where.page.render(
        [*(shoot_out_findings(result) if result else []), *patch_findings(by_name)],
        ["eyes", "engine"],
        template="shoot_out",
        where=where,
        form=form,
        looks=by_eye.LOOKS,
        eye=seen,
        cells=named,
        shown=shown,
        told=result,
        ended=bool(last) and not turns,
        two=_any_two(result),
        across=_across(where, result),
        hint=_hint(turns),
        points=readings.points(where.key.function),
        own=OWN,
    )


def _any_two(result: ShootOut | None) -> dict[str, dict[str, Against]]:
    """Each source against each other and the lamp's own, by both names in words."""
    table: dict[str, dict[str, Against]] = {}
    for pair in any_two(result) if result else ():
        table.setdefault(pair.source, {})[_words(pair.other)] = pair
    return table


@dataclass(frozen=True)
class BothBeams:
    """The shoot-outs of a lamp's low and high beam on one page: each source's gains, and whom to
    advise what.
    """

    rows: dict[str, dict[str, Gain]]
    advice: list[str]


OTHER_BEAM = {Function.LOW: Function.HIGH, Function.HIGH: Function.LOW}


def _across(where: ShootOutBeam, result: ShootOut | None) -> BothBeams | None:
    """Low and high beam of the same side, where both were shot out."""
    record, other = where.page.record, OTHER_BEAM.get(where.key.function)
    if other is None or result is None:
        return None
    key = BeamKey(other, where.key.side)
    against = shoot_outs.told_by(record, key, shoot_outs.latest(record, key))
    if against is None:
        return None
    by_beam = {where.key.function: result, other: against}
    rows: dict[str, dict[str, Gain]] = {}
    for function in (Function.LOW, Function.HIGH):
        for each in by_beam[function].results:
            rows.setdefault(each.source, {})[function.label] = each.overall
    return BothBeams(rows, for_whom(by_beam[Function.LOW], by_beam[Function.HIGH]))


def _hint(turns: list[SourceTurn]) -> str:
    """What to put into the lamp next."""
    if not turns:
        return "The lamp’s own source goes first."
    count = f"{say_count(len(turns), 'turn')} so far"
    if len(turns) > 1 and turns[-1].is_reference:
        return f"{count}, the own source read again: complete."
    return f"{count}; the own source once more at the end."


def _words(source: str) -> str:
    return "own source" if source == OWN else source


def _wall(
    where: ShootOutBeam,
    turn: SourceTurn,
    shelf: Mapping[str, LightSource],
    patches: Sequence[Patch],
) -> Wall | None:
    """A source's wall: what was read of it and seen by eye, its light as modelled under that."""
    taken = list(turn.readings.values())
    distance_m = taken[0].distance_m
    points = [_point(turn, reading) for reading in taken]
    points += [_seen(patch, distance_m) for patch in patches]
    wall = lamp_wall(
        near_frame(distance_m), distance_m, View(fields.unit_system()), points, SMALL_PX
    )
    setup = (
        where.setup(shelf.get(turn.source)) if turn.is_reference or turn.source in shelf else None
    )
    if setup is not None and model.is_warm():
        picture = picture_url(
            setup, [LampAxis(0.0, 0.0, 0.0, 0.0)], wall.metres, distance_m, exposure=EXPOSURE
        )
        wall.before, wall.after = (picture, "") if turn.is_reference else ("", picture)
    return wall.finished()


def _seen(patch: Patch, distance_m: float) -> WallPoint:
    """A patch as a point of the wall."""
    across = distance_m * math.tan(math.radians(patch.h_deg))
    drop = -distance_m * math.tan(math.radians(patch.v_deg))
    return WallPoint(Side.LEFT, f"eye: {patch.look}", across, drop)


def _point(turn: SourceTurn, reading: WallReading) -> WallPoint:
    read = say_candela(reading.candela)
    before, after = (read, "") if turn.is_reference else ("", read)
    return WallPoint(Side.LEFT, reading.point, reading.across_m, reading.drop_m, before, after)
