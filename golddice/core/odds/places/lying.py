"""What one of each line of a place's stock comes to."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from propcache.api import cached_property

from golddice.core.arrays import FloatArray
from golddice.core.game.models import ItemNamed, Pool, Yield
from golddice.core.game.views import View
from golddice.core.odds.carried.prospect import Prospect
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.terms.places.spots import Spots


@dataclass(frozen=True)
class Lying(Spots):
    """A place at the one depth of `under`. s spots, l lines of the stock, k items of the game."""

    @cached_property
    def given(self) -> FloatArray:
        """How many of each item one of a line comes to on average, (l, k). A source stands, and gives nothing
        here."""
        return np.array([self._gives([*line.yields])[0] for line in self.stock.lines]).reshape(
            len(self.stock.lines), len(self.under.game.items)
        )

    @cached_property
    def none(self) -> FloatArray:
        """The chance that one of a line comes to none of an item, (l, k)."""
        return np.array([self._gives([*line.yields])[1] for line in self.stock.lines]).reshape(
            len(self.stock.lines), len(self.under.game.items)
        )

    def _gives(self, yields: list[Yield]) -> tuple[FloatArray, FloatArray]:
        items = len(self.under.game.items)
        mean, none = np.zeros(items), np.ones(items)
        for given in yields:
            one = self._one(given)
            if one is None:
                continue
            law = self.under.law(given.quantity)
            values, chances = law.row(0)
            mean += float(chances @ values) * one[0]
            none *= np.asarray(law.pgf((1.0 - one[1]).astype(np.complex128))).real
        return mean, np.clip(none, 0.0, 1.0)

    def _one(self, given: Yield) -> tuple[FloatArray, FloatArray] | None:
        """Mean of each item, and the chance of any, of one of what is given; None of a source."""
        items = len(self.under.game.items)
        match given.what:
            case ItemNamed(item):
                found = np.zeros(items)
                found[self.under.item_index[item]] = 1.0
                return found, found
            case Pool() as pool:
                found = np.zeros(items)
                found[self.under.pool_items(pool)] = self.under.pool_chances(pool)[:, 0]
                return found, found
            case View("table", _) as view:
                prospect = Prospect(Evaluator(self.under, detail=False), view)
                columns = [prospect.columns.item(at) for at in range(items)]
                return (
                    np.array([prospect.mean(one) for one in columns]),
                    np.array([prospect.hit(one) for one in columns]),
                )
        return None
