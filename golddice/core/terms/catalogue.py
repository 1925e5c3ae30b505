"""A game's items and tiers, indexed. Edits seldom touch them, so one index serves many games."""

from __future__ import annotations

import operator
from functools import cached_property

import numpy as np

from golddice.core.arrays import FloatArray, IntArray
from golddice.core.game.models import Game, Item, Pool, Tier

_RECENT = 8
PoolKey = tuple[tuple[str, ...], tuple[str, ...]]


def pool_key(pool: Pool) -> PoolKey:
    """Pools of the same tiers and tags are one pool."""
    return tuple(pool.tiers), tuple(pool.tags)


class Catalogue:
    def __init__(self, items: list[Item], tiers: list[Tier]) -> None:
        self.items, self.tiers = items, tiers
        self._pools: dict[PoolKey, IntArray] = {}

    def is_of(self, game: Game) -> bool:
        """Whether a game has the very same items and tiers."""
        return all(
            len(ours) == len(theirs) and all(map(operator.is_, ours, theirs))
            for ours, theirs in ((self.items, game.items), (self.tiers, game.tiers))
        )

    @cached_property
    def item_index(self) -> dict[str, int]:
        return {item.id: at for at, item in enumerate(self.items)}

    @cached_property
    def tier_index(self) -> dict[str, int]:
        return {tier.id: at for at, tier in enumerate(self.tiers)}

    @cached_property
    def tier_of(self) -> dict[str, str]:
        return {item.id: item.tier for item in self.items}

    @cached_property
    def item_tiers(self) -> IntArray:
        """Index of each item's tier, shape (items,)."""
        index = self.tier_index
        return np.array([index[item.tier] for item in self.items], dtype=np.int64)

    @cached_property
    def item_values(self) -> FloatArray:
        return np.array([item.value for item in self.items], dtype=np.float64)

    @cached_property
    def abundances(self) -> FloatArray:
        return np.array([item.abundance for item in self.items], dtype=np.float64)

    def pool_items(self, pool: Pool) -> IntArray:
        """Indices of the items that a pool can give, in file order."""
        key = pool_key(pool)
        if key not in self._pools:
            tagged = set().union(*(self._with_tag.get(tag, []) for tag in pool.tags))
            found = sorted(tagged) if pool.tags else range(len(self.items))
            fits = [at for at in found if not pool.tiers or self.items[at].tier in pool.tiers]
            self._pools[key] = np.array(fits, dtype=np.int64)
        return self._pools[key]

    @cached_property
    def _with_tag(self) -> dict[str, list[int]]:
        """The items that have each tag."""
        found: dict[str, list[int]] = {}
        for at, item in enumerate(self.items):
            for tag in item.tags:
                found.setdefault(tag, []).append(at)
        return found


_recent: list[Catalogue] = []


def catalogue_of(game: Game) -> Catalogue:
    """The index of a game's items and tiers: one that was made before, where it is the same."""
    found = next((one for one in _recent if one.is_of(game)), None) or Catalogue(game.items, game.tiers)
    _recent[:] = [found, *(one for one in _recent if one is not found)][:_RECENT]
    return found
