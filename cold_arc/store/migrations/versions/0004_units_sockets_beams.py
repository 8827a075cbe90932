"""Units, sockets and beams: entries say what they are about, and carry a kind id and a version.

Until now an entry was about lamps ("low-left"): one function on one side. Low and high beam found with one and the same
dual base become one socket of one headlamp; each other function gets a socket of its own: low and high in the headlamp,
fog, daytime, turn and position in units of theirs, since each had been inspected by itself. Kept apart from the
program's own code, since that goes on changing.
"""

import json
from collections.abc import Iterable

import sqlalchemy as sa
from alembic import op
from alembic.util.exc import CommandError

revision = "0004"
down_revision = "0003"

KIND_IDS = {
    "Booking": "booking",
    "LampsChosen": "work",
    "Identified": "identified",
    "Inspected": "inspected",
    "Read": "read",
    "Chosen": "chosen",
    "Refused": "refused",
    "Supplied": "supplied",
    "BallastTested": "ballast-tested",
    "Routed": "routed",
    "Ticked": "ticked",
    "FastenerBack": "fasteners-back",
    "Clocked": "clocked",
    "Proved": "proved",
    "NotOnCar": "not-on-car",
    "Aimed": "aimed",
    "HandedOver": "handed-over",
    "Passed": "passed",
    "Reopened": "reopened",
}
DUAL = {"H4", "H13", "9004", "9007"}
UNIT_OF = {
    "low": "headlamp",
    "high": "headlamp",
    "fog": "foglamp",
    "drl": "daytime",
    "turn": "indicator",
    "position": "extra",
}
UNIT_KINDS = {"Inspected", "Routed", "FastenerBack"}
BEAM_KINDS = {"Read", "Aimed"}
UNIT_STAGES, BEAM_STAGES = {"inspect"}, {"baseline", "aim", "verify"}
NAMES = {"extra": "Position lamp"}
ORDER = ("low", "high", "fog", "drl", "turn", "position")


Rows = list[tuple[int, str, list[str] | None, object, object]]
Sockets = dict[str, tuple[str, int]]
JOBS = "SELECT id, opened_at FROM jobs ORDER BY id"
ENTRIES = "SELECT id, kind, about, payload, undone_at FROM entries WHERE job_id = :job ORDER BY id"
READDRESS = "UPDATE entries SET kind = :kind, about = coalesce(:about, about) WHERE id = :id"
ADD_FRONT = "INSERT INTO entries (job_id, at, kind, version, about, payload) VALUES (:job, :at, 'front', 1, '[]', :front)"
ROUTES = "UPDATE route_templates SET unit = :unit WHERE unit = :function"


def upgrade() -> None:
    op.execute("ALTER TABLE entries RENAME COLUMN lamps TO about")
    op.execute("ALTER TABLE route_templates RENAME COLUMN function TO unit")
    with op.batch_alter_table("entries") as entries:
        entries.add_column(sa.Column("version", sa.Integer, nullable=False, server_default="1"))
    connection = op.get_bind()
    for job_id, opened_at in connection.execute(sa.text(JOBS)).all():
        _lift_job(connection, job_id, opened_at)
    for function, unit in UNIT_OF.items():
        connection.execute(sa.text(ROUTES), {"unit": unit, "function": function})
    op.execute("UPDATE jobs SET board = NULL")


def _lift_job(connection: sa.Connection, job_id: int, opened_at: str) -> None:
    """Readdresses a job's entries and gives it a front."""
    rows = connection.execute(sa.text(ENTRIES), {"job": job_id}).all()
    read = [
        (row.id, row.kind, _lamps(row.about), _value(row.payload), row.undone_at) for row in rows
    ]
    functions = {lamp.partition("-")[0] for _, _, lamps, _, _ in read for lamp in lamps or ()}
    sockets = _sockets(functions, _is_dual(read))
    for number, kind, lamps, payload, _ in read:
        about = None if lamps is None else json.dumps(_about(kind, lamps, payload, sockets))
        connection.execute(
            sa.text(READDRESS), {"kind": KIND_IDS.get(kind, kind), "about": about, "id": number}
        )
    front = json.dumps({"front": {"units": _units(sockets)}})
    connection.execute(sa.text(ADD_FRONT), {"job": job_id, "at": opened_at, "front": front})


def _value(text: object) -> object:
    try:
        return json.loads(str(text))
    except (ValueError, RecursionError):
        return None


def _lamps(text: object) -> list[str] | None:
    """The lamps of an entry; None for what can't be read, which stays as it is."""
    value = _value(text)
    if not isinstance(value, list) or not all(isinstance(lamp, str) for lamp in value):
        return None
    return value if all(lamp.partition("-")[0] in UNIT_OF for lamp in value) else None


def _is_dual(read: Rows) -> bool:
    """Whether low and high beam, as last identified, burn in one dual bulb."""
    known: dict[str, tuple[object, object]] = {}
    for _, kind, lamps, payload, undone_at in read:
        if kind == "Identified" and undone_at is None and isinstance(payload, dict):
            known |= {
                lamp.partition("-")[0]: (payload.get("base"), payload.get("housing"))
                for lamp in lamps or ()
            }
    low = known.get("low")
    return low is not None and low[0] in DUAL and low == known.get("high")


def _sockets(functions: set[str], dual: bool) -> Sockets:
    """The unit and the socket's number that give each function."""
    sockets: Sockets = {}
    taken: dict[str, int] = {}
    for function in ORDER:
        if function in functions:
            unit = UNIT_OF[function]
            if not (function == "high" and dual):
                taken[unit] = taken.get(unit, 0) + 1
            sockets[function] = (unit, taken[unit])
    return sockets


def _units(sockets: Sockets) -> list[dict[str, object]]:
    """The front as its entry holds it."""
    units: dict[str, dict[int, list[str]]] = {}
    for function, (unit, number) in sockets.items():
        units.setdefault(unit, {}).setdefault(number, []).append(function)
    return [
        {
            "kind": unit,
            "number": 1,
            "name": NAMES.get(unit, ""),
            "sockets": [
                {"number": number, "functions": functions, "optic": None, "present": None}
                for number, functions in held.items()
            ],
        }
        for unit, held in units.items()
    ]


def _about(kind: str, lamps: Iterable[str], payload: object, sockets: Sockets) -> list[str]:
    """What an entry is about, by what its kind, or its stage, belongs to."""
    stage = payload.get("stage", "") if isinstance(payload, dict) else ""
    is_way_in = (
        kind == "Ticked"
        and isinstance(payload, dict)
        and str(payload.get("step", "")).startswith("route:")
    )
    about = set()
    for lamp in lamps:
        function, _, side = lamp.partition("-")
        unit, number = sockets[function]
        if kind in BEAM_KINDS or stage in BEAM_STAGES:
            about.add(lamp)
        elif kind in UNIT_KINDS or is_way_in or stage in UNIT_STAGES:
            about.add(f"{unit}-{side}")
        else:
            about.add(f"{unit}-{number}-{side}")
    return sorted(about)


def downgrade() -> None:
    raise CommandError(
        "Units and sockets can't be told apart into lamps again; put a backup in its place."
    )
