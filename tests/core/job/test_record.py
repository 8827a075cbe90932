"""The record, what each stage wants of its things, and how entries are written down."""

import datetime as dt
from dataclasses import dataclass, replace

import pytest

from cold_arc.core.car import front_building as fronts
from cold_arc.core.car.bases import MeasuredBulb
from cold_arc.core.car.condition import UnitCondition
from cold_arc.core.car.keys import BeamKey, SocketKey
from cold_arc.core.car.lamps import Drive, Function, Holds, Optic, Present, Side, side_words
from cold_arc.core.job import at_lamp, codec, facts, needs, plausible, tray
from cold_arc.core.job.entries import KINDS
from cold_arc.core.job.entries.aim import Aimed
from cold_arc.core.job.entries.book_in import (
    Booking,
    FrontSet,
    Identified,
    OldBulbMeasured,
    WorkChosen,
)
from cold_arc.core.job.entries.fit import Clocked, FastenerBack, Ticked
from cold_arc.core.job.entries.hand_over import HandedOver
from cold_arc.core.job.entries.inspect import Inspected
from cold_arc.core.job.entries.kind import AimPhase, EntryKind, Payload, Phase, takes_place_of
from cold_arc.core.job.entries.match import Chosen
from cold_arc.core.job.entries.plan import Routed
from cold_arc.core.job.entries.prove import Interlocked, NotOnCar, Proved
from cold_arc.core.job.entries.readings import Read
from cold_arc.core.job.progress import Progress
from cold_arc.core.job.record import Entry, Record, Unreadable
from cold_arc.core.job.stages import Stage
from cold_arc.core.light_source import LightSource
from cold_arc.core.metering.readings import WallReading
from cold_arc.core.work import proof
from cold_arc.core.work.access import Fasteners, RouteStep
from cold_arc.core.work.tick import Tick

FRONT = fronts.made("two-singles", ["turn"])
LEFT, RIGHT = SocketKey("headlamp", 1, Side.LEFT), SocketKey("headlamp", 1, Side.RIGHT)
UNIT, BEAM = LEFT.of_unit, BeamKey(Function.LOW, Side.LEFT)
NOW = dt.datetime(2026, 1, 5, 9, tzinfo=dt.UTC)
SLIM = LightSource(
    "slim", "bulb", "H7", 24, 1900, 9, 16, 50, faces=2, gap_mm=1.5, lcl_mm=25.0, emitter_mm=4.2
)
SHARED = RouteStep(1, "Shroud off", 5, fasteners=(Fasteners("push pin", 6, "shroud"),), shared=True)


class Story:
    def __init__(self):
        self.entries = []
        self.add(Booking("A", "Velmar", "Dorin", Drive.LEFT, "un"))
        self.add(FrontSet(FRONT)).add(WorkChosen(), LEFT, RIGHT)

    def add(self, payload, *about):
        plausible.check(payload)
        self.entries.append(Entry(len(self.entries) + 1, NOW, frozenset(about), payload))
        return self

    @property
    def record(self):
        return Record(self.entries)

    def missing(self, stage, key=None):
        progress = Progress(self.record)
        return needs.missing(progress, stage, key or progress.shares(LEFT, stage)[0])


def test_ten_stages_in_order():
    assert [stage.number for stage in Stage] == list(range(1, 11))
    assert Stage.BOOK_IN.next is Stage.INSPECT
    assert Stage.HAND_OVER.next is None


def test_an_undone_entry_does_not_count():
    story = Story().add(Inspected(UnitCondition(haze=3)), UNIT)
    assert story.record.condition(UNIT).haze == 3
    last = story.entries[-1]
    story.entries[-1] = Entry(last.id, last.at, last.about, last.payload, undone_at=NOW)
    assert story.record.condition(UNIT) is None


def test_missing_at_each_early_stage():
    story = Story()
    assert story.missing(Stage.BOOK_IN)
    story.add(Identified(Optic.PROJECTOR, "H7", Present.HALOGEN), LEFT, RIGHT)
    assert story.missing(Stage.BOOK_IN) == []
    assert story.missing(Stage.INSPECT) == ["condition not recorded"]
    assert story.missing(Stage.BASELINE) == ["no reading before: peak, edge, stray"]
    story.add(Read(Phase.BEFORE, "180", WallReading("peak", 180, 10, 13)), BEAM)
    assert story.missing(Stage.BASELINE) == ["no reading before: edge, stray"]
    assert story.missing(Stage.VERIFY) == ["no reading after: peak"]
    assert story.missing(Stage.MATCH) == ["nothing chosen"]
    assert story.missing(Stage.PLAN) == ["no access route"]
    assert story.missing(Stage.HAND_OVER) == ["customer sheet not completed"]


def test_a_signal_lamp_needs_no_wall():
    turn = SocketKey("indicator", 1, Side.LEFT)
    progress = Progress(Story().add(WorkChosen(), turn).record)
    for stage in (Stage.BASELINE, Stage.AIM, Stage.VERIFY):
        assert progress.things(stage) == []


