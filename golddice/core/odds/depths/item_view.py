"""Where an item is found: every way to it by depth, the best place to look, where it cannot be had."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np

from golddice.core.arrays import BoolArray, FloatArray
from golddice.core.errors import UnknownThing
from golddice.core.game.links import Link, links_of
from golddice.core.game.models import BaseLine, Game, Source, Yield
from golddice.core.odds.depths.depth_odds import DepthOdds
from golddice.core.odds.depths.depth_sheet import all_depths, bands_met, by_depth, met_at, over, told
from golddice.core.odds.depths.stats import rivals, stat_ranges, upsets
from golddice.core.odds.depths.swings import Swings
from golddice.core.odds.event.rules import line_hits
from golddice.core.odds.terms.conditions import Conditions
from golddice.core.odds.terms.pace import events_per_hour

MOST_PATHS = 300


@dataclass(frozen=True)
class Way:
    """One path to an item and its units per event by depth.

    `path` are the tables it goes through from the drop on, by ("table", id); where a line yields a
    source, that source ("source", id) and the table it rolls follow. `line` is of the last table.
    """

    source: str
    drop: str
    path: list[Link]
    line: str
    mean: FloatArray


def item_view(game: Game, item: str, flags: Iterable[str] = (), swings: bool = False) -> dict[str, Any]:
    """Every way to get an item, by depth; where to look for it; where it cannot be had.

    `swings` adds the coefficient of variation of how many an event of each source gives.
    """
    under = all_depths(game, flags)
    if item not in under.item_index:
        raise UnknownThing("item", item)
    at = under.item_index[item]
    ways = _first(item_ways(under, at), MOST_PATHS)
    return {
        **_found(under, DepthOdds(under, only=[at]), Swings(under) if swings else None, at),
        "ways": [{**vars(way), "mean": way.mean.tolist()} for way in ways],
        "stats": stat_ranges(under, game.items[at]),
        "rivals": rivals(under, game.items[at]),
        "upsets": upsets(under, game.items[at]),
    }


def tier_view(game: Game, tier: str, flags: Iterable[str] = (), swings: bool = False) -> dict[str, Any]:
    """Where anything of a tier is found, by source and depth; `swings` as in `item_view`."""
    under = all_depths(game, flags)
    if tier not in under.tier_index:
        raise UnknownThing("tier", tier)
    spread = Swings(under, by_tier=True) if swings else None
    return _found(under, DepthOdds(under, by_tier=True), spread, under.tier_index[tier])


def _found(under: Conditions, odds: DepthOdds, spread: Swings | None, at: int) -> dict[str, Any]:
    """By source, and by band and source: chance of any and how many in an event where it is met."""
    sources, obtainable = [], np.zeros(under.depths.size, dtype=bool)
    bands: dict[str, dict[str, Any]] = {}
    for source in under.game.sources:
        lean = odds.of("source", source.id)
        row = np.flatnonzero(lean.places == at)
        if not row.size:
            continue
        met = met_at(under, source)
        hit, mean = lean.hit[row[0]] * met, lean.mean[row[0]] * met
        if not bool((mean > 0).any()):
            continue
        obtainable |= mean > 0
        var = spread.of("source", source.id)[at] * met if spread else None
        rate = events_per_hour(source)
        sources.append({"id": source.id, "per_hour": rate, **by_depth(hit, mean, var)})
        for band, here in bands_met(under, met):
            kept = bands.setdefault(band.id, {**told(band), "sources": {}})
            kept["sources"][source.id] = over(here, hit, mean, var)
    return {
        "depths": under.depths.tolist(),
        "sources": sources,
        "bands": [bands[band.id] for band in under.game.depth.bands if band.id in bands],
        "first": int(under.depths[obtainable][0]) if bool(obtainable.any()) else None,
        "best_event": _best(under, [(one["id"], one["p_any"]) for one in sources]),
        "best_hour": _best(under, [(one["id"], one["per_hour"] * np.array(one["mean"])) for one in sources]),
        "gaps": gaps(under, obtainable),
    }


def _first(ways: Iterator[Way], most: int) -> list[Way]:
    return [way for _, way in zip(range(most), ways, strict=False)]


def _best(under: Conditions, figures: list[tuple[str, Any]]) -> dict[str, Any] | None:
    """The source and depth at which a figure, by source and depth, is largest."""
    best: dict[str, Any] | None = None
    for source, by_depths in figures:
        row = int(np.argmax(by_depths))
        figure = float(by_depths[row])
        if figure > 0 and (best is None or figure > best["figure"]):
            best = {"source": source, "depth": int(under.depths[row]), "figure": figure}
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
    """Each path from a source to a line that gives the item, with expected units per event.

    Of a fresh player whose misses, hits and cards stay as they are throughout the event.
    """
    reaching = _reaching(under, item)
    for source in under.game.sources:
        for drop, path, line, mean in _by_drops(
            under, source, met_at(under, source) * under.ones, item, reaching
        ):
            if bool((mean > 0).any()):
                yield Way(source.id, drop, path, line, mean)


def _by_drops(
    under: Conditions, source: Source, flow: FloatArray, item: int, reaching: set[Link]
) -> Iterator[tuple[str, list[Link], str, FloatArray]]:
    for drop in source.drops:
        tried = flow * under.drop_chance(drop) * under.law(drop.times).mean
        for path, line, mean in _within(under, drop.table, tried, item, reaching):
            yield drop.id, path, line, mean


def _within(
    under: Conditions, name: str, flow: FloatArray, item: int, reaching: set[Link]
) -> Iterator[tuple[list[Link], str, FloatArray]]:
    if ("table", name) not in reaching:
        return
    table = under.table(name)
    hits = line_hits(under, table) * flow
    for row, line in enumerate(table.lines):
        for given in line.yields:
            units = hits[row] * under.law(given.quantity).mean
            if given.item is not None:
                if under.item_index[given.item] == item:
                    yield [("table", name)], line.id, units
            elif given.pool is not None:
                place = np.flatnonzero(under.pool_items(given.pool) == item)
                if place.size:
                    yield [("table", name)], line.id, units * under.pool_chances(given.pool)[place[0]]
            else:
                for path, last, mean in _further(under, given, units, item, reaching):
                    yield [("table", name), *path], last, mean


def _further(
    under: Conditions, given: Yield, units: FloatArray, item: int, reaching: set[Link]
) -> Iterator[tuple[list[Link], str, FloatArray]]:
    """On through the table or the source that a line yields."""
    if given.table is not None:
        yield from _within(under, given.table, units, item, reaching)
    elif given.source is not None:
        source = under.source(given.source)
        for _, path, last, mean in _by_drops(under, source, units, item, reaching):
            yield [("source", source.id), *path], last, mean


def _reaching(under: Conditions, item: int) -> set[Link]:
    """Tables and sources from which the item can be reached."""
    known: dict[Link, bool] = {}

    def reaches(kind: str, name: str) -> bool:
        if (kind, name) not in known:
            part = under.table(name) if kind == "table" else under.source(name)
            own = kind == "table" and any(map(gives, under.table(name).lines))
            known[kind, name] = own or any(reaches(*link) for link in links_of(part))
        return known[kind, name]

    def gives(line: BaseLine) -> bool:
        return any(
            under.item_index[given.item] == item
            if given.item is not None
            else given.pool is not None and item in under.pool_items(given.pool)
            for given in line.yields
        )

    for table in under.game.tables:
        reaches("table", table.id)
    return {step for step, held in known.items() if held}
