"""Along all depths: what one thing gives, where an item is found, what a player meets."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np

from golddice.core.arrays import BoolArray, FloatArray
from golddice.core.errors import QueryError, UnknownThing
from golddice.core.game.models import Game, Item, Source, Table
from golddice.core.odds.conditions import Conditions
from golddice.core.odds.depths import DepthOdds, Lean
from golddice.core.odds.distinct import inclusion_chances
from golddice.core.odds.report import View
from golddice.core.odds.rules import roll_chances
from golddice.core.odds.size import most_rolls

MOST_PATHS = 300


def all_depths(game: Game, flags: Iterable[str] = ()) -> Conditions:
    return Conditions(game, range(game.depth.from_, game.depth.to + 1), flags)


def depth_sheet(game: Game, view: View, flags: Iterable[str] = ()) -> dict[str, Any]:
    """One view at every depth of the game: each item, tier shares, value. Lists go by depth."""
    under = all_depths(game, flags)
    lean = DepthOdds(under).of(view.kind, view.id)
    source = under.source(view.id) if view.kind == "source" else None
    falls, worth = tier_shares(under, lean)
    sd = np.sqrt(np.maximum(lean.value_var, 0.0))
    return {
        "depths": under.depths.tolist(),
        "met": list(source.depths if source and source.depths else (game.depth.from_, game.depth.to)),
        "items": {
            game.items[at].id: {"p_any": lean.hit[row].tolist(), "mean": lean.mean[row].tolist()}
            for row, at in enumerate(lean.places)
        },
        "falls": falls.T.tolist(),
        "worth": worth.T.tolist(),
        "value_mean": lean.value_mean.tolist(),
        "cv": [float(s / m) if m > 0 else None for s, m in zip(sd, lean.value_mean, strict=True)],
    }


def tier_shares(under: Conditions, lean: Lean) -> tuple[FloatArray, FloatArray]:
    """Each tier's share of what falls and of what it is worth, shape (tiers, d)."""
    items = [under.game.items[at] for at in lean.places]
    of_tier = np.zeros((len(under.game.tiers), len(items)))
    of_tier[[under.tier_index[item.tier] for item in items], np.arange(len(items))] = 1.0
    falls = of_tier @ lean.mean
    worth = (of_tier * [item.value for item in items]) @ lean.mean
    return _columns_to_one(falls), _columns_to_one(worth)


def _columns_to_one(parts: FloatArray) -> FloatArray:
    whole = parts.sum(axis=0)
    return np.asarray(np.divide(parts, whole, out=np.zeros_like(parts), where=whole > 0))


# --- one item -------------------------------------------------------------------------------------


@dataclass(frozen=True)
class Way:
    """One path to an item: names from the source to the line, and units per event by depth."""

    source: str
    drop: str
    tables: list[str]
    line: str
    mean: FloatArray


def item_view(game: Game, item: str, flags: Iterable[str] = ()) -> dict[str, Any]:
    """Every way to get an item, by depth; where to look for it; where it cannot be had."""
    under = all_depths(game, flags)
    if item not in under.item_index:
        raise UnknownThing("item", item)
    at = under.item_index[item]
    odds = DepthOdds(under)
    sources, obtainable = [], np.zeros(under.depths.size, dtype=bool)
    for source in game.sources:
        lean = odds.of("source", source.id)
        row = np.flatnonzero(lean.places == at)
        if not row.size:
            continue
        met = _met(under, source)
        p_any, mean = lean.hit[row[0]] * met, lean.mean[row[0]] * met
        if not bool((mean > 0).any()):
            continue
        obtainable |= mean > 0
        hours = mean * 3600.0 / source.seconds
        sources.append(
            {"id": source.id, "p_any": p_any.tolist(), "mean": mean.tolist(), "hour": hours.tolist()}
        )
    return {
        "depths": under.depths.tolist(),
        "sources": sources,
        "ways": [
            {**vars(way), "mean": way.mean.tolist()} for way in _first(item_ways(under, at), MOST_PATHS)
        ],
        "first": int(under.depths[obtainable][0]) if bool(obtainable.any()) else None,
        "best_event": _best(under, sources, "p_any"),
        "best_hour": _best(under, sources, "hour"),
        "gaps": gaps(under, obtainable),
        "stats": stat_ranges(under, game.items[at]),
        "rivals": rivals(under, game.items[at]),
    }


