"""How often something is done at a stop: events, or executions of a spawn table."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from golddice.core.arrays import FloatArray, IntArray
from golddice.core.errors import TooLarge
from golddice.core.game.quantity import Quantity
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.stops import Stop

MOST_COUNTS = 100_000  # values of how often something is done at a stop
MOST_EVENTS = 10_000_000
_MOST_WORK = 200_000_000


@dataclass(frozen=True)
class Count:
    """How often something is done: values rising, and their chances."""

    values: IntArray
    chances: FloatArray

    @property
    def most(self) -> int:
        return int(self.values[-1])

    @property
    def mean(self) -> float:
        return float(self.chances @ self.values)

    @property
    def var(self) -> float:
        off = self.values - self.mean
        return float(self.chances @ (off * off))


def count_at(under: Conditions, stop: Stop) -> Count:
    """How many events, or executions of the spawn table, a stop comes to."""
    times = law_of_count(under, stop.times)
    if stop.doing != "visits":
        return times
    each = law_of_count(under, stop.encounters)
    if times.most * each.most > MOST_COUNTS or times.most * times.most * each.most**2 > _MOST_WORK:
        raise TooLarge(f"{times.most:,} visits of {each.most:,} encounters each at one stop")
    one = np.zeros(each.most + 1)
    one[each.values] = each.chances
    found, sums = np.zeros(times.most * each.most + 1), np.ones(1)
    chances = dict(zip(times.values.tolist(), times.chances.tolist(), strict=True))
    for visits in range(times.most + 1):
        found[: sums.size] += chances.get(visits, 0.0) * sums
        if visits < times.most:
            sums = np.convolve(sums, one)
    values = np.flatnonzero(found > 0)
    return Count(values, found[values])


def law_of_count(under: Conditions, quantity: Quantity) -> Count:
    law = under.law(quantity)
    if law.most > MOST_EVENTS:
        raise TooLarge(f"{law.most:,} events at one stop")
    values, chances = law.row(0)
    return Count(np.asarray(values, dtype=np.int64), np.asarray(chances, dtype=np.float64))
