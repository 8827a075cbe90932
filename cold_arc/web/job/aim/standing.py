"""How lamps stand before the wall they are aimed on, as a form tells it: rule, heights, distance,
spacing, mark.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

from flask_wtf import FlaskForm
from wtforms import Field, SelectField

from cold_arc.core.aim.rules import AimRule, OutsideRuleError, Target, target_for
from cold_arc.core.aim.taping import FARTHEST_APART_M, NEAREST_APART_M
from cold_arc.core.car.keys import BeamKey
from cold_arc.core.car.lamps import Side
from cold_arc.core.job.stand import USUAL_HEIGHT_M
from cold_arc.core.units.quantities import Mark
from cold_arc.web.forms import fields
from cold_arc.web.job.aim.rules_here import Here

HINTS = {
    "height": "0.65 m",
    "right_height": "as the left",
    "distance": "10 m",
    "spacing": "1.2 m",
    "mark": "1.2 %",
}


class StandingForm(FlaskForm):
    """The lamps before the wall."""

    rule = SelectField("Rule", validate_choice=True)
    height = fields.distance("Lamp height", 0.2, 2.5)
    right_height = fields.distance("Right lamp, if otherwise", 0.2, 2.5, required=False)
    distance = fields.distance("Distance, lamp to wall", 1, 40)
    spacing = fields.distance("Lamp spacing", NEAREST_APART_M, FARTHEST_APART_M, required=False)
    mark = fields.TypedField("Maker's mark on the lamp", Mark(id="mark"), required=False)

    def offer(self, rules: Mapping[str, Here], beams: Sequence[BeamKey]) -> None:
        """Puts the rules to choose from in, and asks for the right lamp's height where both lamps
        are worked on.
        """
        self.rule.choices = fields.choices({key: here.rule.name for key, here in rules.items()})
        if len({key.side for key in beams}) < len(Side):
            del self.right_height

    def height_field(self, side: Side) -> Field:
        """Where one lamp's height is told."""
        own = self["right_height"] if side is Side.RIGHT and "right_height" in self else None
        return own if own is not None and own.data is not None else self.height

    def height_of(self, side: Side) -> float:
        """One lamp's height, m; the usual one where it is not told."""
        return float(self.height_field(side).data or USUAL_HEIGHT_M)

    def targets(self, rule: AimRule, sides: Iterable[Side] = Side) -> dict[Side, Target] | None:
        """What a rule asks of each lamp by its height and the maker's mark; None, the field marked,
        where it can't.
        """
        by_lamp = {}
        for side in sides:
            height = self.height_field(side)
            for field, mark in ((height, None), (self.mark, self.mark.data)):
                try:
                    by_lamp[side] = target_for(rule, height.data, mark)
                except OutsideRuleError as error:
                    field.errors = [str(error)]
                    return None
        return by_lamp

    @property
    def set_up(self) -> list[Field]:
        """The fields of heights and distances."""
        names = ("height", "right_height", "distance", "spacing", "mark")
        return [self[name] for name in names if name in self]
