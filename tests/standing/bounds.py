"""What each kind of entry may hold: of every number the least and the most that is taken, of every
text the longest, found by halving from what the kept jobs say.
"""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable, Iterator

from cold_arc.core.job import plausible
from cold_arc.core.job.codec import to_plain
from cold_arc.core.job.entries.kind import Payload
from cold_arc.core.job.record import Unreadable

# Of each kind so many different ones are tried, each as far as this, to this share.
EXAMPLES, FARTHEST, NEAR = 3, 1e7, 1e-6
LONGEST = 100_000
Path = tuple[str | int, ...]


def answers(payloads: Iterable[Payload]) -> Iterator[tuple[str, object]]:
    """Each place of each kind's examples, and what is taken there."""
    for name, examples in sorted(_examples(payloads).items()):
        for number, example in enumerate(examples, 1):
            for path, value in leaves(to_plain(example)):
                where = ".".join(map(str, path))
                yield f"{name} {number}: {where} from {value!s:.40}", _reach(example, path, value)


def _examples(payloads: Iterable[Payload]) -> dict[str, list[Payload]]:
    """Some payloads of each kind, as unlike as they are met."""
    kept: dict[str, list[Payload]] = {}
    shapes: set[tuple[Path, ...]] = set()
    for payload in payloads:
        shape = tuple(path for path, _ in leaves(to_plain(payload)))
        mine = kept.setdefault(type(payload).__name__, [])
        if len(mine) < EXAMPLES and (shape not in shapes or not mine):
            mine.append(payload)
            shapes.add(shape)
    return kept


def leaves(plain: object, path: Path = ()) -> Iterator[tuple[Path, object]]:
    """The numbers, texts and yes or no of a plain value, the first of each list alone."""
    if isinstance(plain, dict):
        for name, held in plain.items():
            yield from leaves(held, (*path, name))
    elif isinstance(plain, list):
        for place, held in enumerate(plain[:1]):
            yield from leaves(held, (*path, place))
    elif isinstance(plain, int | float | str):
        yield path, plain


def having(plain: object, path: Path, value: object) -> object:
    """A payload as stored with another value at a place."""
    changed = json.loads(json.dumps(plain))
    held = changed
    for part in path[:-1]:
        held = held[part]
    held[path[-1]] = value
    return changed


def _reach(example: Payload, path: Path, value: object) -> object:
    """What is taken at a place: for a number least and most, for a text the longest and whether any
    word will do."""

    def taken(other: object) -> bool:
        plain = having(to_plain(example), path, other)
        kind = type(example).ENTRY
        return not isinstance(plausible.read(kind.id, kind.version, plain), Unreadable)

    if isinstance(value, bool):
        return taken(not value)
    if isinstance(value, str):
        return [taken(""), taken("another"), _most(taken, lambda size: "x" * int(size), LONGEST)]
    return [_most(taken, lambda by: value - by), _most(taken, lambda by: value + by)]


def _most(
    taken: Callable[[object], bool], made: Callable[[float], object], farthest: float = FARTHEST
) -> object:
    """How far a value may go: halved between what is taken and what is not."""
    if taken(made(farthest)):
        return "any"
    near, far = 0.0, farthest
    while far - near > NEAR * far and far > NEAR:
        middle = (near + far) / 2
        near, far = (middle, far) if taken(made(middle)) else (near, middle)
    return far
