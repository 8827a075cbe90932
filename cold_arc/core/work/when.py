"""When a car is best worked on: hands first, the wall once it is dark, nothing before its parts are
here.
"""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise
from zoneinfo import ZoneInfo

from cold_arc.core.work.dark import ShopPlace, night

# The working day, minutes after midnight, and to what a start is rounded (own).
OPENS_MIN, STEP_MIN = 8 * 60, 5
UNKNOWN_DUSK_MIN = 18 * 60


# The years a shop plans in.
YEARS = (2000, 2100)


def is_planned(day: dt.date) -> bool:
    """Whether a day is one that a shop plans."""
    return YEARS[0] <= day.year <= YEARS[1]


@dataclass(frozen=True)
class Visit:
    """One car's time on a day: *starts*, minutes after midnight; how long hands and wall take;
    *people*.
    """

    name: str
    starts: float
    hands: float
    wall: float
    people: int

    @property
    def ready(self) -> float:
        """When its hands are done."""
        return self.starts + self.hands

    def wall_from(self, dark_from: float) -> float:
        """When its wall work begins: after the hands, and in the dark."""
        return max(self.ready, dark_from)

    def ends(self, dark_from: float) -> float:
        """When it is done."""
        return self.wall_from(dark_from) + self.wall if self.wall else self.ready


def dark_from(place: ShopPlace | None, dark_bay: bool, day: dt.date) -> float | None:
    """From when on a day the wall is dark enough, minutes after midnight; None where it never is,
    or nothing is known.

    A dark bay is so at any hour.
    """
    if dark_bay:
        return 0.0
    if place is None:
        return None
    tonight = night(place, day)
    if tonight.always_dark:
        return 0.0
    if tonight.dusk is None:
        return None
    local = tonight.dusk.astimezone(ZoneInfo(place.zone))
    late = 24 * 60 if local.date() > day else 0
    return float(late + local.hour * 60 + local.minute)


def best_start(hands: float, dark: float | None) -> int:
    """The start that lets the hands be done just as it gets dark, minutes after midnight, not
    before the shop opens.

    >>> best_start(90, 16 * 60 + 34)
    900
    """
    latest = (UNKNOWN_DUSK_MIN if dark is None else dark) - hands
    return max(OPENS_MIN, int(latest // STEP_MIN * STEP_MIN)) if dark != 0.0 else OPENS_MIN


def line_up(visits: Sequence[Visit], dark: float) -> list[float]:
    """When each car's wall work begins: there is one wall, and who is ready first has it first.

    >>> line_up([Visit("A", 900, 60, 20, 1), Visit("B", 840, 30, 15, 1)], 950)
    [965.0, 950.0]
    """
    begins, free = [0.0] * len(visits), 0.0
    for number in sorted(
        range(len(visits)), key=lambda index: (visits[index].wall_from(dark), visits[index].ready)
    ):
        begins[number] = float(max(visits[number].wall_from(dark), free))
        if visits[number].wall:
            free = begins[number] + visits[number].wall
    return begins


def too_many(visits: Sequence[Visit], dark: float, people: int) -> list[tuple[float, float, int]]:
    """Spans of a day in which more people are asked for than there are: from, to, how many."""
    spans = list(_spans(visits, dark))
    crowded: list[tuple[float, float, int]] = []
    for start, end in pairwise(sorted({edge for span in spans for edge in span[:2]})):
        asked = sum(count for a, b, count in spans if a <= start < end <= b)
        if asked > people:
            goes_on = crowded and crowded[-1][1:] == (start, asked)
            crowded.append((crowded.pop()[0] if goes_on else start, end, asked))
    return crowded


def _spans(visits: Sequence[Visit], dark: float) -> Iterator[tuple[float, float, int]]:
    """When people are asked for: from, to, how many; of each visit its hands and its wall."""
    for visit, at in zip(visits, line_up(visits, dark), strict=True):
        yield visit.starts, visit.ready, visit.people
        yield at, at + visit.wall, 1
