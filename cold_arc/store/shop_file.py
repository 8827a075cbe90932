"""What a shop keeps besides its jobs, as a job file carries it: light sources, ways in, its own aim
rules, set-ups of the bench, what it told of itself. Codes, devices and the school stay where they
are.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from cold_arc.core.aim.shop_rules import ShopRule
from cold_arc.core.beam.setup import SetUp
from cold_arc.core.job import plausible
from cold_arc.core.job.codec import to_plain
from cold_arc.core.light_source import LightSource
from cold_arc.store import aim_rules, bench, catalogue
from cold_arc.store.models import RouteTemplateRow, SettingRow

Plain = dict[str, Any]
# What goes along of the settings: nothing that lets anybody in.
SETTINGS = (
    *("shop_name", "shop_contact", "currency", "place_latitude", "place_longitude", "place_zone"),
    *("shop_people", "plan_prefers", "dark_bay", "tax_pct", "match_weights"),
)


@dataclass(frozen=True)
class ShopHeld:
    """How much a file holds of a shop, or was taken in of it: by what it is, how many."""

    light_sources: int = 0
    routes: int = 0
    aim_rules: int = 0
    setups: int = 0
    settings: int = 0

    @property
    def words(self) -> str:
        """In a line; "" for nothing."""
        named = {
            "light sources": self.light_sources,
            "ways in": self.routes,
            "aim rules": self.aim_rules,
            "set-ups": self.setups,
            "settings": self.settings,
        }
        return ", ".join(f"{count} {name}" for name, count in named.items() if count)


def filed_shop(session: Session) -> Plain:
    """The shop as plain values, to be written to a file."""
    rows = session.scalars(select(RouteTemplateRow).order_by(RouteTemplateRow.id))
    settings = session.scalars(select(SettingRow).where(SettingRow.key.in_(SETTINGS)))
    return {
        "light_sources": [to_plain(each) for each in catalogue.light_sources(session).values()],
        "routes": [
            {"name": row.name, "vehicle": row.vehicle, "unit": row.unit, "steps": row.steps}
            for row in rows
        ],
        "aim_rules": [to_plain(rule) for rule in aim_rules.all_rules(session).values()],
        "setups": [
            {"name": name, "facts": to_plain(setup)}
            for name, setup in bench.kept_setups(session).values()
        ],
        "settings": {row.key: row.value for row in settings},
    }


def held(plain: Plain) -> ShopHeld:
    """How much of a shop a file holds that is read here."""
    return ShopHeld(
        len(_sources(plain)),
        len(list(_routes(plain))),
        len(_rules(plain)),
        len(_setups(plain)),
        len(_settings(plain)),
    )


def take_in(session: Session, plain: Plain) -> ShopHeld:
    """Takes in what is not here: light sources by base and name, ways in by name, car and lamp,
    rules by their words, set-ups by name, settings that are not told. What is here stays as it
    is. The caller commits.
    """
    return ShopHeld(
        _new_sources(session, plain),
        _new_routes(session, plain),
        _new_rules(session, plain),
        _new_setups(session, plain),
        _new_settings(session, plain),
    )


def _new_sources(session: Session, plain: Plain) -> int:
    here = catalogue.light_sources(session).values()
    here_too = catalogue.light_sources(session, retired=True).values()
    known = {(each.base, each.name.casefold()) for each in (*here, *here_too)}
    new = [each for each in _sources(plain) if (each.base, each.name.casefold()) not in known]
    return catalogue.take_in(session, new)[0]


def _new_routes(session: Session, plain: Plain) -> int:
    rows = session.scalars(select(RouteTemplateRow))
    known = {(row.name, row.vehicle, row.unit) for row in rows}
    new = [each for each in _routes(plain) if each[:3] not in known]
    for name, vehicle, unit, steps in new:
        route = catalogue.stored_route(name, steps)
        assert route is not None
        catalogue.save_route(session, route, vehicle, unit)
    return len(new)


def _new_rules(session: Session, plain: Plain) -> int:
    known = list(aim_rules.all_rules(session).values())
    new = [rule for rule in _rules(plain) if rule not in known]
    for rule in new:
        aim_rules.keep(session, rule)
    return len(new)


def _new_setups(session: Session, plain: Plain) -> int:
    known = {name for name, _ in bench.kept_setups(session).values()}
    new = {name: setup for name, setup in _setups(plain).items() if name not in known}
    for name, setup in new.items():
        bench.keep_setup(session, name, setup)
    return len(new)


def _new_settings(session: Session, plain: Plain) -> int:
    new = {
        name: text
        for name, text in _settings(plain).items()
        if text and not catalogue.setting(session, name)
    }
    for name, text in new.items():
        catalogue.set_setting(session, name, text)
    return len(new)


def _sources(plain: Plain) -> list[LightSource]:
    read = (plausible.read_or_none(each, LightSource) for each in plain.get("light_sources", ()))
    return [source for source in read if source is not None]


def _routes(plain: Plain) -> Iterator[tuple[str, str, str, Any]]:
    for each in plain.get("routes", ()):
        name, vehicle, unit = (str(each.get(key, "")) for key in ("name", "vehicle", "unit"))
        if catalogue.stored_route(name, each.get("steps")) is not None:
            yield name, vehicle, unit, each["steps"]


def _rules(plain: Plain) -> list[ShopRule]:
    read = (plausible.read_or_none(each, ShopRule) for each in plain.get("aim_rules", ()))
    return [rule for rule in read if rule is not None]


def _setups(plain: Plain) -> dict[str, SetUp]:
    read = {
        str(each.get("name", ""))[:80]: plausible.read_or_none(each.get("facts"), SetUp)
        for each in plain.get("setups", ())
    }
    return {name: setup for name, setup in read.items() if name and setup is not None}


def _settings(plain: Plain) -> Mapping[str, str]:
    kept = plain.get("settings", {})
    return {name: str(kept[name])[:400] for name in SETTINGS if name in kept}
