"""What a record may hold, at its bounds: a figure at its bound stands, one just beyond is refused.

Bounds are the program's own, far beyond what occurs.
"""

import dataclasses
import datetime as dt
from dataclasses import replace

import pytest

from cold_arc.core.aim.rims import Rim
from cold_arc.core.beam.setup import SetUp
from cold_arc.core.car.lamps import Drive
from cold_arc.core.electrical import SupplyFacts
from cold_arc.core.findings import Level
from cold_arc.core.inverse.housing import FittedLamp, figure_names
from cold_arc.core.inverse.seat import HYPOTHESES, SEATED
from cold_arc.core.job import plausible
from cold_arc.core.job.entries import KINDS
from cold_arc.core.job.entries.aim import (
    Aimed,
    OriginalsDeleted,
    RimSet,
    WallLaid,
    WallPhotographed,
)
from cold_arc.core.job.entries.book_in import Booking
from cold_arc.core.job.entries.fit import Checked, Clocked, FastenerBack, Pictured
from cold_arc.core.job.entries.hand_over import HandedOver, TestDriven
from cold_arc.core.job.entries.kind import AimPhase, ImplausibleError, Phase
from cold_arc.core.job.entries.later import HoursLit, LeftSo
from cold_arc.core.job.entries.match import Chosen, LeadLaid, Quoted, QuotedWay, Renewed, Supplied
from cold_arc.core.job.entries.plan import PlannedFor
from cold_arc.core.job.entries.prove import FaultFound, FaultSought
from cold_arc.core.job.entries.readings import Eyed, Rastered, Read, Tried, Warmed, WarmRead
from cold_arc.core.job.entries.wall_read import Explanation, ReadFigure, SeatRead, housing_read
from cold_arc.core.metering.by_eye import Patch
from cold_arc.core.metering.readings import WallReading
from cold_arc.core.wiring.leads import Lead, LeadPart
from cold_arc.core.work.access import Fasteners, RouteStep
from cold_arc.core.work.diagnosis import faults
from tests.core.match.lamps import GOOD

DAY = dt.date(2026, 3, 3)
READING = WallReading("peak", 410, 10.0, 13.2)
AIMED = Aimed(AimPhase.FOUND, "un-r48-low", 0.7, 10.0, -0.01, "")
LAID = WallLaid("un-r48-low", 0.7, 10.0)
TAKEN = WallPhotographed(AimPhase.FOUND, (1, 2, 3), 10.0, 0.7, 1200, 900)
RIM = Rim(5.0, 5.0, 180.0, "quarter")
BACK = FastenerBack("1", "push pin", 3, 1)
DRIVEN = TestDriven("Ines", 20.0, "dark road")
WAY = QuotedWay("bulb", "A bulb", "Thin", 50.0, 60.0, 45.0, "", "")
QUOTED = Quoted((WAY,), "bulb", 20.0, "R. Oster")
HANDED = HandedOver("Ines", (), True, True, DAY)
LIT = SetUp()
HOUSING = housing_read(
    FittedLamp(
        LIT,
        figure_names(LIT),
        (1.0,) * len(figure_names(LIT)),
        ((0.0,) * len(figure_names(LIT)),) * len(figure_names(LIT)),
        1.0,
        True,
    ),
    doubt=0.1,
    shown=1,
)
SEAT = SeatRead(
    1,
    tuple(ReadFigure(name, 0.0, 1.0) for name in SEATED),
    tuple(Explanation(one.id, 0.1, one.words) for one in HYPOTHESES),
    "Leave it.",
)
HYPOTHESIS = {one.id: one for one in HYPOTHESES}
DARK, FUSE = next(iter(faults().symptoms)), next(iter(faults().tests))
ANSWERS = len(faults().tests[FUSE].answers)
STEP = RouteStep(1, "Shroud off", 5, fasteners=(Fasteners("push pin", 6, "shroud"),))
BOOKED = Booking("A-1", "Velmar", "Dorin", Drive.LEFT, "un")


def read(**figures):
    return Read(Phase.BEFORE, "410", replace(READING, **figures))


def group(**figures):
    return replace(
        STEP, fasteners=(Fasteners("push pin", **({"count": 6, "place": "shroud"} | figures)),)
    )


def fed(**figures):
    return Supplied(SupplyFacts(**figures))


def chosen(**figures):
    return Chosen(replace(GOOD, **figures), "suits it")


def figured(place, **changed):
    """The seat with one figure changed."""
    figures = [*SEAT.figures]
    figures[place] = replace(figures[place], **changed)
    return replace(SEAT, figures=tuple(figures))


def likely(share):
    first, *others = SEAT.explanations
    return replace(SEAT, explanations=(replace(first, probability=share), *others))


def explained_by(name):
    return replace(SEAT, explanations=(replace(SEAT.explanations[0], id=name),))


def wide(size):
    """The housing with a covariance of so many rows and columns."""
    return replace(HOUSING, covariance=((0.0,) * size,) * size)


SIZE = len(HOUSING.figures)


