"""Where an item is found: every way to it by depth, the best place to look, where it cannot be had."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np

from golddice.core.arrays import BoolArray, FloatArray
from golddice.core.errors import UnknownThing
from golddice.core.game.models import Game, ItemNamed, Pool, Source, Yield
from golddice.core.game.views import View
from golddice.core.odds.depths.depth_odds import DepthOdds
from golddice.core.odds.depths.depth_sheet import all_depths, bands_met, by_depth, met_at, over, told
from golddice.core.odds.depths.stats import rivals, stat_ranges, upsets
from golddice.core.odds.depths.swings import Swings
from golddice.core.odds.event.rules import line_hits
from golddice.core.stopping import go_on
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.pace import events_per_hour
from golddice.core.terms.size import in_order, inner_of

MOST_PATHS = 300


@dataclass(frozen=True)
class Way:
    """One path to an item and its units per event by depth.

    `path` are the tables it goes through from the drop on, by ("table", id); where a line yields a
    source, that source ("source", id) and the table it rolls follow. `line` is of the last table.
    """

    source: str
    drop: str
    path: list[View]
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
        lean = odds.of(View("source", source.id))
        row = np.flatnonzero(lean.places == at)
        if not row.size:
            continue
        met = met_at(under, source)
        hit, mean = lean.hit[row[0]] * met, lean.mean[row[0]] * met
        if not bool((mean > 0).any()):
            continue
        obtainable |= mean > 0
        var = spread.of(View("source", source.id))[at] * met if spread else None
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
        flow = met_at(under, source) * under.ones
        for drop, step in zip(source.drops, _by_drops(under, source, flow, []), strict=True):
            yield from (Way(source.id, drop.id, *found) for found in _within(under, step, item, reaching))


Step = tuple[View, FloatArray, list[View]]  # a table, how often it is executed, what led to it
Found = tuple[list[View], str, FloatArray]  # what led to a line, the line, how many of the item it gives


def _by_drops(under: Conditions, source: Source, flow: FloatArray, path: list[View]) -> Iterator[Step]:
    for drop in source.drops:
        tried = flow * under.drop_chance(drop) * under.law(drop.times).mean
        yield View("table", drop.table), tried, path


def _within(under: Conditions, start: Step, item: int, reaching: set[View]) -> Iterator[Found]:
    """Every way on from a table, depth first, without recursion: tables nest as deep as they like."""
    pending: list[Iterator[Step | Found]] = [iter([start])]
    while pending:
        go_on()
        step = next(pending[-1], None)
        if step is None:
            pending.pop()
        elif not isinstance(step[0], View):
            yield step
        elif step[0] in reaching and bool((step[1] > 0).any()):
            pending.append(_on_from(under, step, item))


def _on_from(under: Conditions, step: Step, item: int) -> Iterator[Step | Found]:
    """What the lines of a table lead to: the item itself, or other tables."""
    view, flow, before = step
    table, path = under.table(view.id), [*before, view]
    hits = line_hits(under, table) * flow
    for row, line in enumerate(table.lines):
        for given in line.yields:
            units = hits[row] * under.law(given.quantity).mean
            match given.what:
                case ItemNamed(name):
                    share = 1.0 if under.item_index[name] == item else 0.0
                case Pool() as pool:
                    place = np.flatnonzero(under.pool_items(pool) == item)
                    share = under.pool_chances(pool)[place[0]] if place.size else 0.0
                case View("table") as inner:
                    yield inner, units, path
                    continue
                case View() as inner:
                    yield from _by_drops(under, under.source(inner.id), units, [*path, inner])
                    continue
            if bool(np.any(units * share > 0)):
                yield path, line.id, units * share


def _reaching(under: Conditions, item: int) -> set[View]:
    """Tables and sources from which the item can be reached."""

    def gives(given: Yield) -> bool:
        match given.what:
            case ItemNamed(name):
                return under.item_index[name] == item
            case Pool() as pool:
                return item in under.pool_items(pool)
        return False

    found: set[View] = set()
    for view in in_order(under, [View("table", table.id) for table in under.game.tables]):
        own = view.kind == "table" and any(
            gives(given) for line in under.table(view.id).lines for given in line.yields
        )
        if own or any(link in found for link in inner_of(under, view)):
            found.add(view)
    return found
