"""What every stage page shares: opening the job at its scope, the frame around the work, saving
entries.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from flask import abort, flash, g, make_response, redirect, render_template, request
from werkzeug.wrappers import Response

from cold_arc.core import law
from cold_arc.core.car.keys import BeamKey, Key, SocketKey, UnitKey
from cold_arc.core.findings import Finding, Level, worst_first
from cold_arc.core.job.codec import to_plain
from cold_arc.core.job.entries.kind import Payload, Phase, takes_place_of
from cold_arc.core.job.needs import missing
from cold_arc.core.job.progress import Progress
from cold_arc.core.job.reasons import why
from cold_arc.core.job.record import Entry, Record
from cold_arc.core.job.stages import About, Stage, Status
from cold_arc.core.work.access import cautions
from cold_arc.store import jobs
from cold_arc.web.forms.plain_numbers import whole
from cold_arc.web.job.front_builder import is_tap
from cold_arc.web.job.history import SHOWN, HistoryLine, history
from cold_arc.web.parts.face import build_face
from cold_arc.web.parts.track import build_track
from cold_arc.web.scope import Scope, scope_at, stage_url
from cold_arc.web.shell.db import reads_job, session, writable


def phase_of(text: str) -> Phase:
    """The phase an address or a form names; 404 for anything else."""
    return Phase(text) if text in tuple(Phase) else abort(404)


@dataclass(frozen=True)
class StagePage:
    """One stage of one job, for the things in scope: what a stage's view works with.

    *keys*: the stage's things in scope; of a stage of the car, its sockets.
    """

    job: jobs.Job
    scope: Scope
    stage: Stage
    progress: Progress
    keys: list[Key]

    @property
    def record(self) -> Record:
        """The job's record."""
        return self.job.record

    @property
    def first(self) -> Any:
        """The thing whose facts fill the forms."""
        return self.keys[0]

    @property
    def sockets(self) -> list[SocketKey]:
        """The sockets in scope."""
        return self.scope.sockets(self.progress)

    @property
    def units(self) -> list[UnitKey]:
        """The units the sockets in scope are in."""
        return list(dict.fromkeys(key.of_unit for key in self.sockets))

    @property
    def beams(self) -> list[BeamKey]:
        """The beams in scope, of a stage about beams."""
        return [key for key in self.keys if isinstance(key, BeamKey)]

    @property
    def beams_alike(self) -> list[BeamKey]:
        """Those of them that do what the first does: both lamps of one function."""
        return [key for key in self.beams if key.function is self.beams[0].function]

    @property
    def scope_words(self) -> str:
        """The scope in words; of a scope with one side worked on, that side."""
        drive = self.job.booking.drive
        sides = {key.side for key in self.keys}
        scope = (
            Scope(self.scope.name, next(iter(sides)))
            if self.scope.name and len(sides) == 1
            else self.scope
        )
        return scope.words(self.record.front, drive)

    def socket_of(self, scope: Scope) -> SocketKey:
        """The first socket of a scope."""
        return scope.sockets(self.progress)[0]

    @property
    def market(self) -> law.Market:
        """The car's market."""
        return law.markets()[self.job.booking.market]

    @property
    def url(self) -> str:
        """This page's address."""
        return stage_url(self.job.id, self.scope, self.stage)

    def save(
        self,
        *payloads: Payload,
        about: Iterable[Key] | None = None,
        back: str = "",
        merged: bool = False,
    ) -> Response:
        """Appends entries about the things in scope, commits, and shows the stage's page, or
        *back*, afresh.

        Where somebody recorded the same meanwhile, nothing is saved and both are shown; *merged*:
        the entry was made from the newest record, so it holds theirs too.
        """
        keys = frozenset(self.keys if about is None else about)
        return self.save_each([(payload, keys) for payload in payloads], back, merged)

    def save_each(
        self, entries: Sequence[tuple[Payload, Iterable[Key]]], back: str = "", merged: bool = False
    ) -> Response:
        """`save`, for entries each about things of its own."""
        saved = [(payload, frozenset(about)) for payload, about in entries]
        if not merged:
            self.refuse_stale(saved)
        jobs.append_each(writable(), self.job.id, saved)
        writable().commit()
        return redirect(back or self.url, 303)

    def refuse_stale(self, entries: Sequence[tuple[Payload, frozenset[Key]]]) -> None:
        """Ends the request with both versions where an entry of the same subject is newer than the
        form.
        """
        seen = whole(request.form.get("seen"))
        if seen is None:
            return
        newer = [entry for entry in self.record.entries if entry.id > seen]
        for payload, about in entries:
            theirs = [entry for entry in newer if _same(entry, payload, about)]
            if theirs:
                abort(make_response(_conflict(self, theirs[-1], payload), 409))

    def render(
        self,
        findings: Sequence[Finding] = (),
        caution_ids: Iterable[str] = (),
        template: str = "",
        **context: object,
    ) -> tuple[str, int]:
        """The stage's template, or another of its pages, in its frame; 422 when a form was answered
        with errors.

        A tap that only builds on a form is no error.
        """
        status = 422 if request.method == "POST" and not is_tap() else 200
        lines = history(self.job, SHOWN)
        page = render_template(
            f"stages/{template or self.stage.value}.html",
            page=self,
            face=build_face(self.progress, self.job.id, self.stage, self.scope),
            track=build_track(self.progress, self.job.id, self.scope, self.stage),
            action=build_action(self),
            findings=worst_first(findings),
            cautions=[cautions()[caution] for caution in dict.fromkeys(caution_ids)],
            history=lines,
            last=last_entry(lines),
            shown_findings=shown_first(findings),
            why=why(self.stage),
            **context,
        )
        return page, status


