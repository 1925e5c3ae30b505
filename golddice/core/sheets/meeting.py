"""What a player meets: events and items of a visit to a depth, by way of its band's spawn table."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

import numpy as np

from golddice.core.arrays import FloatArray
from golddice.core.errors import QueryError, TooLarge
from golddice.core.game.models import Game
from golddice.core.game.views import View
from golddice.core.odds.carried.prospect import Prospect
from golddice.core.odds.depths.along import all_depths
from golddice.core.odds.depths.depth_odds import DepthOdds
from golddice.core.odds.depths.spawning import chances_of_sources, spawned
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.sheets.depth_sheet import shares_told
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.layout import Slot, slots_of
from golddice.core.terms.pace import HOUR
from golddice.core.terms.size import in_order, part_of
from golddice.core.terms.stops import band_at, bands_at


def meets(game: Game, depth: int, flags: Iterable[str] = (), points: int = 3) -> dict[str, Any]:
    """What a visit to one depth comes to: events of each source, and items, of a fresh player's; and of one
    in the long run (`later`), which is what an hour is told of: a thing that comes once has none an hour.
    Left out there is what is not told of a source alone, since a player can be in too many states.

    Repeats are told for `points` rolls of the spawn table side by side.
    """
    if not 1 <= points <= 1_000:
        raise QueryError(f"spawn points must be 1 to 1,000, got {points}")
    under = Conditions(game, [depth], flags)
    band = band_at(game, depth)
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
    later = _later(under, band.spawns, visits, events, odds)
    return {
        "band": band.id,
        "spawns": band.spawns,
        "encounters": visits,
        "seconds": seconds,
        "per_hour": rate,
        "sources": events,
        "items": {game.items[at].id: float(items[at]) for at in np.flatnonzero(items > 0)},
        "later": {game.items[at].id: later[at] for at in np.flatnonzero(items > 0).tolist() if at in later},
        "repeats": repeats(under, band.spawns, points),
    }


def _later(
    under: Conditions, table: str, visits: float, events: dict[str, float], odds: DepthOdds
) -> dict[int, float]:
    """How many of each item a visit brings in the long run, by index. Sources that share nothing carried
    are followed one by one; else all of the spawn table at once."""
    evaluator = Evaluator(under, detail=False)
    if not _is_shared(under, table, events):
        return _later_alone(evaluator, events, odds)
    found, met = {}, Prospect(evaluator, View("table", table))
    for at in range(len(under.game.items)):
        try:
            found[at] = visits * met.long_run_mean(at)
        except TooLarge:
            continue
    return found


def _is_shared(under: Conditions, table: str, sources: Iterable[str]) -> bool:
    """Whether the spawn table itself carries something, or two of the sources that it yields the same."""
    each = [_carried(under, View("source", name)) for name in sources]
    apart = set().union(*each)
    return len(apart) < sum(map(len, each)) or not _carried(under, View("table", table)) <= apart


def _carried(under: Conditions, view: View) -> set[Slot]:
    return {slot for one in in_order(under, [view]) for slot in slots_of(part_of(under, one))}


def _later_alone(evaluator: Evaluator, events: dict[str, float], odds: DepthOdds) -> dict[int, float]:
    under = evaluator.under
    found = dict.fromkeys(range(len(under.game.items)), 0.0)
    for name, count in events.items():
        means = odds.means(View("source", name))[:, 0]
        prospect = Prospect(evaluator, View("source", name))
        for at in np.flatnonzero(means > 0).tolist():
            try:
                mean = float(means[at]) if prospect.is_plain else prospect.long_run_mean(at)
            except TooLarge:
                found.pop(at, None)
                continue
            if at in found:
                found[at] += count * mean
    return found


@dataclass(frozen=True)
class Met:
    """What one visit comes to at every depth of `under`, of a fresh player: how many of each item (i, d), how
    many seconds (d,), and events by source, (d,) each; 0 where nothing is met."""

    under: Conditions
    items: FloatArray
    seconds: FloatArray
    events: dict[str, FloatArray]

    @staticmethod
    def along(under: Conditions, odds: DepthOdds) -> Met:
        game, depths = under.game, under.depths.size
        events: dict[str, FloatArray] = {}
        seconds = np.zeros(depths)
        counts = bands_at(game, under.depths)
        for at, band in enumerate(game.depth.bands):
            if band.spawns is None:
                continue
            visits = under.law(band.encounters).mean * (counts == at)
            seconds += visits * band.between_seconds
            for name, count in spawned(under, band.spawns).items():
                events[name] = events.get(name, 0.0) + visits * count
        items = np.zeros((len(game.items), depths))
        for name, many in events.items():
            items += many * odds.means(View("source", name))
            seconds += many * under.source(name).seconds
        return Met(under, items, seconds, events)


def meets_profile(game: Game, flags: Iterable[str] = ()) -> dict[str, Any]:
    """Tier shares of what a visit brings, at every depth; all 0 where nothing is met."""
    under = all_depths(game, flags)
    met = Met.along(under, DepthOdds(under))
    return {**shares_told(under, met.items), "met": [game.depth.from_, game.depth.to]}


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
