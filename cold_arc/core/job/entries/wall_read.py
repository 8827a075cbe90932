"""What is read from a lamp's wall: its own housing, and how a bulb sits in it."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from cold_arc.core.beam.setup import SetUp
from cold_arc.core.car.lamps import Traffic
from cold_arc.core.findings import Finding, Level
from cold_arc.core.inverse.housing import FittedLamp, figure_names
from cold_arc.core.inverse.light_map import Texture, is_a_texture
from cold_arc.core.inverse.seat import HYPOTHESES, SEATED, Seat
from cold_arc.core.job.entries.kind import EntryKind, Payload, Subject, must, tells_more
from cold_arc.core.references import MODEL
from cold_arc.core.units import say_degrees, say_percent, worded

MOST_FIGURE, LARGEST_DOUBT = 1e6, 10.0


@dataclass(frozen=True)
class ReadFigure:
    """One figure by its name, with its standard uncertainty."""

    name: str
    value: float
    standard: float


@dataclass(frozen=True)
class HousingRead(Payload):
    """The entry's beam's own housing, read from the photograph that goes by the number *shown*.

    *housing* to *volts*: the set-up it shone with; *figures* and *covariance*: as
    :class:`cold_arc.core.inverse.housing.FittedLamp` has them; *doubt*: the standard uncertainty of
    a hot spot foretold in it, as a share; *simulated*: no lamp was looked at; *texture*: how many
    times the light of that housing each cell showed, where it is told.
    """

    ENTRY = EntryKind("housing-read", 2, older={1: tells_more})

    shown: int
    housing: str
    base: str
    traffic: Traffic
    high: bool
    rated_volts: float
    haze: float
    volts: float | None
    figures: tuple[ReadFigure, ...]
    covariance: tuple[tuple[float, ...], ...]
    left_pct: float
    absolute: bool
    doubt: float
    notes: tuple[str, ...] = ()
    simulated: bool = False
    texture: tuple[tuple[float, ...], ...] = ()

    @property
    def lamp(self) -> FittedLamp:
        """The housing as the model takes it; SetUpError for one that can't be built any more."""
        setup = SetUp(
            self.housing,
            self.base,
            traffic=self.traffic,
            high=self.high,
            rated_volts=self.rated_volts,
            haze=self.haze,
            volts=self.volts,
        )
        figures = {figure.name: figure.value for figure in self.figures}
        aim = figures.get("aim_v", 0.0), figures.get("aim_h", 0.0)
        return FittedLamp(
            setup,
            tuple(figures),
            tuple(figures.values()),
            self.covariance,
            self.left_pct,
            self.absolute,
            self.notes,
            Texture(self.texture, *aim) if self.texture else None,
        )

    def must_hold(self) -> None:
        names, size = [figure.name for figure in self.figures], len(self.figures)
        must(self.shown > 0 and 0 <= self.doubt <= LARGEST_DOUBT, "Such a housing")
        must(list(figure_names(self.lamp.setup)) == names, "A housing of other figures")
        must(
            len(self.covariance) == size and all(len(row) == size for row in self.covariance),
            "A housing of another covariance",
        )
        flat = [*(figure.value for figure in self.figures), *np.ravel(self.covariance)]
        must(all(math.isfinite(x) and abs(x) <= MOST_FIGURE for x in flat), "Such figures")
        must(not self.texture or is_a_texture(self.texture), "Such a texture")

    def in_words(self) -> str:
        practised = ", simulated" if self.simulated else ""
        return f"Its own housing read from the wall, {say_percent(self.doubt)} open{practised}"


def housing_read(
    lamp: FittedLamp, doubt: float, shown: int, simulated: bool = False
) -> HousingRead:
    """The entry of a housing that was read."""
    setup = lamp.setup
    return HousingRead(
        shown,
        setup.housing,
        setup.base,
        setup.traffic,
        setup.high,
        setup.rated_volts,
        setup.haze,
        setup.volts,
        tuple(ReadFigure(name, *figure) for name, figure in lamp.figures.items()),
        lamp.covariance,
        lamp.left_pct,
        lamp.absolute,
        doubt,
        lamp.notes,
        simulated,
        lamp.texture.times if lamp.texture else (),
    )


@dataclass(frozen=True)
class Explanation:
    """One hypothesis by its *id*, its *probability*, and what it says."""

    id: str
    probability: float
    words: str


@dataclass(frozen=True)
class SeatRead(Payload):
    """How the bulb of the entry's beam sits, read from the photograph that goes by the number
    *shown*: the *figures* of its seat (degrees, mm), the likeliest *explanations* first, what to
    do; *typical*: in a typical housing, where its own was not read.
    """

    ENTRY = EntryKind("seat-read")

    shown: int
    figures: tuple[ReadFigure, ...]
    explanations: tuple[Explanation, ...]
    advice: str
    typical: bool = False
    simulated: bool = False

    @property
    def first(self) -> Explanation:
        """The likeliest explanation."""
        return self.explanations[0]

    @property
    def clock_deg(self) -> tuple[float, float]:
        """How far it is turned clockwise from behind, and the standard uncertainty."""
        return next((f.value, f.standard) for f in self.figures if f.name == "clock")

    @property
    def is_turned(self) -> bool:
        """Whether the likeliest explanation turns the bulb."""
        turns = {hypothesis.id: hypothesis.turns for hypothesis in HYPOTHESES}
        return "clock" in turns[self.first.id]

    @property
    def finding(self) -> Finding:
        """What is to be said of it."""
        level = Level.OK if self.first.id == "right" else Level.CAUTION
        return Finding(
            "seat-read",
            level,
            self.first.words,
            MODEL,
            worded("{probability:percent} likely", probability=self.first.probability),
            advice=self.advice,
            about="read from the wall",
        )

    def subject(self) -> Subject:
        return (self.shown,)

    def must_hold(self) -> None:
        must(self.shown > 0, "A seat from no photograph")
        must([figure.name for figure in self.figures] == list(SEATED), "A seat of other figures")
        known = {hypothesis.id for hypothesis in HYPOTHESES}
        given = [each.id for each in self.explanations]
        must(bool(given) and {*given} <= known, "Such explanations")
        must(len({*given}) == len(given), "An explanation twice")
        must(all(0 <= each.probability <= 1 for each in self.explanations), "Such probabilities")
        must(all(abs(figure.value) <= 180 for figure in self.figures), "Such a seat")

    def in_words(self) -> str:
        clock, standard = self.clock_deg
        turned = f"{say_degrees(clock, signed=True)} ± {say_degrees(standard)}"
        return f"Read from the wall: {self.first.words} (clock {turned})"


def seat_read(seat: Seat, shown: int, typical: bool, simulated: bool = False) -> SeatRead:
    """The entry of a seat that was read."""
    return SeatRead(
        shown,
        tuple(ReadFigure(name, *figure) for name, figure in seat.figures.items()),
        tuple(
            Explanation(each.hypothesis.id, round(each.probability, 4), each.words)
            for each in seat.explained
        ),
        seat.advice,
        typical,
        simulated,
    )
