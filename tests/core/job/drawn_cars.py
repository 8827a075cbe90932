"""Cars drawn at random, and a technician who does what the program lets be done."""

from dataclasses import replace

from hypothesis import strategies as st

from cold_arc.core.car import front_building as fronts
from cold_arc.core.car.condition import UnitCondition
from cold_arc.core.car.lamps import Drive, Holds, Optic, Present, Side
from cold_arc.core.job import at_lamp, needs, proofs
from cold_arc.core.job.entries.book_in import Booking, FrontSet, Identified, WorkChosen
from cold_arc.core.job.entries.fit import Checked, Clocked, FastenerBack, Ticked
from cold_arc.core.job.entries.inspect import Inspected
from cold_arc.core.job.entries.match import (
    RENEWALS,
    Chosen,
    LeadLaid,
    Renewed,
    SwitchingPlanned,
    WiresMapped,
)
from cold_arc.core.job.entries.plan import ExtraWork, Routed
from cold_arc.core.job.entries.prove import Interlocked, NotOnCar, Proved
from cold_arc.core.job.entries.stages import Passed
from cold_arc.core.job.tray import tray_of
from cold_arc.core.light_source import LightSource
from cold_arc.core.wiring import leads
from cold_arc.core.work import access, proof
from cold_arc.core.work.extras import extras
from cold_arc.core.work.tick import Tick
from tests.core.job.written import WrittenJob

WAYS = {way.name: way.steps for way in access.starter_ways()}
COVERED = ("Cap on, its lip", "Boot")
SOURCE = {"watts": 24, "claimed_lm": 1900, "supply_min_v": 9, "supply_max_v": 16, "price": 50}


def source(kind="bulb", driver="inside", base="H7", name="slim"):
    return LightSource(name, kind, base, faces=2, driver=driver, **SOURCE)


class Car(WrittenJob):
    """A car under work: its record, and a technician who does what the program lets be done."""

    def tick(self, step):
        for key, name in step.ticks:
            self.add(Ticked(Tick(name)), key)
        if step.check:
            self.add(Checked(step.check, True), *(key for key, _ in step.ticks))

    def count_back(self, step):
        for row in tray_of(self.record, step.opening):
            if row.loose:
                said = FastenerBack(
                    row.step, row.fasteners.kind, row.count, place=row.fasteners.place
                )
                self.add(said, *row.units)

    def prove(self, unit):
        """What one lamp gives, seen to work while it is open."""
        for key in at_lamp.sockets_of(self.record, unit):
            for cell in proofs.unproved_open(self.record, key):
                side = Side(cell.side)
                self.add(Proved(proofs.OPEN, cell.function, side, cell.engine, "works"))

    def prove_closed(self):
        """Everything the car has, seen to work after refit, by itself and together."""
        there = proofs.board(self.record, proofs.CLOSED)
        for cell in proof.cells(proofs.board_functions(self.progress, proofs.CLOSED)):
            if there.get(cell) != "works":
                side = Side(cell.side)
                self.add(Proved(proofs.CLOSED, cell.function, side, cell.engine, "works"))
        for interlock in proofs.interlocks_asked(self.progress):
            self.add(Interlocked(proofs.CLOSED, interlock.id, True))

    def read_clocks(self):
        for key in self.record.sockets:
            if at_lamp.needs_clocking(self.record, key) and not at_lamp.clockings(self.record, key):
                self.add(Clocked(0.0), key)

    def work_through(self):
        """Does whatever can be done, as often as it takes; what was done, in order."""
        done = []
        self.read_clocks()
        while can := self.can_be_done():
            for step in can:
                self.do(step)
            done += can
        work = self.work
        undone = [step.text for step in work.steps if not work.done(step)]
        assert not undone
        return done

    def can_be_done(self):
        """The steps that wait for nothing; a proof by itself, since it puts the battery on."""
        work = self.work
        can = [step for step in work.steps if not work.done(step) and not work.waits_for(step)]
        proving = [step for step in can if step.kind == "prove"]
        return can if not proving else [step for step in can if step.kind != "prove"] or proving[:1]

    def do(self, step):
        if step.kind == "prove":
            self.prove(*step.units)
        else:
            self.tick(step)
        if step.kind in ("close", "plug"):
            self.count_back(step)

    def is_replaced(self, unit):
        """Whether another lamp takes the place of all a unit's bulbs."""
        return all(map(self.record.is_taken_over, at_lamp.sockets_of(self.record, unit)))

    def finish(self, *stages):
        for stage in stages:
            self.add(Passed(stage.value), *self.progress.things(stage))

    def missing(self, stage):
        return [
            words
            for key in self.progress.things(stage)
            for words in needs.missing(self.progress, stage, key)
        ]


