"""What depends on depth alone: where something is met, bands, gaps, and shares of tiers."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

import numpy as np

from golddice.core.arrays import BoolArray, FloatArray, IntArray
from golddice.core.game.models import Band, Game, Source
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.stops import bands_at


def all_depths(game: Game, flags: Iterable[str] = (), tag: str | None = None) -> Conditions:
    """With a `tag`, what has it is counted as a group of its own (`Catalogue`)."""
    return Conditions(game, range(game.depth.from_, game.depth.to + 1), flags, tag=tag)


def met_at(under: Conditions, source: Source | None) -> BoolArray:
    """The depths at which a source is met; a table is rolled at all."""
    if source is None or source.depths is None:
        return np.ones(under.depths.size, dtype=bool)
    low, high = source.depths
    return np.asarray((under.depths >= low) & (under.depths <= high))


def bands_met(under: Conditions, met: BoolArray) -> Iterator[tuple[Band, BoolArray]]:
    """The bands in which something is met, and at which depths."""
    counts = bands_at(under.game, under.depths)
    for at, band in enumerate(under.game.depth.bands):
        here = met & (counts == at)
        if bool(here.any()):
            yield band, here


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


def tier_shares(under: Conditions, places: IntArray, mean: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Each tier's share of what falls and of what it is worth, shape (tiers, d).

    `mean` says how many of each of the items at `places`, shape (k, d).
    """
    of_tier = np.zeros((len(under.game.tiers), places.size))
    of_tier[under.item_tiers[places], np.arange(places.size)] = 1.0
    falls = of_tier @ mean
    worth = (of_tier * under.item_values[places]) @ mean
    return _columns_to_one(falls), _columns_to_one(worth)


def _columns_to_one(parts: FloatArray) -> FloatArray:
    whole = parts.sum(axis=0)
    return np.asarray(np.divide(parts, whole, out=np.zeros_like(parts), where=whole > 0))
