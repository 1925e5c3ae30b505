"""How an item's score is distributed: the sum of its stats, each uniform on its range, times its weight."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import combinations
from math import factorial

import numpy as np
from propcache.api import cached_property

from golddice.core.arrays import FloatArray
from golddice.core.errors import TooLarge
from golddice.core.game.models import Item
from golddice.core.terms.conditions import Conditions

MOST_STATS = 8  # that vary: so many have twice as many pieces each


@dataclass(frozen=True)
class Score:
    """low : the least score. widths : of the ranges that vary, each times its weight, shape (n,)."""

    low: float
    widths: FloatArray

    @property
    def high(self) -> float:
        return self.low + float(self.widths.sum())

    @cached_property
    def _sums(self) -> FloatArray:
        """The sum of every subset of the widths, with its sign; (2^n, 2)."""
        found = []
        for count in range(self.widths.size + 1):
            for some in combinations(self.widths.tolist(), count):
                found.append((sum(some), (-1.0) ** count))
        return np.array(found)

    @property
    def knots(self) -> FloatArray:
        """Where the distribution changes its piece, rising."""
        return np.unique(self.low + self._sums[:, 0])

    def at_most(self, scores: FloatArray, below: bool = False) -> FloatArray:
        """Chance to score so much at most; or, for `below`, less.

        Notes
        -----
        A sum of uniforms: 1 / (n! w_1 ... w_n) times the sum over subsets S of (-1)^|S| (x - w(S))_+^n
        (Feller, vol. 2, I.9).
        """
        over = scores - self.low
        count = self.widths.size
        if count == 0:
            return np.asarray(over > 0 if below else over >= 0, dtype=np.float64)
        terms = np.maximum(over[:, None] - self._sums[None, :, 0], 0.0) ** count @ self._sums[:, 1]
        found = terms / (factorial(count) * float(np.prod(self.widths)))
        return np.where(over >= self.high - self.low, 1.0, np.clip(found, 0.0, 1.0))


def score_of(under: Conditions, item: Item) -> Score:
    """At the one depth of `under`. Raises TooLarge for more stats than are worked out."""
    factor = next(tier.stat_factor for tier in under.game.tiers if tier.id == item.tier)
    low, widths = 0.0, []
    for name, stat in item.stats.items():
        by = under.game.scores.get(name, 1.0) * factor * float(under.curve(stat.curve)[0])
        ends = sorted((by * stat.min, by * stat.max))
        low += ends[0]
        if ends[1] > ends[0]:
            widths.append(ends[1] - ends[0])
    if len(widths) > MOST_STATS:
        raise TooLarge(f"“{item.id}” has {len(widths)} stats that vary; scores are of {MOST_STATS} at most")
    return Score(low, np.array(widths))
