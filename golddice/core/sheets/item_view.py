"""Where an item is found: every way to it by depth, the best place to look, where it cannot be had."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import Any

import numpy as np

from golddice.core.arrays import FloatArray
from golddice.core.errors import UnknownThing
from golddice.core.game.models import Game
from golddice.core.game.views import View
from golddice.core.odds.depths.along import all_depths, bands_met, gaps, met_at
from golddice.core.odds.depths.depth_odds import DepthOdds
from golddice.core.odds.depths.swings import Swings
from golddice.core.odds.depths.ways import Way, item_ways
from golddice.core.sheets.depth_sheet import by_depth, over, told
from golddice.core.sheets.stats import rivals, stat_ranges, upsets
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.pace import events_per_hour

MOST_PATHS = 300


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
        "best_hour": _best(under, _hourly(under, sources)),
        "gaps": gaps(under, obtainable),
    }


def _hourly(under: Conditions, sources: list[dict[str, Any]]) -> list[tuple[str, FloatArray]]:
    """How many an hour; of a source with a price nobody has an hour's worth of purchases."""
    free = [one for one in sources if under.source(one["id"]).price is None]
    return [(one["id"], one["per_hour"] * np.array(one["mean"])) for one in free]


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
