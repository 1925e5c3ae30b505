"""What a player meets: events and items of a visit to a depth, by way of its band's spawn table."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

import numpy as np

from golddice.core.errors import QueryError
from golddice.core.game.models import Game
from golddice.core.game.views import View
from golddice.core.odds.depths.along import all_depths
from golddice.core.odds.depths.depth_odds import DepthOdds
from golddice.core.odds.depths.spawning import chances_of_sources, spawned
from golddice.core.sheets.depth_sheet import shares_told
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.pace import HOUR


def meets(game: Game, depth: int, flags: Iterable[str] = (), points: int = 3) -> dict[str, Any]:
    """What a visit to one depth comes to: events of each source, items, per visit and per hour.

    Repeats are told for `points` rolls of the spawn table side by side.
    """
    if not 1 <= points <= 1_000:
        raise QueryError(f"spawn points must be 1 to 1,000, got {points}")
    under = Conditions(game, [depth], flags)
    band = next((one for one in game.depth.bands if one.from_ <= depth <= one.to), None)
    if band is None or band.spawns is None:
        return {"band": band.id if band else None, "spawns": None}
    visits = float(under.law(band.encounters).mean[0])
    events = {name: visits * float(count[0]) for name, count in spawned(under, band.spawns).items()}
    seconds = visits * band.between_seconds
    seconds += sum(count * under.source(name).seconds for name, count in events.items())
    odds = DepthOdds(under)
    items = np.zeros(len(game.items))
    for name, count in events.items():
        items += count * odds.means(View("source", name))[:, 0]
    rate = HOUR / seconds if seconds > 0 else None
    return {
        "band": band.id,
        "spawns": band.spawns,
        "encounters": visits,
        "seconds": seconds,
        "per_hour": rate,
        "sources": events,
        "items": {game.items[at].id: float(items[at]) for at in np.flatnonzero(items > 0)},
        "repeats": repeats(under, band.spawns, points),
    }


def meets_profile(game: Game, flags: Iterable[str] = ()) -> dict[str, Any]:
    """Tier shares of what a visit brings, at every depth; all 0 where nothing is met."""
    under = all_depths(game, flags)
    odds = DepthOdds(under)
    mean = np.zeros((len(game.items), under.depths.size))
    for band in game.depth.bands:
        if band.spawns is None:
            continue
        here = (under.depths >= band.from_) & (under.depths <= band.to)
        visits = under.law(band.encounters).mean * here
        for name, count in spawned(under, band.spawns).items():
            mean += visits * count * odds.means(View("source", name))
    return {**shares_told(under, mean), "met": [game.depth.from_, game.depth.to]}


def repeats(under: Conditions, table: str, points: int) -> dict[str, Any]:
    """Several spawn points, each one roll of the table; a point may stay empty.

    all_same: chance that every point has the same source, where a roll gives one source at most;
    distinct: expected number of different ones; at_least_one: chance of each source to appear.
    """
    by_source = chances_of_sources(under, table)
    some = {name: float(-np.expm1(points * np.log1p(-p))) if p < 1 else 1.0 for name, p in by_source.items()}
    return {
        "points": points,
        "all_same": float(sum(p**points for p in by_source.values())),
        "distinct": float(sum(some.values())),
        "at_least_one": some,
    }
