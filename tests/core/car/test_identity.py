"""Plates and numbers: what is one car's, what is asked back."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cold_arc.core.car import identity

SIGNS = "0123456789ABCDEFGHJKLMNPRSTUVWXYZ"


@pytest.mark.parametrize(
    ("number", "digit"),
    [
        ("1" * 17, "1"),  # 49 CFR 565.15(c), from memory: ones weigh 89 in all, 89 mod 11 is 1
        ("A" * 8 + "0" + "A" * 8, "1"),  # A counts 1 as well
        ("00000000000000005", "X"),  # 5 × 2 is 10
        ("00000000000000001", "2"),
    ],
)
def test_the_check_digit_is_the_weighted_sum_by_eleven(number, digit):
    assert identity.check_digit(number) == digit


@given(st.text(SIGNS, min_size=17, max_size=17), st.integers(0, 16), st.sampled_from(SIGNS))
def test_one_sign_misread_is_asked_back(number, place, other):
    """In North America: whichever sign is misread for one that counts otherwise."""
    right = "1" + number[1:8] + "0" + number[9:]
    right = right[:8] + identity.check_digit(right) + right[9:]
    assert identity.doubt(right, 2012) == ""
    wrong = right[:place] + other + right[place + 1 :]
    changed = identity.check_digit(wrong) != right[8] or place == identity.CHECK_PLACE
    if changed and wrong != right and wrong[0] in identity.CHECKED_BY:
        assert "ninth sign" in identity.doubt(wrong, 2012)


@pytest.mark.parametrize(
    ("number", "year", "asked"),
    [
        ("", 2012, ""),
        ("A 1234", 1936, ""),
        ("A 1234", None, ""),
        ("A 1234", 2012, "It has 5 signs"),
        ("WXY00000000000000", 2012, ""),  # made for Europe: no digit to check
        ("WXYO0000000000000", 2012, "O is no sign of such a number. 1 or 0 is meant?"),
    ],
)
def test_what_speaks_against_a_number(number, year, asked):
    doubt = identity.doubt(number, year)
    assert doubt.startswith(asked)
    assert bool(doubt) is bool(asked)


def test_a_plate_goes_for_a_car_only_where_no_number_says_otherwise():
    assert identity.is_same("", "AB1", "", "AB1")
    assert identity.is_same("V1", "", "V1", "AB1")
    assert identity.is_same("V1", "AB1", "", "AB1")
    assert not identity.is_same("V1", "AB1", "V2", "AB1")
    assert not identity.is_same("", "", "", "")
