"""All items of one place at once: a chi-square that knows which of them come together."""

from __future__ import annotations

from typing import Any

import numpy as np
from scipy.special import chdtrc

from golddice.core.arrays import FloatArray, IntArray
from golddice.core.game.models import BaseLine, Drop, ItemNamed, Pool, Source, Table, Yield
from golddice.core.game.views import View
from golddice.core.odds.event.rules import roll_chances
from golddice.core.stopping import go_on
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.resting import is_distinct
from golddice.core.terms.size import missing, part_of

MOST = 60  # items that are held together
_EXACT = 1e-6  # of the events, within which a sum that never varies is taken to be right
_LEAST = 3.0  # variance of a sum of events, below which it is too far from normal to be told
_FLAT = 1e-9  # of the largest spread, below which a sum of items is taken never to vary


def chi_square(
    under: Conditions, view: View, items: IntArray, hits: IntArray, events: int
) -> tuple[dict[str, Any], float] | None:
    """Events with each of these items against what is due, at the one depth: d' S^-1 d, where d is how far
    off each is and S the covariance (Pearson's, where one item excludes the others). The figure and its p;
    `value` None where sums came that cannot, such as two items of which one excludes the other. None where it
    is not told: a pick of different lines.

    Parameters
    ----------
    items, hits : ndarray of int, shape (k,)
    """
    either = Either(under, items).of(view)
    if either is None or not items.size:
        return None
    single = np.diag(either)
    spread = events * (single[:, None] + single - either - np.outer(single, single))
    return quadratic(hits - events * single, spread, _EXACT * events)


def quadratic(off: FloatArray, spread: FloatArray, exact: float) -> tuple[dict[str, Any], float] | None:
    """d' S^-1 d and its p, of how far off each is and the covariance, along what varies enough; `value` None
    where a sum that never varies is off by more than `exact`. None where nothing varies enough."""
    sizes, ways = np.linalg.eigh(spread)
    along = ways.T @ off
    never = sizes <= _FLAT * sizes.max(initial=0.0)
    varies = ~never & (sizes >= _LEAST)
    if (np.abs(along[never]) > exact).any():
        return {"value": None, "of": int(varies.sum())}, 0.0
    if not varies.any():
        return None
    value = float((along[varies] ** 2 / sizes[varies]).sum())
    return {"value": value, "of": int(varies.sum())}, float(chdtrc(int(varies.sum()), value))


class Either:
    """The chance of item i or item j, shape (k, k), of anything of a game; of i alone on the diagonal."""

    def __init__(self, under: Conditions, items: IntArray) -> None:
        self.under = under
        self._place = {int(item): at for at, item in enumerate(items)}
        self._found: dict[View, FloatArray | None] = {}

    def of(self, view: View) -> FloatArray | None:
        for one in missing(self.under, view, self._found):
            go_on()
            part = part_of(self.under, one)
            self._found[one] = self._source(part) if isinstance(part, Source) else self._table(part)
        return self._found[view]

    def _none(self) -> FloatArray:
        return np.zeros((len(self._place), len(self._place)))

    def _source(self, source: Source) -> FloatArray | None:
        return self._any_of([self._drop(drop) for drop in source.drops])

    def _drop(self, drop: Drop) -> FloatArray | None:
        one = self._times(drop.times, self._found[View("table", drop.table)])
        return None if one is None else float(self.under.drop_chance(drop)[0]) * one

    def _table(self, table: Table) -> FloatArray | None:
        if is_distinct(self.under, table):
            return None
        chances, _ = roll_chances(table, self.under)
        roll, miss = self._none(), self._none() + 1.0
        for chance, line in zip(chances[:, 0].tolist(), table.lines, strict=True):
            one = self._line(line) if chance > 0 else self._none()
            if one is None:
                return None
            roll += chance * one
            miss *= 1.0 - chance * one
        return self._times(table.rolls, 1.0 - miss if table.rule == "each" else roll)

    def _line(self, line: BaseLine) -> FloatArray | None:
        return self._any_of([self._given(given) for given in line.yields])

    def _given(self, given: Yield) -> FloatArray | None:
        match given.what:
            case ItemNamed(item):
                one = self._one_of({self.under.item_index[item]: 1.0})
            case View() as view:
                found = self._found[view]
                if found is None:
                    return None
                one = found
            case Pool() as pool:
                chances = self.under.pool_chances(pool)[:, 0].tolist()
                one = self._one_of(dict(zip(self.under.pool_items(pool).tolist(), chances, strict=True)))
        return self._times(given.quantity, one)

    def _one_of(self, chances: dict[int, float]) -> FloatArray:
        """One of these items: of two it is the one or the other."""
        single = np.zeros(len(self._place))
        for item, chance in chances.items():
            if item in self._place:
                single[self._place[item]] = chance
        either = single[:, None] + single
        np.fill_diagonal(either, single)
        return either

    def _any_of(self, parts: list[FloatArray | None]) -> FloatArray | None:
        miss = self._none() + 1.0
        for one in parts:
            if one is None:
                return None
            miss *= 1.0 - one
        return 1.0 - miss

    def _times(self, quantity: Any, one: FloatArray | None) -> FloatArray | None:
        if one is None:
            return None
        return np.asarray(self.under.law(quantity).any_of(one.reshape(1, -1))).reshape(one.shape)
