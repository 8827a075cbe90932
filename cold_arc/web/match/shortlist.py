"""What Match's pages share: the shelf judged, predicted and ranked for a socket, as far as the time
given allows.
"""

from __future__ import annotations

from contextlib import nullcontext
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any
from urllib.parse import urlencode

from flask import request, url_for

from cold_arc.core.beam import model
from cold_arc.core.beam.fitted import HousingFit
from cold_arc.core.beam.setup import SetUp
from cold_arc.core.car.keys import BeamKey, SocketKey
from cold_arc.core.car.lamps import Function, Holds, Traffic
from cold_arc.core.findings import Finding, Level, worst
from cold_arc.core.job.at_lamp import condition_verdict
from cold_arc.core.job.facts import setting_of
from cold_arc.core.light_source import LightSource
from cold_arc.core.match import VERDICTS, Match, Setting, doubt
from cold_arc.core.match import prediction as predicted
from cold_arc.core.match.choice import housing_findings
from cold_arc.core.match.experience import Borne, KnownSource
from cold_arc.core.match.modelled import setup_of, why_no_beam
from cold_arc.core.match.own_housing import fit_alike, own_fit
from cold_arc.core.match.ranking import HEAVIEST, USUAL_WEIGHTS, Ranked
from cold_arc.core.match.weighing import WeighedShelf, suiting, weigh
from cold_arc.store import catalogue, housings, outcomes
from cold_arc.web.bench.beams import place
from cold_arc.web.forms.plain_numbers import whole
from cold_arc.web.forms.stale import state_of
from cold_arc.web.job.stage_page import StagePage
from cold_arc.web.parts.beam_wall import seat_urls
from cold_arc.web.parts.preview import build_preview
from cold_arc.web.parts.seat_chart import SeatChart, build_seat_chart
from cold_arc.web.parts.section import Section, build_section
from cold_arc.web.parts.wall import Wall
from cold_arc.web.shell.db import session, writable

AT_ONCE_S = 0.8
WEIGHTS = "match_weights"
TABS = {
    "match.page": "Candidates",
    "match_options.page": "Options",
    "match_wiring.page": "Wiring",
    "match_leads.page": "Leads",
    "match_quote.page": "Quote",
}


def weights() -> dict[str, int]:
    """The shop's weights, or the usual ones."""
    kept = dict(USUAL_WEIGHTS)
    for part in catalogue.setting(session(), WEIGHTS).split():
        name, _, text = part.partition("=")
        if name in kept and (weight := whole(text)) is not None:
            kept[name] = min(HEAVIEST, weight)
    return kept


def keep_weights(chosen: dict[str, int]) -> None:
    """Keeps the shop's weights."""
    catalogue.set_setting(
        writable(), WEIGHTS, " ".join(f"{name}={weight}" for name, weight in chosen.items())
    )


@dataclass(frozen=True)
class Candidate:
    """One row: its catalogue id, its place in the ranking, and the set-up its beam was predicted
    for.
    """

    id: int
    ranked: Ranked
    setup: SetUp | None
    fit: HousingFit | None = None
    borne: Borne | None = None
    no_beam: str = ""
    of_housing: tuple[Finding, ...] = ()
    share: float | None = 0.0

    @property
    def source(self) -> LightSource:
        """The light source."""
        return self.match.source

    @property
    def state(self) -> str:
        """A word for its facts as shown."""
        return state_of(self.source)

    @property
    def match(self) -> Match:
        """What the rules say."""
        return self.ranked.judged.match

    @property
    def prediction(self) -> predicted.Prediction | None:
        """Its beam in numbers, where worked out."""
        return self.ranked.judged.prediction

    def predicted_findings(self) -> list[Finding]:
        """What its predicted beam means; nothing while it is not worked out."""
        judged = self.ranked.judged
        if judged.prediction is None or judged.nominal is None:
            return []
        return predicted.findings(
            predicted.Outlook(judged.prediction, judged.sensitivity), judged.nominal
        )

    @property
    def level(self) -> Level:
        """The worst that is known of it: by the rules, by its predicted beam, by what the housing
        it would sit in was judged.
        """
        return max(self.match.level, worst([*self.predicted_findings(), *self.of_housing]))

    @property
    def verdict(self) -> str:
        """That in words."""
        return VERDICTS[self.level]

    def range(self, value: float) -> doubt.Range:
        """How far a figure of its beam in candela may be off, given how well the housing was
        read.
        """
        known = self.ranked.judged.measured
        measured = known.doubt if known else None
        return doubt.spread(value, doubt.of_prediction(self.source, self.fit, measured, self.share))

    @property
    def measured(self) -> KnownSource | None:
        """What the shop measured of it in such lamps."""
        return self.ranked.judged.measured

    @property
    def chart(self) -> SeatChart | None:
        """Its seat chart."""
        return build_seat_chart(self.ranked.judged.sensitivity)

    @property
    def waits(self) -> bool:
        """Whether its beam is still to be worked out, or how far that may be off."""
        return self.setup is not None and (self.prediction is None or self.share is None)


