"""What is expected exactly of kit and sets, set beside what a trial's players came to."""

from __future__ import annotations

import math
from typing import Any

from golddice.core.errors import TooLarge
from golddice.core.game.models import Game
from golddice.core.odds.kit.sets import Completion, is_told
from golddice.core.odds.kit.slots import Slot, SlotAlong
from golddice.core.odds.kit.worn import Worn
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.resting import carries
from golddice.core.terms.stops import Stop
from golddice.core.trial.plans import Plan, RoutePlan, ViewPlan

_NOTHING = 1e-12


def with_expected(plan: Plan, told: dict[str, Any], players: int) -> dict[str, Any]:
    """The same with `expected` and `z` for each slot's worn score and each set's completion; None where
    nothing exact is known."""
    for name, slot in told.get("slots", {}).items():
        worn = _worn(plan, name)
        slot["worn"] |= {
            "expected_mean": None if worn is None else worn.mean,
            "z": None if worn is None else _z(slot["worn"]["mean"], worn.mean, slot["worn"]["sd"], players),
        }
    for name, one in told.get("sets", {}).items():
        chance = _complete(plan, name)
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
    one = next(one for one in plan.game.sets if one.id == name)
    try:
        return Completion(plan.under, plan.view, one).after(plan.events) if is_told(one) else None
    except TooLarge:
        return None


def _z(observed: float, exact: float, sd: float, players: int) -> float | None:
    error = sd / math.sqrt(players)
    if error > _NOTHING * max(1.0, abs(exact)):
        return (observed - exact) / error
    return 0.0 if abs(observed - exact) <= 1e-9 * max(1.0, abs(exact)) else None
