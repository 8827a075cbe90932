"""Labels that make room for one another: each stands beside its place, where nothing else stands
yet.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

# A letter's width and a line's height over the text's size: of the font shipped, a little generous.
LETTER, LINE = 0.62, 1.18
STEPS = 6


@dataclass(frozen=True)
class Rect:
    """A rectangle in drawing units, y down."""

    x: float
    y: float
    width: float
    height: float
    words: str = ""
    kind: str = ""

    def meets(self, other: Rect) -> bool:
        """Whether the two share any ground."""
        apart_x = self.x >= other.x + other.width or other.x >= self.x + self.width
        apart_y = self.y >= other.y + other.height or other.y >= self.y + self.height
        return not (apart_x or apart_y)

    def within(self, other: Rect) -> bool:
        """Whether it lies inside another."""
        across = other.x <= self.x and self.x + self.width <= other.x + other.width
        return across and other.y <= self.y and self.y + self.height <= other.y + other.height


@dataclass(frozen=True)
class Wanted:
    """A label wanted at a place: its lines with their classes, and how far off the place it stands
    at least.
    """

    x: float
    y: float
    lines: tuple[tuple[str, str], ...]
    gap: float


@dataclass(frozen=True)
class Label:
    """A label where it stands: lines of text with their classes and baselines, and its ground."""

    x: float
    lines: tuple[tuple[float, str, str], ...]
    ground: Rect


def settle(
    wanted: Sequence[Wanted], size: float, frame: Rect, taken: Sequence[Rect] = ()
) -> list[Label]:
    """Places labels of text *size* in the order given, off one another, off what is *taken*, inside
    *frame*.
    """
    grounds, placed = list(taken), []
    for label in wanted:
        width = size * LETTER * max(len(text) for text, _ in label.lines)
        height = size * LINE * len(label.lines)
        ground = next(
            (
                box
                for box in _places(label, width, height)
                if box.within(frame) and not any(map(box.meets, grounds))
            ),
            None,
        )
        if ground is None:
            continue  # no room at all: the place itself still tells its words
        grounds.append(ground)
        baselines = (ground.y + size * (LINE * row + 0.92) for row in range(len(label.lines)))
        lines = tuple((y, text, css) for y, (text, css) in zip(baselines, label.lines, strict=True))
        placed.append(Label(ground.x, lines, ground))
    return placed


def _places(label: Wanted, width: float, height: float) -> Iterator[Rect]:
    """Where a label may stand, best first: right, left, below, above, then farther up and down."""
    left, right = label.x - label.gap - width, label.x + label.gap
    for step in range(STEPS):
        for way in (1, -1) if step else (1,):
            y = label.y - height / 2 + way * step * height * 0.6
            yield Rect(right, y, width, height)
            yield Rect(left, y, width, height)
        far = label.gap + step * height * 0.6
        yield Rect(label.x - width / 2, label.y + far, width, height)
        yield Rect(label.x - width / 2, label.y - far - height, width, height)
