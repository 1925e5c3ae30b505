"""All items of one place at once: a chi-square that knows which of them come together."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

import numpy as np
from scipy.special import chdtrc

from golddice.core.arrays import FloatArray, IntArray
from golddice.core.game.models import PickTable
from golddice.core.game.views import View
from golddice.core.odds.event.algebra import Algebra, Roll
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.law import AnyLaw

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


Told = FloatArray | None  # None where it is not worked out: a pick of different lines


class Either(Algebra[Told]):
    """The chance of item i or item j, shape (k, k), of anything of a game; of i alone on the diagonal. At the
    one depth of `under`."""

    def __init__(self, under: Conditions, items: IntArray) -> None:
        super().__init__(under)
        self._place = {int(item): at for at, item in enumerate(items)}
        self._none = np.zeros((items.size, items.size))

    def item(self, at: int, law: AnyLaw) -> Told:
        return self.repeated(law, self._one_of({at: 1.0}))

    def one_item(self, items: IntArray, chances: FloatArray) -> Told:
        return self._one_of(dict(zip(items.tolist(), chances[:, 0].tolist(), strict=True)))

    def _one_of(self, chances: dict[int, float]) -> FloatArray:
        """One of these items: of two it is the one or the other."""
        single = np.zeros(len(self._place))
        for item, chance in chances.items():
            if item in self._place:
                single[self._place[item]] = chance
        either = single[:, None] + single
        np.fill_diagonal(either, single)
        return either

    def repeated(self, law: AnyLaw, once: Told) -> Told:
        return None if once is None else np.asarray(law.any_of(once.reshape(1, -1))).reshape(once.shape)

    def perhaps(self, chance: FloatArray, part: Told) -> Told:
        if chance[0] == 0:
            return self._none
        return None if part is None else float(chance[0]) * part

    def all_of(self, parts: Iterable[Told]) -> Told:
        miss = self._none + 1.0
        for one in parts:
            if one is None:
                return None
            miss *= 1.0 - one
        return 1.0 - miss

    def together(self, roll: Roll, others: Iterable[Told]) -> Told:
        parts = [self.perhaps(chance, one) for chance, one in zip(roll.chances, others, strict=True)]
        if roll.blank is None:
            return self.all_of(parts)
        told = [one for one in parts if one is not None]
        return sum(told, self._none) if len(told) == len(parts) else None

    def distinct(self, table: PickTable) -> Told:
        return None
