"""Shops written by earlier versions open, and say the same figures.

`old/0005.sql` is the demo as the version before meters and outcomes left it, `old/0007.sql` as the
one before plans were the car's, `old/0008.sql` as the one before photographs of the wall,
`old/0009.sql` as the one before steps said how they are undone.

`old/0003.sql` is the demo as the version before units and sockets left it, `old/0003.json` what
that version said.
"""

import datetime as dt
import json

import pytest
from sqlalchemy import select

from cold_arc.core.car.keys import BeamKey, SocketKey, UnitKey
from cold_arc.core.car.lamps import Function, Side
from cold_arc.core.job import needs
from cold_arc.core.job.entries.aim import target_of
from cold_arc.core.job.entries.fit import Clocked
from cold_arc.core.job.entries.match import Chosen
from cold_arc.core.job.handwork import Handwork
from cold_arc.core.job.outcome import compare
from cold_arc.core.job.progress import Progress
from cold_arc.core.job.proofs import board
from cold_arc.core.job.stages import Stage
from cold_arc.core.job.tray import tray
from cold_arc.store import board as board_kept
from cold_arc.store import jobs, outcomes, pictures
from cold_arc.store.catalogue import saved_routes
from cold_arc.store.database import open_database
from cold_arc.store.models import JobRow
from cold_arc.web.app import create_app
from tests.old_shops import OLD, write_old

FIGURES = json.loads((OLD / "0003.json").read_text())
OPTICS = {"assembly": "sealed"}


@pytest.fixture
def old_shop(tmp_path):
    write_old(tmp_path)
    with open_database(tmp_path)() as session:
        yield {
            job.booking.reference: job
            for number in range(1, 6)
            if (job := jobs.load(session, number))
        }


@pytest.mark.parametrize("reference", sorted(FIGURES))
def test_every_demo_job_says_what_it_said(old_shop, reference):
    record, told = old_shop[reference].record, FIGURES[reference]
    assert {name: len(board(record, name)) for name in ("open", "closed")} == told["board"]
    assert sorted(record.absent_functions()) == told["absent"]
    assert {str(beam) for beam in record.beams} == set(told["lamps"])
    for text, was in told["lamps"].items():
        function, side = text.split("-")
        beam = BeamKey(Function(function), Side(side))
        (socket,) = record.givers(beam)
        assert said(record, beam, socket) == {
            **was,
            "housing": OPTICS.get(was["housing"], was["housing"]),
        }, text


def said(record, beam, socket):
    """What today's version says of one old lamp."""
    known, chosen, clocked = (
        record.socket(socket),
        record.latest(Chosen, socket),
        record.latest(Clocked, socket),
    )
    unit, route = socket.of_unit, record.route(socket.of_unit)
    seen, aimed = (
        record.condition(unit),
        {phase: record.aimed(beam, phase) for phase in ("found", "left")},
    )
    gains, at = compare(record, beam).gains, Progress(record).current(socket)
    return {
        "base": known.base,
        "housing": known.optic.value if known.optic else None,
        "chosen": chosen.source.name if chosen and chosen.source else None,
        "clocked": clocked.stopped_deg if clocked else None,
        "haze": seen.haze if seen else None,
        "candela": {
            phase: {point: read.candela for point, read in record.readings(beam, phase).items()}
            for phase in ("before", "after")
        },
        "gains": {
            point: [gain.before_cd, gain.after_cd, gain.relative] for point, gain in gains.items()
        },
        "aimed": {phase: it.slope if it else None for phase, it in aimed.items()},
        "steps": len(route.steps) if route else 0,
        "loose": sum(row.loose for row in tray(record, unit)),
        "stage": at.value if at else None,
    }


def test_readings_without_a_meter_keep_their_candela_and_what_they_measured_is_kept(tmp_path):
    """671 lx less 0.4 at 7.62 m is 38 960 cd, as the version before said."""
    write_old(tmp_path, dump="0005.sql")
    with open_database(tmp_path).begin() as session:
        kept = {
            job.booking.reference: job
            for number in range(1, 6)
            if (job := jobs.load(session, number))
        }
        assert all(
            not hasattr(entry.payload, "why") for job in kept.values() for entry in job.entries
        )
        after = kept["TL-318"].record.readings(BeamKey(Function.LOW, Side.LEFT), "after")
        assert after["peak"].candela == pytest.approx(38_960, rel=1e-3)
        assert (after["peak"].meter, after["peak"].lens) == ("", "found")
        board_kept.keep(session, board_kept.worked_out(session, 99))
        assert {it.measured.source for it in outcomes.outcomes(session, 99)} == {
            "Sableline H7 slim"
        }