def last_entry(lines: Sequence[HistoryLine]) -> HistoryLine | None:
    """The entry one press takes back: the newest that stands, of those made since the job was
    opened.
    """
    made = (line for line in lines if line.can_undo and not line.undone)
    return next((line for line in made if not line.founding), None)


# Findings that stand unfolded beside the work: at most and at least.
MOST_SHOWN, LEAST_SHOWN = 6, 3


def shown_first(findings: Sequence[Finding]) -> int:
    """How many findings, worst first, stand unfolded: all that want something done, some of the
    rest.
    """
    pressing = sum(finding.level > Level.NOTE for finding in findings)
    return max(min(pressing, MOST_SHOWN), LEAST_SHOWN)


def _same(entry: Entry, payload: Payload, about: frozenset[Key]) -> bool:
    """Whether an entry speaks of what *payload* speaks of, for one of the same things."""
    meets = bool(entry.about & about) or not (entry.about or about)
    return meets and takes_place_of(payload, entry.payload) and entry.payload != payload


def _conflict(page: StagePage, theirs: Entry, mine: Payload) -> str:
    """The page that shows what was recorded meanwhile beside what was sent, and lets one choose."""
    sent = [
        (name, text)
        for name, text in request.form.items(multi=True)
        if name not in ("csrf_token", "once", "seen")
    ]
    was, now = leaves(to_plain(theirs.payload)), leaves(to_plain(mine))
    differs = [(name, was.get(name), now[name]) for name in now if now[name] != was.get(name)]
    return render_template(
        "conflict.html",
        page=page,
        sent=sent,
        differs=differs,
        theirs=theirs,
        theirs_said=theirs.payload.in_words(),
        mine_said=mine.in_words(),
        address=request.full_path.rstrip("?"),
    )


def leaves(plain: Mapping[str, object]) -> dict[str, object]:
    """Every fact of an entry by its own name, however deep it stands."""
    flat: dict[str, object] = {}
    for name, value in plain.items():
        flat |= leaves(value) if isinstance(value, dict) else {name: value}
    return flat


def open_stage(job_id: int, scope: Scope, stage: Stage) -> StagePage:
    """The job at a scope and stage; 404 when there is no such job, Book in when nothing in scope is
    worked on.
    """
    job = jobs.load(session(), job_id)
    if job is None:
        abort(404)
    g.seen = job.entries[-1].id if job.entries else 0
    reads_job(job)
    progress = job.record.once(Progress)
    if not scope.sockets(progress) and not (stage is Stage.BOOK_IN and not scope.name):
        abort(redirect(stage_url(job_id, Scope(), Stage.BOOK_IN)))
    return StagePage(job, scope, stage, progress, scope.things(progress, stage))


