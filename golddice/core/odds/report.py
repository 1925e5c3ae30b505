"""The odds of a source or a table at one depth, in the shape that the command line prints."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np

from golddice.core.errors import QueryError
from golddice.core.game.models import Game
from golddice.core.odds.conditions import Conditions
from golddice.core.odds.evaluator import Evaluator
from golddice.core.odds.outcome import Outcome
from golddice.core.odds.totals import value_after
from golddice.core.odds.waits import waits

MOST_EVENTS = 10_000_000


@dataclass(frozen=True)
class View:
    """What is looked at: one event of a source, or one execution of a table."""

    kind: Literal["source", "table"]
    id: str


def odds(
    game: Game,
    view: View,
    *,
    depth: int | None = None,
    flags: Iterable[str] = (),
    events: int | None = None,
) -> dict[str, Any]:
    """Everything that `domain.md` section 7 asks of one view, for a fresh player.

    `depth` is the game's first where it is None. `events` adds the value after so many events.
    Raises UnknownThing, QueryError and TooLarge.
    """
    at = game.depth.from_ if depth is None else depth
    under = Conditions(game, [at], flags)
    evaluator = Evaluator(under, detail=False)
    outcome = evaluator.source(view.id) if view.kind == "source" else evaluator.table(view.id)
    report: dict[str, Any] = {
        "method": "exact",
        "depth": at,
        "items": item_odds(under, evaluator, outcome),
        "tiers": tier_odds(under, evaluator, outcome),
        "value": value_odds(outcome),
    }
    if events is not None:
        report["after"] = {"events": events, "value": _after(under, view, outcome, events)}
    return report


def item_odds(under: Conditions, evaluator: Evaluator, outcome: Outcome) -> dict[str, Any]:
    """By item id: p_any, mean, sd, one_in, the waits and the long-run mean."""
    columns = {int(column): at for at, column in enumerate(outcome.columns)}
    result = {}
    for at, item in enumerate(under.game.items):
        place = columns.get(evaluator.columns.item(at))
        hit, mean, var = (
            (0.0, 0.0, 0.0)
            if place is None
            else (
                float(outcome.hit[0, place]),
                float(outcome.mean[0, place]),
                float(outcome.var[0, place]),
            )
        )
        result[item.id] = {
            "p_any": hit,
            "mean": mean,
            "sd": math.sqrt(var),
            "one_in": 1.0 / hit if hit > 0 else None,
            **waits(hit),
            "long_run_mean": mean,
        }
    return result


def tier_odds(under: Conditions, evaluator: Evaluator, outcome: Outcome) -> dict[str, Any]:
    """By tier id: p_any, and the share of all units received."""
    columns = {int(column): at for at, column in enumerate(outcome.columns)}
    units = columns.get(evaluator.columns.units)
    received = 0.0 if units is None else float(outcome.mean[0, units])
    result = {}
    for at, tier in enumerate(under.game.tiers):
        place = columns.get(evaluator.columns.tier(at))
        found = place is not None and received > 0
        result[tier.id] = {
            "p_any": float(outcome.hit[0, place]) if place is not None else 0.0,
            "share": float(outcome.mean[0, place]) / received if found else 0.0,
        }
    return result


def value_odds(outcome: Outcome) -> dict[str, float | None]:
    """Mean, sd and cv of value per event."""
    mean, sd = float(outcome.value_mean[0]), float(np.sqrt(outcome.value_var[0]))
    return {"mean": mean, "sd": sd, "cv": sd / mean if mean > 0 else None}


def _after(under: Conditions, view: View, outcome: Outcome, events: int) -> dict[str, Any]:
    if not 1 <= events <= MOST_EVENTS:
        raise QueryError(f"events must be 1 to {MOST_EVENTS}, got {events}")
    law = value_after(under, view.kind, view.id, events)
    sd = math.sqrt(events * float(outcome.value_var[0]))
    result: dict[str, Any] = {"mean": events * float(outcome.value_mean[0]), "sd": sd}
    result.update({f"p{round(100 * q):02d}": law.quantile(q) for q in (0.05, 0.5, 0.95)})
    if law.grid_error > 0:
        result["grid_error"] = law.grid_error
    return result
