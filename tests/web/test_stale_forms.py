"""Forms of the shop that are no job's: one made before somebody else saved overwrites nothing
unseen, and says what stands.
"""

from __future__ import annotations

import re

from cold_arc.store import aim_rules, catalogue
from tests.web.test_aim_rules import RULES, TOLD

SHOP = {
    "shop_name": "Mill lane lights",
    "shop_contact": "Mill lane 3",
    "people": "1",
    "prefers": "time",
    "dark_bay": "0",
}


def made_from(page):
    return re.search(r'name="made_from" value="(\w*)"', page)[1]


def kept(client, name):
    with client.app.extensions["cold_arc_sessions"]() as session:
        return catalogue.setting(session, name)


def test_the_shops_page_overwrites_nothing_unseen(shop):
    """Whatever was changed, not its name alone: here how many people there are."""
    state = made_from(shop.get("/shop"))
    shop.post("/shop", **SHOP | {"people": "3"}, made_from=state)
    page = shop.post("/shop", 422, **SHOP, made_from=state)
    assert "Changed meanwhile to “3”. Save again to keep yours." in page
    assert kept(shop, "shop_people") == "3"
    shop.post("/shop", **SHOP, made_from=made_from(page))
    assert kept(shop, "shop_people") == "1"


def test_the_same_saved_twice_is_no_conflict(shop):
    state = made_from(shop.get("/shop"))
    shop.post("/shop", **SHOP, made_from=state)
    shop.post("/shop", **SHOP, made_from=state)


def test_an_aim_rule_overwrites_nothing_unseen(demo):
    demo.post(f"{RULES}/copy/un-r48-low", **TOLD)
    with demo.app.extensions["cold_arc_sessions"]() as session:
        (number,) = aim_rules.all_rules(session)
    where = f"{RULES}/{number}"
    state = made_from(demo.get(where))
    demo.post(where, **TOLD | {"name": "Theirs"}, made_from=state)
    page = demo.post(where, 422, **TOLD | {"name": "Mine"}, made_from=state)
    assert "Somebody changed this rule meanwhile. Now: Theirs" in page
    assert 'value="Mine"' in page
    page = demo.post(where, 422, do="drop", made_from=state, **TOLD)
    assert "Somebody changed this rule meanwhile" in page
    with demo.app.extensions["cold_arc_sessions"]() as session:
        (rule,) = aim_rules.all_rules(session).values()
    assert rule.name == "Theirs"
    demo.post(where, **TOLD | {"name": "Mine"}, made_from=made_from(page))