# What holds no bulb.
WITHOUT = (
    Identified(Optic.PLAIN, "", Present.LED, Holds.MODULE, "2-pin", "brown earth", "3 screws"),
    Identified(Optic.SEALED, "", Present.LED, Holds.LAMP),
    Identified(Optic.PLAIN, "", None, Holds.NOTHING),
)


def choices(record, key):
    """What may be chosen for a socket whose lamp stays."""
    if not record.socket(key).holds_bulb:
        return [None, source("module", base=""), source("assembly", base="")]
    drivers = ["inside", "in-line"]
    drivers += ["ballast", "in-place"] if record.base(key).kind == "hid" else []
    return [None, *(source("bulb", driver) for driver in drivers)]


PARTS = st.builds(
    leads.LeadPart,
    st.just(""),
    st.sampled_from(["", "9007", "2-pin"]),
    st.sampled_from(["", *leads.LOCKS]),
    st.none() | st.floats(0.05, 2.0),
    st.sampled_from(["", *leads.TIES]),
)


@st.composite
def leads_laid(draw):
    kinds = draw(st.sets(st.sampled_from(sorted(leads.PARTS))))
    order = [kind for kind in leads.PARTS if kind in kinds]
    return leads.Lead(tuple(replace(draw(PARTS), kind=kind) for kind in order))


@st.composite
def maps(draw, functions):
    wires = [
        leads.MappedWire(role, f"{role} car", f"{role} new", draw(st.sampled_from(FOUND)))
        for role in leads.roles(functions)
    ]
    return leads.WireMap(tuple(wires), draw(st.sampled_from(["", *leads.REVERSED])), "crimp")


FOUND = sorted(leads.FOUND_BY)
SWITCHINGS = st.builds(
    leads.Switching,
    st.sampled_from(sorted(leads.SWITCHED_BY)),
    st.sampled_from([(), ("high",), ("high", "low")]),
    st.booleans(),
    st.booleans(),
)


def tell_leads(car, draw):
    """What some sockets' leads, wires and switching are."""
    for key in car.record.sockets:
        functions = [function.value for function in car.record.socket(key).functions]
        if draw(st.booleans()):
            car.add(LeadLaid(draw(leads_laid())), key)
        if draw(st.booleans()):
            car.add(WiresMapped(draw(maps(functions))), key)
        if draw(st.booleans()):
            car.add(SwitchingPlanned(draw(SWITCHINGS)), key)


@st.composite
def cars(draw):
    """A front, some of its sockets, each pair with a base, a source, a way in of its own."""
    car = Car()
    car.add(Booking("A", "Velmar", "Dorin", Drive.LEFT, draw(st.sampled_from(["un", "us", "uk"]))))
    front = draw(
        st.sampled_from(
            ["dual", "two-singles", "projector-low", "hid-bi-projector", "vintage", "led-whole"]
        )
    )
    more = draw(st.sampled_from([[], ["fog"], ["fog", "turn"], ["drl"]]))
    car.add(FrontSet(fronts.made(front, more)))
    every = list(car.record.front.sockets())
    names = draw(st.sets(st.sampled_from(sorted({key.name for key in every})), min_size=1))
    one_side = draw(st.booleans())
    worked = [key for key in every if key.name in names and not (one_side and key.side == "right")]
    car.add(WorkChosen(), *worked)
    for key in worked:
        hid = "hid" in front and key.unit == "headlamp"
        base = "D2S" if hid else draw(st.sampled_from(["H7", "H11", "H4", "W5W", "P21W", "S2"]))
        present = Present.HID if hid else Present.HALOGEN
        optic = Optic.PROJECTOR if hid else Optic.REFLECTOR
        bulb = Identified(optic, base, present)
        car.add(draw(st.sampled_from([bulb, *WITHOUT])) if front == "led-whole" else bulb, key)
    for unit in car.record.units:
        car.add(Inspected(UnitCondition(haze=draw(st.integers(0, 2)))), unit)
        whole = draw(st.booleans())
        for key in at_lamp.sockets_of(car.record, unit):
            assembly = st.sampled_from([source("assembly")])
            new = draw(assembly if whole else st.sampled_from(choices(car.record, key)))
            car.add(Chosen(new, "as drawn"), key)
            for what in draw(st.sets(st.sampled_from(sorted(RENEWALS)))):
                car.add(Renewed(what), key)
        steps = WAYS[draw(st.sampled_from(sorted(WAYS)))]
        first = max((s.id for r in car.record.all(Routed) for s in r.steps), default=0) + 1
        car.add(Routed("way", access.renumbered(steps, first)), unit)
        car.add(
            ExtraWork(
                tuple(draw(st.sets(st.sampled_from(sorted(extras()))))),
            ),
            unit,
        )
    tell_leads(car, draw)
    car.add(NotOnCar("marker"))
    return car
