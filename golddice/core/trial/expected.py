"""What is expected exactly of a trial, to stand beside what came of it."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

from golddice.core.errors import TooLarge
from golddice.core.game.finding import by_id
from golddice.core.game.models import Game
from golddice.core.odds.kit.sets import Completion, is_told
from golddice.core.odds.kit.slots import Slot, SlotAlong
from golddice.core.odds.kit.worn import Worn
from golddice.core.stopping import go_on
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.resting import carries
from golddice.core.terms.stops import Stop
from golddice.core.trial.plans import Expected, Plan, RoutePlan, ViewPlan

_NOTHING = 1e-12


@dataclass(frozen=True)
class Expectations:
    """Mean and variance of one player, None where they are not told exactly: of `items` as the plan has them,
    of all `tiers`, of value. `untold` says why that of value is not. `worn` by slot, `complete` by set: the
    score that is worn, and the chance that all of it is there, in the end."""

    items: tuple[Expected | None, ...]
    tiers: tuple[Expected | None, ...]
    value: Expected | None
    untold: str | None
    worn: dict[str, Worn | None]
    complete: dict[str, float | None]


def expectations(plan: Plan) -> Expectations:
    """Raises Cancelled."""
    game, items = plan.game, []
    for at in plan.items.tolist():
        go_on()
        items.append(plan.expected_item(at))
    value = plan.expected_value()
    keeps = plan.keeps if plan.keeps is not None and plan.keeps.used else None
    sets = [game.sets[at].id for at in keeps.sets] if keeps is not None else []
    return Expectations(
        items=tuple(items),
        tiers=tuple(plan.expected_tier(at) for at in range(len(game.tiers))),
        value=value,
        untold=plan.why_untold() if value is None else None,
        worn={name: _worn(plan, name) for name in (keeps.kit if keeps is not None else [])},
        complete={name: _complete(plan, name) for name in sets},
    )


def beside_kept(told: dict[str, Any], expected: Expectations, players: int) -> dict[str, Any]:
    """The same with `expected` and `z` for each slot's worn score and each set's completion; None where
    nothing exact is known."""
    for name, slot in told.get("slots", {}).items():
        worn = expected.worn[name]
        slot["worn"] |= {
            "expected_mean": None if worn is None else worn.mean,
            "z": None if worn is None else _z(slot["worn"]["mean"], worn.mean, slot["worn"]["sd"], players),
        }
    for name, one in told.get("sets", {}).items():
        chance = expected.complete[name]
        spread = 0.0 if chance is None else math.sqrt(chance * (1.0 - chance))
        one["expected"] = chance
        one["z"] = None if chance is None else _z(one["complete"], chance, spread, players)
    return told


def carries_anything(game: Game, stops: list[Stop]) -> bool:
    """Whether a player carries anything along these stops."""
    places = {(stop.depth, stop.flags, stop.view) for stop in stops if stop.view is not None}
    under = [(Conditions(game, [depth], flags), view) for depth, flags, view in places]
    return any(carries(one, view) for one, view in under)


def _worn(plan: Plan, name: str) -> Worn | None:
    try:
        if isinstance(plan, ViewPlan):
            if carries(plan.under, plan.view):
                return None
            return Slot(plan.under, plan.view, name).after(plan.events)[0]
        if isinstance(plan, RoutePlan) and not carries_anything(plan.laid, list(plan.course.stops)):
            return SlotAlong(plan.laid, plan.course.stops, name).along()[-1]
    except TooLarge:
        pass
    return None


def _complete(plan: Plan, name: str) -> float | None:
    if not isinstance(plan, ViewPlan) or carries(plan.under, plan.view):
        return None
    one = by_id(plan.game.sets, name)
    try:
        return Completion(plan.under, plan.view, one).after(plan.events) if is_told(one) else None
    except TooLarge:
        return None


def _z(observed: float, exact: float, sd: float, players: int) -> float | None:
    error = sd / math.sqrt(players)
    if error > _NOTHING * max(1.0, abs(exact)):
        return (observed - exact) / error
    return 0.0 if abs(observed - exact) <= 1e-9 * max(1.0, abs(exact)) else None
