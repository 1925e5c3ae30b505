"""What else a change moves: figures that no target asked about."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from golddice.core.arrays import BoolArray, FloatArray, IntArray
from golddice.core.game.models import Game, Item, Tier
from golddice.core.game.views import View
from golddice.core.odds.depths.along import all_depths, met_at
from golddice.core.odds.depths.depth_odds import DepthOdds, Tried
from golddice.core.stopping import go_on
from golddice.core.terms.size import sign_of_view

ENOUGH = 0.05
MOST = 40
_ALONE: IntArray = np.zeros(1, dtype=np.int64)


@dataclass(frozen=True)
class Moved:
    """A figure of a source's event that another game has otherwise, where it is furthest off.

    of : "item", "tier" or "value". id : of the item or tier, "" for the value of the event.
    """

    source: str
    of: str
    id: str
    depth: int
    before: float
    after: float

    def plain(self) -> dict[str, Any]:
        return self.__dict__.copy()

    @property
    def size(self) -> float:
        return abs(float(np.log((self.after + 1e-300) / (self.before + 1e-300))))


def what_moved(before: Game, after: Game, flags: frozenset[str] = frozenset()) -> list[Moved]:
    """Chances of items and tiers and the value of events that differ by over 5 %, the largest first."""
    old, new = all_depths(before, flags), all_depths(after, flags)
    # One of each for all sources: what these share is worked out once.
    kinds = [
        (of, DepthOdds(old, by_tier), DepthOdds(new, by_tier), parts)
        for of, by_tier, parts in (("item", False, before.items), ("tier", True, before.tiers))
    ]
    found: list[Moved] = []
    for source in before.sources:
        go_on()
        view = View("source", source.id)
        if sign_of_view(old, view) is sign_of_view(new, view):
            continue
        where = met_at(old, source)
        if not where.any():
            continue
        for of, was, is_now, parts in kinds:
            mine, theirs = was.tried(view), is_now.tried(view)
            figures, other = _side_by_side(mine, theirs)
            found += _those(source.id, of, parts, mine.places, where, old.depths, figures, other)
        pair = mine.value_mean[None], theirs.value_mean[None]
        found += _those(source.id, "value", None, _ALONE, where, old.depths, *pair)
    return sorted(found, key=lambda one: -one.size)[:MOST]


def _side_by_side(mine: Tried, theirs: Tried) -> tuple[FloatArray, FloatArray]:
    """Chances of the same things before and after, (k, d); 0 where there is none any more."""
    other = np.zeros_like(mine.hit)
    _, here, there = np.intersect1d(mine.places, theirs.places, assume_unique=True, return_indices=True)
    other[here] = theirs.hit[there]
    return mine.hit, other


def _those(
    source: str,
    of: str,
    parts: Sequence[Item | Tier] | None,
    places: IntArray,
    where: BoolArray,
    depths: IntArray,
    old: FloatArray,
    new: FloatArray,
) -> list[Moved]:
    """Of figures (k, d) those that are off by enough anywhere, where they are furthest off."""
    with np.errstate(divide="ignore", invalid="ignore"):
        off = np.where(where, np.abs(np.log(new / old)), 0.0)
    off[~np.isfinite(off)] = 0.0
    at = off.argmax(axis=1)
    rows = np.flatnonzero(off[np.arange(at.size), at] > np.log1p(ENOUGH))
    return [
        Moved(
            source,
            of,
            "" if parts is None else parts[places[row]].id,
            int(depths[at[row]]),
            float(old[row, at[row]]),
            float(new[row, at[row]]),
        )
        for row in rows.tolist()
    ]
