"""What Match's pages share: the shelf judged, predicted and ranked for a socket, as far as the time
given allows.
"""

from __future__ import annotations

import time
from collections.abc import Iterable, Sequence
from contextlib import nullcontext
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any
from urllib.parse import urlencode

from flask import request, url_for

from cold_arc.core.beam import model
from cold_arc.core.beam.fitted import LEAST_READINGS, HousingFit
from cold_arc.core.beam.setup import SetUp
from cold_arc.core.car import bases
from cold_arc.core.car.bases import Base
from cold_arc.core.car.front import BeamKey
from cold_arc.core.car.lamps import Function
from cold_arc.core.findings import Finding, Level
from cold_arc.core.light_source import LightSource
from cold_arc.core.match import Match, Setting, doubt, judge
from cold_arc.core.match import prediction as predicted
from cold_arc.core.match.experience import Borne, KnownSource, borne_out
from cold_arc.core.match.facts import setting_of
from cold_arc.core.match.modelled import setup_of
from cold_arc.core.match.own_housing import asked_of, fit_of
from cold_arc.core.match.ranking import HEAVIEST, USUAL_WEIGHTS, Judged, Ranked, rank
from cold_arc.core.references import MODEL, PRACTICE
from cold_arc.core.units import say_candela
from cold_arc.store import catalogue, outcomes
from cold_arc.web.bench.beams import place
from cold_arc.web.forms.plain_numbers import whole
from cold_arc.web.job.stage_page import StagePage
from cold_arc.web.parts.beam_wall import seat_urls
from cold_arc.web.parts.preview import build_preview
from cold_arc.web.parts.seat_chart import SeatChart, build_seat_chart
from cold_arc.web.parts.section import Section, build_section
from cold_arc.web.parts.wall import Wall
from cold_arc.web.shell.db import session

