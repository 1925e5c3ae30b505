"""The whole distribution of a total (value, or how many of an item) after N events.

The generating function of one event is put together from those of its parts, as the moments are,
but at every M-th root of unity at once; its N-th power is transformed back. That is the exact
distribution of the total modulo M, so M is chosen large enough that nothing wraps: wrapping would
pull the mean down by M times the wrapped chance, which is measured and not hoped for.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from fractions import Fraction
from functools import reduce

import numpy as np

from golddice.core.arrays import FloatArray
from golddice.core.errors import TooLarge
from golddice.core.game.views import View
from golddice.core.odds.carried.functions import Functions
from golddice.core.odds.carried.prospect import Prospect
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.terms.conditions import Conditions

LARGEST_GRID = 1 << 21
_SMALLEST_GRID = 1 << 6
_WRAPPED = 1e-10  # of the chances may lie beyond the grid, or be lost to rounding
_TIE = 1e-11


@dataclass(frozen=True)
class TotalLaw:
    """Distribution of a total: `chances[i]` is the chance of `i * unit`.

    `grid_error` is 0 when every value lies on the grid; otherwise amounts were put on a coarser
    grid, their means kept, and quantiles may be off by about so much.
    """

    unit: float
    chances: FloatArray
    grid_error: float = 0.0

    def quantile(self, q: float) -> float:
        """Smallest v with P(total <= v) >= q."""
        return float(np.searchsorted(self._cumulative(), q - _TIE)) * self.unit

    def quantiles(self, qs: FloatArray) -> FloatArray:
        return np.asarray(np.searchsorted(self._cumulative(), qs - _TIE) * self.unit, dtype=np.float64)

    def between(self, qs: FloatArray) -> FloatArray:
        """The same without steps: as if each chance were spread evenly below its value."""
        ends = np.concatenate([[0.0], self._cumulative()])
        return np.asarray(np.interp(qs, ends, np.arange(-1, self.chances.size) * self.unit))

    def _cumulative(self) -> FloatArray:
        return np.cumsum(self.chances)


def value_after(
    under: Conditions,
    view: View,
    events: int,
    largest: int = LARGEST_GRID,
    prospect: Prospect | None = None,
) -> TotalLaw:
    """The value received in so many events of a source (executions of a table), at one depth."""
    return total_after(under, view, events, _values(under), largest, prospect)


def count_after(under: Conditions, view: View, events: int, item: str) -> TotalLaw:
    """How many of an item are received in so many events, at one depth."""
    return total_after(under, view, events, {under.item_index[item]: Fraction(1)})


def total_after(
    under: Conditions,
    view: View,
    events: int,
    amounts: Mapping[int, Fraction],
    largest: int = LARGEST_GRID,
    prospect: Prospect | None = None,
) -> TotalLaw:
    """The total of `amounts` (by item index; left out is 0) received in so many events.

    `prospect` is the view's, if there is one already.
    """
    if prospect is None:
        prospect = Prospect(Evaluator(under, detail=False), view)
    mean, sd = _moments(prospect, events, amounts)
    unit = _unit(amounts)
    grid_error = 0.0
    if mean <= 0 and sd <= 0:
        return TotalLaw(float(unit), np.ones(1))
    wanted = (mean + 10 * sd) / float(unit)
    if wanted > largest:
        unit *= math.ceil(wanted / largest)
        grid_error = float(unit) * math.sqrt(events)
    size = _quick_length(min(wanted, largest) + 2)
    while True:
        chances = _on_grid(prospect, view, events, amounts, unit, size)
        missing = mean - float(chances @ np.arange(size)) * float(unit)
        if abs(missing) <= _WRAPPED * (size * float(unit) + mean):
            return TotalLaw(float(unit), chances, grid_error)
        if size < largest:
            size *= 2
        else:  # a far tail: look at it with a coarser eye
            unit *= 2
            grid_error = float(unit) * math.sqrt(events)
            if unit * size > 10**30:
                raise TooLarge("the spread of this total is too wide to work out exactly")


def _moments(prospect: Prospect, events: int, amounts: Mapping[int, Fraction]) -> tuple[float, float]:
    """Mean and (an upper bound of) sd of the total, from the moments of its items."""
    if not prospect.is_plain:
        return _carried_moments(prospect, events, amounts)
    outcome = prospect.outcome
    if dict(amounts) == _values(prospect.under):
        mean, sd = float(outcome.value_mean[0]), math.sqrt(float(outcome.value_var[0]))
        return events * mean, math.sqrt(events) * sd
    mean = sd = 0.0
    for place, column in enumerate(outcome.columns):
        amount = float(amounts.get(int(column), 0))
        mean += events * amount * float(outcome.mean[0, place])
        sd += math.sqrt(events * float(outcome.var[0, place])) * amount
    return mean, sd


def _carried_moments(prospect: Prospect, events: int, amounts: Mapping[int, Fraction]) -> tuple[float, float]:
    """The same with state: of value exactly, of another total as an upper bound."""
    if dict(amounts) == _values(prospect.under):
        mean, var = prospect.value_after(events)
        return mean, math.sqrt(var)
    mean = sd = 0.0
    for column, amount in amounts.items():
        if amount:
            own, var = prospect.count_after(column, events)
            mean += float(amount) * own
            sd += float(amount) * math.sqrt(var)
    return mean, sd


def _values(under: Conditions) -> dict[int, Fraction]:
    """The value of each item, by index."""
    return {at: _fraction(item.value) for at, item in enumerate(under.game.items)}


def _fraction(value: float) -> Fraction:
    """The decimal that was written: 0.1 is one tenth."""
    return Fraction(repr(value))


def _unit(amounts: Mapping[int, Fraction]) -> Fraction:
    """The largest step that all amounts are multiples of."""
    found = [amount for amount in amounts.values() if amount]
    if not found:
        return Fraction(1)
    bottom = reduce(math.lcm, (amount.denominator for amount in found))
    return Fraction(math.gcd(*(int(amount * bottom) for amount in found)), bottom)


def _quick_length(least: float) -> int:
    """An even length that is quick to transform."""
    # Loaded when it is first needed: it would take a quarter of a second of every start.
    from scipy.fft import next_fast_len

    return 2 * int(next_fast_len(math.ceil(max(least, _SMALLEST_GRID) / 2), real=True))


def _on_grid(
    prospect: Prospect,
    view: View,
    events: int,
    amounts: Mapping[int, Fraction],
    unit: Fraction,
    size: int,
) -> FloatArray:
    transform = Functions(prospect.under, {at: float(a / unit) for at, a in amounts.items() if a}, size)
    if prospect.is_plain:
        after = transform.whole(view) ** events
    else:
        after = prospect.generating_after(events, transform.of_given, size // 2 + 1)
    return np.maximum(np.fft.irfft(after, size), 0.0)
