"""Catalogue, saved routes, settings, migrations."""

import sqlite3
from dataclasses import replace

from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext

from cold_arc.core.job.entries.plan import Routed
from cold_arc.core.light_source import LightSource
from cold_arc.core.work.access import Fasteners, RouteStep
from cold_arc.store import catalogue
from cold_arc.store.database import open_database, writing
from cold_arc.store.models import LightSourceRow, Model

SLIM = LightSource("slim", "bulb", "H7", 24, 1900, 9, 16, 50, faces=2)


def test_light_sources_come_and_go(sessions):
    with sessions.begin() as session:
        kept = catalogue.add_light_source(session, SLIM)
        gone = catalogue.add_light_source(session, replace(SLIM, name="old"))
        catalogue.retire_light_source(session, gone, True)
        catalogue.change_light_source(session, kept, replace(SLIM, watts=22))
    with sessions() as session:
        assert catalogue.light_sources(session) == {kept: replace(SLIM, watts=22)}
        assert list(catalogue.light_sources(session, retired=True)) == [gone]


def test_a_shelf_kept_before_the_newer_fields_still_opens(sessions):
    """What an older version wrote: fewer facts, no optic, no basis of the claim."""
    facts = {
        "name": "old",
        "kind": "bulb",
        "base": "H7",
        "watts": 24.0,
        "claimed_lm": 1900.0,
        "supply_min_v": 9.0,
        "supply_max_v": 16.0,
        "price": 50.0,
        "colour": "white",
        "faces": 2,
        "rows": 1,
        "dip_shield": False,
        "polarity": "any",
        "driver": "inside",
        "cooling": "fan",
        "approval": "",
    }
    with sessions.begin() as session:
        session.add(LightSourceRow(name="old", base="H7", facts=facts))
    with sessions() as session:
        (old,) = catalogue.light_sources(session).values()
    assert (old.watts, old.claim_basis, old.adapters, old.ip) == (24, "bulb", (), None)


def test_a_file_changes_what_it_knows_and_adds_the_rest(sessions):
    with sessions.begin() as session:
        kept = catalogue.add_light_source(session, SLIM)
        assert catalogue.take_in(
            session, [replace(SLIM, name="SLIM", watts=20), replace(SLIM, base="H11")]
        ) == (1, 1)
    with sessions() as session:
        shelf = catalogue.light_sources(session)
    assert shelf[kept].watts == 20
    assert sorted(source.base for source in shelf.values()) == ["H11", "H7"]


def test_saved_routes_of_this_car_come_first(sessions):
    steps = (RouteStep(1, "Cap off", 2, ("pick",), (Fasteners("clip", 2, "cap"),)),)
    with sessions.begin() as session:
        catalogue.save_route(session, Routed("mine", steps), "Velmar Dorin", "low")
        catalogue.save_route(session, Routed("other", steps), "Kestrin Ode", "low")
        catalogue.save_route(session, Routed("mine", steps * 2), "Velmar Dorin", "low")
    with sessions() as session:
        found = list(catalogue.saved_routes(session, "Velmar Dorin", "low").values())
    assert [row.vehicle for row, _ in found] == ["Velmar Dorin", "Kestrin Ode"]
    assert found[0][1] == Routed("mine", steps * 2)


def test_settings(sessions):
    with sessions.begin() as session:
        assert catalogue.setting(session, "shop_name", "none") == "none"
        catalogue.set_setting(session, "shop_name", "Tallow Lane")
        catalogue.set_setting(session, "shop_name", "Tallow Lane Lampworks")
        assert catalogue.setting(session, "shop_name") == "Tallow Lane Lampworks"


def test_what_another_changed_is_known_from_the_next_transaction_on(sessions):
    """As it is where a request that read begins to write: what it goes by is read anew."""
    with sessions() as reading, sessions() as other:
        assert catalogue.setting(reading, "shop_name", "none told") == "none told"
        writing(other)
        catalogue.set_setting(other, "shop_name", "Tallow Lane")
        assert catalogue.setting(other, "shop_name") == "Tallow Lane"
        other.commit()
        reading.rollback()
        writing(reading)
        assert catalogue.setting(reading, "shop_name") == "Tallow Lane"


def test_migrations_make_exactly_the_models(sessions):
    with sessions() as session:
        context = MigrationContext.configure(session.connection())
        assert compare_metadata(context, Model.metadata) == []


def test_opening_again_keeps_what_is_there(tmp_path):
    with open_database(tmp_path).begin() as session:
        catalogue.add_light_source(session, SLIM)
    with open_database(tmp_path)() as session:
        assert len(catalogue.light_sources(session)) == 1


def test_commits_reach_the_disk(sessions, tmp_path):
    with sessions() as session:
        connection = session.connection().connection.dbapi_connection
        assert isinstance(connection, sqlite3.Connection)
        assert connection.execute("PRAGMA synchronous").fetchone() == (2,)
        assert connection.execute("PRAGMA journal_mode").fetchone() == ("wal",)