AT_ONCE_S = 0.8
WEIGHTS = "match_weights"
TABS = {"match.page": "Candidates", "match_options.page": "Options", "match_wiring.page": "Wiring"}


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
        session(), WEIGHTS, " ".join(f"{name}={weight}" for name, weight in chosen.items())
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

    @property
    def source(self) -> LightSource:
        """The light source."""
        return self.match.source

    @property
    def state(self) -> str:
        """A word for its facts as shown."""
        return catalogue.state_of(self.source)

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

    def range(self, value: float) -> doubt.Range:
        """How far a figure of its beam in candela may be off, given whether the housing was fitted
        to readings.
        """
        known = self.ranked.judged.measured
        return doubt.spread(
            value, doubt.of_prediction(self.source, self.fit, known.doubt if known else None)
        )

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
        """Whether its beam is still to be worked out."""
        return self.setup is not None and self.prediction is None


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
    present: SetUp | None
    nominal: predicted.Prediction | None
    pattern: Finding | None
    candidates: tuple[Candidate, ...]

    @property
    def waiting(self) -> int:
        """Predictions still to come; the computation itself may still be warming up."""
        return sum(candidate.waits for candidate in self.candidates) + (
            self.present is not None and not self.nominal
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

    def here(self, **more: Any) -> str:
        """This page's address with the lens as chosen."""
        given = {**self.lens, **{name: value for name, value in more.items() if value is not None}}
        return f"{request.path}?{urlencode(given, doseq=True)}" if given else request.path

    def tabs(self) -> list[tuple[str, str, bool]]:
        """Match's pages: words, address, whether here."""
        return [(words, self.at(name), request.endpoint == name) for name, words in TABS.items()]

    def at(self, endpoint: str, **more: Any) -> str:
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

    def other_beams(self, candidate: Candidate) -> list[Finding]:
        """What the other beams of the socket will be with a candidate, as far as they were worked
        out.
        """
        findings = []
        for beam in self.setting.socket.road_beams:
            setup = setup_of(self.setting, beam, candidate.source, self.page.market.traffic)
            if beam is self.function or setup is None:
                continue
            outlook, own = predicted.known(setup), predicted.known(setup.reference())
            if outlook and own:
                theirs = [
                    *predicted.findings(outlook, own.prediction),
                    _peak(outlook.prediction, own.prediction),
                ]
                findings += [finding.named(beam.label) for finding in theirs]
            else:
                text = "This socket gives it too: look at it before choosing."
                findings.append(
                    Finding(Level.NOTE, f"{beam.label} not looked at yet.", PRACTICE, advice=text)
                )
        return findings

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


def _peak(beam: predicted.Prediction, own: predicted.Prediction) -> Finding:
    """A beam's hot spot against the lamp's own."""
    number, limit = say_candela(beam.peak_cd), f"{say_candela(own.peak_cd)} with its own source"
    return Finding(Level.NOTE, "hot spot as predicted.", MODEL, number, limit)


def shortlist_for(page: StagePage) -> Shortlist:
    """The shelf weighed for the first socket in scope. Without ``go`` in the address nothing slow
    is computed.
    """
    restored = request.args.get("lens") == "restored"
    setting = setting_of(page.record, page.job.booking, page.first, restored)
    function = _beam_shown(setting)
    setting, asked = _own_housing(page, setting, function)
    shelf = _weighed(setting, function, page.market.traffic, wait=bool(asked))
    fails = shelf.pattern is not None and shelf.pattern.level is Level.STOP
    candidates = tuple(
        Candidate(
            ranked.judged.id,
            ranked,
            shelf.setups[ranked.judged.id],
            setting.fit,
            shelf.bornes[ranked.judged.id],
        )
        for ranked in rank(shelf.judged, weights(), fails)
    )
    shortlist = Shortlist(
        page, setting, function, restored, shelf.present, shelf.nominal, shelf.pattern, candidates
    )
    if not shortlist.waiting:
        return shortlist
    return replace(shortlist, candidates=_in_place(list(candidates), shelf.judged))


@dataclass(frozen=True)
class _WeighedShelf:
    """The sources of the shelf that fit a socket, by number: each as the model takes it, judged,
    and borne out by what was measured; and the housing's own beam.
    """

    present: SetUp | None
    nominal: predicted.Prediction | None
    pattern: Finding | None
    setups: dict[int, SetUp | None]
    bornes: dict[int, Borne | None]
    judged: list[Judged]


def _weighed(setting: Setting, function: Function, traffic: str, wait: bool) -> _WeighedShelf:
    """Everything the shelf has for a socket; *wait*: nothing is predicted yet."""
    present = setup_of(setting, function, None, traffic)
    shelf = _for_socket(setting)
    setups = {
        number: setup_of(setting, function, source, traffic) for number, source in shelf.items()
    }
    own_setup = present.reference() if present else None
    outlooks = {} if wait else _outlooks([own_setup, *setups.values()])
    nominal = outlooks[own_setup].prediction if outlooks.get(own_setup) else None
    dearest = max((source.price for source in shelf.values()), default=0.0)
    measured = _measured(setting, function)
    bornes = {
        number: _borne(outlooks.get(setups[number]), nominal, measured.get(source.name))
        for number, source in shelf.items()
    }
    judged = [
        _with_measured(
            _judged(number, source, setting, outlooks.get(setups[number]), nominal, dearest),
            bornes[number],
            measured.get(source.name),
        )
        for number, source in shelf.items()
    ]
    pattern = _pattern(present) if present and nominal else None
    return _WeighedShelf(present, nominal, pattern, setups, bornes, judged)


def _pattern(present: SetUp) -> Finding | None:
    """Whether the housing's own pattern holds, which is a matter of the lens: a housing fitted to
    readings may be dim besides.
    """
    return predicted.pattern(replace(present, gain=1.0, widen=1.0))


def _measured(setting: Setting, function: Function) -> dict[str, KnownSource]:
    """What the shop measured of sources in lamps like this one, by the source's name."""
    if setting.base is None or setting.socket.optic is None:
        return {}
    return outcomes.known(session(), setting.base.name, setting.socket.optic.value, function.value)


def _borne(
    outlook: predicted.Outlook | None,
    nominal: predicted.Prediction | None,
    known: KnownSource | None,
) -> Borne | None:
    """A prediction brought to what was measured, where there are both."""
    return borne_out(outlook.prediction, nominal, known) if outlook and nominal and known else None


def _with_measured(judged: Judged, borne: Borne | None, known: KnownSource | None) -> Judged:
    """Measured beats predicted."""
    if borne is None:
        return judged
    return replace(judged, prediction=borne.prediction, measured=known)


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
    asked = asked_of(page.record, key, present)
    if len(asked[1]) < LEAST_READINGS:
        return setting, False
    fit = fit_of(asked, compute="go" in request.args and model.is_warm())
    return replace(setting, fit=fit), fit is None


def _in_place(candidates: Sequence[Candidate], judged: Sequence[Judged]) -> tuple[Candidate, ...]:
    """Candidates in the places they have by rules and price alone: no place jumps while predictions
    come in.
    """
    unseen = rank(
        [replace(candidate, prediction=None, sensitivity=None) for candidate in judged],
        weights(),
        False,
    )
    places = {candidate.judged.id: place for place, candidate in enumerate(unseen)}
    return tuple(sorted(candidates, key=lambda candidate: places[candidate.id]))


def _beam_shown(setting: Setting) -> Function:
    """The beam asked for in the address, where the socket gives it; else its first."""
    asked = request.args.get("beam")
    return next(
        (beam for beam in setting.socket.road_beams if beam.value == asked), setting.function
    )


def _for_socket(setting: Setting) -> dict[int, LightSource]:
    """Everything on the shelf for the socket's base, by itself or through an adapter."""
    wanted = setting.base
    if wanted is None:
        return {}
    shelf = catalogue.light_sources(session())
    return {
        number: source
        for number, source in shelf.items()
        if _is_base(source.base, wanted) or wanted.name in source.adapters
    }


def _is_base(name: str, wanted: Base) -> bool:
    """Whether a name is one of a base's, measured or not."""
    base = bases.find(name)
    return base is not None and base.name == wanted.name


def _judged(
    number: int,
    source: LightSource,
    setting: Setting,
    outlook: predicted.Outlook | None,
    nominal: predicted.Prediction | None,
    dearest: float,
) -> Judged:
    return Judged(
        judge(source, setting),
        outlook.prediction if outlook else None,
        outlook.sensitivity if outlook else None,
        nominal,
        dearest,
        number,
    )


def _outlooks(setups: Iterable[SetUp | None]) -> dict[SetUp | None, predicted.Outlook]:
    """What is known of each set-up; where the page asked to go on, some more of them are worked
    out.
    """
    asked = "go" in request.args and model.is_warm()
    with (
        place(0.0) if asked else nullcontext(False) as mine
    ):  # where others compute, this page asks again by itself
        return _worked_out(setups, time.monotonic() + (AT_ONCE_S if mine else 0))


def _worked_out(
    setups: Iterable[SetUp | None], until: float
) -> dict[SetUp | None, predicted.Outlook]:
    """What is known, and what can be worked out until a moment."""
    outlooks: dict[SetUp | None, predicted.Outlook] = {}
    for setup in setups:
        if setup is None:
            continue
        outlook = predicted.known(setup)
        if outlook is None and time.monotonic() < until:
            outlook = predicted.outlook(setup)
        if outlook is not None:
            outlooks[setup] = outlook
    return outlooks
