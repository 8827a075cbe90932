"""When it is dark enough for wall work: dusk at the shop's place and date, or a bay that is dark at
any hour.

The sun by astral, a well-kept library; dark enough is when the sun stands 6° under the horizon
(civil dusk, as almanacs define it); the last quarter of an hour before it is told as nearly dark.
Common practice for the rest.
"""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from astral import Observer
from astral.sun import elevation
from scipy.optimize import brentq

from cold_arc.core.errors import ColdArcError

DARK_DEG = -6.0
# How finely a day is looked through for its dusk.
STEP = dt.timedelta(minutes=10)
STEPS_A_DAY = 144


class PlaceError(ColdArcError, ValueError):
    """A place that is none; *field* names what is wrong."""

    def __init__(self, field: str, message: str) -> None:
        super().__init__(message)
        self.field = field


@dataclass(frozen=True)
class ShopPlace:
    """Where the shop is: degrees north and east, its time zone by name ("Europe/Paris"). PlaceError
    for none.
    """

    latitude: float
    longitude: float
    zone: str

    def __post_init__(self) -> None:
        """Refuses what is no place."""
        if not -90 <= self.latitude <= 90:
            raise PlaceError("latitude", "Must be from -90 to 90 degrees, north positive.")
        if not -180 <= self.longitude <= 180:
            raise PlaceError("longitude", "Must be from -180 to 180 degrees, east positive.")
        try:
            ZoneInfo(self.zone)
        except (ZoneInfoNotFoundError, ValueError, OSError) as error:
            raise PlaceError("zone", "Not a time zone. Write it like Europe/Paris.") from error

    @property
    def observer(self) -> Observer:
        """As the library takes it."""
        return Observer(self.latitude, self.longitude)


@dataclass(frozen=True)
class Night:
    """When it is dark on a day: from *dusk* to the next *dawn*; no dusk where it is dark or light
    all day, no dawn where the sun does not rise so far the next day.
    """

    dusk: dt.datetime | None
    dawn: dt.datetime | None
    always_dark: bool = False


@lru_cache(maxsize=256)
def night(place: ShopPlace, day: dt.date) -> Night:
    """The night that begins on a day of the place's own calendar, in its own time.

    Looked for from when the sun stands highest that day to a day later, so that neither a zone far
    from its meridian nor a day whose sun hardly rises leads to another date's dusk.
    """
    noon = _noon(place, day)
    moments = [noon + number * STEP for number in range(STEPS_A_DAY + 1)]
    if _over(place, noon) < 0:  # the highest the sun gets
        return Night(None, None, always_dark=True)
    is_light = [_over(place, moment) >= 0 for moment in moments]
    passes = [
        _crossing(place, before).astimezone(ZoneInfo(place.zone))
        for before, (was, now) in zip(moments, pairwise(is_light), strict=False)
        if was != now
    ]
    dusk, dawn = (*passes, None, None)[:2]
    return Night(dusk, dawn)


def _noon(place: ShopPlace, day: dt.date) -> dt.datetime:
    """When the sun stands highest on a day of the place's own calendar, to a step."""
    midnight = dt.datetime.combine(day, dt.time(0), ZoneInfo(place.zone)).astimezone(dt.UTC)
    moments = [midnight + number * STEP for number in range(STEPS_A_DAY)]
    return max(moments, key=lambda moment: _over(place, moment))


def _over(place: ShopPlace, moment: dt.datetime) -> float:
    """How far the sun stands over where it is dark, degrees."""
    return float(elevation(place.observer, moment)) - DARK_DEG


def _crossing(place: ShopPlace, start: dt.datetime) -> dt.datetime:
    """When within a step from *start* the sun passes where it is dark, to a second."""
    seconds = brentq(
        lambda late: _over(place, start + dt.timedelta(seconds=late)),
        0.0,
        STEP.total_seconds(),
        xtol=0.5,
    )
    return start + dt.timedelta(seconds=round(seconds))


def is_dark(place: ShopPlace, moment: dt.datetime) -> bool:
    """Whether it is dark there at a moment (aware of its zone)."""
    return float(elevation(place.observer, moment)) < DARK_DEG


def say_dark(place: ShopPlace | None, dark_bay: bool, moment: dt.datetime) -> str:
    """When wall work can be done that day, in a few words; "" where nothing is known of the
    place.
    """
    if dark_bay:
        return "Dark bay: wall work at any hour."
    if place is None:
        return ""
    if is_dark(place, moment):
        return "Dark enough for wall work now."
    tonight = night(place, moment.astimezone(ZoneInfo(place.zone)).date())
    if tonight.always_dark:
        return "Dark all day: wall work at any hour."
    if tonight.dusk is None:
        return "It does not get dark today: wall work needs a dark bay."
    return f"Dusk at {tonight.dusk:%H:%M}: wall work from then on."
