"""A shelf weighed for one socket: what fits its base, judged, predicted as far as the time given
allows, borne out by what was measured, ranked.
"""

from __future__ import annotations

import time
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, replace

from cold_arc.core.beam.fitted import HousingFit
from cold_arc.core.beam.setup import SetUp
from cold_arc.core.car import bases
from cold_arc.core.car.bases import Base
from cold_arc.core.car.front import Socket
from cold_arc.core.car.lamps import Function, Traffic
from cold_arc.core.findings import Finding, Level
from cold_arc.core.light_source import LightSource
from cold_arc.core.match import Setting, judge
from cold_arc.core.match import prediction as predicted
from cold_arc.core.match.experience import Borne, KnownSource, borne_out
from cold_arc.core.match.modelled import made_for, setup_of
from cold_arc.core.match.prediction import Outlook, Prediction
from cold_arc.core.match.ranking import Judged, Ranked, Weights, rank

Shelf = Mapping[int, LightSource]


@dataclass(frozen=True)
class WeighedShelf:
    """The sources of a shelf for one socket, by number: each as the model takes it (None: it
    can't), judged, and borne out by what was measured; *present* and *as_it_is* are the housing's
    with what is in it, or, where that is not told (*is_told*), with what it was made for, as are
    *nominal* and *pattern*; *shares*: what each hot spot differs by among lamps that agree as well
    with what was read of this one, None where that is still to be worked out.
    """

    present: SetUp | None
    is_told: bool
    as_it_is: Prediction | None
    nominal: Prediction | None
    pattern: Finding | None
    setups: Mapping[int, SetUp | None]
    bornes: Mapping[int, Borne | None]
    judged: tuple[Judged, ...]
    shares: Mapping[int, float | None]

    @property
    def pattern_fails(self) -> bool:
        """Whether the housing's own pattern fails the yardstick."""
        return self.pattern is not None and self.pattern.level is Level.STOP

    def ranked(self, weights: Weights) -> list[Ranked]:
        """Best first, as far as beams are worked out."""
        return rank(self.judged, weights, self.pattern_fails)

    def places(self, weights: Weights) -> dict[int, int]:
        """The place each has by rules and price alone, where no beam is worked out."""
        unseen = [replace(judged, prediction=None, sensitivity=None) for judged in self.judged]
        return {ranked.judged.id: place for place, ranked in enumerate(rank(unseen, weights))}


def suiting(shelf: Shelf, socket: Socket, base: Base | None) -> dict[int, LightSource]:
    """Everything on a shelf for a socket: for its base, by itself or through an adapter; of one
    that holds no bulb, what takes over all it gives.
    """
    if not socket.holds_bulb:
        return {n: source for n, source in shelf.items() if _takes_over(source, socket)}
    return {n: source for n, source in shelf.items() if base and _is_for(source, base)}


def _takes_over(source: LightSource, socket: Socket) -> bool:
    """Whether a whole lamp or a module gives all that a socket gives; one with a road beam takes
    the place of no mere signal lamp.
    """
    fits = bool(socket.road_beams) or not source.road_beams
    return fits and source.takes_place and all(map(source.gives, socket.functions))


def _is_for(source: LightSource, base: Base) -> bool:
    return _is_base(source.base, base) or base.name in source.adapters


def _is_base(name: str, wanted: Base) -> bool:
    """Whether a name is one of a base's, measured or not."""
    base = bases.find(name)
    return base is not None and base.name == wanted.name