@dataclass(frozen=True)
class Shortlist:
    """The shelf for one socket: who is first, how far the predictions are, what the housing itself
    does.

    *function*: the beam it is predicted for, of those the socket gives.
    """

    page: StagePage
    setting: Setting
    function: Function
    restored: bool
    weighed: WeighedShelf
    candidates: tuple[Candidate, ...]

    @property
    def present(self) -> SetUp | None:
        """The housing with its own source, as the model takes it."""
        return self.weighed.present

    @property
    def nominal(self) -> predicted.Prediction | None:
        """Its own beam in numbers, where worked out."""
        return self.weighed.nominal

    @property
    def as_it_is(self) -> predicted.Prediction | None:
        """The beam with what is in it now, in numbers, where worked out."""
        return self.weighed.as_it_is

    @property
    def own(self) -> str:
        """What the beam as it is is called: the lamp's own, or that of an LED bulb of before."""
        return self._of_what("its own", "what is in it now", "what it was made for")

    @property
    def column(self) -> str:
        """The same over a column."""
        return self._of_what("Own", "Now", "Made for")

    def _of_what(self, own: str, held: str, unknown: str) -> str:
        if not self.weighed.is_told:
            return unknown
        return held if self.setting.held else own

    @property
    def pattern(self) -> Finding | None:
        """Whether its own pattern holds."""
        return self.weighed.pattern

    def of_housing(self, source: LightSource | None) -> tuple[list[Finding], list[Finding]]:
        """What the housing says of a choice: before all else, and after all else."""
        return _of_housing(self.page, self.pattern, source)

    @property
    def waiting(self) -> int:
        """Predictions still to come; the computation itself may still be warming up."""
        return sum(candidate.waits for candidate in self.candidates) + (
            self.present is not None and not (self.nominal and self.as_it_is)
        )

    @property
    def ready(self) -> bool:
        """Whether beams can be worked out, the kernel being compiled."""
        return model.is_warm()

    @property
    def done(self) -> int:
        """Candidates predicted."""
        return sum(candidate.prediction is not None for candidate in self.candidates)

    @property
    def lamps(self) -> int:
        """How many sockets in hand are the one weighed here, on either side."""
        return sum(key.name == self.setting.socket.key.name for key in self.page.sockets)

    @cached_property
    def lens(self) -> dict[str, str]:
        """The query that keeps the choice of lens and of beam."""
        shown = {"beam": self.function.value} if self.function is not self.setting.function else {}
        shown |= {"view": "road"} if request.args.get("view") == "road" else {}
        shown |= {"housing": "typical"} if request.args.get("housing") == "typical" else {}
        return shown | ({"lens": "restored"} if self.restored else {})

    @property
    def is_known(self) -> bool:
        """Whether what the socket holds was told, so that candidates follow from it."""
        return self.setting.base is not None or not self.setting.socket.holds_bulb

    @property
    def what(self) -> str:
        """What the candidates are for: a base, or what a socket without a bulb gives."""
        if self.setting.base is not None:
            return self.setting.base.name
        return " and ".join(beam.label.lower() for beam in self.setting.socket.functions)

    @property
    def staying(self) -> str:
        """What it is called to change nothing here."""
        if self.setting.socket.holds is Holds.NOTHING:
            return "Leave it without"
        return f"Stay with {self.setting.kept}"

    def beams(self) -> list[tuple[str, str, bool]]:
        """The beams the socket gives, to look at one by one: words, address, whether shown."""
        given = self.setting.socket.road_beams
        if len(given) < 2:
            return []
        kept = {"lens": "restored"} if self.restored else {}
        asked = {beam: urlencode({**kept, "beam": beam.value}) for beam in given}
        return [
            (beam.label, f"{request.path}?{query}", beam is self.function)
            for beam, query in asked.items()
        ]

    def through(self, restored: bool) -> str:
        """This page's address through the lens as found, or as restored."""
        kept = {name: value for name, value in self.lens.items() if name != "lens"}
        query = urlencode(kept | ({"lens": "restored"} if restored else {}))
        return f"{request.path}?{query}" if query else request.path

    def here(self, **more: object) -> str:
        """This page's address with the lens as chosen."""
        given = {**self.lens, **{name: value for name, value in more.items() if value is not None}}
        return f"{request.path}?{urlencode(given, doseq=True)}" if given else request.path

    def tabs(self) -> list[tuple[str, str, bool]]:
        """Match's pages: words, address, whether here."""
        return [(words, self.at(name), request.endpoint == name) for name, words in TABS.items()]

    def at(self, endpoint: str, **more: object) -> str:
        """The address of another of Match's pages for the same lamps, the lens kept."""
        where: dict[str, Any] = {
            "job_id": self.page.job.id,
            "scope": self.page.scope,
            **self.lens,
            **more,
        }
        return url_for(endpoint, **where)

    def own_range(self, value: float) -> doubt.Range:
        """How far a figure of the lamp's own beam in candela may be off."""
        return doubt.spread(value, doubt.of_prediction(None, self.setting.fit))

    def housings(self) -> list[tuple[str, str, bool]]:
        """Whether the housing is this car's, fitted to its readings, or a typical one: words,
        address, whether shown."""
        typical = "housing" in self.lens
        if not typical and self.setting.fit is None:
            return []
        kept = {name: value for name, value in self.lens.items() if name != "housing"}
        other = f"{request.path}?{urlencode(kept | {'housing': 'typical'})}"
        return [
            ("this car's", f"{request.path}?{urlencode(kept)}", not typical),
            ("typical", other, typical),
        ]

    def find(self, text: str | None) -> Candidate | None:
        """The candidate of a catalogue id as written in a form or an address."""
        return next((candidate for candidate in self.candidates if str(candidate.id) == text), None)

    def preview(self, candidate: Candidate | None) -> Wall | None:
        """The beam as it is and with a candidate."""
        return build_preview(self.present, candidate.setup if candidate else None)

    @property
    def on_road(self) -> bool:
        """Whether the beam is looked at from the driver's seat instead of on the wall."""
        return "view" in self.lens

    def other_view(self, candidate: Candidate | None) -> str:
        """This page's address with the beam on the wall instead of the road, or the other way
        round.
        """
        kept = {name: value for name, value in self.lens.items() if name != "view"} | {
            "look": candidate.id if candidate else None
        }
        kept |= {} if self.on_road else {"view": "road"}
        query = urlencode({name: value for name, value in kept.items() if value is not None})
        return f"{request.path}?{query}"

    def seats(self, candidate: Candidate | None) -> tuple[str, str] | None:
        """The addresses of the driver's view as it is and with a candidate; None where it can't be
        computed.
        """
        if self.present is None or not self.ready:
            return None
        return seat_urls(
            self.present, candidate.setup if candidate and candidate.setup else self.present
        )

    def section(self, candidate: Candidate | None) -> Section | None:
        """A candidate cut through on the socket's base."""
        base = self.setting.base
        return (
            build_section(base, candidate.source, self.setting.condition)
            if candidate and base
            else None
        )


