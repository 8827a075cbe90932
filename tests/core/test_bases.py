"""The base catalogue against UN R37, UN R99 and IEC 60061-1, from memory."""

import pytest

from cold_arc.core import bases


@pytest.mark.parametrize(
    ("name", "watts", "lumens", "lcl_mm", "filament_mm", "cap"),
    [
        ("H1", (55,), (1550,), 25.0, 5.0, "P14.5s"),  # UN R37
        ("H4", (60, 55), (1650, 1000), None, None, "P43t"),
        ("H7", (55,), (1500,), 25.0, 4.1, "PX26d"),
        ("H8", (35,), (800,), 25.0, 3.7, "PGJ19-1"),
        ("H9", (65,), (2100,), 25.0, 4.8, "PGJ19-5"),
        ("H11", (55,), (1350,), 25.0, 4.5, "PGJ19-2"),
        ("9005", (60,), (1860,), 31.5, 5.1, "P20d"),
        ("9006", (51,), (1095,), 31.5, 5.1, "P22d"),
        ("9012", (55,), (1875,), None, None, "PX22d"),
        ("D2S", (35,), (3200,), 27.1, 4.2, "P32d-2"),  # UN R99
        ("D4R", (35,), (2800,), 27.1, 4.2, "P32d-6"),
        ("W5W", (5,), (50,), None, None, "W2.1x9.5d"),
    ],
)
def test_figures(name, watts, lumens, lcl_mm, filament_mm, cap):
    base = bases.find(name)
    assert (base.watts, base.lumens) == (watts, lumens)
    assert (base.lcl_mm, base.filament_mm, base.cap) == (lcl_mm, filament_mm, cap)
    assert base.recalled


def test_every_base_a_shop_meets_is_there():
    wanted = (
        "H1 H3 H4 H7 H8 H9 H11 H13 H15 H16 HB3 HB4 HB1 HB5 HIR1 HIR2 9003 HB2 W5W P21W PY21W W21W P27/7W 3157 "
        "D1S D2S D1R D2R D3S D4S D3R D4R D5S D8S 9005 9006 9004 9007 9011 9012"
    )
    assert [name for name in wanted.split() if bases.find(name) is None] == []


def test_mercury_and_arc_voltage_of_gas_discharge():
    """UN R99, from memory: D1 and D2 hold mercury at 85 V, D3 and D4 none at 42 V."""
    for name in ("D1S", "D1R", "D2S", "D2R"):
        assert bases.find(name).contains_mercury
        assert bases.find(name).arc_volts == 85
    for name in ("D3S", "D3R", "D4S", "D4R"):
        assert not bases.find(name).contains_mercury
        assert bases.find(name).arc_volts == 42


@pytest.mark.parametrize(
    ("cap", "diameter_mm", "contacts"),
    [  # IEC 60061-1 designations, from memory: principal diameter, then s, d, t, q for one to four contacts
        ("P43t", 43.0, 3),
        ("PX26d", 26.0, 2),
        ("P14.5s", 14.5, 1),
        ("P26.4t", 26.4, 3),
        ("PK32d-2", 32.0, 2),
        ("BA15s", 15.0, 1),
        ("W2.1x9.5d", 9.5, 2),
        ("W2.5x16q", 16.0, 4),
        ("PGJ19-2", 19.0, None),
    ],
)
def test_a_caps_designation_says_its_size(cap, diameter_mm, contacts):
    assert bases.cap_diameter_mm(cap) == diameter_mm
    assert bases.cap_contacts(cap) == contacts


def test_contacts_told_agree_with_the_caps_letter():
    """The catalogue's own count against IEC 60061-1's letter, wherever both are known."""
    both = [(base.contacts, bases.cap_contacts(base.cap)) for base in bases.catalogue() if base.cap and base.contacts]
    assert len(both) > 15
    assert all(told == letter for told, letter in both if letter is not None)


def test_what_is_no_cap_is_refused():
    with pytest.raises(ValueError, match="not a cap"):
        bases.cap_diameter_mm("??")


def test_unknown_name():
    assert bases.find("H99") is None
