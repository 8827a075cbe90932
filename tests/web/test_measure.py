"""Lengths measured off the old bulb serve as the base's own for this job."""

import pytest

from tests.web.conftest import BOOKING, identification
from tests.web.test_pages import add_source

MEASURE = "/jobs/1/headlamp-1/measure"
LENGTHS = {"start_mm": "26 mm", "end_mm": "31.5"}


@pytest.fixture
def old_car(shop):
    """A car with a base whose light centre is not in the catalogue."""
    shop.post("/jobs/new", **BOOKING)
    shop.post("/jobs/1/all/book-in", **identification("R2", "lens-optic", "filament"))
    return shop


def test_what_is_not_known_is_said_and_can_be_measured(old_car):
    page = old_car.get("/jobs/1/all/book-in")
    assert "The light centre of R2 is not known here" in page
    assert f'href="{MEASURE}"' in page
    assert "not known" in old_car.get(MEASURE)
    page = old_car.post(
        MEASURE, **LENGTHS, second_start_mm="20", second_end_mm="24.5", rim_mm="45", tail_mm="30"
    )
    assert "28.8 mm" in page
    assert "From: measured off the old bulb." in page
    assert "is not known here" not in old_car.get("/jobs/1/all/book-in")


def test_a_candidates_depth_is_judged_by_what_was_measured(old_car):
    add_source(old_car, base="R2", rows="2", dip_shield="y", lcl_mm="28.95")
    assert "along the axis" not in old_car.get("/jobs/1/headlamp-1/match?look=1")
    old_car.post(MEASURE, **LENGTHS, tail_mm="30")
    page = old_car.get("/jobs/1/headlamp-1/match?look=1")
    assert "+0.2 mm along the axis" in page
    assert "measured off the old bulb" in page
    assert "Its tail is longer than the old bulb's." in page


@pytest.mark.parametrize(
    ("field", "typed", "error"),
    [
        ("end_mm", "20", "Must lie beyond where the filament starts"),
        ("start_mm", "", "This is needed"),
        ("start_mm", "behind", "not a length"),
        ("second_end_mm", "30", "Give both ends"),
        ("length_mm", "12", "Must not be shorter"),
        ("rim_mm", "900", "between 0"),
    ],
)
def test_a_length_that_can_not_be_is_told_beside_its_field(old_car, field, typed, error):
    page = old_car.post(MEASURE, 422, **(LENGTHS | {field: typed}))
    assert error in page
    if typed:
        assert f'value="{typed}"' in page


def test_there_is_nothing_to_measure_before_the_base_is_known(shop):
    shop.post("/jobs/new", **BOOKING)
    assert "What each socket is" in shop.get(MEASURE)
    assert "What each socket is" in shop.get("/jobs/1/all/measure")
