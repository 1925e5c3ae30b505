"""A game's items and tiers, indexed. Edits seldom touch them, so one index serves many games; of games in
which they differ by names, colours or sizes alone too.
"""

from __future__ import annotations

import threading
from dataclasses import dataclass
from weakref import WeakKeyDictionary

import numpy as np
from propcache.api import cached_property

from golddice.core.arrays import FloatArray, IntArray
from golddice.core.game.models import BaseLine, Game, Item, Pool, Tier
from golddice.core.results import RESULTS, Interned, OfPart, cache_key
from golddice.core.terms.forms import Form

_MOST_TAGS = 50
_AN_ITEM = 400  # bytes of an item, and of all that is indexed of it
PoolKey = tuple[tuple[str, ...], tuple[str, ...]]


def pool_key(pool: Pool) -> PoolKey:
    """Pools of the same tiers and tags are one pool."""
    return tuple(pool.tiers), tuple(pool.tags)


@dataclass(frozen=True)
class Placed:
    """A table's form among a catalogue's items and tiers.

    Attributes
    ----------
    items : ndarray of int, shape (m,)
        Index of the item of each of its plain lines.
    line_tiers : ndarray of int, shape (n,)
        Index of each line's one definite tier, -1 where it has none.
    tiers : frozenset of str
        The tiers that what its lines yield can be of.
    curves : tuple of str
        Every curve that the lines or those tiers name.
    """

    items: IntArray
    line_tiers: IntArray
    tiers: frozenset[str]
    curves: tuple[str, ...]


class Catalogue:
    """What odds take from items and tiers. Names are not to be had here: they are the game's.

    Items are counted in groups: their tiers. With a `tag` those that have it are one more group, the last,
    and are not counted with their tiers; all else is as it would be without.
    """

    def __init__(self, items: list[Item], tiers: list[Tier], tag: str | None = None) -> None:
        self.items, self.tiers, self.tag = items, tiers, tag
        self._tagged: dict[str, Catalogue] = {}
        self._pools: dict[PoolKey, IntArray] = {}
        self._numbers: dict[tuple[str, str], int] = {}
        self._placed: WeakKeyDictionary[Form, Placed] = WeakKeyDictionary()
        self._lock = threading.Lock()

    @property
    def nbytes(self) -> int:
        return _AN_ITEM * len(self.items)

    def number(self, part: tuple[str, str]) -> int:
        """A number for a line or drop, the same whenever it is asked for."""
        with self._lock:
            return self._numbers.setdefault(part, len(self._numbers))

    @cached_property
    def told(self) -> tuple[object, ...]:
        """All that it takes from them: of two that are equal here, one can stand for the other."""
        assert self.tag is None
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

    def tagged(self, tag: str) -> Catalogue:
        """The same, which counts what has a tag apart; the same one whenever it is asked for."""
        with self._lock:
            if len(self._tagged) > _MOST_TAGS:
                self._tagged.clear()
            if tag not in self._tagged:
                self._tagged[tag] = Catalogue(self.items, self.tiers, tag)
            return self._tagged[tag]

    @property
    def groups(self) -> int:
        """How many groups items are counted in."""
        return len(self.tiers) + (self.tag is not None)

    @cached_property
    def item_groups(self) -> IntArray:
        """In which group each item is counted, shape (items,)."""
        if self.tag is None:
            return self.item_tiers
        found = self.item_tiers.copy()
        found[self._with_tag.get(self.tag, [])] = len(self.tiers)
        return found

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

    def line_tier(self, line: BaseLine) -> str | None:
        """The one definite tier that all of a line's item and pool yields share, if they do."""
        if len(line.yields) == 1 and line.yields[0].item is not None:  # most lines, and quickest
            return self.tier_of[line.yields[0].item]
        tiers: set[str | None] = set()
        for given in line.yields:
            if given.item is not None:
                tiers.add(self.tier_of[given.item])
            elif given.pool is not None:
                tiers.add(given.pool.tiers[0] if len(set(given.pool.tiers)) == 1 else None)
        return tiers.pop() if len(tiers) == 1 else None

    def placed(self, form: Form) -> Placed:
        found = self._placed.get(form)
        if found is None:
            found = self._placed[form] = self._place(form)
        return found

    def _place(self, form: Form) -> Placed:
        items = np.array([self.item_index[name] for name in form.named], dtype=np.int64)
        line_tiers = np.full(form.curve.size, -1, dtype=np.int64)
        line_tiers[form.plain] = self.item_tiers[items]
        for at, line in form.tiered:
            tier = self.line_tier(line)
            line_tiers[at] = -1 if tier is None else self.tier_index[tier]
        tiers = {self.tier_of[name] for name in (*form.named, *(item for _, item, _ in form.items))}
        for _, pool, _ in form.pools:
            tiers |= set(pool.tiers) or set(self.tier_index)
        named = form.named_curves.union(tier.curve for tier in self.tiers if tier.id in tiers and tier.curve)
        return Placed(items, line_tiers, frozenset(tiers), tuple(sorted(named)))

    @cached_property
    def _with_tag(self) -> dict[str, list[int]]:
        """The items that have each tag."""
        found: dict[str, list[int]] = {}
        for at, item in enumerate(self.items):
            for tag in item.tags:
                found.setdefault(tag, []).append(at)
        return found


def _catalogue_of(game: Game) -> Catalogue:
    key = cache_key((*game.items, *game.tiers), (len(game.items),))
    return RESULTS.get(("catalogue", key), lambda: _told_alike(game))


def _told_alike(game: Game) -> Catalogue:
    made = Catalogue(game.items, game.tiers)
    return _alike.get(made.told, lambda: made)


_alike: Interned[Catalogue] = Interned()
# The index of a game's items and tiers: one that was made before, where it tells the same.
catalogue_of: OfPart[Game, Catalogue] = OfPart(_catalogue_of)