def weigh(
    setting: Setting,
    function: Function,
    traffic: Traffic,
    shelf: Shelf,
    measured: Mapping[str, KnownSource],
    seconds: float | None,
) -> WeighedShelf:
    """A shelf that suits the socket, for one of its beams. *measured*: what the shop measured of
    sources in such lamps, by name; *seconds*: how long to work out beams that are not known yet
    (None: not even known ones are used).
    """
    present = setup_of(setting, function, None, traffic)
    setups = {
        number: setup_of(setting, function, source, traffic) for number, source in shelf.items()
    }
    own = made_for(setting, function, traffic)
    until = None if seconds is None else time.monotonic() + seconds
    outlooks = _outlooks([own, present, *setups.values()], until)
    nominal = _prediction_of(outlooks.get(own))
    as_it_is = _as_it_is(outlooks.get(present), nominal, setting.held, measured)
    dearest = max((source.price for source in shelf.values()), default=0.0)
    bornes = {
        number: _borne(outlooks.get(setups[number]), nominal, measured.get(source.name))
        for number, source in shelf.items()
    }
    judged = tuple(
        _with_measured(
            _judged(number, source, setting, outlooks.get(setups[number]), nominal, dearest),
            bornes[number],
            measured.get(source.name),
        )
        for number, source in shelf.items()
    )
    shares = dict(_shares(setting.fit, shelf, setups, until))
    return WeighedShelf(
        present or own,
        present is not None,
        as_it_is if present else nominal,
        nominal,
        _pattern(own) if nominal else None,
        setups,
        bornes,
        judged,
        shares,
    )


def _shares(
    fit: HousingFit | None,
    shelf: Shelf,
    setups: Mapping[int, SetUp | None],
    until: float | None,
) -> Iterator[tuple[int, float | None]]:
    """What each bulb's hot spot differs by, of those that can be modelled; none in a typical
    housing.
    """
    if fit is None or not fit.drawn:
        return
    for number, setup in setups.items():
        if setup is not None and shelf[number].is_bulb:
            yield number, _share(setup, fit, until)


def _share(setup: SetUp, fit: HousingFit, until: float | None) -> float | None:
    """What a hot spot differs by among lamps that agree as well with what was read of this one,
    where it is known or may be worked out yet.
    """
    known = predicted.SPREADS.get((setup, fit.drawn))
    if known is None and until is not None and time.monotonic() < until:
        return predicted.spread_among(setup, fit)
    return known


def _outlooks(setups: Iterable[SetUp | None], until: float | None) -> dict[SetUp | None, Outlook]:
    """The set-ups' outlooks by set-up, as far as can be until a moment of the monotonic clock; none
    at all for None.
    """
    return {} if until is None else dict(worked_out(setups, until))


def worked_out(
    setups: Iterable[SetUp | None], until: float
) -> Iterator[tuple[SetUp | None, Outlook]]:
    """What is known of each set-up, and what can be worked out until a moment of the monotonic
    clock.
    """
    for setup in setups:
        outlook = predicted.known(setup) if setup else None
        if setup and outlook is None and time.monotonic() < until:
            outlook = predicted.outlook(setup)
        if outlook is not None:
            yield setup, outlook


def _prediction_of(outlook: Outlook | None) -> Prediction | None:
    return outlook.prediction if outlook else None


def _pattern(own: SetUp | None) -> Finding | None:
    """Whether the housing's own pattern holds, which is a matter of the lens: a housing fitted to
    readings may be dim besides.
    """
    return predicted.pattern(replace(own, gain=1.0, widen=1.0)) if own else None


def _borne(
    outlook: Outlook | None, nominal: Prediction | None, known: KnownSource | None
) -> Borne | None:
    """A prediction brought to what was measured, where there are both."""
    return borne_out(outlook.prediction, nominal, known) if outlook and nominal and known else None


def _as_it_is(
    outlook: Outlook | None,
    nominal: Prediction | None,
    held: LightSource | None,
    measured: Mapping[str, KnownSource],
) -> Prediction | None:
    """The beam with what is in the lamp, as any candidate's: measured beats predicted."""
    known = measured.get(held.name) if held else None
    borne = _borne(outlook, nominal, known)
    return borne.prediction if borne else _prediction_of(outlook)


def _with_measured(judged: Judged, borne: Borne | None, known: KnownSource | None) -> Judged:
    """Measured beats predicted."""
    if borne is None:
        return judged
    return replace(judged, prediction=borne.prediction, measured=known)


def _judged(
    number: int,
    source: LightSource,
    setting: Setting,
    outlook: Outlook | None,
    nominal: Prediction | None,
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