def fitted():
    story = Story().add(Identified(Optic.PROJECTOR, "H7", Present.HALOGEN), LEFT, RIGHT)
    story.add(Chosen(SLIM, "thin"), LEFT, RIGHT)
    story.add(Routed("test way", (SHARED, RouteStep(2, "Cap off", 2))), UNIT, RIGHT.of_unit)
    return story


def test_fit_wants_every_step_and_good_clocking():
    story = fitted()
    steps = at_lamp.steps_to_tick(story.record, LEFT)
    assert steps[:2] == ["route:1", "route:2"]
    assert story.missing(Stage.FIT) == [f"{len(steps)} steps not ticked", "clocking not read"]
    for step in steps:
        story.add(Ticked(Tick(step)), UNIT if step.startswith("route:") else LEFT)
    story.add(Clocked(20.0), LEFT)
    assert story.missing(Stage.FIT) == ["clocking too far off"]
    story.add(Clocked(181.0), LEFT)  # two equal faces: half a turn is no turn
    assert story.missing(Stage.FIT) == []


def test_loading_a_route_afresh_needs_fresh_ticks():
    story = fitted().add(Ticked(Tick("route:1")), UNIT)
    story.add(Routed("other", (RouteStep(3, "Door open", 2),)), UNIT)
    assert "route:3" in at_lamp.steps_to_tick(story.record, LEFT)
    assert "route:3" not in story.record.ticks(UNIT)


def test_tray_counts_out_back_and_noted():
    story = fitted()
    assert tray.tray(story.record, UNIT)[0].loose == 0
    story.add(Ticked(Tick("route:1")), UNIT)
    assert tray.tray(story.record, UNIT)[0].loose == 6
    story.add(FastenerBack(1, "push pin", back=4, noted=1, note="broken"), UNIT)
    assert tray.tray(story.record, UNIT)[0].loose == 1
    assert any("1 fastener or plug not" in text for text in story.missing(Stage.PROVE))


def prove_all(story):
    for name in ("fog", "drl", "turn", "position", "marker", "hazard", "high"):
        story.add(NotOnCar(name))
    for each in proof.PASSES:
        for cell in proof.cells(["low"]):
            story.add(Proved(each, cell.function, Side(cell.side), cell.engine, "works"))
    for name in ("accessory", "locked-dark"):
        story.add(Interlocked("closed", name, True))
    return story


def test_prove_wants_every_cell_of_both_passes():
    story = fitted()
    assert story.missing(Stage.PROVE) == [
        "not proved before closing: Low beam left, engine off, and 1 more",
        "not proved after refit: Low beam left, engine off, and 31 more",
        "10 interlocks not tried",
    ]
    prove_all(story)
    assert story.missing(Stage.PROVE) == []
    story.add(Proved("closed", "low", Side.LEFT, "on", "flickers"))
    assert story.missing(Stage.PROVE) == ["after refit: Low beam left, engine running flickers"]


@pytest.mark.parametrize(
    ("slope", "missing"),
    [(-0.012, []), (-0.005, []), (-0.004, ["aim as left is out"]), (-0.03, ["aim as left is out"])],
)
def test_aim_wants_a_reading_inside_the_band(slope, missing):
    story = Story().add(Aimed(AimPhase.LEFT, "un-r48-low", 0.65, 10, slope, ""), BEAM)
    assert story.missing(Stage.AIM) == missing


def test_aim_out_sideways():
    story = Story().add(
        Aimed(AimPhase.LEFT, "uk-inspection-low", 0.65, 7.62, -0.012, "", sideways=0.05), BEAM
    )
    assert story.missing(Stage.AIM) == ["aim as left is out sideways"]


def test_staying_with_the_original_needs_no_clocking():
    story = fitted().add(Chosen(None, "good enough"), LEFT)
    assert not at_lamp.needs_clocking(story.record, LEFT)


PAYLOADS = [
    Booking(
        "A", "Velmar", "Dorin", Drive.RIGHT, "uk", year=1952, volts=6.0, due=dt.date(2026, 12, 1)
    ),
    FrontSet(fronts.made("four-round", ["fog", "position"])),
    WorkChosen(),
    Identified(Optic.BI_PROJECTOR, "D2S", Present.HID),
    OldBulbMeasured(MeasuredBulb(24.0, 28.6)),
    Inspected(UnitCondition(haze=3)),
    Chosen(SLIM, "thin", override="told"),
    Chosen(None, "stay"),
    Routed("way", (SHARED,)),
    Read(Phase.AFTER, "41 x10", WallReading("peak", 410, 7.62, 13.4, across_m=0.1)),
    HandedOver("I. Corvane", ("glare",), True, True, dt.date(2027, 1, 1)),
]