@dataclass(frozen=True)
class Action:
    """The one main action of a stage page: finish it, or say what is missing; or reopen what is
    finished.
    """

    mode: str
    missing: tuple[str, ...] = ()
    go_to: str = ""
    go_label: str = ""
    note: str = ""


def build_action(page: StagePage) -> Action:
    """What the bottom bar offers for the things in scope."""
    if not page.sockets:
        return Action("blocked", ("nothing to work on is chosen",))
    standing = {key: page.progress.status(page.stage, key) for key in page.keys}
    ready = [key for key, status in standing.items() if status is Status.OPEN]
    if ready:
        wanting = _wanting(page, ready)
        return Action(
            "finish" if not wanting else "skip",
            wanting,
            go_label=_said(page, *next_place(page, ready)),
        )
    waiting = next((key for key, status in standing.items() if status is Status.AHEAD), None)
    if waiting is not None:
        return _ahead_action(page, waiting)
    return _finished_action(page, set(standing.values()))


def _ahead_action(page: StagePage, waiting: Key) -> Action:
    """For a thing that waits: what it waits for, and the way there."""
    held = page.progress.waits_for(page.stage, waiting)
    assert held is not None
    stage, key = held
    words = (
        f"{stage.label} of the {page.progress.words(key).lower()}"
        if stage.about is not About.CAR
        else stage.label
    )
    scope = Scope() if stage.about is About.CAR else Scope(key.name)
    return Action(
        "ahead", _wanting(page, page.keys), stage_url(page.job.id, scope, stage), stage.label, words
    )


def _finished_action(page: StagePage, standing: set[Status]) -> Action:
    """For a stage all in scope have left: on to the next, and a word when something is missing
    after all.
    """
    note = (
        "Skipped."
        if Status.SKIPPED in standing
        else "Finished."
        if standing
        else "Nothing to do here."
    )
    wanting = _wanting(page, page.keys)
    scope, stage = next_place(page)
    if page.stage.next is None and stage is page.stage:
        return Action("done", wanting, note=note)
    return Action(
        "done", wanting, stage_url(page.job.id, scope, stage), _said(page, scope, stage), note
    )


def next_place(page: StagePage, finished: Sequence[Key] = ()) -> tuple[Scope, Stage]:
    """Where the work goes on once *finished* is: at the same stage with what else of these units is
    open there, or at the next that has anything to do for the things in scope."""
    near = [key for key in page.record.sockets if key.of_unit in set(page.units)]
    if others := [key for key in _open_at(page, page.stage, near) if key not in finished]:
        return Scope(others[0].name, page.scope.side), page.stage
    stage = page.stage.next or page.stage
    while stage.next and not page.progress.things(stage, page.sockets):
        stage = stage.next
    if ready := _open_at(page, stage, near):
        return Scope(ready[0].name, page.scope.side), stage
    return scope_at(page.progress, page.scope, stage), stage


def _open_at(page: StagePage, stage: Stage, near: Sequence[SocketKey]) -> Sequence[Key]:
    """The things open at a stage for some sockets; none at a stage of the car."""
    return [] if stage.about is About.CAR else page.progress.open_things(stage, near)


def _said(page: StagePage, scope: Scope, stage: Stage) -> str:
    """A place to go to in words: the stage, or of this stage the thing."""
    if stage is not page.stage:
        return stage.label
    return scope.words(page.record.front, page.job.booking.drive).partition(",")[0]


def _wanting(page: StagePage, keys: Sequence[Key]) -> tuple[str, ...]:
    """What is missing, each thing once, naming the things when not all in scope want it."""
    wants: dict[str, list[Key]] = {}
    for key in keys:
        for text in missing(page.progress, page.stage, key):
            wants.setdefault(text, []).append(key)
    every = list(keys)
    return tuple(
        text if held == every else f"{text} ({_names(page, held)})" for text, held in wants.items()
    )


def _names(page: StagePage, keys: Sequence[Key]) -> str:
    return ", ".join(page.progress.words(key).lower().replace(", ", " ") for key in keys)


def after_save(message: str) -> None:
    """A short word shown once on the next page."""
    flash(message)
