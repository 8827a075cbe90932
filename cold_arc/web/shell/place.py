"""What the shop told of itself: where it is, and when it is dark there; people, currency."""

from __future__ import annotations

import datetime as dt
from contextlib import suppress

from flask import g

from cold_arc.core.work import choosing
from cold_arc.core.work.access import MOST_PEOPLE
from cold_arc.core.work.dark import PlaceError, ShopPlace, say_dark
from cold_arc.store import catalogue
from cold_arc.web.forms.plain_numbers import whole
from cold_arc.web.shell.db import session

PLACE = ("latitude", "longitude", "zone")
DARK_BAY = "dark_bay"
PEOPLE, PREFERS = "shop_people", "plan_prefers"


def shop_place() -> ShopPlace | None:
    """The shop's place; None where it is not told, or damaged."""
    latitude, longitude, zone = (catalogue.setting(session(), f"place_{name}") for name in PLACE)
    with suppress(ValueError, PlaceError):
        return ShopPlace(float(latitude), float(longitude), zone)
    return None


def has_dark_bay() -> bool:
    """Whether the bay is dark at any hour."""
    return catalogue.setting(session(), DARK_BAY) == "1"


def shop_people() -> int:
    """How many people the shop has for the work at the cars."""
    return min(max(whole(catalogue.setting(session(), PEOPLE)) or 1, 1), MOST_PEOPLE)


def plan_prefers() -> str:
    """What the shop would rather have of a way in: the least time, or the least risk."""
    preference = catalogue.setting(session(), PREFERS)
    return preference if preference in choosing.PREFERS else next(iter(choosing.PREFERS))


def shop_currency() -> str:
    """The currency of the shop's prices; "" where it told none. Asked once a request."""
    if "currency" not in g:
        g.currency = catalogue.setting(session(), "currency")
    return str(g.currency)


def dark_said() -> str:
    """When wall work can be done today, in words; "" where nothing is told of the place."""
    return say_dark(shop_place(), has_dark_bay(), dt.datetime.now(dt.UTC))
