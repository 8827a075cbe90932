"""What the shop measured, kept with its jobs: kept anew as they change, by lamp, never in the way
of anything else.
"""

from dataclasses import replace

import pytest
from sqlalchemy import text

from cold_arc.core.car import front_building as fronts
from cold_arc.core.car.keys import BeamKey, SocketKey
from cold_arc.core.car.lamps import Drive, Function, Optic, Present, Side
from cold_arc.core.job.entries.book_in import Booking, Identified
from cold_arc.core.job.entries.kind import Phase
from cold_arc.core.job.entries.match import Chosen
from cold_arc.core.job.entries.readings import Read
from cold_arc.core.light_source import LightSource
from cold_arc.core.metering.readings import WallReading
from cold_arc.store import board, jobs, outcomes

LEFT, BEAM = SocketKey("headlamp", 1, Side.LEFT), BeamKey(Function.LOW, Side.LEFT)
SLIM = LightSource("slim", "bulb", "H7", 24, 1900, 9, 16, 50)
AT = WallReading("peak", 1, 10, 13.2, meter="b")


@pytest.fixture
def measured(sessions):
    with sessions.begin() as session:
        booking = Booking("A-1", "Velmar", "Dorin", Drive.LEFT, "un")
        job_id = jobs.open_job(session, booking, fronts.made("two-singles"), [LEFT])
        jobs.append(session, job_id, Identified(Optic.REFLECTOR, "H7", Present.HALOGEN), [LEFT])
        jobs.append(session, job_id, Chosen(SLIM, "thin"), [LEFT])
        for phase, factor in (("before", 1), ("after", 2)):
            for point, lux in (("peak", 300), ("edge", 120)):
                jobs.append(
                    session,
                    job_id,
                    Read(phase, "x", replace(AT, point=point, lux=lux * factor)),
                    [BEAM],
                )
        board.keep(session, board.worked_out(session, 9))
    return job_id


def known(sessions):
    with sessions() as session:
        return outcomes.known(session, "H7", "reflector", "low")


def test_it_is_kept_with_the_board_and_found_by_lamp(sessions, measured):
    assert known(sessions)["slim"].ratio == pytest.approx(2.0)
    with sessions() as session:
        assert outcomes.known(session, "H7", "projector", "low") == {}
        (row,) = outcomes.outcomes(session, 9)
    assert (row.reference, row.beam, row.predicted) == ("A-1", BEAM, None)


def test_a_prediction_stays_while_the_record_grows_and_goes_with_what_it_was_of(sessions, measured):
    with sessions.begin() as session:
        (row,) = outcomes.outcomes(session, 9)
        outcomes.note_predicted(session, row.id, {"peak": 1.8})
        last = jobs.append(
            session, measured, Read(Phase.AFTER, "x", replace(AT, point="edge", lux=250)), [BEAM]
        )
        board.keep(session, board.worked_out(session, 9))
        (row,) = outcomes.outcomes(session, 9)
        assert row.predicted == {"peak": 1.8}
        assert row.measured.ratios["edge"] == pytest.approx(250 / 120)
        for entry in jobs.load(session, measured).entries:
            if isinstance(entry.payload, Read) and entry.id <= last:
                jobs.undo(session, measured, entry.id)
        board.keep(session, board.worked_out(session, 9))
        assert outcomes.outcomes(session, 9) == []


@pytest.mark.parametrize(
    "damage", ["facts = '{}'", "facts = 'x'", "beam = 'nowhere'", "predicted = '[1]'"]
)
def test_a_damaged_row_takes_nothing_with_it(sessions, measured, damage):
    with sessions.begin() as session:
        session.execute(text(f"UPDATE outcomes SET {damage}"))
    with sessions.begin() as session:
        outcomes.outcomes(session, 9)
        outcomes.known(session, "H7", "reflector", "low")
        outcomes.keep(session, measured, outcomes.measured(jobs.load(session, measured)))