def shortlist_for(page: StagePage) -> Shortlist:
    """The shelf weighed for the first socket in scope. Without ``go`` in the address nothing slow
    is computed.
    """
    restored = request.args.get("lens") == "restored"
    setting = _setting(page, restored)
    function = _beam_shown(setting)
    setting, asked = _own_housing(page, setting, function)
    weighed = _weighed(setting, function, page.market.traffic, wait=asked)
    candidates = tuple(
        Candidate(
            ranked.judged.id,
            ranked,
            weighed.setups[ranked.judged.id],
            setting.fit,
            weighed.bornes[ranked.judged.id],
            why_no_beam(setting, function, ranked.judged.match.source, page.market.traffic),
            tuple(_of_housing(page, weighed.pattern, ranked.judged.match.source)[1]),
            weighed.shares.get(ranked.judged.id, 0.0),
        )
        for ranked in weighed.ranked(weights())
    )
    shortlist = Shortlist(page, setting, function, restored, weighed, candidates)
    if not shortlist.waiting:
        return shortlist
    # No place jumps while predictions come in.
    places = weighed.places(weights())
    in_place = sorted(candidates, key=lambda candidate: places[candidate.id])
    return replace(shortlist, candidates=tuple(in_place))


def _of_housing(
    page: StagePage, pattern: Finding | None, source: LightSource | None
) -> tuple[list[Finding], list[Finding]]:
    """What the housing says of a choice: before all else, and after all else."""
    return housing_findings(pattern, condition_verdict(page.record, page.first.of_unit), source)


