"""What an exercise shows, as a page takes it: walls, faces, dials, tables; before and after it was
answered.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from flask import url_for

from cold_arc.core.beam.setup import SetUp
from cold_arc.core.car.bases import find
from cold_arc.core.job.stages import Stage, Status
from cold_arc.core.metering import readings as metering
from cold_arc.core.school.exercise import (
    BeamsShown,
    CarShown,
    CollarShown,
    Exercise,
    FaceShown,
    LineShown,
    MeterShown,
    ScrewsShown,
)
from cold_arc.core.units import say_lux
from cold_arc.core.work import clocking
from cold_arc.core.work.diagnosis import Test, faults
from cold_arc.formats.picture import Frame
from cold_arc.school import beam_faults, cars, taking, wall
from cold_arc.store.school import PosedQuestion
from cold_arc.web.forms.fields import unit_system
from cold_arc.web.job.fault import CaseView
from cold_arc.web.parts.base_face import DrawnBase, build_base_face
from cold_arc.web.parts.beam_wall import build_beam_wall
from cold_arc.web.parts.dial import Dial, build_dial
from cold_arc.web.parts.wall import (
    View,
    Wall,
    WallLine,
    WallPoint,
    add_bands,
    cut_off_path,
    drag_line,
    lamp_wall,
)

# The part of a wall a line is laid on, m about the lamp's axis at 10 m; how far its arms reach, cm.
LINE_FRAME, ARM_CM = Frame(-2.2, -0.75, 2.2, 0.95), 160.0
# The part of it where a meter is held, m.
METER_FRAME = Frame(-2.6, -0.75, 2.6, 1.25)
# By kind of exercise.
FRAMES = {"line": LINE_FRAME, "screws": LINE_FRAME, "take": METER_FRAME}
# Which picture is which: what is shown first, second; the lamp as it should be; as it would look
# if the answer were right.
MEANT, THOUGHT = 8, 9


@dataclass(frozen=True)
class CaptionedWall:
    """A Wall with its caption."""

    wall: Wall
    words: str


def picture_setup(exercise: Exercise, asked: PosedQuestion, which: int) -> SetUp | None:
    """The set-up of one of a question's pictures; None where there is none, or it would tell the
    answer.
    """
    shown = exercise.shown
    if isinstance(shown, LineShown | ScrewsShown | MeterShown):
        return shown.setup if which == 0 else None
    if not isinstance(shown, BeamsShown):
        return None
    if which < len(shown.setups):
        return shown.setups[which]
    if asked.answered is None:
        return None
    return {MEANT: shown.meant, THOUGHT: thought_of(exercise, asked)}.get(which)


def thought_of(exercise: Exercise, asked: PosedQuestion) -> SetUp | None:
    """What the lamp would look like if what was answered wrongly were so."""
    shown = exercise.shown
    if exercise.posed.kind != "read" or asked.answered is None or not isinstance(shown, BeamsShown):
        return None
    fault = beam_faults.FAULTS.get(asked.answered.taken_for)
    return next(iter(fault.ways(shown.meant, exercise.posed.level)), None) if fault else None


def _address(asked: PosedQuestion, which: int) -> str:
    return url_for("school.picture", round_id=asked.round, number=asked.number, which=which)


def _view() -> View:
    return View(unit_system(), degrees=True)


def walls(exercise: Exercise, asked: PosedQuestion) -> list[CaptionedWall]:
    """The beams of an exercise on walls; once answered, the lamp as it should be beside them."""
    shown = exercise.shown
    if not isinstance(shown, BeamsShown):
        return []
    letters = "AB" if len(shown.setups) > 1 else ("This lamp",)
    pictured: list[tuple[int, str]] = list(enumerate(letters))
    if asked.answered is not None and exercise.posed.kind == "read":
        if thought_of(exercise, asked) is not None:
            text = exercise.text_of(asked.answered.taken_for)
            pictured.append((THOUGHT, f"So it would look: {text}"))
        if beam_faults.FINE not in exercise.right:
            pictured.append((MEANT, "As it should be"))
    return [
        CaptionedWall(_beam_wall(shown, _address(asked, number)), words)
        for number, words in pictured
    ]


def _beam_wall(shown: BeamsShown, address: str) -> Wall:
    """One beam; with the line where its edge belongs, where the exercise tapes it."""
    cut_off = shown.meant.built_housing().cut_off
    line = cut_off if shown.taped else replace(cut_off, shape="none")
    return build_beam_wall(line, _view(), after=address)


def line_wall(exercise: Exercise, asked: PosedQuestion) -> Wall | None:
    """The Wall a line is laid on; once answered, where it was laid and where it stands."""
    shown = exercise.shown
    if not isinstance(shown, LineShown):
        return None
    drawn = lamp_wall(LINE_FRAME, shown.distance_m, _view())
    drawn.arm, drawn.after = ARM_CM, _address(asked, 0)
    if asked.answered is None:
        drawn.drag = drag_line(drawn, (0.0, 0.0), (0.0, 0.0), shown.setup.traffic)
        return drawn.finished()
    kerb = shown.setup.traffic.kerb
    truth = math.tan(math.radians(shown.stands_deg))
    laid = [(float(asked.answer), "laid", drawn.found)] if _is_figure(asked.answer) else []
    for slope, words, marks in (*laid, (truth, "stands", drawn.left)):
        y = -100 * shown.distance_m * slope
        path = cut_off_path(0.0, y, ARM_CM, kerb, elbow=True)
        marks.append(WallLine(path, words, -kerb * ARM_CM * 0.8, y))
    return drawn.finished()


def _is_figure(text: str) -> bool:
    try:
        return math.isfinite(float(text))
    except ValueError:
        return False


@dataclass(frozen=True)
class FaceView:
    """A base that is not named, from behind; what is seen of it besides."""

    drawn: DrawnBase
    seen: tuple[tuple[str, str], ...]


def face_view(exercise: Exercise, asked: PosedQuestion) -> FaceView | None:
    """The face of a base; it is named once it was answered."""
    shown = exercise.shown
    base = find(shown.base) if isinstance(shown, FaceShown) else None
    if base is None or not isinstance(shown, FaceShown):
        return None
    drawn = build_base_face(base)
    words = drawn.words if asked.answered else "A base from behind"
    return FaceView(replace(drawn, words=words), shown.seen)


def dial_view(exercise: Exercise, asked: PosedQuestion) -> Dial | None:
    """The dial of a bulb that stopped; with its preset once it was answered."""
    shown = exercise.shown
    if not isinstance(shown, CollarShown):
        return None
    dial = build_dial(clocking.preset(shown.stopped_deg, shown.turns_alike))
    return dial if asked.answered else replace(dial, preset_deg=None)


@dataclass(frozen=True)
class StopShown:
    """A stage on the Track: how it stands, whether it can be picked, whether it is."""

    stage: Stage
    mark: Status
    offered: bool
    picked: bool

    @property
    def key(self) -> int:
        """What presses it."""
        return self.stage.number % 10


def track_view(exercise: Exercise, asked: PosedQuestion, picked: Sequence[str]) -> list[StopShown]:
    """The Track with nothing told of it; once answered, what lacks something stands open on it."""
    if exercise.posed.kind != "track":
        return []
    chosen = asked.answer.split(",") if asked.answered else picked
    offered = {option.id for option in exercise.options}
    lacking = exercise.right if asked.answered else frozenset()
    return [
        StopShown(
            stage,
            Status.OPEN if stage in lacking else Status.AHEAD,
            stage in offered,
            stage in chosen,
        )
        for stage in Stage
    ]


@dataclass(frozen=True)
class ScrewsView:
    """A lamp before the wall and the moves made: the Wall, each move and where the edge stood
    after it.
    """

    wall: Wall
    rows: tuple[tuple[str, str, float, float], ...]
    made: str
    left: int
    sideways: bool


def screws_view(exercise: Exercise, asked: PosedQuestion, answer: str) -> ScrewsView | None:
    """The lamp after the moves of an answer."""
    shown = exercise.shown
    if not isinstance(shown, ScrewsShown):
        return None
    turned = wall.turn(shown, wall.moves_of(answer))
    up, right = turned.stands
    drawn = lamp_wall(LINE_FRAME, shown.distance_m, _view())
    drawn.arm = ARM_CM
    add_bands(drawn, shown.target, 0.0, 0.0)
    address = _address(asked, 0)
    drawn.after = f"{address}?up={math.degrees(up):.3f}&right={math.degrees(right):.3f}"
    rows = [("", "", *turned.stood[0])]
    rows += [
        (f"{height:+g}", f"{side:+g}", *stood)
        for (height, side), stood in zip(turned.moves, turned.stood[1:], strict=True)
    ]
    left = shown.par - len(turned.moves)
    return ScrewsView(drawn.finished(), tuple(rows), answer, left, shown.sideways)


@dataclass(frozen=True)
class PlaceRead:
    """A place on the wall: its words, what was written down of it, whether the meter is there."""

    id: str
    words: str
    read: str
    here: bool


@dataclass(frozen=True)
class MeterView:
    """A meter before the wall: the Wall, the places, what the display shows (its range beside),
    what is seen of the bay, what may be done, what of that is so, and the acts so far.
    """

    wall: Wall
    places: tuple[PlaceRead, ...]
    display: str
    range_words: str
    facts: tuple[tuple[str, str], ...]
    acts: Mapping[str, str]
    on: frozenset[str]
    made: str


def meter_view(exercise: Exercise, asked: PosedQuestion, answer: str) -> MeterView | None:
    """The meter after the acts of an answer."""
    if not isinstance(exercise.shown, MeterShown):
        return None
    bay = taking.done(exercise, answer)
    places = tuple(
        PlaceRead(
            place,
            metering.words(place),
            say_lux(bay.taken[place].lux) if place in bay.taken else "",
            place == bay.place,
        )
        for place in taking.PLACES
    )
    return MeterView(
        _meter_wall(exercise, asked, answer, places),
        places,
        taking.display(exercise, bay) if bay.place else "",
        f"×{bay.range_factor:g}",
        taking.facts(exercise, bay),
        taking.ACTS,
        taking.is_so(bay),
        answer,
    )


def _meter_wall(
    exercise: Exercise, asked: PosedQuestion, answer: str, places: tuple[PlaceRead, ...]
) -> Wall:
    """The beam with the places to hold the meter at; a tap on one holds it there."""
    points = []
    for place in places:
        right, down = taking.where(exercise, place.id)
        href = url_for(
            "school.question", round_id=asked.round, number=asked.number, made=answer, act=place.id
        )
        points.append(
            WallPoint(
                None,
                place.id,
                right,
                down,
                after=place.read,
                href="" if asked.answered else href,
                here=place.here,
                words=place.words,
            )
        )
    drawn = lamp_wall(METER_FRAME, taking.DISTANCE_M, _view(), points)
    drawn.after = _address(asked, 0)
    return drawn.finished()


@dataclass(frozen=True)
class Stepped:
    """What is looked at of an exercise answered step by step."""

    screws: ScrewsView | None
    meter: MeterView | None
    case: CaseView | None


def stepped(exercise: Exercise, asked: PosedQuestion, answer: str) -> Stepped:
    """What the steps of an answer have led to; NoAnswerError for what is no answer."""
    return Stepped(
        screws_view(exercise, asked, answer),
        meter_view(exercise, asked, answer),
        case_view(exercise, answer),
    )


def case_view(exercise: Exercise, answer: str) -> CaseView | None:
    """The case of a car, after the tests of an answer."""
    shown = exercise.shown
    if not isinstance(shown, CarShown):
        return None
    return CaseView(cars.case_of(shown, answer)[0])


def tests_of(exercise: Exercise) -> list[Test]:
    """The tests that are offered on a car."""
    shown = exercise.shown
    tests = shown.tests if isinstance(shown, CarShown) else ()
    return [faults().tests[test] for test in tests]
