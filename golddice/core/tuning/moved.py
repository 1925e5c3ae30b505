"""What else a change moves: figures that no target asked about."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from golddice.core.arrays import BoolArray, FloatArray, IntArray
from golddice.core.game.models import Game, Item, Source, Tier
from golddice.core.game.views import View
from golddice.core.odds.depths.along import met_at
from golddice.core.odds.depths.depth_odds import DepthOdds, Tried
from golddice.core.stopping import go_on
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.size import view_key

ENOUGH = 0.05
MOST = 40


@dataclass(frozen=True)
class Moved:
    """A figure of a source's event that another game has otherwise, where it is furthest off.

    before, after : 0 where it cannot come, or where there is no such source.
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
    """Chances of items and tiers and the value of events that differ by over 5 %, the largest first.

    Things are the same where their ids are, wherever they stand in their lists. Compared are the depths that
    both games have, where a source is met in both. What one of them does not give has a chance of 0 there;
    of a source that only one of them has its value is told, against 0.
    """
    depths = _depths_of_both(before, after)
    if not depths.size:
        return []
    known = frozenset.intersection(flags, *({flag.id for flag in game.flags} for game in (before, after)))
    old, new = Conditions(before, depths, known), Conditions(after, depths, known)
    # One of each for all sources: what these share is worked out once.
    kinds = [
        _Kind("item", DepthOdds(old), DepthOdds(new), *_joint_places(before.items, after.items)),
        _Kind("tier", DepthOdds(old, True), DepthOdds(new, True), *_joint_places(before.tiers, after.tiers)),
    ]
    found: list[Moved] = []
    sources = [{one.id: one for one in game.sources} for game in (before, after)]
    for name in {**sources[0], **sources[1]}:
        go_on()
        found += _of_source(name, sources[0].get(name), sources[1].get(name), kinds)
    return sorted(found, key=lambda one: -one.size)[:MOST]


def _depths_of_both(before: Game, after: Game) -> IntArray:
    low = max(before.depth.from_, after.depth.from_)
    return np.arange(low, min(before.depth.to, after.depth.to) + 1)


@dataclass(frozen=True)
class _Kind:
    """Items, or tiers, of both games: their ids, and where those of the later game stand among them."""

    of: str
    was: DepthOdds
    now: DepthOdds
    ids: list[str]
    later: IntArray


def _joint_places(before: Sequence[Item | Tier], after: Sequence[Item | Tier]) -> tuple[list[str], IntArray]:
    """All ids, those of the earlier game in their order first; and the place of each later one."""
    at = {part.id: place for place, part in enumerate(before)}
    later = [at.setdefault(part.id, len(at)) for part in after]
    return list(at), np.array(later, dtype=np.int64)


def _of_source(name: str, mine: Source | None, theirs: Source | None, kinds: Sequence[_Kind]) -> list[Moved]:
    view, old, new = View("source", name), kinds[0].was.under, kinds[0].now.under
    if mine is None or theirs is None:
        odds = kinds[0].was if theirs is None else kinds[0].now
        value = odds.tried(view).value_mean[None]
        where, nothing = met_at(old, mine or theirs), np.zeros_like(value)
        sides = (value, nothing) if theirs is None else (nothing, value)
        return _those(name, "value", [""], where, old.depths, *sides)
    if view_key(old, view) is view_key(new, view):
        return []
    where = met_at(old, mine) & met_at(new, theirs)
    if not where.any():
        return []
    found: list[Moved] = []
    for kind in kinds:
        was, now = kind.was.tried(view), kind.now.tried(view)
        places, figures = _side_by_side(kind, was, now)
        ids = [kind.ids[place] for place in places.tolist()]
        found += _those(name, kind.of, ids, where, old.depths, *figures)
    return found + _those(name, "value", [""], where, old.depths, was.value_mean[None], now.value_mean[None])


def _side_by_side(kind: _Kind, was: Tried, now: Tried) -> tuple[IntArray, tuple[FloatArray, FloatArray]]:
    """The places of all that either gives, rising, and the chances before and after, (k, d)."""
    later = kind.later[now.places]
    places = np.union1d(was.places, later)
    figures = np.zeros((2, places.size, was.value_mean.size))
    figures[0, np.searchsorted(places, was.places)] = was.hit
    figures[1, np.searchsorted(places, later)] = now.hit
    return places, (figures[0], figures[1])


def _those(
    source: str,
    of: str,
    ids: Sequence[str],
    where: BoolArray,
    depths: IntArray,
    old: FloatArray,
    new: FloatArray,
) -> list[Moved]:
    """Of figures (k, d) those that are off by enough anywhere, where they are furthest off."""
    with np.errstate(divide="ignore", invalid="ignore"):
        off = np.where(where & (old != new), np.abs(np.log(new / old)), 0.0)
    at = off.argmax(axis=1)
    rows = np.flatnonzero(off[np.arange(at.size), at] > np.log1p(ENOUGH))
    return [
        Moved(source, of, ids[row], int(depths[at[row]]), float(old[row, at[row]]), float(new[row, at[row]]))
        for row in rows.tolist()
    ]
