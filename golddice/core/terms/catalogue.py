"""A game's items and tiers, indexed. Edits seldom touch them, so one index serves many games; of games in
which they differ by names, colours or sizes alone too.
"""

from __future__ import annotations

import operator
import threading
from functools import cached_property

import numpy as np
from cachetools import LRUCache

from golddice.core.arrays import FloatArray, IntArray
from golddice.core.game.models import Game, Item, Pool, Tier

_RECENT = 8
PoolKey = tuple[tuple[str, ...], tuple[str, ...]]


def pool_key(pool: Pool) -> PoolKey:
    """Pools of the same tiers and tags are one pool."""
    return tuple(pool.tiers), tuple(pool.tags)


class Catalogue:
    """What odds take from items and tiers. Names are not to be had here: they are the game's."""

    def __init__(self, items: list[Item], tiers: list[Tier]) -> None:
        self.items, self.tiers = items, tiers
        self._pools: dict[PoolKey, IntArray] = {}
        self._numbers: dict[tuple[str, str], int] = {}
        self._lock = threading.Lock()

    def number(self, part: tuple[str, str]) -> int:
        """A number for a line or drop, the same whenever it is asked for."""
        with self._lock:
            return self._numbers.setdefault(part, len(self._numbers))

    def is_of(self, game: Game) -> bool:
        """Whether a game has the very same items and tiers."""
        return all(
            len(ours) == len(theirs) and all(map(operator.is_, ours, theirs))
            for ours, theirs in ((self.items, game.items), (self.tiers, game.tiers))
        )

    @cached_property
    def told(self) -> tuple[object, ...]:
        """All that it takes from them: of two that are equal here, one can stand for the other."""
        tiers = [(tier.id, tier.curve) for tier in self.tiers]
        items = [(one.id, one.tier, one.value, one.abundance, tuple(one.tags)) for one in self.items]
        return (*tiers, None, *items)

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


_recent: LRUCache[int, Catalogue] = LRUCache(_RECENT)
_recent_lock = threading.Lock()


def catalogue_of(game: Game) -> Catalogue:
    """The index of a game's items and tiers: one that was made before, where it tells the same."""
    with _recent_lock:
        known = list(_recent.values())
    found = next((one for one in known if one.is_of(game)), None)
    if found is None:
        made = Catalogue(game.items, game.tiers)
        found = next((one for one in known if one.told == made.told), made)
    with _recent_lock:
        _recent[id(found)] = found
    return found
