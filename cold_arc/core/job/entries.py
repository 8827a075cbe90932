"""What a job's record is made of: one kind of entry for each thing that is said of a car."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass, replace

from cold_arc.core.aim.rules import AimRule, Target, built_in, target_for
from cold_arc.core.aim.shop_rules import ShopRule
from cold_arc.core.aim.taping import Floor
from cold_arc.core.ballast import BallastTest
from cold_arc.core.car.bases import MeasuredBulb
from cold_arc.core.car.condition import UnitCondition
from cold_arc.core.car.front import Front
from cold_arc.core.car.lamps import Drive, Optic, Present, Side
from cold_arc.core.electrical import SupplyFacts
from cold_arc.core.light_source import LightSource
from cold_arc.core.metering.readings import WallReading
from cold_arc.core.wallphoto.camera import PhotoMark
from cold_arc.core.wallphoto.isolux import LuxReading
from cold_arc.core.wallphoto.measure import MeasuredPhoto as PhotoMeasured
from cold_arc.core.work.access import RouteStep


@dataclass(frozen=True)
class Booking:
    """The car, the customer's wish, the terms. *volts* is the nominal supply."""

    reference: str
    make: str
    model: str
    drive: Drive
    market: str
    road_use: bool = True
    year: int | None = None
    volts: float = 12.0
    earth_positive: bool = False
    wishes: tuple[str, ...] = ()
    complaint: str = ""
    tampered: str = ""
    due: dt.date | None = None

    @property
    def vehicle(self) -> str:
        """Make, model and year as one line."""
        return " ".join(str(part) for part in (self.make, self.model, self.year) if part)


@dataclass(frozen=True)
class FrontSet:
    """What the front of the car is made of."""

    front: Front


@dataclass(frozen=True)
class WorkChosen:
    """The sockets to work on are those of the entry."""


@dataclass(frozen=True)
class Identified:
    """What the entry's sockets are."""

    optic: Optic
    base: str
    present: Present


@dataclass(frozen=True)
class OldBulbMeasured:
    """What calipers say of the old bulb of the entry's sockets, where its base's figures are not
    known.
    """

    bulb: MeasuredBulb


@dataclass(frozen=True)
class Inspected:
    """What was seen on the entry's units."""

    seen: UnitCondition


@dataclass(frozen=True)
class Read:
    """A reading on the wall; *phase* is "before" or "after"; *typed* as it was entered.

    *repeat*: it is joined with those of the same place before it, instead of taking their place.
    """

    phase: str
    typed: str
    reading: WallReading
    repeat: bool = False


@dataclass(frozen=True)
class Rastered:
    """Many readings of the entry's beam from a file, in place of each other: *name* of the file,
    *phase*, and each.
    """

    phase: str
    name: str
    readings: tuple[WallReading, ...]


@dataclass(frozen=True)
class WarmStarted:
    """A warm-up run begins: the source of the entry's beam is switched on cold; *device* it is read
    with.
    """

    phase: str
    device: str = ""


@dataclass(frozen=True)
class WarmRead:
    """One reading of a warm-up run, typed; how long after its start the entry's moment says."""

    phase: str
    typed: str
    lux: float


@dataclass(frozen=True)
class Warmed:
    """A warm-up run recorded: (s since it was switched on, lx) each."""

    phase: str
    samples: tuple[tuple[float, float], ...]
    device: str = ""


@dataclass(frozen=True)
class Tried:
    """A reading of a shoot-out: which *turn* it is of, with which *source* ("own": the lamp's
    own).
    """

    turn: int
    source: str
    typed: str
    reading: WallReading


@dataclass(frozen=True)
class ShootOutEnded:
    """The shoot-out up to here is over; what is tried after it begins another."""


@dataclass(frozen=True)
class Chosen:
    """What will be fitted: a source as it stood in the catalogue that day, or None to stay with the
    original.

    *override* is the recorded reason where the market's rule or a stop speaks against it,
    *off_road* that it is for off-road or show use; *accepted*: the ids of the cautions the customer
    accepted.
    """

    source: LightSource | None
    reason: str
    who: str = ""
    override: str = ""
    off_road: bool = False
    accepted: tuple[str, ...] = ()


@dataclass(frozen=True)
class Refused:
    """Asked for and not fitted: *source* by name, why, and who said no."""

    source: str
    reason: str
    who: str = ""


@dataclass(frozen=True)
class Supplied:
    """What is known of the sockets' electrical feed."""

    facts: SupplyFacts