@pytest.mark.parametrize("dump", ["0003.sql", "0005.sql", "0007.sql"])
def test_pages_of_the_readings_open_on_an_old_shop(tmp_path, dump):
    write_old(tmp_path, dump=dump)
    client = create_app(tmp_path).test_client()
    for path in ("numbers", "warm-up", "shoot-out", "prove/fault"):
        assert client.get(f"/jobs/1/low-left/{path}").status_code == 200, path


# What the version before said of its own dump: where each socket stood, groups in the tray, steps
# ticked, by unit.
SAID_0007 = {
    "TL-318": (["verify"] * 2, [1, 1], [5, 5]),
    "TL-321": (["inspect"] * 2, [0, 0], [0, 0]),
    "TL-316": (["match"] * 2, [0, 0], [0, 0]),
    "TL-309": (["aim"] * 2, [2, 2], [3, 3]),
    "TL-322": (["book-in"] * 2 + ["match"] * 2 + ["plan"] * 2, [0, 0, 0, 0, 2, 2], [0] * 6),
}


def test_ways_in_and_ticks_of_lamp_by_lamp_plans_say_what_they_said(tmp_path):
    write_old(tmp_path, dump="0007.sql")
    with open_database(tmp_path)() as session:
        for number in range(1, 6):
            job = jobs.load(session, number)
            record, progress = job.record, Progress(job.record)
            stages, groups, ticks = SAID_0007[job.booking.reference]
            assert [progress.current(key).value for key in record.sockets] == stages
            assert [len(tray(record, unit)) for unit in record.units] == groups
            assert [len(record.ticks(unit)) for unit in record.units] == ticks
            assert [entry for entry in job.entries if hasattr(entry.payload, "why")] == []


def test_what_was_proved_before_parts_were_closed_by_ticks_is_not_asked_for_again(tmp_path):
    write_old(tmp_path, dump="0007.sql")
    client = create_app(tmp_path).test_client()
    for number in (1, 4):
        page = client.get(f"/jobs/{number}/low/prove").text
        assert "not closed again" not in page
        assert "not tried" not in page


def test_a_part_ticked_for_one_lamp_lies_in_the_tray_and_counts_once(tmp_path):
    """A tick and a count as the version before wrote them: of ten fasteners under the tray three
    are back.
    """
    entry = (
        "INSERT INTO entries (job_id, at, kind, version, about, payload) VALUES (5, '2026-01-01 "
        "09:00:00', "
    )
    about = '["foglamp-left", "foglamp-right"]'
    step = (
        "(SELECT max(json_extract(payload, '$.steps[1].id')) FROM entries WHERE job_id = 5 AND "
        "kind = 'routed')"
    )
    tick = f"{entry} 'ticked', 1, '[\"foglamp-left\"]', json_object('step', 'route:' || {step}))"
    count = (
        f"{entry} 'fasteners-back', 1, '{about}', json_object('step', {step}, 'kind', 'screw "
        "8 mm', 'back', 3,"
        " 'noted', 1, 'note', 'thread gone', 'place', 'under-tray'))"
    )
    write_old(tmp_path, [tick, count], dump="0007.sql")
    with open_database(tmp_path)() as session:
        rows = tray(jobs.load(session, 5).record, UnitKey("foglamp", Side.RIGHT))
    assert [(row.fasteners.count, row.back, row.noted, row.loose) for row in rows] == [
        (8, 3, 1, 4),
        (2, 0, 0, 2),
    ]
    assert rows[0].said.note == "thread gone"


def test_a_dual_bulb_becomes_one_socket(old_shop):
    front = old_shop["TL-309"].record.front
    assert [unit.id for unit in front.units] == ["headlamp"]
    assert [socket.functions for socket in front.units[0].sockets] == [
        (Function.LOW, Function.HIGH)
    ]