@pytest.mark.parametrize("payload", PAYLOADS, ids=lambda payload: type(payload).__name__)
def test_every_payload_survives_being_written_down(payload):
    kind = payload.ENTRY
    assert codec.from_plain(kind.id, kind.version, codec.to_plain(payload)) == payload


HOUSING_READ = {
    **{"shown": 1, "housing": "reflector", "base": "H7", "traffic": "right", "high": False},
    **{"rated_volts": 12.0, "haze": 0.1, "volts": 13.2, "left_pct": 0.4, "absolute": True},
    **{"figures": [], "covariance": [], "doubt": 0.05, "notes": [], "simulated": False},
}


def test_what_an_older_version_stored_is_lifted():
    """Identified said "housing" in its first version; a complete assembly is a sealed optic now."""
    old = {"housing": "assembly", "base": "H4", "present": "halogen"}
    assert codec.from_plain("identified", 1, old) == Identified(Optic.SEALED, "H4", Present.HALOGEN)
    old["housing"] = "lens-optic"
    assert codec.from_plain("identified", 1, old).optic is Optic.LENS_OPTIC
    second = {"optic": "reflector", "base": "H7", "present": "halogen"}
    assert codec.from_plain("identified", 2, second).holds is Holds.BULB
    lead = {"lead": {"parts": [{"kind": "adapter", "plug": "9007"}], "reach_m": None}}
    assert codec.from_plain("lead", 1, lead).lead.parts[0].place == ""
    before = {"source": codec.to_plain(SLIM), "reference": "A-1", "left_on": "2026-03-03"}
    assert codec.from_plain("fitted-before", 1, before).warranty_end is None
    housing = codec.from_plain("housing-read", 1, HOUSING_READ)
    assert not housing.texture
    assert housing.lamp.texture is None


def test_every_older_version_has_an_upcaster():
    for kind in KINDS.values():
        assert set(kind.ENTRY.older) == set(range(1, kind.ENTRY.version))


@dataclass(frozen=True)
class Weighed(Payload):
    """A kind nobody has told anything else of."""

    ENTRY = EntryKind("car-weighed")

    kg: float


def test_a_new_kind_is_one_class(monkeypatch):
    """It is stored, read, held to what every figure is, said, and stands in place of an earlier."""
    monkeypatch.setitem(KINDS, "car-weighed", Weighed)
    weighed = Weighed(1200.0)
    assert plausible.read("car-weighed", 1, codec.to_plain(weighed)) == weighed
    assert weighed.in_words() == "Car weighed"
    assert takes_place_of(Weighed(1300.0), weighed)
    assert isinstance(plausible.read("car-weighed", 1, {"kg": float("inf")}), Unreadable)


@pytest.mark.parametrize(
    ("kind", "version"), [("levitated", 1), ("identified", 99), ("identified", 0), ("read", None)]
)
def test_an_unknown_kind_or_version_is_said(kind, version):
    with pytest.raises(codec.UnknownEntryError):
        codec.from_plain(kind, version, {})
    assert isinstance(plausible.read(kind, version, {}), Unreadable)


def test_a_key_that_is_not_known_is_refused_not_dropped():
    plain = codec.to_plain(Inspected(UnitCondition(haze=1))) | {"room": 40}
    assert isinstance(plausible.read("inspected", 1, plain), Unreadable)
    deep = {"seen": {"haze": 1, "room": 40}}
    assert isinstance(plausible.read("inspected", 1, deep), Unreadable)


@pytest.mark.parametrize(
    "payload",
    [
        Inspected(UnitCondition(haze=7)),
        Inspected(UnitCondition(haze=1, crack="a little")),
        Chosen(replace(SLIM, colour="mauve"), "pretty"),
        Chosen(replace(SLIM, kind="candle"), "warm"),
        OldBulbMeasured(MeasuredBulb(28.0, 24.0)),
    ],
)
def test_what_is_not_in_its_list_is_not_stored(payload):
    with pytest.raises(plausible.ImplausibleError):
        plausible.check(payload)


def test_sides_are_said_with_both_words():
    assert side_words(Side.LEFT, Drive.LEFT) == "Left · driver"
    assert side_words(Side.LEFT, Drive.RIGHT) == "Left · passenger"


def test_a_lamp_stands_beside_the_cars_other_white_lamps_alone():
    """An amber turn signal or a yellow fog lamp is another colour on purpose."""
    high, turn = SocketKey("headlamp", 2, Side.LEFT), SocketKey("indicator", 1, Side.LEFT)
    story = Story().add(WorkChosen(), LEFT, high, turn)
    story.add(Identified(Optic.REFLECTOR, "H7", Present.HALOGEN), LEFT, high)
    story.add(Identified(Optic.REFLECTOR, "PY21W", Present.FILAMENT), turn)

    def others():
        return facts.setting_of(story.record, story.record.booking, LEFT).others

    assert others() == (("the high beam", 3200.0),)
    story.add(Chosen(replace(SLIM, colour="yellow"), "yellow"), high)
    assert others() == ()
