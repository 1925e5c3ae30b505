"""How an item's score is distributed: the sum of its stats, each uniform on its range, times its weight."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numba import njit

from golddice.core.arrays import FloatArray
from golddice.core.errors import TooLarge
from golddice.core.game.finding import by_id
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

    @property
    def knots(self) -> FloatArray:
        """Where the distribution changes its piece, rising: the sums of all subsets of the widths."""
        sums = np.zeros(1)
        for width in self.widths:
            sums = np.concatenate([sums, sums + width])
        return np.unique(self.low + sums)

    def more_than(self, scores: FloatArray, below: bool = False) -> FloatArray:
        """Chance to score more than so much; or, for `below`, so much or more."""
        over = scores - self.low
        if self.widths.size == 0:
            return np.asarray(over <= 0 if below else over < 0, dtype=np.float64)
        # The sum lies as far below its highest as another lies above its least.
        return np.asarray(_at_most(self.widths, float(self.widths.sum()) - over))

    def at_most(self, scores: FloatArray) -> FloatArray:
        """Chance to score so much at most."""
        over = scores - self.low
        if self.widths.size == 0:
            return np.asarray(over >= 0, dtype=np.float64)
        return np.asarray(_at_most(self.widths, over))


@njit(cache=True, nogil=True)
def _at_most(widths, sums):  # type: ignore[no-untyped-def]
    """Distribution function of a sum of uniforms on (0, width), at these sums.

    Notes
    -----
    The recurrence of box splines (de Boor and Höllig 1982), with the same share t = x / (all widths together)
    of each: F(x) is the average over the uniforms of t F'(x) + (1 - t) F'(x - its width), F' that of the sum
    without it. Averages of positive numbers: no digit is lost however different the widths, where the sum
    with alternating signs loses all of them. Every subset that is left is gone through once for every way
    to have shifted by some of the others: a number in base 3, 0 for left, 1 for gone, 2 for gone and shifted.
    """
    count = widths.size
    states = 3**count
    wide, shift, left = np.zeros(states), np.zeros(states), np.zeros(states, dtype=np.int64)
    for state in range(states):
        rest = state
        for one in range(count):
            if rest % 3 == 0:
                wide[state] += widths[one]
                left[state] += 1
            elif rest % 3 == 2:
                shift[state] += widths[one]
            rest //= 3
    found, values = np.zeros(sums.size), np.zeros(states)
    for point in range(sums.size):
        if sums[point] <= 0.0:
            continue
        for state in range(states - 1, -1, -1):  # what it is averaged from has a higher number
            x = sums[point] - shift[state]
            if x <= 0.0 or x >= wide[state]:
                values[state] = 0.0 if x <= 0.0 else 1.0
                continue
            share = x / wide[state]
            if left[state] == 1:
                values[state] = share
                continue
            total, rest, power = 0.0, state, 1
            for _ in range(count):
                if rest % 3 == 0:
                    total += share * values[state + power] + (1.0 - share) * values[state + 2 * power]
                rest //= 3
                power *= 3
            values[state] = total / left[state]
        found[point] = values[0]
    return found


def score_of(under: Conditions, item: Item) -> Score:
    """At the one depth of `under`. Raises TooLarge for more stats than are worked out."""
    factor = by_id(under.game.tiers, item.tier).stat_factor
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
