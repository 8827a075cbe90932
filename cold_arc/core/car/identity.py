"""By what a car is known again: its plate, and the number its maker gave it.

A vehicle identification number has 17 signs since 1981, without I, O and Q (ISO 3779, from
memory); in North America and China its ninth is a check digit (49 CFR 565.15(c), from memory). Cars
made for Europe carry none there.
"""

from __future__ import annotations

from cold_arc.core.references import Sources, cite

VIN_LENGTH, VIN_SINCE = 17, 1981
LONGEST_NUMBER, LONGEST_PLATE = 20, 15
NEVER_USED = frozenset("IOQ")
CHECK_PLACE = 8
# Where a number's first sign says it was given: there the check digit is asked.
CHECKED_BY = "12345L"
# 49 CFR 565.15(c), tables III and IV, from memory: what a letter counts, what a place weighs.
_COUNTS: dict[str, int] = dict(
    zip("ABCDEFGHJKLMNPRSTUVWXYZ", map(int, "12345678123457923456789"), strict=True)
)
_COUNTS |= {str(digit): digit for digit in range(10)}
_WEIGHTS = (8, 7, 6, 5, 4, 3, 2, 10, 0, 9, 8, 7, 6, 5, 4, 3, 2)
SOURCES: Sources = cite("cfr-565 565.15(c)", "iso-3779")


def plain(text: str) -> str:
    """A plate or a number without what is written in many ways: spaces, dashes, small letters.

    >>> plain(" wx-12 345 ")
    'WX12345'
    """
    return "".join(sign for sign in text.upper() if sign.isalnum())


def check_digit(vin: str) -> str:
    """The ninth sign the other sixteen of a 17-sign number ask for (49 CFR 565.15(c)); ValueError
    for a sign no such number has.

    >>> check_digit("1" * 17)
    '1'
    """
    try:
        counts = [_COUNTS[sign] for sign in vin]
    except KeyError as error:
        raise ValueError(f"{error.args[0]} is no sign of such a number.") from error
    rest = sum(count * weight for count, weight in zip(counts, _WEIGHTS, strict=True)) % 11
    return "X" if rest == 10 else str(rest)


def doubt(number: str, year: int | None) -> str:
    """What speaks against a car's number as typed, in a sentence; "" for nothing. *year*: when the
    car was made, where told.

    >>> doubt("1" * 17, 1999), doubt("A 1234", 1936)
    ('', '')
    """
    signs = plain(number)
    if len(signs) != VIN_LENGTH:
        is_old = not signs or year is None or year < VIN_SINCE
        return "" if is_old else f"It has {len(signs)} signs; since {VIN_SINCE} they have 17."
    try:
        asked = check_digit(signs)
    except ValueError as error:
        return f"{error} 1 or 0 is meant?" if NEVER_USED.intersection(signs) else str(error)
    if signs[0] in CHECKED_BY and signs[CHECK_PLACE] != asked:
        return (
            f"Its ninth sign is {signs[CHECK_PLACE]}, the others ask for {asked}: one is misread."
        )
    return ""


def is_same(vin: str, plate: str, other_vin: str, other_plate: str) -> bool:
    """Whether two visits are of one car: by its number where both tell it, else by its plate; each
    as `plain` gives it. A plate alone may have gone to another car.
    """
    if vin and other_vin:
        return vin == other_vin
    return bool(plate) and plate == other_plate