@dataclass(frozen=True)
class BallastTested:
    """The ballast test of an HID pair."""

    test: BallastTest


@dataclass(frozen=True)
class Routed:
    """The way in to the entry's units."""

    name: str
    steps: tuple[RouteStep, ...]


@dataclass(frozen=True)
class ExtraWork:
    """What else is done to the entry's units while the car is here: ids of the extra work, in place
    of those before.
    """

    extras: tuple[str, ...]


@dataclass(frozen=True)
class Ordered:
    """A part on order for the entry's units: *due* when it is expected, *arrived* once it is
    here.
    """

    what: str
    due: dt.date | None = None
    arrived: bool = False


@dataclass(frozen=True)
class PlannedFor:
    """When the car is worked on: *day* (None: taken off it), minutes after midnight there, how many
    people.
    """

    day: dt.date | None
    starts_min: int = 540
    people: int = 1


@dataclass(frozen=True)
class PlanKept:
    """The car's plan as it stood: its minutes, each step in words, fasteners by kind."""

    minutes: float
    one_by_one: float
    steps: tuple[str, ...]
    fasteners: int


@dataclass(frozen=True)
class Ticked:
    """A step done; *step* is "route:3" or "close:3" or "extra:polish", of units, or "fit:seat", of
    sockets.

    *who* did it, as told on that device; *reason*: why a panel was closed over what should have
    come first.
    """

    step: str
    who: str = ""
    reason: str = ""


@dataclass(frozen=True)
class ClockRan:
    """The clock of the work at the car was started, or stopped."""

    running: bool


@dataclass(frozen=True)
class Checked:
    """A check at the lamp: whether it is right, what was seen; of an O-ring its thickness and the
    one needed.
    """

    check: str
    right: bool
    note: str = ""
    fitted_mm: float | None = None
    needed_mm: float | None = None


@dataclass(frozen=True)
class Pictured:
    """A picture kept by the shop under a number, taken *phase* ("before" or "after") a step at
    Fit.
    """

    picture: int
    phase: str
    step: str = ""
    note: str = ""


@dataclass(frozen=True)
class FastenerBack:
    """Fasteners of one step accounted for: *back* in place, *noted* missing or replaced, and why.

    *place* as the route says it ("": of an entry made before places told two groups of one kind
    apart). Of the *noted*, *broken* broke; *ordered*: new ones are. *lies*: where those that are
    out lie.
    """

    step: int
    kind: str
    back: int
    noted: int = 0
    note: str = ""
    place: str = ""
    broken: int = 0
    ordered: bool = False
    lies: str = ""


@dataclass(frozen=True)
class Clocked:
    """Where the bulb stopped when it locked, degrees clockwise from upright, seen from behind.

    *depth_mm*: the middle of its chips above the reference plane, by caliper, where it was taken.
    """

    stopped_deg: float
    typed: str = ""
    depth_mm: float | None = None


@dataclass(frozen=True)
class Proved:
    """One cell of the board; *stage_pass* is "open" or "closed"."""

    stage_pass: str
    function: str
    side: Side
    engine: str
    result: str


@dataclass(frozen=True)
class Interlocked:
    """How functions work together in a pass of the board: whether an *interlock* does as the
    market's rule has it.
    """

    stage_pass: str
    interlock: str
    right: bool


@dataclass(frozen=True)
class FaultSought:
    """A fault being looked for: the *symptom*, the tests made with which of their answers each
    gave, the causes whose cure was *tried* and did not help."""

    symptom: str
    answers: tuple[tuple[str, int], ...] = ()
    tried: tuple[str, ...] = ()


@dataclass(frozen=True)
class FaultFound:
    """A fault found: the *cause* of a *symptom*, and whether its cure *cured* it."""

    symptom: str
    cause: str
    cured: bool = True


@dataclass(frozen=True)
class NotOnCar:
    """This car has no such function (*absent*), or has it after all."""

    function: str
    absent: bool = True


@dataclass(frozen=True)
class Aimed:
    """Where the cut-off or hot spot stands: slope, up positive; sideways slope, right positive.

    *phase* is "found" or "left"; *turns* of the height screw and *turns_side* of the side screw
    since the reading before, clockwise positive, if any; *spacing_m* between the two lamps'
    centres; *mark* the slope the maker marks; *own*: the shop's own copy of the rule, where it goes
    by one; *simulated*: no lamp was looked at.
    """

    phase: str
    rule: str
    height_m: float
    distance_m: float
    slope: float
    typed: str
    sideways: float | None = None
    turns: float | None = None
    spacing_m: float | None = None
    turns_side: float | None = None
    mark: float | None = None
    own: ShopRule | None = None
    simulated: bool = False


