"""What else a change moves: figures that no target asked about."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from golddice.core.arrays import BoolArray, FloatArray, IntArray
from golddice.core.game.models import Game
from golddice.core.game.views import View
from golddice.core.odds.depths.along import all_depths, met_at
from golddice.core.odds.depths.depth_odds import DepthOdds
from golddice.core.stopping import go_on
from golddice.core.terms.size import sign_of_view

ENOUGH = 0.05
MOST = 40


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
    found: list[Moved] = []
    for source in before.sources:
        go_on()
        view = View("source", source.id)
        if sign_of_view(old, view) is sign_of_view(new, view):
            continue
        where = met_at(old, source)
        if not where.any():
            continue
        for of, by_tier, parts in (("item", False, before.items), ("tier", True, before.tiers)):
            mine, theirs = DepthOdds(old, by_tier).of(view), DepthOdds(new, by_tier).of(view)
            for place, figures in zip(mine.places.tolist(), mine.hit, strict=True):
                row = np.flatnonzero(theirs.places == place)
                other = theirs.hit[row[0]] if row.size else np.zeros_like(figures)
                found += _one(source.id, of, parts[place].id, where, old.depths, figures, other)
        pair = (mine.value_mean, theirs.value_mean)
        found += _one(source.id, "value", "", where, old.depths, *pair)
    return sorted(found, key=lambda one: -one.size)[:MOST]


def _one(
    source: str, of: str, name: str, where: BoolArray, depths: IntArray, old: FloatArray, new: FloatArray
) -> list[Moved]:
    with np.errstate(divide="ignore", invalid="ignore"):
        off = np.where(where, np.nan_to_num(np.abs(np.log(new / old)), posinf=0.0), 0.0)
    at = int(off.argmax())
    if off[at] <= np.log1p(ENOUGH):
        return []
    return [Moved(source, of, name, int(depths[at]), float(old[at]), float(new[at]))]