def _setting(page: StagePage, restored: bool) -> Setting:
    """What is weighed against: the first socket in scope, with its fellow on the other side where
    the choice is for both.
    """
    first = page.first
    fellows = [key for key in page.keys if key.name == first.name and key.side is not first.side]
    here, *across = (
        setting_of(page.record, page.job.booking, key, restored)
        for key in (first, *fellows)
        if isinstance(key, SocketKey)
    )
    return replace(here, across=across[0] if across else None)


def _weighed(setting: Setting, function: Function, traffic: Traffic, wait: bool) -> WeighedShelf:
    """The shelf weighed for a socket; where the page asked to go on, some more beams are worked
    out. *wait*: its housing is still to be fitted, so nothing is predicted yet.
    """
    shelf = suiting(catalogue.light_sources(session()), setting.socket, setting.base)
    measured = _measured(setting, function)
    asked = "go" in request.args and model.is_warm() and not wait
    # Where others compute, this page asks again by itself.
    with place(0.0) if asked else nullcontext(False) as mine:
        seconds = None if wait else AT_ONCE_S if mine else 0.0
        return weigh(setting, function, traffic, shelf, measured, seconds)


def _measured(setting: Setting, function: Function) -> dict[str, KnownSource]:
    """What the shop measured of sources in lamps like this one, by the source's name."""
    if setting.base is None or setting.socket.optic is None:
        return {}
    return outcomes.known(session(), setting.base.name, setting.socket.optic.value, function.value)


def _own_housing(page: StagePage, setting: Setting, function: Function) -> tuple[Setting, bool]:
    """The setting with its housing fitted to what was read of it; and whether that is still to be
    done.
    """
    key = BeamKey(function, page.first.side)
    present = setup_of(
        setting_of(page.record, page.job.booking, page.first), function, None, page.market.traffic
    )
    if present is None or request.args.get("housing") == "typical":
        return setting, False
    compute = "go" in request.args and model.is_warm()
    fit, is_pending = own_fit(page.record, key, present, compute)
    if fit is None and not is_pending:
        fit = _alike(page, key, present)
    return replace(setting, fit=fit), is_pending


def _alike(page: StagePage, key: BeamKey, present: SetUp) -> HousingFit | None:
    """The housing of another car of the same model, where one was read."""
    known = housings.alike(
        session(), page.job.id, page.job.booking, key, present.housing, present.base
    )
    return fit_alike(known.read, known.booking.reference) if known else None


def _beam_shown(setting: Setting) -> Function:
    """The beam asked for in the address, where the socket gives it; else its first."""
    asked = request.args.get("beam")
    return next(
        (beam for beam in setting.socket.road_beams if beam.value == asked), setting.function
    )