@dataclass(frozen=True)
class WallLaid:
    """How the entry's lamps stand before the wall they are aimed on: the *rule*, heights and
    distances, the *floor* where it is not level, and the maker's own slope where one is marked on
    the lamp (*mark*, down negative); *own*: the shop's own copy of the rule; *right_height_m*: the
    right lamp's height, where it stands otherwise than the left."""

    rule: str
    height_m: float
    distance_m: float
    spacing_m: float | None = None
    floor: Floor | None = None
    mark: float | None = None
    own: ShopRule | None = None
    right_height_m: float | None = None

    def of(self, side: Side) -> WallLaid:
        """The same for the lamp of one side, at its own height."""
        own = (self.right_height_m if side is Side.RIGHT else None) or self.height_m
        return replace(self, height_m=own, right_height_m=None)


@dataclass(frozen=True)
class AdjustersTold:
    """Whether one adjuster moves low and high beam of the entry's units, which have a bulb for
    each.
    """

    shared: bool


@dataclass(frozen=True)
class Readied:
    """What of the list before aiming holds (ids of `core.aim.taping.CHECKS`)."""

    done: tuple[str, ...]


@dataclass(frozen=True)
class WallPhotographed:
    """A photograph of the entry's beam on the wall, as found or as left (*phase*).

    *pictures*: the numbers of its pictures, of a series from the darkest to the brightest; the
    middle one is shown, *across* by *down* pixels, in which the *marks* are told. *axis_m*: the
    lamp's axis above the floor at the wall. *found*: what it says, once measured; *wall* the
    picture laid flat, whose white is *white_lux*; *simulated*: no lamp was looked at.
    """

    phase: str
    pictures: tuple[int, ...]
    distance_m: float
    axis_m: float
    across: int = 0
    down: int = 0
    marks: tuple[PhotoMark, ...] = ()
    by_target: bool = False
    lux: LuxReading | None = None
    found: PhotoMeasured | None = None
    wall: int | None = None
    white_lux: float | None = None
    simulated: bool = False

    @property
    def shown(self) -> int:
        """The number of the picture shown, by which the photograph goes."""
        return self.pictures[len(self.pictures) // 2]


@dataclass(frozen=True)
class HandedOver:
    """The close of the job. *cautions* are the ids of those the customer was told."""

    technician: str
    cautions: tuple[str, ...]
    law_told: bool
    old_parts_kept: bool
    recheck: dt.date
    warranty_end: dt.date | None = None
    switching: str = ""
    note: str = ""


@dataclass(frozen=True)
class Passed:
    """A stage is finished for what the entry is about; *reason* says why when something was
    missing.

    It is about the stage's own things; for a stage of the whole car, about the sockets it is
    finished for.
    """

    stage: str
    reason: str = ""


@dataclass(frozen=True)
class Reopened:
    """Back to a stage: it and all after it are open again for what the entry is about."""

    stage: str


Payload = (
    Booking
    | FrontSet
    | WorkChosen
    | Identified
    | OldBulbMeasured
    | Inspected
    | Read
    | Rastered
    | WarmStarted
    | WarmRead
    | Warmed
    | Tried
    | ShootOutEnded
    | Chosen
    | Refused
    | Supplied
    | BallastTested
    | Routed
    | ExtraWork
    | Ordered
    | PlannedFor
    | PlanKept
    | Ticked
    | ClockRan
    | Checked
    | Pictured
    | FastenerBack
    | Clocked
    | Proved
    | Interlocked
    | FaultSought
    | FaultFound
    | NotOnCar
    | Aimed
    | WallLaid
    | AdjustersTold
    | Readied
    | WallPhotographed
    | HandedOver
    | Passed
    | Reopened
)


def target_of(aim: Aimed | WallLaid) -> Target:
    """What its rule asks of an aimed lamp, or of lamps before a wall; OutsideRuleError where it has
    no answer.
    """
    return target_for(rule_of(aim), aim.height_m, aim.mark)


def rule_of(aim: Aimed | WallLaid) -> AimRule:
    """The rule gone by: one that came with the program, or the shop's own copy as it then was."""
    return aim.own.as_rule() if aim.own else built_in()[aim.rule]