def _first(ways: Iterator[Way], most: int) -> list[Way]:
    return [way for _, way in zip(range(most), ways, strict=False)]


def _best(under: Conditions, sources: list[dict[str, Any]], key: str) -> dict[str, Any] | None:
    """The source and depth at which a figure is largest."""
    best: dict[str, Any] | None = None
    for source in sources:
        row = int(np.argmax(source[key]))
        figure = source[key][row]
        if figure > 0 and (best is None or figure > best["figure"]):
            best = {"source": source["id"], "depth": int(under.depths[row]), "figure": figure}
    return best


def gaps(under: Conditions, held: BoolArray) -> list[tuple[int, int]]:
    """Ranges of depth where something does not hold, between depths where it does."""
    if not bool(held.any()):
        return []
    first, last = np.flatnonzero(held)[[0, -1]]
    found: list[tuple[int, int]] = []
    for row in range(first, last):
        if not held[row]:
            depth = int(under.depths[row])
            if found and found[-1][1] == depth - 1:
                found[-1] = (found[-1][0], depth)
            else:
                found.append((depth, depth))
    return found


def item_ways(under: Conditions, item: int) -> Iterator[Way]:
    """Each path from a source to a line that gives the item, with expected units per event."""
    reaching = _reaching(under, item)
    for source in under.game.sources:
        met = _met(under, source)
        for drop in source.drops:
            flow = under.drop_chance(drop) * under.law(drop.times).mean * met
            for tables, line, mean in _within(under, drop.table, flow, item, reaching):
                if bool((mean > 0).any()):
                    yield Way(source.id, drop.id, tables, line, mean)


def _within(
    under: Conditions, name: str, flow: FloatArray, item: int, reaching: set[str]
) -> Iterator[tuple[list[str], str, FloatArray]]:
    if name not in reaching:
        return
    table = under.table(name)
    hits = line_hits(under, table) * flow
    for row, line in enumerate(table.lines):
        for given in line.yields:
            units = hits[row] * under.law(given.quantity).mean
            if given.item is not None and under.item_index[given.item] == item:
                yield [name], line.id, units
            elif given.pool is not None:
                place = np.flatnonzero(under.pool_items(given.pool) == item)
                if place.size:
                    yield [name], line.id, units * under.pool_chances(given.pool)[place[0]]
            elif given.table is not None:
                for tables, last, mean in _within(under, given.table, units, item, reaching):
                    yield [name, *tables], last, mean


def line_hits(under: Conditions, table: Table) -> FloatArray:
    """Expected hits of each line in one execution for a fresh player, shape (n, d)."""
    rolls = under.law(table.rolls)
    if table.rule == "pick" and table.distinct and rolls.most > 1:
        return inclusion_chances(under.weights(table), under.nothing(table), rolls)
    return roll_chances(table, under)[0] * rolls.mean


def _reaching(under: Conditions, item: int) -> set[str]:
    """Tables from which the item can be reached."""
    found: set[str] = set()

    def reaches(name: str, seen: dict[str, bool]) -> bool:
        if name not in seen:
            seen[name] = False
            for line in under.table(name).lines:
                for given in line.yields:
                    if given.item is not None:
                        here = under.item_index[given.item] == item
                    elif given.pool is not None:
                        here = item in under.pool_items(given.pool)
                    else:
                        here = given.table is not None and reaches(given.table, seen)
                    seen[name] = seen[name] or here
        return seen[name]

    seen: dict[str, bool] = {}
    for table in under.game.tables:
        if reaches(table.id, seen):
            found.add(table.id)
    return found


def _met(under: Conditions, source: Source) -> FloatArray:
    low, high = source.depths or (under.game.depth.from_, under.game.depth.to)
    return ((under.depths >= low) & (under.depths <= high)).astype(np.float64)


# --- stats ----------------------------------------------------------------------------------------


