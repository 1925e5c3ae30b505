"""How many of each group of items one event gives, and what they are worth, at many depths at once: from the
bottom up, each table once for all that roll it and kept from edit to edit.

Groups are few (tiers, or tiers and what has a tag), so a table's own numbers are small, and an edit of one
table works out anew only those that lead to it. Items are many: theirs come from the top down (`flows`).
"""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from golddice.core.arrays import BoolArray, FloatArray, IntArray
from golddice.core.game.models import Table
from golddice.core.game.views import View
from golddice.core.odds.depths.depth_odds import DepthOdds
from golddice.core.odds.depths.flows import given_by
from golddice.core.odds.depths.mixing import mix_items_into
from golddice.core.odds.event.algebra import Algebra, Roll
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.law import AnyLaw
from golddice.core.terms.resting import rests_on_state

UNITS, WORTH = 0, 1


class GroupMeans(Algebra[FloatArray]):
    """Of a fresh player's next event, at all depths of some conditions: units and worth of each group, shape
    (2, groups, d)."""

    def __init__(self, under: Conditions, odds: DepthOdds) -> None:
        """`odds` are those of items, for what rests on what players carry within the event."""
        super().__init__(under, "group means")
        self._odds = odds
        self._groups, self._values = under.catalogue.item_groups, under.item_values

    def at(self, view: View, where: BoolArray | None = None) -> FloatArray:
        """Of a source or table; `where` as in `DepthOdds`. Raises TooLarge."""
        if rests_on_state(self.under, view):
            return self._summed(self._odds.means(view, where))
        return self.of(view)

    def _summed(self, means: FloatArray) -> FloatArray:
        found = self._nothing()
        for part, each in ((UNITS, 1.0), (WORTH, self._values[:, None])):
            np.add.at(found[part], self._groups, means * each)
        return found

    def _nothing(self) -> FloatArray:
        return np.zeros((2, self.under.catalogue.groups, self.under.depths.size))

    def repeated(self, law: AnyLaw, once: FloatArray) -> FloatArray:
        return law.mean * once

    def perhaps(self, chance: FloatArray, part: FloatArray) -> FloatArray:
        return chance * part

    def all_of(self, parts: Iterable[FloatArray]) -> FloatArray:
        return sum(parts, self._nothing())

    def item(self, at: int, law: AnyLaw) -> FloatArray:
        found = self._nothing()
        self._items_into(found, np.array([at]), (law.mean * self.under.ones)[None], np.ones(1))
        return found

    def one_item(self, items: IntArray, chances: FloatArray) -> FloatArray:
        found = self._nothing()
        self._items_into(found, items, chances, np.ones(items.size))
        return found

    def executed(self, table: Table) -> FloatArray:
        """What its lines give, each so often as it hits in an execution, whatever the rule."""
        given, found = given_by(table, self.under), self._nothing()
        plain = given.plain
        self._items_into(found, plain.items, given.hits[plain.at], plain.mean)
        for row, item, many in given.items:
            self._items_into(found, np.array([item]), (given.hits[row] * many)[None], np.ones(1))
        for row, pool, many in given.pools:
            found += given.hits[row] * many * self.pool(pool)
        for row, link, many in given.links:
            found += given.hits[row] * many * self.of(link)
        return found

    def together(self, roll: Roll, others: Iterable[FloatArray]) -> FloatArray:
        raise AssertionError("a table is told by how often its lines hit")

    distinct = executed

    def _items_into(self, found: FloatArray, items: IntArray, hits: FloatArray, each: FloatArray) -> None:
        """Add some items, so many each time they are given, hits (m, d) and each (m,)."""
        groups = self._groups[items]
        mix_items_into(found[UNITS], groups, hits, each)
        mix_items_into(found[WORTH], groups, hits, each * self._values[items])
