"""When it is dark enough for wall work: dusk at the shop's place and date, or a bay that is dark at
any hour.

The sun by astral, a well-kept library; dark enough is when the sun stands 6° under the horizon
(civil dusk, as almanacs define it); the last quarter of an hour before it is told as nearly dark.
Common practice for the rest.
"""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from astral import Observer, SunDirection
from astral.sun import elevation, time_at_elevation

from cold_arc.core.errors import ColdArcError

DARK_DEG = -6.0


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
    """When it is dark on a day: from *dusk* to the next *dawn*; both None where it is dark or light
    all day.
    """

    dusk: dt.datetime | None
    dawn: dt.datetime | None
    always_dark: bool = False


def night(place: ShopPlace, day: dt.date) -> Night:
    """The night that begins on a day, in the place's own time."""
    zone = ZoneInfo(place.zone)
    try:
        dusk = time_at_elevation(place.observer, DARK_DEG, day, SunDirection.SETTING, zone)
        dawn = time_at_elevation(
            place.observer, DARK_DEG, day + dt.timedelta(days=1), SunDirection.RISING, zone
        )
    except ValueError:  # the sun does not get there that day
        noon = dt.datetime.combine(day, dt.time(12), zone)
        return Night(None, None, elevation(place.observer, noon) < DARK_DEG)
    return Night(dusk, dawn)


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
    if tonight.dusk is None:
        return "No dusk today: wall work needs a dark bay."
    return f"Dusk at {tonight.dusk:%H:%M}: wall work from then on."
