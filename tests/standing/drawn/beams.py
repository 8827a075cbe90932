"""Some lamps with beams worked out: what is predicted of a shelf, with what the shop measured; what
a housing is by its own readings.
"""

from __future__ import annotations

from dataclasses import replace

from cold_arc.core.car import bases
from cold_arc.core.car.keys import BeamKey
from cold_arc.core.car.lamps import Function, Optic, Side, Traffic
from cold_arc.core.job.entries.kind import Phase
from cold_arc.core.job.entries.readings import Read
from cold_arc.core.match import choice, own_housing, prediction, weighing
from cold_arc.core.match.experience import KnownSource
from cold_arc.core.match.modelled import setup_of
from cold_arc.core.match.ranking import USUAL_WEIGHTS
from cold_arc.core.metering.readings import WallReading
from tests.core.job.written import WrittenJob
from tests.core.match.lamps import GOOD, REFLECTOR, lamp
from tests.standing.drawn import Answers
from tests.standing.plainly import Fitted

LOW = BeamKey(Function.LOW, Side.LEFT)
SHELF = {
    1: GOOD,
    2: replace(GOOD, name="Thick", faces=4, gap_mm=3.5, price=30),
    3: replace(GOOD, name="Deep", lcl_mm=26.8, claimed_lm=2600),
}
# In m: peak, edge and what else was read of a lamp, lx at 10 m.
READ = {"peak": 196.0, "edge": 101.0, "below": 128.0, "left": 44.0, "right": 71.0, "stray": 2.4}


def answers() -> Answers:
    """Each lamp and its shelf."""
    yield from _shelf()
    yield from _dual()
    yield from _own()


def _shelf() -> Answers:
    projector = lamp(optic=Optic.PROJECTOR, base="H7")
    measured = {"Thick": KnownSource(1.4, 0.1, 3, 1.3, 1.2)}
    for name, setting in (("reflector", REFLECTOR), ("projector", projector)):
        unseen = weighing.weigh(setting, Function.LOW, Traffic.RIGHT, SHELF, measured, None)
        yield f"{name} unseen", [unseen.nominal, unseen.bornes, unseen.places(USUAL_WEIGHTS)]
        weighed = weighing.weigh(setting, Function.LOW, Traffic.RIGHT, SHELF, measured, 120.0)
        yield (
            f"{name} weighed",
            [
                [weighed.nominal, weighed.pattern, weighed.pattern_fails],
                [weighed.bornes, weighed.places(USUAL_WEIGHTS)],
                [[each.prediction, each.sensitivity] for each in weighed.judged],
                [
                    [each.judged.id, each.marks, each.score, each.reason, each.doubt, each.like]
                    for each in weighed.ranked(USUAL_WEIGHTS)
                ],
            ],
        )
        setup = setup_of(setting, Function.LOW, GOOD, Traffic.RIGHT)
        assert setup is not None
        own = prediction.known(setup.reference())
        assert own is not None
        yield f"{name} foretold", prediction.findings(prediction.outlook(setup), own.prediction)


def _dual() -> Answers:
    setting = lamp(Function.LOW, Function.HIGH, base="H4")
    bulb = replace(GOOD, base="H4", rows=2, dip_shield=True)
    base = bases.find("H4")
    assert base is not None
    high = setup_of(setting, Function.HIGH, bulb, Traffic.RIGHT)
    assert high is not None
    shown = Function.LOW, bulb, Traffic.RIGHT
    prediction.OUTLOOKS.forget()  # whatever other tests worked out
    yield "other beam unseen", list(choice.other_beams(setting, *shown))
    prediction.outlook(high)
    yield "other beam half seen", list(choice.other_beams(setting, *shown))
    prediction.outlook(high.reference())
    yield "other beam seen", list(choice.other_beams(setting, *shown))


def _own() -> Answers:
    present = setup_of(REFLECTOR, Function.LOW, None, Traffic.RIGHT)
    assert present is not None
    for count in (2, len(READ)):
        job = WrittenJob()
        for place, lux in list(READ.items())[:count]:
            across, drop = {"left": (-0.6, 0.15), "right": (0.6, 0.15)}.get(place, (0.1, 0.2))
            taken = WallReading(place, lux, 10.0, 13.2, across_m=across, drop_m=drop, meter="b")
            job.add(Read(Phase.BEFORE, "x", taken), LOW)
        record = job.record
        yield f"readings {count}", own_housing.measured_of(record, LOW)
        fit, waits = own_housing.own_fit(record, LOW, present, True)
        yield f"own housing {count}", [waits, fit and [Fitted(fit.left_over), fit.is_own]]
