"""A job whose work at the car is ticked step by step, as tests do it."""

from dataclasses import replace

from cold_arc.core.car import front_building as fronts
from cold_arc.core.car.keys import SocketKey
from cold_arc.core.car.lamps import Drive, Optic, Present, Side
from cold_arc.core.job.entries.book_in import Booking, FrontSet, Identified, WorkChosen
from cold_arc.core.job.entries.fit import Clocked, Ticked
from cold_arc.core.job.entries.match import Chosen
from cold_arc.core.job.entries.plan import Routed
from cold_arc.core.job.entries.prove import Proved
from cold_arc.core.light_source import LightSource
from cold_arc.core.work import proof
from cold_arc.core.work.access import Fasteners, RouteStep
from tests.core.job.written import WrittenJob

LAMPS = [SocketKey(name, 1, side) for name in ("headlamp", "foglamp") for side in Side]


SLIM = LightSource("slim", "bulb", "H7", 24, 1900, 9, 16, 50, faces=2)


GRILLE = RouteStep(
    1,
    "Grille",
    6,
    ("T20",),
    (Fasteners("push pin", 4, "grille"),),
    shared=True,
    opens="grille",
    unplug=("camera",),
)


CAP = RouteStep(2, "Cap", 2)


DEEP = RouteStep(
    3,
    "Frame",
    4,
    (),
    (Fasteners("bolt", 2, "frame"),),
    shared=True,
    opens="frame",
    behind=("grille",),
)


class Job(WrittenJob):
    """A job whose entries are a minute apart."""

    def __init__(self, ways, sockets=LAMPS, source=SLIM):
        super().__init__()
        self.add(Booking("A", "Velmar", "Dorin", Drive.LEFT, "un"))
        self.add(FrontSet(fronts.made("two-singles", ["fog", "turn"])))
        self.add(WorkChosen(), *sockets)
        self.add(Identified(Optic.REFLECTOR, "H7", Present.HALOGEN), *sockets)
        self.add(Chosen(source, "thin"), *sockets)
        first = 1
        for name, steps in ways.items():
            units = [key.of_unit for key in sockets if key.unit == name]
            self.add(
                Routed("way", tuple(replace(it, id=first + n) for n, it in enumerate(steps))),
                *units,
            )
            first += len(steps)

    def tick(self, step, who="", minutes=1.0):
        for key, name in step.ticks:
            self.add(Ticked(name, who), key, minutes=minutes)
            minutes = 0.0

    def do(self, *kinds):
        """Ticks every step of some kinds that can be done, in order."""
        for step in self.work.steps:
            if step.kind not in kinds:
                continue
            work = self.work
            if not work.done(step) and not work.waits_for(step):
                self.tick(step)

    def prove(self, stage_pass="open"):
        for function in ("low", "high", "fog", "turn"):
            for cell in proof.cells([function]):
                self.add(Proved(stage_pass, function, Side(cell.side), cell.engine, "works"))

    def fit_all(self):
        self.do("tools", "extra", "open", "fit")
        for key in LAMPS:
            self.add(Clocked(0.0), key)

    def closing(self, words):
        return next(it for it in self.work.steps if it.kind == "close" and words in it.text)


def two_lamps():
    return Job({"headlamp": (GRILLE, DEEP, CAP), "foglamp": (GRILLE, CAP)})