def test_a_shop_before_photographs_keeps_its_pictures_and_its_verdicts(tmp_path):
    write_old(tmp_path, dump="0008.sql")
    with open_database(tmp_path)() as session:
        kept = [job for number in range(1, 6) if (job := jobs.load(session, number))]
        assert not [entry for job in kept for entry in job.entries if hasattr(entry.payload, "why")]
        assert pictures.picture(session, 1, 1, small=False) == b"\xff\xd8\xff\xd9"
        assert pictures.original(session, 1, 1) is None
        left = kept[0].record.aimed(BeamKey(Function.LOW, Side.LEFT), "left")
        assert (left.mark, left.own) == (None, None)
        assert target_of(left).keep.low == -0.025


def test_a_shop_before_steps_said_how_they_are_undone_knows_it_by_their_words(tmp_path):
    """A cap comes back with words of its own, an old bulb does not; what was proved still is."""
    write_old(tmp_path, dump="0009.sql")
    with open_database(tmp_path)() as session:
        kept = [job for number in range(1, 6) if (job := jobs.load(session, number))]
        assert not [entry for job in kept for entry in job.entries if hasattr(entry.payload, "why")]
        done = kept[0].record
        closings = {step.text for step in Handwork(done).steps if step.kind == "close"}
        assert "Cap on, its lip seated all round: feel it with a finger" in closings
        assert not any("bulb" in text for text in closings)
        assert set(board(done, "open").values()) == set(board(done, "closed").values()) == {"works"}
        progress = Progress(done)
        assert [
            needs.missing(progress, stage, key)
            for stage in (Stage.FIT, Stage.PROVE)
            for key in progress.things(stage)
        ] == [[], [], [], []]
        routes = saved_routes(session, "", "")
        assert {step.kind for _, route in routes.values() for step in route.steps} == {
            "opened",
            "plugged",
            "one way",
        }
        assert all(job_row.board is None for job_row in session.scalars(select(JobRow)))


def test_a_job_is_found_by_the_source_chosen_for_it_open_or_handed_over(tmp_path):
    write_old(tmp_path, dump="0009.sql")
    with open_database(tmp_path).begin() as session:
        board_kept.keep(session, board_kept.worked_out(session, 99))
        today = dt.date(2026, 11, 30)
        found = board_kept.found(session, "sableline", board_kept.ANY, today, 9)
        assert [card.reference for card in found] == ["TL-318"]
        session.get(JobRow, 1).closed_at = dt.datetime(2026, 11, 30)
        assert board_kept.found(session, "sableline", "open", today, 9) == []
        found = board_kept.found(session, "sableline", board_kept.ANY, today, 9)
        assert [card.reference for card in found] == ["TL-318"]


def test_nothing_of_it_is_unreadable(old_shop):
    assert [
        entry.kind
        for job in old_shop.values()
        for entry in job.entries
        if hasattr(entry.payload, "why")
    ] == []


def test_every_page_of_it_opens(tmp_path):
    write_old(tmp_path)
    client = create_app(tmp_path).test_client()
    pages = [*(stage.value for stage in Stage), "match/options", "match/wiring"]
    for number in range(1, 6):
        assert client.get(f"/jobs/{number}", follow_redirects=True).status_code == 200
        for stage in pages:
            assert (
                client.get(f"/jobs/{number}/all/{stage}", follow_redirects=True).status_code == 200
            )


def test_two_bulbs_and_damage_come_along(tmp_path):
    """Low and high with single bulbs get a socket each; what can't be read stays as it is; routes
    keep their unit.
    """
    entry = (
        "INSERT INTO entries (job_id, at, kind, lamps, payload) VALUES (2, '2026-01-01 09:00:00', "
    )
    write_old(
        tmp_path,
        [
            f"{entry}'LampsChosen', '[\"low-left\", \"high-left\"]', '{{}}')",
            f"{entry}'Identified', 'no list', '{{}}')",
            f"{entry}'Levitated', '[]', 'no json')",
            "INSERT INTO route_templates (name, vehicle, function, steps, saved_at) VALUES"
            " ('Way', 'Kestrin', 'low', '{\"steps\": []}', '2026-01-01 09:00:00')",
        ],
    )
    with open_database(tmp_path)() as session:
        job = jobs.load(session, 2)
        record = job.record
        assert record.sockets == [
            SocketKey("headlamp", 1, Side.LEFT),
            SocketKey("headlamp", 2, Side.LEFT),
        ]
        assert record.units == [UnitKey("headlamp", Side.LEFT)]
        assert sum(hasattr(entry.payload, "why") for entry in job.entries) == 2
        ((row, _),) = saved_routes(session, "", "").values()
        assert row.unit == "headlamp"
