"""Cards to keep: each skill's half-page, with a pair of pictures where it can be seen."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cache

from flask import Blueprint, render_template

from cold_arc.core.beam.setup import SetUp
from cold_arc.core.car.bases import find
from cold_arc.core.school.skills import Skill, kinds, skills
from cold_arc.school.beam_faults import DUAL, DUAL_ONLY, FAULTS
from cold_arc.web.parts.base_face import DrawnBase, build_base_face
from cold_arc.web.parts.beam_wall import picture_url

bp = Blueprint("school_cards", __name__)
# The level a card's fault is drawn at: plain to see.
PLAIN_LEVEL = 2
GOOD = SetUp(housing="reflector", base="H7", source="led")
OWN = SetUp(housing="reflector", base="H7", source="nominal")
# What bases look like that are mistaken for one another, and those of different families.
FACES = {"base.alike": ("9005", "9006"), "base.family": ("H7", "W5W")}


@dataclass(frozen=True)
class BeamPair:
    """Two lamps side by side, each with its words."""

    one: SetUp
    other: SetUp
    words: tuple[str, str]

    @property
    def figures(self) -> tuple[tuple[str, str], ...]:
        """The address of each picture, and its words."""
        lamps = (self.one, self.other)
        return tuple(
            (picture_url(setup), text) for setup, text in zip(lamps, self.words, strict=True)
        )


@dataclass(frozen=True)
class Card:
    """A skill, and what is drawn beside it: a pair of beams, or faces of bases."""

    skill: Skill
    pair: BeamPair | None = None
    faces: tuple[DrawnBase, ...] = ()


@cache
def pairs() -> Mapping[str, BeamPair]:
    """Beams side by side, by skill: as it should be, and what the skill is about."""
    drawn = {
        "compare.gain": BeamPair(GOOD, replace(GOOD, flux=3000.0), ("A", "B, twice as bright")),
        "compare.glare": BeamPair(
            replace(GOOD, flux=3000.0), replace(GOOD, axial=2.5), ("Bright", "It dazzles")
        ),
        "line.edge": BeamPair(GOOD, replace(GOOD, haze=0.4), ("A sharp one", "A soft one")),
        "collar.preset": BeamPair(
            GOOD, replace(GOOD, clock=40.0), ("Preset, upright", "As it locked, 40° off")
        ),
        "read.fine": BeamPair(
            OWN, replace(OWN, housing="projector"), ("Fine, a reflector", "Fine, a projector")
        ),
        "meter.supply": BeamPair(
            replace(OWN, volts=13.8), replace(OWN, volts=11.5), ("At 13.8 V", "At 11.5 V")
        ),
        "meter.warm": BeamPair(GOOD, replace(GOOD, droop=0.15), ("Just lit", "Warm: 15 % less")),
        "leave.fine": BeamPair(OWN, GOOD, ("As it came in", "As it may leave")),
        "leave.glare": BeamPair(
            GOOD, replace(GOOD, axial=2.5), ("It may", "It dazzles: it may not")
        ),
        "leave.aim": BeamPair(
            GOOD, replace(GOOD, aim_v=1.2), ("Aimed", "1.2° up: it may not leave")
        ),
        "tell.lens": BeamPair(
            GOOD, replace(GOOD, haze=0.5), ("Through a clear lens", "Through a hazed one")
        ),
        "screws.two": BeamPair(
            GOOD, replace(GOOD, aim_v=1.0, aim_h=1.5), ("Aimed", "1° up and 1.5° right")
        ),
    }
    for key, fault in FAULTS.items():
        housing = fault.into[0] if fault.into else GOOD.housing
        good = replace(GOOD, housing=housing, base=DUAL if key in DUAL_ONLY else GOOD.base)
        bad = next(iter(fault.ways(good, PLAIN_LEVEL)))
        drawn[key] = BeamPair(good, bad, ("As it should be", skills()[key].title))
    return drawn


def card_of(skill: Skill) -> Card:
    """A skill's card."""
    faces = tuple(build_base_face(base) for base in map(find, FACES.get(skill.id, ())) if base)
    return Card(skill, pairs().get(skill.id), faces)


@bp.get("/school/cards")
def page() -> str:
    """All cards, by kind of exercise; made to be printed."""
    cards = [card_of(skill) for skill in skills().values()]
    return render_template("school/cards.html", cards=cards, kinds=kinds())
