"""The real choices for a lamp: cost, time, reversibility, risk, law, expected beam
(``data/options.toml``).
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from functools import cache

from cold_arc.core import data, law
from cold_arc.core.car import condition
from cold_arc.core.car.lamps import Holds, Present
from cold_arc.core.findings import Finding, Level
from cold_arc.core.match.ranking import Ranked
from cold_arc.core.references import cite
from cold_arc.core.wiring.setting import Setting
from cold_arc.core.work.access import SECOND_SIDE

REVERSES = {3: "In minutes", 2: "With the old parts", 1: "Hardly"}


BALLAST_FAILED = "The ballast failed its test."


@dataclass(frozen=True)
class OptionKind:
    """One way to go: labour minutes for one lamp beyond the way in, and which sources stand for
    it.
    """

    id: str
    name: str
    minutes: float
    reverses: int
    risk: str
    law: str = ""
    lamps: str = ""
    kind: str = "bulb"
    needs: tuple[str, ...] = ()
    renews: str = ""

    def takes(self, ranked: Ranked) -> bool:
        """Whether a candidate stands for this way."""
        source = ranked.judged.match.source
        return (
            not self.renews
            and source.kind == self.kind
            and (self.kind != "bulb" or source.driver in self.needs)
        )


@cache
def kinds() -> tuple[OptionKind, ...]:
    """Every way to go, in order."""
    rows = data.load("options")["option"]
    return tuple(OptionKind(**(row | {"needs": tuple(row.get("needs", ()))})) for row in rows)


@dataclass(frozen=True)
class Option:
    """A way to go for all lamps in hand. *best*: the first candidate for it, None where the shelf
    has none.

    *parts* and *labour* in the shop's currency, labour None without a rate; *minutes* for all
    lamps; *out*: why it is closed; *mind*: what to mind of it where it is open.
    """

    kind: OptionKind
    best: Ranked | None
    minutes: float
    parts: float | None
    labour: float | None
    law: Finding
    out: str
    mind: str

    @property
    def cost(self) -> float | None:
        """Parts and labour together, where both are known."""
        return None if self.parts is None or self.labour is None else self.parts + self.labour


def compare(
    setting: Setting, ranked: Iterable[Ranked], lamps: int, access_minutes: float | None
) -> list[Option]:
    """Every way open to this lamp. *access_minutes*: the planned way in for one lamp, where there
    is one.
    """
    candidates = list(ranked)
    lamp_kind = "hid" if setting.socket.present is Present.HID else "other"
    holds = setting.socket.holds
    wanted = (
        _staying_with(kind, setting)
        for kind in kinds()
        if kind.lamps in ("", lamp_kind) and _is_way(kind, holds)
    )
    return [_option(kind, setting, candidates, lamps, access_minutes) for kind in wanted]


def _staying_with(kind: OptionKind, setting: Setting) -> OptionKind:
    """A way called by what is in the lamp."""
    if kind.id != "stay" or not setting.is_converted:
        return kind
    return replace(kind, name=f"Restore and stay with {setting.kept}")


def _is_way(kind: OptionKind, holds: Holds) -> bool:
    """Whether a way is one for a socket, by what hangs there."""
    if holds is Holds.BULB:
        return kind.kind != "module"
    if kind.renews == "seal":
        return holds is Holds.MODULE
    return kind.kind in ("assembly", "module") or kind.id == "stay"


def _option(
    kind: OptionKind, setting: Setting, candidates: list[Ranked], lamps: int, access: float | None
) -> Option:
    best = next((ranked for ranked in candidates if kind.takes(ranked)), None)
    minutes = _minutes(kind, setting, lamps, access)
    rate = setting.as_seen.labour_rate if setting.as_seen else None
    failed = setting.ballast_good is False
    return Option(
        kind,
        best,
        minutes,
        _parts_price(kind, best, lamps, dict(setting.renewed)),
        minutes / 60 * rate if rate is not None else None,
        _law(kind, setting),
        _out(kind, setting, best),
        BALLAST_FAILED if kind.renews == "ballast" and failed else kind.risk,
    )


def _minutes(kind: OptionKind, setting: Setting, lamps: int, access: float | None) -> float:
    """What a way takes for all *lamps*; one that keeps the lenses restores each as it was seen."""
    keeps_lens = kind.kind != "assembly" and kind.renews != "housing"
    one = kind.minutes + (0.0 if kind.id == "stay" else access or 0.0)
    restoring = _restoring(setting, lamps) if keeps_lens else 0
    return one * (1 + SECOND_SIDE * (lamps - 1)) + restoring


def _restoring(setting: Setting, lamps: int) -> int:
    """Minutes to restore the lenses of all *lamps*; of those not seen, as the one in hand's."""
    seen = [setting.as_seen] * lamps
    if setting.across is not None and lamps > 1:
        seen[1] = setting.across.as_seen
    return sum(condition.restoration_minutes(each) for each in seen if each)


def _parts_price(
    kind: OptionKind, best: Ranked | None, lamps: int, renewed: Mapping[str, float | None]
) -> float | None:
    """What the parts of a way cost; None where no source on the shelf stands for it, or the price
    of what is renewed was not told.
    """
    if kind.id == "stay":
        return 0.0
    if kind.renews:
        price = renewed.get(kind.renews)
        return None if price is None else price * lamps
    return best.judged.match.source.price * lamps if best else None


def _law(kind: OptionKind, setting: Setting) -> Finding:
    """The law's word on a way; on staying with what was put in before, as on putting it in."""
    market = law.markets()[setting.market]
    if kind.id == "stay" and setting.is_converted:
        put_in = setting.held.kind if setting.held else "bulb"
        return law.judge(market, put_in, setting.road_use)
    if kind.law == "yes":
        return Finding(
            "as-approved",
            Level.OK,
            "As the lamp was approved.",
            cite("un-r48", "cfr-571-108"),
            advice=law.CHECK_LOCALLY,
        )
    if kind.renews == "seal":
        return law.opened(market, setting.road_use)
    return law.judge(market, kind.kind, setting.road_use)


def _out(kind: OptionKind, setting: Setting, best: Ranked | None) -> str:
    """Why a way is closed; empty where it is open."""
    if kind.id in ("hid-plug-in", "stay") and setting.ballast_good is False:
        return BALLAST_FAILED
    if kind.id == "stay":
        seen = setting.as_seen
        replace = (
            seen is not None
            and condition.verdict(seen, condition.findings(seen)) is condition.Verdict.REPLACE
        )
        return "The housing was judged fit to replace." if replace else ""
    if kind.renews:
        return ""
    if best is None:
        return "Nothing on the shelf for it."
    return (
        "Every one on the shelf is stopped by a rule."
        if best.judged.match.level is Level.STOP
        else ""
    )
