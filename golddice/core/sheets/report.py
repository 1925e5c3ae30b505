"""The odds of a source or a table at one depth, in the shape that the command line prints."""

from __future__ import annotations

import math
from collections.abc import Iterable
from typing import Any

import numpy as np

from golddice.core.errors import QueryError, TooLarge
from golddice.core.forecast import Ahead, Later, value_forecast
from golddice.core.game.models import Game
from golddice.core.game.views import View
from golddice.core.odds.carried.prospect import Prospect
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.odds.event.outcome import Outcome
from golddice.core.odds.event.waits import one_in
from golddice.core.odds.kit.sets import Completion, is_told
from golddice.core.odds.kit.slots import Slot, slots_of
from golddice.core.terms.conditions import Conditions

MOST_EVENTS = 10_000_000


def odds(
    game: Game,
    view: View,
    *,
    depth: int | None = None,
    flags: Iterable[str] = (),
    events: int | None = None,
) -> dict[str, Any]:
    """Everything that `domain.md` section 7 asks of one view, for a fresh player. `method` is exact only
    where everything is.

    `depth` is the game's first where it is None. `events` adds the value after so many events.
    Raises UnknownThing, QueryError and TooLarge.
    """
    at = game.depth.from_ if depth is None else depth
    under = Conditions(game, [at], flags)
    prospect = Prospect(Evaluator(under, detail=False), view)
    ahead, later = Ahead(prospect), Later(prospect)
    items = {
        item.id: item_moments(ahead, row) | later_odds(later, row) for row, item in enumerate(game.items)
    }
    report: dict[str, Any] = {
        "method": "exact",
        "depth": at,
        "items": items,
        "tiers": tier_odds(ahead),
        "value": value_odds(ahead.outcome),
    }
    if events is not None:
        report["after"] = {"events": events, "value": _after(under, view, events)}
        report["method"] = report["after"]["value"]["method"]
    slots = slots_of(game)
    if slots and prospect.is_plain:
        try:
            report["slots"] = {name: _kit(Slot(under, view, name), events) for name in slots}
        except TooLarge as error:
            report["slots_untold"] = str(error)
    if game.sets and prospect.is_plain:
        told = [one for one in game.sets if is_told(one)]
        report["sets"] = {one.id: _completion(Completion(under, view, one), events) for one in told}
    if ahead.method != "exact":
        report["next"] = next_facts(ahead)
    if later.method != "exact":
        report["later"] = later_facts(later)
    if ahead.method != "exact" or later.method != "exact":
        report["method"] = "simulated"
    return report


def _kit(slot: Slot, events: int | None) -> dict[str, Any]:
    """Of one slot when the first upgrade comes; and what is worn after so many events."""
    found: dict[str, Any] = {f"first_{q}": slot.first(q / 100) for q in (50, 90, 99)}
    if events is None:
        return found
    worn, upgrades = slot.after(events)
    return {"after": {**vars(worn), "upgrades": upgrades}, **found}


def _completion(of: Completion, events: int | None) -> dict[str, Any]:
    """When a set is complete, and the chance that it is after so many events."""
    found: dict[str, Any] = {f"first_{q}": of.first(q / 100) for q in (50, 90, 99)}
    return found if events is None else {"complete_after": of.after(events), **found}


def item_moments(ahead: Ahead, at: int) -> dict[str, Any]:
    """One item in the next event of a fresh player; with a standard error where it is simulated."""
    column = ahead.prospect.columns.item(at)
    hit = ahead.hit(column)
    found = {
        "p_any": hit,
        "mean": ahead.mean(column),
        "sd": math.sqrt(ahead.var(column)),
        "one_in": one_in(hit),
    }
    if not ahead.players:
        return found
    errors = {"mean_error": ahead.mean_error(column), "sd_error": ahead.sd_error(column)}
    return {**found, "p_any_error": ahead.hit_error(column), **errors}


def next_facts(ahead: Ahead) -> dict[str, Any]:
    """How the next event is known, and if not exactly, why not."""
    return {"method": ahead.method, "why": ahead.why, "players": ahead.players}


def later_odds(later: Later, column: int) -> dict[str, Any]:
    """The waits and the long run of a column; with their standard errors where they are simulated."""
    wait, run = later.wait(column), later.long_run(column)
    found: dict[str, Any] = {**wait.events, "long_run_mean": run.settled}
    found |= {f"{name}_error": error for name, error in wait.errors.items()}
    for name, events in wait.more_than.items():  # not known, which null is not: that is never
        del found[name]
        found[f"{name}_more_than"] = events
    if run.over is not None:
        del found["long_run_mean"]
        found |= {"late_mean": run.figure, "late_mean_error": run.error}
    elif run.error:
        found["long_run_mean_error"] = run.error
    return found


def later_facts(later: Later) -> dict[str, Any]:
    """How the waits and the long run are known: by what method, and if not exactly, why not."""
    players = later.players if later.method == "simulated" else None
    return {
        "method": later.method,
        "why": later.why,
        "players": players.count if players else 0,
        "events": players.events if players else 0,
        "over": later.over,
    }


def tier_odds(ahead: Ahead) -> dict[str, Any]:
    """By tier id: p_any, and the share of all units received."""
    columns = ahead.prospect.columns
    received = ahead.mean(columns.units)
    result = {}
    for at, tier in enumerate(ahead.prospect.under.game.tiers):
        column = columns.tier(at)
        result[tier.id] = {
            "p_any": ahead.hit(column),
            "share": ahead.mean(column) / received if received > 0 else 0.0,
        }
        if ahead.players:
            errors = {"p_any_error": ahead.hit_error(column), "share_error": ahead.share_error(column)}
            result[tier.id] |= errors
    return result


def value_odds(outcome: Outcome) -> dict[str, float | None]:
    """Mean, sd and cv of value per event."""
    mean, sd = float(outcome.value_mean[0]), float(np.sqrt(outcome.value_var[0]))
    return {"mean": mean, "sd": sd, "cv": sd / mean if mean > 0 else None}


def _after(under: Conditions, view: View, events: int) -> dict[str, Any]:
    if not 1 <= events <= MOST_EVENTS:
        raise QueryError(f"events must be 1 to {MOST_EVENTS}, got {events}")
    found = value_forecast(
        under.game,
        view,
        depth=int(under.depths[0]),
        events=events,
        qs=np.array([0.05, 0.5, 0.95]),
        flags=under.flags,
    )
    result: dict[str, Any] = {"mean": found.mean, "sd": found.sd, "method": found.method}
    result.update(zip(("p05", "p50", "p95"), found.quantiles.tolist(), strict=True))
    if found.errors.any():
        result["errors"] = dict(zip(("p05", "p50", "p95"), found.errors.tolist(), strict=True))
    if found.grid_error > 0:
        result["grid_error"] = found.grid_error
    if found.method == "simulated":
        result |= {"players": found.players, "mean_error": found.mean_error}
    return result
