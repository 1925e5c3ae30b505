"""Generating functions of an event where every unit of an item counts only with some chance: at z = 1 - that
chance for each item they are the chance that none counts."""

from __future__ import annotations

import numpy as np

from golddice.core.arrays import ComplexArray, FloatArray
from golddice.core.game.models import ItemNamed, Pool, Yield
from golddice.core.odds.carried.functions import Functions
from golddice.core.terms.conditions import Conditions


class Thinned(Functions):
    """`kept` (items, w) is, at each of w points, the chance of a unit of each item not to count."""

    def __init__(self, under: Conditions, kept: FloatArray) -> None:
        # The one length that all that is combined has; two at the least.
        super().__init__(under, {}, 2 * (kept.shape[1] - 1))
        self._kept = kept.astype(np.complex128)

    def _placed(self, yields: list[Yield]) -> FloatArray | None:
        """Nothing lies on a grid here."""
        return None

    def _yielded(self, given: Yield) -> ComplexArray:
        match given.what:
            case ItemNamed(item):
                return self.under.law(given.quantity).pgf(self._kept[self.under.item_index[item]])
        return super()._yielded(given)

    def _pool(self, pool: Pool) -> ComplexArray:
        chances = self.under.pool_chances(pool)[:, 0]
        blank = max(1.0 - float(chances.sum()), 0.0)
        return np.asarray(blank + chances @ self._kept[self.under.pool_items(pool)])
