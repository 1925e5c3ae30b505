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

from golddice.core.arrays import ComplexArray, FloatArray
from golddice.core.errors import TooLarge
from golddice.core.game.models import BaseLine, Drop, PickTable, Pool, Table, Yield
from golddice.core.odds.carried.folds import AllOf, Given, OneOf
from golddice.core.odds.carried.prospect import Prospect
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.odds.event.rules import roll_chances
from golddice.core.odds.event.subsets import averaged_sets
from golddice.core.odds.terms.conditions import Conditions

LARGEST_GRID = 1 << 21
MOST_SUBSET_LINES = 12
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

    def _cumulative(self) -> FloatArray:
        return np.cumsum(self.chances)


def value_after(
    under: Conditions,
    kind: str,
    name: str,
    events: int,
    largest: int = LARGEST_GRID,
    prospect: Prospect | None = None,
) -> TotalLaw:
    """The value received in so many events of a source (executions of a table), at one depth."""
    return total_after(under, kind, name, events, _values(under), largest, prospect)


def count_after(under: Conditions, kind: str, name: str, events: int, item: str) -> TotalLaw:
    """How many of an item are received in so many events, at one depth."""
    return total_after(under, kind, name, events, {under.item_index[item]: Fraction(1)})


def total_after(
    under: Conditions,
    kind: str,
    name: str,
    events: int,
    amounts: Mapping[int, Fraction],
    largest: int = LARGEST_GRID,
    prospect: Prospect | None = None,
) -> TotalLaw:
    """The total of `amounts` (by item index; left out is 0) received in so many events.

    `prospect` is the view's, if there is one already.
    """
    if prospect is None:
        prospect = Prospect(Evaluator(under, detail=False), kind, name)
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
        chances = _on_grid(prospect, kind, name, events, amounts, unit, size)
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
    for place, column in enumerate(prospect.outcome.columns):
        amount = float(amounts.get(int(column), 0))
        most = float(prospect.outcome.mean[0, place])
        mean += events * amount * most
        sd += events * amount * most
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
    kind: str,
    name: str,
    events: int,
    amounts: Mapping[int, Fraction],
    unit: Fraction,
    size: int,
) -> FloatArray:
    transform = _Transform(prospect.under, {at: float(a / unit) for at, a in amounts.items() if a}, size)
    if prospect.is_plain:
        one = transform.source(name) if kind == "source" else transform.table(name)
        after = one**events
    else:
        after = prospect.generating_after(events, transform.of, size // 2 + 1)
    return np.maximum(np.fft.irfft(after, size), 0.0)


class _Transform:
    """Generating functions of one try at the roots of unity, shape (size // 2 + 1,)."""

    def __init__(self, under: Conditions, amounts: Mapping[int, float], size: int) -> None:
        self.under, self.amounts, self.size = under, amounts, size
        self._tables: dict[str, ComplexArray] = {}
        self._sources: dict[str, ComplexArray] = {}

    def source(self, name: str) -> ComplexArray:
        if name not in self._sources:
            result = np.ones(self.size // 2 + 1, dtype=np.complex128)
            for drop in self.under.source(name).drops:
                result = result * self._drop(drop)
            self._sources[name] = result
        return self._sources[name]

    def table(self, name: str) -> ComplexArray:
        if name not in self._tables:
            self._tables[name] = self._executed(self.under.table(name))
        return self._tables[name]

    def of(self, given: Given) -> ComplexArray | None:
        """Of whatever a walk folds in; None for a mere note."""
        what = given.what
        if what is None:
            return None
        if isinstance(what, Drop):
            return self._drop(what)
        if isinstance(what, Yield):
            return self._yielded(what)
        if isinstance(what, BaseLine):
            return self._given(what.yields)
        if isinstance(what, OneOf):
            lines = [line.yields for line in what.table.lines]
            return self._one_of(what.shares, lines, np.array([what.blank]))
        if isinstance(what, AllOf):
            return self._all_of(what.chances, [line.yields for line in what.table.lines])
        return self.table(what.id)

    def _drop(self, drop: Drop) -> ComplexArray:
        chance = float(self.under.drop_chance(drop)[0])
        if chance == 0:
            return np.ones(self.size // 2 + 1, dtype=np.complex128)
        return 1 - chance + chance * self.under.law(drop.times).pgf(self.table(drop.table))

    def _executed(self, table: Table) -> ComplexArray:
        rolls = self.under.law(table.rolls)
        if table.rule == "pick" and table.distinct and rolls.most > 1:
            return self._distinct(table)
        chances, blank = roll_chances(table, self.under)
        if table.rule == "each":
            return rolls.pgf(self._all_of(chances[:, 0], [line.yields for line in table.lines]))
        return rolls.pgf(self._one_of(chances[:, 0], [line.yields for line in table.lines], blank))

    def _one_of(self, chances: FloatArray, given: list[list[Yield]], blank: FloatArray) -> ComplexArray:
        """Exactly one list of yields; plain items share a single transform."""
        plain = np.zeros(self.size)
        plain[0] = float(blank[0])
        nested = np.zeros(self.size // 2 + 1, dtype=np.complex128)
        for chance, yields in zip(chances, given, strict=True):
            if chance > 0:
                alone = self._placed(yields)
                if alone is None:
                    nested += chance * self._given(yields)
                else:
                    plain += chance * alone
        return np.asarray(np.fft.rfft(plain)) + nested

    def _all_of(self, chances: FloatArray, given: list[list[Yield]]) -> ComplexArray:
        """Each list of yields on a chance of its own."""
        result = np.ones(self.size // 2 + 1, dtype=np.complex128)
        for chance, yields in zip(chances, given, strict=True):
            if chance > 0:
                result = result * (1 - chance + chance * self._given(yields))
        return result

    def _given(self, yields: list[Yield]) -> ComplexArray:
        result = np.ones(self.size // 2 + 1, dtype=np.complex128)
        for given in yields:
            result = result * self._yielded(given)
        return result

    def _yielded(self, given: Yield) -> ComplexArray:
        law = self.under.law(given.quantity)
        placed = self._placed([given])
        if placed is not None:
            return np.asarray(np.fft.rfft(placed))
        if given.table is not None:
            return law.pgf(self.table(given.table))
        if given.source is not None:
            return law.pgf(self.source(given.source))
        assert given.pool is not None
        return law.pgf(self._pool(given.pool))

    def _placed(self, yields: list[Yield]) -> FloatArray | None:
        """The distribution on the grid of a lone item, or of nothing; None for anything else."""
        if not yields:
            return self._put(np.zeros(1), np.ones(1))
        if len(yields) > 1 or yields[0].item is None:
            return None
        values, chances = self.under.law(yields[0].quantity).row(0)
        amount = self.amounts.get(self.under.item_index[yields[0].item], 0.0)
        return self._put(values.astype(np.float64) * amount, chances)

    def _put(self, amounts: FloatArray, chances: FloatArray) -> FloatArray:
        """Chances laid on the grid modulo its size; between two points both share, mean kept."""
        low = np.floor(amounts)
        up = amounts - low
        at = low.astype(np.int64) % self.size
        grid = np.bincount(at, weights=chances * (1 - up), minlength=self.size)
        if np.any(up > 0):
            grid += np.bincount((at + 1) % self.size, weights=chances * up, minlength=self.size)
        return grid.astype(np.float64)

    def _pool(self, pool: Pool) -> ComplexArray:
        members = self.under.pool_items(pool)
        chances = self.under.pool_chances(pool)[:, 0]
        grid = np.zeros(self.size)
        for at, chance in zip(members, chances, strict=True):
            amount = np.array([self.amounts.get(int(at), 0.0)])
            grid += chance * self._put(amount, np.ones(1))
        if chances.sum() == 0:
            grid[0] = 1.0
        return np.asarray(np.fft.rfft(grid))

    def _distinct(self, table: PickTable) -> ComplexArray:
        """Over the sets of lines that can be in, the product of what they give."""
        weights = self.under.weights(table)[:, 0]
        kept = np.flatnonzero(weights > 0)
        if kept.size > MOST_SUBSET_LINES:
            raise TooLarge(
                f"“{table.id}” picks distinct lines from {kept.size}; "
                f"a whole distribution is worked out for up to {MOST_SUBSET_LINES}"
            )
        blank = float(self.under.nothing(table)[0])
        chances = averaged_sets(weights[kept, None], np.array([blank]), self.under.law(table.rolls))[:, 0]
        return self._subset_sum(chances, [self._given(table.lines[at].yields) for at in kept])

    def _subset_sum(self, chances: FloatArray, given: list[ComplexArray]) -> ComplexArray:
        """sum over masks of chance * product of given_i, line by line (halving the masks)."""
        rows = [np.full(self.size // 2 + 1, p, dtype=np.complex128) for p in chances]
        for one in given:  # bit 0 first: pairs (mask, mask + 1) fold into one
            rows = [rows[i] + rows[i + 1] * one for i in range(0, len(rows), 2)]
        return rows[0]
