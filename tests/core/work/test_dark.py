"""Dusk against the library itself, almanac values from memory, and closed bounds."""

import datetime as dt

import pytest
from astral import LocationInfo
from astral.sun import sun

from cold_arc.core.work.dark import Night, PlaceError, ShopPlace, is_dark, night, say_dark

LONDON = ShopPlace(51.5, -0.12, "Europe/London")
SUMMER, WINTER = dt.date(2026, 6, 21), dt.date(2026, 12, 21)


@pytest.mark.parametrize("day", [SUMMER, WINTER, dt.date(2026, 3, 20)])
def test_it_agrees_with_the_librarys_own_civil_dusk(day):
    place = LocationInfo("", "", "Europe/London", 51.5, -0.12)
    assert abs(
        night(LONDON, day).dusk - sun(place.observer, day, tzinfo=place.timezone)["dusk"]
    ) < dt.timedelta(minutes=1)


@pytest.mark.parametrize(
    ("day", "clock"),
    [
        (WINTER, "16:34"),
        (SUMMER, "22:09"),
    ],  # end of civil twilight at London, nautical almanac, from memory
)
def test_it_agrees_with_an_almanac(day, clock):
    told = dt.datetime.strptime(clock, "%H:%M").time()
    dusk = night(LONDON, day).dusk
    assert abs(dt.datetime.combine(day, told) - dusk.replace(tzinfo=None)) < dt.timedelta(minutes=4)


def test_the_night_ends_after_it_begins():
    tonight = night(LONDON, WINTER)
    assert dt.timedelta(hours=12) < tonight.dawn - tonight.dusk < dt.timedelta(hours=17)
    assert is_dark(LONDON, tonight.dusk + dt.timedelta(minutes=5))
    assert not is_dark(LONDON, tonight.dusk - dt.timedelta(minutes=5))


def test_where_the_sun_stays_up_or_down_there_is_no_dusk():
    north = ShopPlace(78.2, 15.6, "Europe/Oslo")
    assert night(north, SUMMER) == Night(None, None, False)
    assert night(north, WINTER).always_dark


NO_PLACES = [
    ((91, 0, "Europe/London"), "latitude"),
    ((0, 181, "Europe/London"), "longitude"),
    *(((0, 0, zone), "zone") for zone in ("Nowhere/At all", "../etc", "")),
]


@pytest.mark.parametrize(("place", "field"), NO_PLACES)
def test_what_is_no_place_is_refused_by_field(place, field):
    with pytest.raises(PlaceError) as refused:
        ShopPlace(*place)
    assert refused.value.field == field


def test_when_wall_work_can_be_done_in_words():
    noon = dt.datetime(2026, 12, 21, 12, tzinfo=dt.UTC)
    assert say_dark(LONDON, False, noon).startswith("Dusk at 16:3")
    assert say_dark(LONDON, False, noon.replace(hour=22)) == "Dark enough for wall work now."
    assert say_dark(LONDON, True, noon).startswith("Dark bay")
    assert say_dark(None, False, noon) == ""
    assert "dark bay" in say_dark(
        ShopPlace(78.2, 15.6, "Europe/Oslo"), False, noon.replace(month=6)
    )
