"""Cards to keep: each skill's half-page, with a pair of pictures where it is of a beam."""

from __future__ import annotations

from dataclasses import dataclass

from flask import Blueprint, render_template

from cold_arc.core.beam.setup import SetUp
from cold_arc.core.school.skills import Skill, kinds, skills
from cold_arc.school import beams
from cold_arc.web.parts.beam_wall import picture_url

bp = Blueprint("school_cards", __name__)
# The level a card's fault is drawn at: plain to see.
PLAIN_LEVEL = 2


@dataclass(frozen=True)
class Card:
    """A skill, and the addresses of a lamp as it should be and as it is with the fault."""

    skill: Skill
    good: str = ""
    bad: str = ""


def card_of(skill: Skill) -> Card:
    """A skill's card."""
    fault = beams.FAULTS.get(skill.id)
    if fault is None:
        return Card(skill)
    housing = fault.into[0] if fault.into else "reflector"
    base = beams.DUAL if skill.id == beams.UPSIDE else "H7"
    good = SetUp(housing=housing, base=base, source="led")
    bad = next(iter(fault.ways(good, PLAIN_LEVEL)))
    return Card(skill, picture_url(good), picture_url(bad))


@bp.get("/school/cards")
def page() -> str:
    """All cards, by kind of exercise; made to be printed."""
    cards = [card_of(skill) for skill in skills().values()]
    return render_template("school/cards.html", cards=cards, kinds=kinds())
