"""A shop's own aim rules."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from cold_arc.core.aim.shop_rules import ShopRule
from cold_arc.core.job import plausible
from cold_arc.core.job.codec import to_plain
from cold_arc.store.models import AimRuleRow


def all_rules(session: Session) -> dict[int, ShopRule]:
    """The rules by id; one that can't be read is left out."""
    rows = session.scalars(select(AimRuleRow).order_by(AimRuleRow.id))
    rules = {row.id: plausible.read_or_none(row.facts, ShopRule) for row in rows}
    return {key: rule for key, rule in rules.items() if rule is not None}


def keep(session: Session, rule: ShopRule, rule_id: int | None = None) -> int:
    """Adds a rule, or puts it in the place of one; returns its id. ShopRuleError for one that can't
    be.
    """
    plausible.check(rule)
    row = session.get_one(AimRuleRow, rule_id) if rule_id is not None else AimRuleRow()
    row.facts = to_plain(rule)
    session.add(row)
    session.flush()
    return row.id


def drop(session: Session, rule_id: int) -> None:
    """Takes a rule out; what was aimed by it keeps its copy."""
    row = session.get(AimRuleRow, rule_id)
    if row is not None:
        session.delete(row)
