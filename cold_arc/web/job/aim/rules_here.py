"""The aim rules a lamp may go by: those of its market, and the shop's own copies of them."""

from __future__ import annotations

from dataclasses import dataclass

from cold_arc.core.aim.rules import AimRule, rules_for
from cold_arc.core.aim.shop_rules import ShopRule
from cold_arc.core.car.keys import BeamKey
from cold_arc.core.job.entries.aim import Aimed, WallLaid
from cold_arc.store import aim_rules
from cold_arc.web.job.stage_page import StagePage
from cold_arc.web.shell.db import session


@dataclass(frozen=True)
class Here:
    """A rule to choose: as it is applied, and the shop's own copy it is, if it is one."""

    rule: AimRule
    own: ShopRule | None = None

    @property
    def base(self) -> str:
        """The id of the rule that came with the program."""
        return self.own.based_on if self.own else self.rule.id


def rules_here(page: StagePage, beam: BeamKey) -> dict[str, Here]:
    """The rules for a beam by their ids in forms: the shop's own first, then the usual one of its
    market.
    """
    known = {rule.id: Here(rule) for rule in rules_for(page.job.booking.market, beam.function)}
    own = {
        f"own-{number}": Here(rule.as_rule(f"own-{number}"), rule)
        for number, rule in aim_rules.all_rules(session()).items()
        if rule.based_on in known
    }
    return own | known


def chosen_before(rules: dict[str, Here], last: Aimed | WallLaid) -> str:
    """The id of the rule gone by last; of a copy changed or dropped since, the rule it was a copy
    of.
    """
    return next(
        (key for key, rule in rules.items() if last.own and rule.own == last.own), last.rule
    )
