"""The whole distribution of a total (value, or how many of an item) after N events.

The generating function of one event is put together from those of its parts, as the moments are, but at
many points at once; its N-th power is transformed back. At every M-th root of unity that is the exact
distribution of the total modulo M, so all that is needed is a window of M amounts outside of which the
total hardly ever lies: as wide as its spread, wherever it stands. Where nothing is carried the window is
known beforehand, by Chernoff's bound; else the mean tells whether anything lies outside.

Where the window would be too wide for its unit: the few values that can come are told one by one; else the
total is told blurred, with a bound of by how much.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from fractions import Fraction
from functools import reduce

import numpy as np
from propcache.api import cached_property

from golddice.core.arrays import ComplexArray, FloatArray, IntArray
from golddice.core.errors import TooLarge
from golddice.core.game.models import Source
from golddice.core.game.views import View
from golddice.core.odds.carried.functions import Excess, Functions, Points, Rates, Roots, Turns, logarithm
from golddice.core.odds.carried.prospect import Prospect
from golddice.core.odds.carried.values import Few, powered
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.stopping import go_on
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.size import in_order, part_of

LARGEST_GRID = 1 << 21
_SMALLEST_GRID = 1 << 6
_OUTSIDE = 32.0  # of a window: less than e^-32 on either side
_NEAR = 1e-6  # a function of this size has no digits of its logarithm left
_WIDE = 10.0  # standard deviations to either side, to begin with, where something is carried
_WRAPPED = 1e-10  # of the chances may lie beyond the grid there
_WIDER = 8  # times that the window may be doubled
_TIE = 1e-11
_ROUNDED = 4e-15  # what a cumulative chance loses by rounding for each event that gives anything
_MOST_TURNS = 1 << 18
_FEWEST_TURNS = 1 << 13
_TURN_WORK = 200_000_000
_BLUR = 7.5  # of a normal distribution: beyond so many sd there is less than 1e-13


@dataclass(frozen=True)
class TotalLaw:
    """Distribution of a total.

    Attributes
    ----------
    values, chances : ndarray, shape (n,); what it can be, rising, and how likely.
    unit : what all values are multiples of.
    blur : the total is told with as much added or taken away as this at most; 0 where it is not blurred.
    slack : of a cumulative chance, lost by rounding.
    """

    values: FloatArray
    chances: FloatArray
    unit: float
    blur: float = 0.0
    slack: float = 0.0

    def quantile(self, q: float) -> float:
        """Smallest v with P(total <= v) >= q."""
        return float(self.quantiles(np.array([q]))[0])

    def quantiles(self, qs: FloatArray) -> FloatArray:
        return self._at(qs - max(_TIE, self.slack))

    def errors(self, qs: FloatArray) -> FloatArray:
        """By how much each quantile may be off: by the blur, and where one step of the distribution is so
        near that rounding decides, by that step."""
        if self.slack <= _TIE:
            return np.full(qs.size, self.blur)
        return self.blur + self._at(qs + self.slack) - self._at(qs - self.slack)

    def _at(self, qs: FloatArray) -> FloatArray:
        places = np.searchsorted(self._cumulative, qs)
        return np.asarray(self.values[np.minimum(places, self.values.size - 1)])

    def between(self, qs: FloatArray) -> FloatArray:
        """The same without steps: as if each chance were spread evenly below its value."""
        before = self.values[0] - self.unit
        ends = np.concatenate([[0.0], self._cumulative])
        return np.asarray(np.interp(qs, ends, np.concatenate([[before], self.values])))

    def less_than(self, value: float, tie: float = 1e-9) -> float:
        """Chance of less than so much."""
        below = int(np.searchsorted(self.values, value - tie * self.unit))
        return float(np.clip(self.chances[:below].sum(), 0.0, 1.0))

    def of(self, value: float) -> float:
        """Chance of just so much."""
        at = int(np.searchsorted(self.values, value - self.unit / 2))
        is_there = at < self.values.size and abs(self.values[at] - value) < self.unit / 2
        return float(self.chances[at]) if is_there else 0.0

    @property
    def mean(self) -> float:
        return float(self.chances @ self.values)

    @cached_property
    def _cumulative(self) -> FloatArray:
        """Never falling: what is next to nothing may be told as a little less than that."""
        return np.maximum.accumulate(np.cumsum(self.chances))


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
    """The total of `amounts` (by item index; left out is 0) received in so many events; on a grid of at most
    so many amounts. Raises TooLarge.

    `prospect` is the view's, if there is one already.
    """
    if prospect is None:
        prospect = Prospect(Evaluator(under, detail=False), view)
    total = _Total(prospect, view, events, {at: one for at, one in amounts.items() if one}, largest)
    return total.plain() if prospect.is_plain else total.carried()


class _Total:
    """One total after some events."""

    def __init__(
        self, prospect: Prospect, view: View, events: int, amounts: Mapping[int, Fraction], largest: int
    ) -> None:
        self.prospect, self.view, self.events, self.largest = prospect, view, events, largest
        self.amounts, self.unit = amounts, _unit(amounts)

    # --- where nothing is carried ------------------------------------------------------------------------

    def plain(self) -> TotalLaw:
        mean, sd = _moments(self.prospect, self.events, self.amounts)
        if sd <= 0.0:
            return TotalLaw(np.array([mean]), np.ones(1), float(self.unit))
        low, high = self._window(mean, sd)
        first, last = math.floor(low / float(self.unit)), math.ceil(high / float(self.unit))
        if last - first + 2 <= self.largest:
            return self._on_grid(first, last)
        try:
            return self._one_by_one()
        except TooLarge:
            return self._blurred(low, high)

    def _window(self, mean: float, sd: float) -> tuple[float, float]:
        """Outside of which the total lies with a chance of less than e^-32 on either side: P(X >= x) is at
        most E[e^tX] / e^tx for every t > 0, and likewise below (Chernoff 1952)."""
        least, most = min(sd, float(self.unit)), max(sd, mean)
        for slowest in (1e-6, 1e-15, 1e-30):  # where a seldom total is far beyond the mean
            rates = np.geomspace(slowest / most, 40.0 / least, 240)
            high, low = self._growth(rates), self._growth(-rates)
            with np.errstate(invalid="ignore"):
                above = np.where(np.isfinite(high), (high + _OUTSIDE) / rates, np.inf)
                below = np.where(low > -np.inf, -(low + _OUTSIDE) / rates, 0.0)
            if np.isfinite(above).any():
                return max(0.0, float(below.max())), float(above.min())
        raise TooLarge("what is possible of this total is too far beyond its mean")

    def _growth(self, rates: FloatArray) -> FloatArray:
        """log E[e^tX] of all events; infinite where it is not told."""
        amounts = {at: float(amount) for at, amount in self.amounts.items()}
        with np.errstate(over="ignore", invalid="ignore"):
            excess = Functions(self.prospect.under, amounts, Rates(rates)).whole(self.view)
            excess = np.where(np.isnan(excess), np.inf, excess)
            found = self.events * logarithm(excess)
        return np.asarray(np.where(excess < _NEAR - 1.0, -np.inf, found))

    def _on_grid(self, first: int, last: int) -> TotalLaw:
        points = Roots(_quick_length(last - first + 2))
        whole = self._functions(points, self.unit).whole(self.view)
        after = np.exp(self.events * logarithm(whole))
        often = min(1.0, float(np.abs(whole).max()))
        return self._told(points, after, first, _ROUNDED * self.events * often)

    def _told(self, points: Roots, after: ComplexArray, first: int, slack: float) -> TotalLaw:
        """From the function at the roots of unity the chances of first, first + 1 ... units."""
        chances = np.fft.irfft(after * points.shift(first), points.period)
        values = self._in_value(first + np.arange(points.period))
        return TotalLaw(values, chances, float(self.unit), slack=slack)

    def _one_by_one(self) -> TotalLaw:
        """Of the few values that can come at all. Raises TooLarge of more."""
        units = {at: int(amount / self.unit) for at, amount in self.amounts.items()}
        values, chances = powered(Few(self.prospect.under, units).of(self.view), self.events)
        return TotalLaw(self._in_value(values), chances, float(self.unit))

    def _blurred(self, low: float, high: float) -> TotalLaw:
        """With a normally distributed amount added, as little as so many turns can tell apart: its function
        is next to nothing at all others."""
        points = self._turns(low, high, _MOST_TURNS)
        whole = self._functions(points, Fraction(1)).whole(self.view)
        return self._unturned(points, low, self.events * logarithm(whole))

    # --- where something is ------------------------------------------------------------------------------

    def carried(self) -> TotalLaw:
        mean, sd = _moments(self.prospect, self.events, self.amounts)
        if mean <= 0 and sd <= 0:
            return TotalLaw(np.zeros(1), np.ones(1), float(self.unit))
        for wider in range(_WIDER):
            go_on()
            low, high = max(0.0, mean - 2**wider * _WIDE * sd), mean + 2**wider * _WIDE * sd
            found, width = self._carried(low, high)
            if abs(found.mean - mean) <= _WRAPPED * (width + mean):
                return found
        raise TooLarge("the spread of this total is too wide to work out exactly")

    def _carried(self, low: float, high: float) -> tuple[TotalLaw, float]:
        """As if it lay between these; and the width of the window."""
        first, last = math.floor(low / float(self.unit)), math.ceil(high / float(self.unit))
        if last - first + 2 <= self.largest:
            points = Roots(_quick_length(last - first + 2))
            functions = self._functions(points, self.unit)
            after = self.prospect.generating_after(self.events, functions.of_given, points.size)
            return self._told(points, after, first, 0.0), points.period * float(self.unit)
        turns = self._turns(low, high, _FEWEST_TURNS)
        functions = self._functions(turns, Fraction(1))
        after = self.prospect.generating_after(self.events, functions.of_given, turns.size)
        with np.errstate(divide="ignore"):
            found = self._unturned(turns, low, np.log(after))
        return found, turns.period

    # --- both --------------------------------------------------------------------------------------------

    def _functions(self, points: Points, unit: Fraction) -> Functions:
        amounts = {at: amount / unit for at, amount in self.amounts.items()}
        if isinstance(points, Roots):
            return Functions(
                self.prospect.under, {at: int(a) % points.period for at, a in amounts.items()}, points
            )
        return Functions(self.prospect.under, {at: float(a) for at, a in amounts.items()}, points)

    def _in_value(self, units: IntArray) -> FloatArray:
        """Whole units in the decimals that values are written in: three tenths are 0.3."""
        return units.astype(np.float64) * self.unit.numerator / self.unit.denominator

    def _turns(self, low: float, high: float, most: int) -> Turns:
        under = self.prospect.under
        parts = [part_of(under, view) for view in in_order(under, [self.view])]
        work = len(self.amounts) + sum(len(part.lines) for part in parts if not isinstance(part, Source))
        size = min(most, max(_FEWEST_TURNS, _TURN_WORK // work))
        return Turns((high - low) * 1.25, min(size, self.largest))

    def _unturned(self, points: Turns, low: float, log_after: Excess) -> TotalLaw:
        """The blurred distribution, from the logarithm of the function at so many turns."""
        size, period = points.size, points.period
        last = 2 * math.pi * (size - 1) / period
        sd = _BLUR / last  # at the last turn its function is e^(-_BLUR^2 / 2)
        steps = np.arange(size)
        start = low - 0.1 * period
        shift = 2j * math.pi * (steps * (start / period) % 1.0)
        blurred = np.exp(log_after + shift - 0.5 * (steps * (2 * math.pi / period) * sd) ** 2)
        chances = np.fft.irfft(blurred, 2 * (size - 1))
        step = period / (2 * (size - 1))
        values = np.maximum(start + np.arange(chances.size) * step, 0.0)
        return TotalLaw(values, chances, float(self.unit), blur=_BLUR * sd + step)


def _moments(prospect: Prospect, events: int, amounts: Mapping[int, Fraction]) -> tuple[float, float]:
    """Mean and (an upper bound of) sd of the total, from the moments of its items."""
    if amounts == _values(prospect.under):
        mean, var = prospect.value_after(events)
        return mean, math.sqrt(var)
    mean = sd = 0.0
    for column, amount in amounts.items():
        own, var = prospect.count_after(column, events)
        mean += float(amount) * own
        sd += float(amount) * math.sqrt(var)
    return mean, sd


def _values(under: Conditions) -> dict[int, Fraction]:
    """The value of each item that has any, by index."""
    return {at: _fraction(item.value) for at, item in enumerate(under.game.items) if item.value}


def _fraction(value: float) -> Fraction:
    """The decimal that was written: 0.1 is one tenth."""
    return Fraction(repr(value))


def _unit(amounts: Mapping[int, Fraction]) -> Fraction:
    """The largest step that all amounts are multiples of."""
    if not amounts:
        return Fraction(1)
    bottom = reduce(math.lcm, (amount.denominator for amount in amounts.values()))
    return Fraction(math.gcd(*(int(amount * bottom) for amount in amounts.values())), bottom)


def _quick_length(least: float) -> int:
    """An even length that is quick to transform."""
    # Loaded when it is first needed: it would take a quarter of a second of every start.
    from scipy.fft import next_fast_len

    return 2 * int(next_fast_len(math.ceil(max(least, _SMALLEST_GRID) / 2), real=True))