def stat_ranges(under: Conditions, item: Item) -> dict[str, dict[str, list[float]]]:
    """Each stat's ends by depth: entered, times its curve, times the tier's factor."""
    factor = under.game.tiers[under.tier_index[item.tier]].stat_factor
    return {
        name: {
            "low": (stat.min * factor * under.curve(stat.curve)).tolist(),
            "high": (stat.max * factor * under.curve(stat.curve)).tolist(),
        }
        for name, stat in item.stats.items()
    }


def rivals(under: Conditions, item: Item) -> list[dict[str, Any]]:
    """Items of other tiers for the same slot with the same stat: by depth, the chance that a roll of
    `item` beats one of theirs. Between neighbouring tiers that is how far the tiers overlap."""
    mine, found = stat_ranges(under, item), []
    for other in under.game.items:
        if item.slot is None or other.slot != item.slot or other.tier == item.tier:
            continue
        theirs = stat_ranges(under, other)
        for stat in [name for name in mine if name in theirs]:
            ends = zip(mine[stat]["low"], mine[stat]["high"], strict=True)
            others = zip(theirs[stat]["low"], theirs[stat]["high"], strict=True)
            chances = [beats(a, b) for a, b in zip(ends, others, strict=True)]
            found.append({"item": other.id, "stat": stat, "beats": chances})
    return found


def beats(low: tuple[float, float], high: tuple[float, float]) -> float:
    """Chance that a uniform roll of the first range is above one of the second; ties count half."""
    (a, b), (c, d) = low, high
    if a == b and c == d:
        return 1.0 if a > c else 0.5 if a == c else 0.0
    if a == b:
        return min(1.0, max(0.0, (a - c) / (d - c)))
    if c == d:
        return min(1.0, max(0.0, (b - c) / (b - a)))
    # The mean over x in [a, b] of the share of [c, d] below x, which is piecewise linear in x.
    inner_low, inner_high = min(max(a, c), b), max(min(b, d), a)
    rising = ((inner_high - c) ** 2 - (inner_low - c) ** 2) / (2 * (d - c)) if inner_high > inner_low else 0.0
    return float((rising + max(0.0, b - max(a, d))) / (b - a))


# --- what a player meets ----------------------------------------------------------------------------


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
    events = {name: visits * count for name, count in spawned(under, band.spawns).items()}
    seconds = visits * band.between_seconds
    seconds += sum(count * under.source(name).seconds for name, count in events.items())
    odds = DepthOdds(under)
    items = np.zeros(len(game.items))
    for name, count in events.items():
        lean = odds.of("source", name)
        items[lean.places] += count * lean.mean[:, 0]
    rate = 3600.0 / seconds if seconds > 0 else None
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


def spawned(under: Conditions, table: str) -> dict[str, float]:
    """Expected events of each source in one execution of a spawn table; what those roll aside."""
    flow = dict.fromkeys(most_rolls(under, "table", table), 0.0)
    flow["table", table] = 1.0
    found: dict[str, float] = {}
    for kind, name in flow:
        if kind != "table" or flow[kind, name] == 0.0:
            continue
        part = under.table(name)
        hits = line_hits(under, part)[:, 0] * flow[kind, name]
        for row, line in enumerate(part.lines):
            for given in line.yields:
                units = float(hits[row] * under.law(given.quantity).mean[0])
                if given.source is not None:
                    found[given.source] = found.get(given.source, 0.0) + units
                elif given.table is not None:
                    flow["table", given.table] += units
    return {name: count for name, count in found.items() if count > 0}


def repeats(under: Conditions, table: str, points: int) -> dict[str, Any]:
    """Several spawn points, each one roll of the table, by the lines that yield sources.

    all_same: chance that every point has the same source; distinct: expected number of different
    ones; at_least_one: chance of each source to appear. A point may stay empty.
    """
    part = under.table(table)
    chances = roll_chances(part, under)[0][:, 0]
    by_source: dict[str, float] = {}
    for row, line in enumerate(part.lines):
        for given in line.yields:
            if given.source is not None:
                by_source[given.source] = by_source.get(given.source, 0.0) + float(chances[row])
    some = {
        name: float(-np.expm1(points * np.log1p(-min(p, 1.0)))) if p < 1 else 1.0
        for name, p in by_source.items()
    }
    return {
        "points": points,
        "all_same": float(sum(p**points for p in by_source.values())),
        "distinct": float(sum(some.values())),
        "at_least_one": some,
    }
