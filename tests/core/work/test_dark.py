"""Dusk against the library itself, almanac values from memory, and closed bounds."""

import datetime as dt

import pytest
from astral import LocationInfo
from astral.sun import elevation, sun

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
    *(((latitude, 0, "Europe/London"), "latitude") for latitude in (91, -90.5)),
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


@pytest.mark.parametrize(
    ("latitude", "longitude", "zone"),
    [
        (-36.85, 174.76, "Pacific/Auckland"),
        (-13.83, -171.77, "Pacific/Apia"),
        (1.87, -157.4, "Pacific/Kiritimati"),
        (-43.95, -176.55, "Pacific/Chatham"),
        (21.3, -157.86, "Pacific/Honolulu"),
        (39.47, 75.99, "Asia/Shanghai"),
        (64.15, -21.94, "Atlantic/Reykjavik"),
    ],
)
@pytest.mark.parametrize("month", [3, 6, 9, 12])
def test_dusk_belongs_to_its_own_day_on_either_side_of_the_date_line(
    latitude, longitude, zone, month
):
    """Its afternoon, evening or the hours after midnight: the sun stands 6° under the horizon then,
    and higher an hour before.
    """
    place, day = ShopPlace(latitude, longitude, zone), dt.date(2026, month, 21)
    tonight = night(place, day)
    if tonight.dusk is None:
        assert month == 6
        assert latitude > 60
        return
    noon = dt.datetime.combine(day, dt.time(12), tonight.dusk.tzinfo)
    assert dt.timedelta(hours=2) < tonight.dusk - noon < dt.timedelta(hours=14)
    assert elevation(place.observer, tonight.dusk) == pytest.approx(-6, abs=0.05)
    assert not is_dark(place, tonight.dusk - dt.timedelta(hours=1))
    assert tonight.dusk < tonight.dawn


def test_a_polar_day_is_said_as_one():
    north = ShopPlace(78.2, 15.6, "Europe/Oslo")
    noon = dt.datetime(2026, 12, 21, 12, tzinfo=dt.UTC)
    assert say_dark(north, False, noon) == "Dark enough for wall work now."
    assert "does not get dark today" in say_dark(north, False, noon.replace(month=6))


def test_a_short_polar_twilight_has_its_dusk():
    """Late January at 78° north: the sun comes up to some −6° about noon, and goes again."""
    north = ShopPlace(76.0, 15.6, "Europe/Oslo")
    tonight = night(north, dt.date(2026, 1, 25))
    assert tonight.dusk is not None
    assert not tonight.always_dark
    assert tonight.dusk.date() == dt.date(2026, 1, 25)
