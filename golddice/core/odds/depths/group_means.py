"""How many of each group of items one event gives, and what they are worth, at many depths at once: from the
bottom up, each table once for all that roll it and kept from edit to edit.

Groups are few (tiers, or tiers and what has a tag), so a table's own numbers are small, and an edit of one
table works out anew only those that lead to it. Items are many: theirs come from the top down (`flows`).
"""

from __future__ import annotations

from functools import partial

import numpy as np

from golddice.core.arrays import BoolArray, FloatArray, IntArray
from golddice.core.game.models import Pool, Source, Table
from golddice.core.game.views import View
from golddice.core.odds.depths.depth_odds import DepthOdds
from golddice.core.odds.depths.flows import given_by
from golddice.core.odds.depths.mixing import mix_items_into
from golddice.core.results import RESULTS
from golddice.core.stopping import go_on
from golddice.core.terms.catalogue import pool_key
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.resting import rests_on_state
from golddice.core.terms.size import missing, part_of, view_key

UNITS, WORTH = 0, 1


class GroupMeans:
    """Of a fresh player's next event, at all depths of some conditions."""

    def __init__(self, under: Conditions, odds: DepthOdds) -> None:
        """`odds` are those of items, for what rests on what players carry within the event."""
        self._under, self._odds = under, odds
        self._groups, self._values = under.catalogue.item_groups, under.item_values
        self._found: dict[View, FloatArray] = {}

    def of(self, view: View, where: BoolArray | None = None) -> FloatArray:
        """Units and worth of each group, shape (2, groups, d); `where` as in `DepthOdds`. Raises TooLarge."""
        if rests_on_state(self._under, view):
            return self._summed(self._odds.means(view, where))
        for one in missing(self._under, view, self._found):
            go_on()
            key = ("group means", view_key(self._under, one))
            self._found[one] = RESULTS.get(key, partial(self._worked_out, one))
        return self._found[view]

    def _summed(self, means: FloatArray) -> FloatArray:
        found = self._nothing()
        for part, each in ((UNITS, 1.0), (WORTH, self._values[:, None])):
            np.add.at(found[part], self._groups, means * each)
        return found

    def _nothing(self) -> FloatArray:
        return np.zeros((2, self._under.catalogue.groups, self._under.depths.size))

    def _worked_out(self, view: View) -> FloatArray:
        part = part_of(self._under, view)
        return self._source(part) if isinstance(part, Source) else self._table(part)

    def _source(self, source: Source) -> FloatArray:
        found = self._nothing()
        for drop in source.drops:
            many = self._under.drop_chance(drop) * self._under.law(drop.times).mean
            found += many * self._found[View("table", drop.table)]
        return found

    def _table(self, table: Table) -> FloatArray:
        """An execution: what its lines give, each so often as it hits."""
        given, found = given_by(table, self._under), self._nothing()
        plain = given.plain
        self._items_into(found, plain.items, given.hits[plain.at], plain.mean)
        for row, item, many in given.items:
            self._items_into(found, np.array([item]), (given.hits[row] * many)[None], np.ones(1))
        for row, pool, many in given.pools:
            found += given.hits[row] * many * self._pool(pool)
        for row, link, many in given.links:
            found += given.hits[row] * many * self._found[link]
        return found

    def _pool(self, pool: Pool) -> FloatArray:
        """One of its items."""
        key = ("group means", self._under.tiers_key, pool_key(pool))
        return RESULTS.get(key, lambda: self._one_of(pool))

    def _one_of(self, pool: Pool) -> FloatArray:
        members, found = self._under.pool_items(pool), self._nothing()
        self._items_into(found, members, self._under.pool_chances(pool), np.ones(members.size))
        return found

    def _items_into(self, found: FloatArray, items: IntArray, hits: FloatArray, each: FloatArray) -> None:
        """Add some items, so many each time they are given, hits (m, d) and each (m,)."""
        groups = self._groups[items]
        mix_items_into(found[UNITS], groups, hits, each)
        mix_items_into(found[WORTH], groups, hits, each * self._values[items])