def row(build, stands, refused):
    """What *build* makes of each figure that stands, and of each just beyond."""
    return pytest.param(build, stands, refused)


@pytest.mark.parametrize(
    ("build", "stands", "refused"),
    [
        row(lambda x: replace(AIMED, distance_m=x), (0.3, 100.0), (0.29, 100.1)),
        row(lambda x: replace(AIMED, slope=x), (-1.0, 1.0), (-1.01, 1.01)),
        row(lambda x: replace(AIMED, spacing_m=x), (None, 0.1, 100.0), (0.0, 100.1)),
        row(lambda x: replace(LAID, distance_m=x), (0.3, 100.0), (0.29, 100.1)),
        row(lambda x: replace(TAKEN, pictures=tuple(range(1, x + 1))), (1, 9), (0, 10)),
        row(lambda x: replace(TAKEN, pictures=(x,)), (1,), (0,)),
        row(lambda x: replace(TAKEN, distance_m=x), (0.3, 100.0), (0.29, 100.1)),
        row(lambda x: replace(TAKEN, axis_m=x), (0.1, 100.0), (0.0, 100.1)),
        row(lambda x: RimSet(replace(RIM, inner_mm=x)), (0.0, 60.0), (-0.1, 60.1)),
        row(lambda x: RimSet(replace(RIM, outer_mm=x)), (0.0, 60.0), (-0.1, 60.1)),
        row(lambda x: replace(BOOKED, plate="A" * x), (0, 15), (16,)),
        row(lambda x: Checked("ring", True, "", x, 3.0), (0.1, 200.0), (0.0, 200.1)),
        row(lambda x: Checked("ring", True, "", 3.0, x), (0.1, 200.0), (0.0, 200.1)),
        row(lambda x: Pictured(x, Phase.BEFORE), (1,), (0,)),
        row(lambda x: replace(BACK, back=x), (0, 3), (-1,)),
        row(lambda x: replace(BACK, broken=x), (0, 1), (-1, 2)),
        row(lambda x: replace(BACK, counted=x), (0, 1000), (-1, 1001)),
        row(lambda x: Clocked(x), (-360.0, 360.0), (-360.1, 360.1)),
        row(lambda x: Clocked(0.0, depth_mm=x), (None, 0.1, 200.0), (0.0, 200.1)),
        row(lambda x: replace(HANDED, asked=x), (None, 0.0, 1e6), (-0.01, 1e6 + 1)),
        row(lambda x: replace(DRIVEN, minutes=x), (0.1, 600.0), (0.0, 600.1)),
        row(lambda x: LeftSo(x), (-1.0, 1.0), (-1.01, 1.01)),
        row(lambda x: LeftSo(0.0, x), (None, -1.0, 1.0), (-1.01, 1.01)),
        row(lambda x: HoursLit(x), (0.1, 100_000.0), (0.0, 100_000.1)),
        row(lambda x: Renewed("ballast", x), (None, 0.0, 1e6), (-0.01, 1e6 + 1)),
        row(lambda x: replace(QUOTED, ways=(WAY,) * x), (1, 3), (0, 4)),
        row(lambda x: replace(QUOTED, tax_pct=x), (0.0, 50.0), (-0.1, 50.1)),
        row(lambda x: replace(QUOTED, ways=(replace(WAY, parts=x),)), (0.0, 1e6), (-0.01, 1e6 + 1)),
        row(lambda x: PlannedFor(DAY, starts_min=x), (0, 1439), (-1, 1440)),
        row(lambda x: PlannedFor(DAY, people=x), (1, 4), (0, 5)),
        row(lambda x: Rastered(Phase.AFTER, "grid", (READING,) * x), (1, 20_000), (0, 20_001)),
        row(lambda x: WarmRead(Phase.AFTER, "410", x), (0.1, 1e9), (0.0, -1.0, 2e9)),
        row(lambda x: Warmed(Phase.AFTER, ((0.0, x),)), (0.1,), (0.0,)),
        row(lambda x: Warmed(Phase.AFTER, ((1.0, 5.0), (x, 5.0))), (2.0,), (1.0, 0.5)),
        row(lambda x: Tried(x, "own", "410", READING), (0, 50), (-1, 51)),
        row(lambda x: Tried(1, x, "410", READING), ("own",), ("", " ")),
        row(lambda x: Eyed(x, "own", Patch("dark", 0.0, 0.0)), (0, 50), (-1, 51)),
        row(lambda x: Eyed(1, "own", Patch("dark", x, 0.0)), (-45.0, 45.0), (-45.1, 45.1)),
        row(lambda x: Eyed(1, "own", Patch("dark", 0.0, x)), (-20.0, 20.0), (-20.1, 20.1)),
        row(lambda x: read(distance_m=x), (0.3, 100.0), (0.29, 100.1)),
        row(lambda x: read(volts=x), (1.0, 100.0), (0.9, 100.1)),
        row(lambda x: read(repeats=x), (1, 1000), (0, 1001)),
        row(lambda x: read(lux=x), (0.0, 1e7), (-0.1, 2e7)),
        row(lambda x: read(ambient_lx=x), (0.0, 5.0), (-0.1,)),
        row(lambda x: replace(STEP, minutes=x), (0, 1440), (-1, 1441)),
        row(lambda x: replace(STEP, risk=x), (0, 3), (-1, 4)),
        row(lambda x: replace(STEP, people=x), (1, 4), (0, 5)),
        row(lambda x: group(count=x), (0, 1000), (-1, 1001)),
        row(lambda x: LeadLaid(Lead((LeadPart("adapter", place="x" * x),))), (0, 60), (61,)),
        row(lambda x: replace(HOUSING, shown=x), (1,), (0,)),
        row(lambda x: replace(HOUSING, doubt=x), (0.0, 10.0), (-0.1, 10.1)),
        row(wide, (SIZE,), (SIZE - 1, SIZE + 1)),
        row(lambda x: replace(HOUSING, covariance=((0.0,) * x,) * SIZE), (SIZE,), (SIZE - 1, 0)),
        row(lambda x: replace(HOUSING, figures=HOUSING.figures[x:]), (0,), (1,)),
        row(lambda x: replace(SEAT, shown=x), (1,), (0,)),
        row(likely, (0.0, 1.0), (-0.01, 1.01)),
        row(lambda x: figured(0, value=x), (-180.0, 180.0), (-180.1, 180.1)),
        row(lambda x: figured(1, name=x), ("axial",), ("clock", "zenith")),
        row(lambda x: replace(SEAT, explanations=SEAT.explanations[x:]), (0, 1), (99,)),
        row(lambda x: replace(SEAT, explanations=SEAT.explanations * x), (1,), (0, 2)),
        row(explained_by, ("right",), ("moonlight",)),
        row(lambda x: OriginalsDeleted(x, 1), (1,), (0,)),
        row(lambda x: OriginalsDeleted(1, x), (1, 9), (0, 10)),
        row(lambda x: FaultSought(DARK, ((FUSE, x),)), (0, ANSWERS - 1), (-1, ANSWERS)),
        row(lambda x: FaultSought(DARK, ((x, 0),)), (FUSE,), ("dance",)),
        row(lambda x: FaultSought(x), (DARK,), ("glows green",)),
        row(lambda x: FaultSought(DARK, (), (x,)), ("fuse",), ("ghost",)),
        row(lambda x: FaultFound(x, "fuse"), (DARK,), ("glows green",)),
        row(lambda x: FaultFound(DARK, x), ("fuse",), ("ghost",)),
        row(
            lambda x: LeadLaid(Lead((LeadPart("adapter", length_m=x),))),
            (None, 0.1, 10.0),
            (-0.1, 10.1),
        ),
        row(lambda x: group(most=x), (6, 1000), (5, 1001)),
        row(lambda x: fed(pwm_hz=100.0, pwm_duty=x), (None, 0.01, 1.0), (0.0, -0.4, 1.1)),
        row(lambda x: fed(pwm_hz=x, pwm_duty=0.5), (1.0, 20_000.0), (0.0, -100.0, 20_001.0)),
        row(lambda x: chosen(watts=x), (0.1,), (0.0, -24.0)),
        row(lambda x: chosen(claimed_lm=x), (1.0,), (0.0, -1900.0)),
        row(lambda x: chosen(price=x), (0.0,), (-0.01,)),
        row(lambda x: fed(run_m=x), (0.1, 30.0), (0.0, 31.0)),
        row(lambda x: fed(tap_loads=x), (1, 20), (0, 21)),
    ],
)
def test_a_figure_stands_at_its_bound_and_not_beyond(build, stands, refused):
    for figure in stands:
        plausible.check(build(figure))
    for figure in refused:
        with pytest.raises(ImplausibleError):
            plausible.check(build(figure))


def test_no_entry_can_be_changed_once_it_is_made():
    for kind in KINDS.values():
        assert kind.__dataclass_params__.frozen, kind
    with pytest.raises(dataclasses.FrozenInstanceError):
        AIMED.slope = 0.0


def test_the_seat_says_its_clock_and_whether_the_likeliest_turns_it():
    """The first explanation is the one that counts; only *right* is fine."""
    assert figured(0, value=12.0).clock_deg == (12.0, 1.0)
    levels = {}
    for one in SEAT.explanations:
        first = replace(SEAT, explanations=(one, *(o for o in SEAT.explanations if o is not one)))
        levels[one.id] = first.finding.level
        assert first.is_turned == ("clock" in HYPOTHESIS[one.id].turns)
    assert [name for name, level in levels.items() if level is Level.OK] == ["right"]


def test_checked_says_how_it_was():
    assert "not right" not in Checked("ring", True).in_words()
    assert "not right, torn" in Checked("ring", False, "torn").in_words()


def test_of_a_series_the_middle_picture_is_shown():
    assert replace(TAKEN, pictures=(4, 5, 6)).shown == 5
    assert replace(TAKEN, pictures=(1, 2, 3, 4, 5)).shown == 3
