"""Catalogue, saved routes, settings, migrations."""

import sqlite3
from dataclasses import replace

from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext

from cold_arc.core.access import Fasteners, RouteStep
from cold_arc.core.light_source import LightSource
from cold_arc.core.record import Routed
from cold_arc.store import catalogue
from cold_arc.store.database import open_database
from cold_arc.store.models import Model

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
