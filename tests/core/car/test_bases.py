"""The base catalogue against UN R37, UN R99 and IEC 60061-1, from memory."""

import pytest

from cold_arc.core.car import bases
from cold_arc.core.car.lamps import Function
from cold_arc.core.references import say


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
        ("9012", (55,), (1875,), 31.5, None, "PX22d"),
        ("D2S", (35,), (3200,), 27.1, 4.2, "P32d-2"),  # UN R99
        ("D4R", (35,), (2800,), 27.1, 4.2, "P32d-6"),
        ("W5W", (5,), (50,), None, None, "W2.1x9.5d"),
    ],
)
def test_figures(name, watts, lumens, lcl_mm, filament_mm, cap):
    base = bases.find(name)
    assert (base.watts, base.lumens) == (watts, lumens)
    assert (base.lcl_mm, base.filament_mm, base.cap) == (lcl_mm, filament_mm, cap)
    assert all(source.recalled for source in base.sources)


@pytest.mark.parametrize(
    ("name", "function", "volts", "watts", "most", "lumens", "test_volts"),
    [
        ("H7", Function.LOW, 12, 55, 58, 1500, 13.2),  # UN R37, from memory, all of these
        ("H7", Function.LOW, 24, 70, 75, 1750, 28.0),
        ("H1", Function.HIGH, 24, 70, 84, 1900, 28.0),
        ("H4", Function.LOW, 12, 55, 68, 1000, 13.2),
        ("H4", Function.HIGH, 12, 60, 75, 1650, 13.2),
        ("H4", Function.HIGH, 24, 75, 85, 1900, 28.0),
        ("P21W", Function.TURN, 12, 21, 26.5, 460, 13.5),
        ("P27/7W", Function.TURN, 12, 27, 32.1, 475, 13.5),
        ("P27/7W", Function.POSITION, 12, 7, 8.5, 36, 13.5),
        ("D2S", Function.LOW, 24, 35, 35, 3200, 28.0),  # UN R99: the ballast sets its power
    ],
)
def test_what_a_function_burns_on_which_supply(
    name, function, volts, watts, most, lumens, test_volts
):
    rating = bases.find(name).rating(function, volts)
    assert (rating.watts, rating.most_watts, rating.lumens, rating.test_volts) == (
        watts,
        most,
        lumens,
        test_volts,
    )
    assert not rating.assumed


def test_a_type_not_recalled_is_assumed_and_without_flux():
    rating = bases.find("H9").rating(Function.LOW, 24)
    assert rating.assumed
    assert rating.lumens is None


def test_every_filament_has_its_role_and_its_figures():
    for base in bases.catalogue():
        assert len(base.watts) == 1 or len(base.roles) == len(base.watts), base.name
        for figures in (base.lumens, base.most_watts):
            assert len(figures) in (0, len(base.watts)), base.name
        for function in Function:
            for volts in (6.0, 12.0, 24.0):
                rating = base.rating(function, volts)
                assert rating.most_watts >= rating.watts * 0.99


def test_every_base_a_shop_meets_is_there():
    wanted = (
        "H1 H3 H4 H7 H8 H9 H11 H13 H15 H16 HB3 HB4 HB1 HB5 HIR1 HIR2 9003 HB2 W5W P21W PY21W "
        "W21W P27/7W 3157 "
        "H2 H12 H14 H17 H18 H19 H20 880 881 H27W/1 P13W PSX24W PSX26W PS19W PS24W R2 S1 S2 S3 "
        "T4W R5W R10W H6W H21W "
        "P21/5W P21/4W W21/5W W16W P27W 1156 1157 7440 7443 194 168 T10 3156 5202 9008 "
        "D1S D2S D1R D2R D3S D4S D3R D4R D5S D8S 9005 9006 9004 9007 9011 9012"
    )
    assert [name for name in wanted.split() if bases.find(name) is None] == []


@pytest.mark.parametrize(
    ("name", "watts", "lumens", "cap"),
    [  # UN R37, from memory, several doubtful
        ("H15", (55, 15), (1350, 260), "PGJ23t-1"),
        ("880", (27,), (477,), "PG13"),
        ("R2", (45, 40), (860, 675), "P45t"),
        ("P21/5W", (21, 5), (440, 35), "BAY15d"),
        ("W21/5W", (21, 5), (440, 35), "W3x16q"),
        ("PSX24W", (24,), (500,), "PG20-7"),
        ("H21W", (21,), (600,), "BAY9s"),
        ("P13W", (13,), (250,), "PG18.5d-1"),
    ],
)
def test_figures_of_the_second_list(name, watts, lumens, cap):
    base = bases.find(name)
    assert (base.watts, base.lumens, base.cap) == (watts, lumens, cap)


def test_what_is_not_recalled_stays_empty():
    assert bases.find("S3").lumens == ()
    assert bases.find("S2").rating(Function.LOW, 24.0).lumens is None
    assert bases.find("R2").lcl_mm is None
    assert bases.find("Sealed 178 mm").sealed


def test_measured_lengths_serve_as_the_bases_own():
    """Start 26, end 31.5 mm: light centre 28.75, filament 5.5; the second from 20 to 24.5: 6.5 mm
    behind.
    """
    bulb = bases.MeasuredBulb(26.0, 31.5, 20.0, 24.5)
    base = bases.measured(bases.find("R2"), bulb)
    assert (base.lcl_mm, base.filament_mm) == (28.75, 5.5)
    assert base.high_offset_mm == (0.0, 0.0, -6.5)
    assert say(base.light_centre_sources) == "measured off the old bulb"
    assert base.watts == bases.find("R2").watts
    assert bases.find("R2").lcl_mm is None


@pytest.mark.parametrize(
    ("bulb", "field"),
    [
        (bases.MeasuredBulb(30, 30), "end_mm"),
        (bases.MeasuredBulb(26, 31, 20), "second_end_mm"),
        (bases.MeasuredBulb(26, 31, 24, 20), "second_end_mm"),
        (bases.MeasuredBulb(26, 31, length_mm=30), "length_mm"),
    ],
)
def test_a_bulb_that_can_not_be_is_told_by_its_field(bulb, field):
    assert list(bulb.faults()) == [field]


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
    # IEC 60061-1 designations, from memory: principal diameter, then s, d, t, q for one to four
    # contacts
    [
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
    both = [
        (base.contacts, bases.cap_contacts(base.cap))
        for base in bases.catalogue()
        if base.cap and base.contacts
    ]
    assert len(both) > 15
    assert all(told == letter for told, letter in both if letter is not None)


def test_what_is_no_cap_is_refused():
    with pytest.raises(ValueError, match="not a cap"):
        bases.cap_diameter_mm("??")


def test_unknown_name():
    assert bases.find("H99") is None
