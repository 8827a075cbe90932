"""Aim of an old lamp: the straight edge, and the focus by the smallest image out of the beam
model.
"""

from tests.web.conftest import BOOKING, identification


def test_an_old_lamp_is_focused_by_its_image(shop):
    shop.post("/jobs/new", **BOOKING)
    shop.post("/jobs/1/all/book-in", **identification(base="H4", optic="lens-optic"))
    assert "straight edge and focus" in shop.get("/jobs/1/low/aim")
    told = shop.get("/jobs/1/low/aim/focus")
    assert "Turn the screw until the bright part is smallest" in told
    assert "+4.0 mm" in told or "+4 mm" in told
    assert "at 10 m" in told


def test_any_other_lamp_is_not(booked):
    assert "straight edge" not in booked.get("/jobs/1/low/aim")
    assert booked.get("/jobs/1/low/aim/focus") == ""
