"""Picks without replacement: `pick` with `distinct`, where nothing stays in.

Give line i an exponential clock of rate w_i that rings once, and nothing a Poisson process of rate
b. The order in which they ring is the order in which rolls pick them, so line i is among the first
R rolls when fewer than R others rang before it:

    P(i) = ∫ w_i e^{-w_i t} P(C_{-i}(t) <= R - 1) dt,

with C_{-i}(t) the number of other rings by t, a Poisson plus independent Bernoullis; likewise for
pairs (Efraimidis and Spirakis 2006 use the same clocks to sample). In x = log t the integrand is
analytic in the strip |Im x| < π/2 and dies at both ends, so the trapezoid rule with step 1/8 is
exact to rounding (error about e^{-2π (π/2) / (1/8)}, Trefethen and Weideman 2014).

Chances to be out are integrals of the same kind, so that neither what is all but certain nor what hardly
ever happens is the difference of two large numbers.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from propcache.api import cached_property

from golddice.core.arrays import FloatArray, IntArray
from golddice.core.errors import TooLarge
from golddice.core.odds.event.clocks import any_included, inclusions, pairs
from golddice.core.odds.event.outcome import Outcome, nothing
from golddice.core.odds.event.subsets import few_inclusions, few_outcome, is_few
from golddice.core.stopping import go_on
from golddice.core.terms.law import AnyLaw

MOST_ROLLS = 400
MOST_STEPS = 2_000_000_000  # of the compiled loops, each about a nanosecond
_STEP = 0.125


def distinct_outcome(
    weights: FloatArray, blank: FloatArray, rolls: AnyLaw, lines: Sequence[Outcome]
) -> Outcome:
    """One execution: weights (n, d) and blank (d,) at depth, the outcome of each line when hit. Raises
    TooLarge."""
    columns = np.unique(np.concatenate([np.zeros(0, dtype=np.int64), *(line.columns for line in lines)]))
    if columns.size == 0:
        return nothing(blank.size)
    if is_few(weights, rolls):
        return few_outcome(weights, blank, rolls, lines, columns)
    rows = [Inclusion(weights[:, at], float(blank[at]), rolls, at) for at in range(blank.size)]
    several = int(columns.size)
    _check(sum(row.steps(pairs=True, columns=several) for row in rows), rolls)
    figures = []
    for at, row in enumerate(rows):
        go_on()
        figures.append(_at_depth(at, row, lines, columns))
    hit, mean, var, cov = (np.stack([row[part] for row in figures]) for part in range(4))
    value_mean, value_var = (np.array([row[part] for row in figures]) for part in (4, 5))
    return Outcome(columns, hit, mean, var, cov, value_mean, value_var)


def inclusion_chances(weights: FloatArray, blank: FloatArray, rolls: AnyLaw) -> FloatArray:
    """Chance of each line to be in, shape (n, d); weights (n, d), blank (d,) at depth. Raises TooLarge."""
    if is_few(weights, rolls):
        return few_inclusions(weights, blank, rolls)
    rows = [Inclusion(weights[:, at], float(blank[at]), rolls, at) for at in range(blank.size)]
    _check(sum(row.steps() for row in rows), rolls)
    return np.stack([row.one for row in rows], axis=1)


def _check(steps: int, rolls: AnyLaw) -> None:
    if rolls.most > MOST_ROLLS:
        raise TooLarge(f"{rolls.most:,} distinct rolls; exact odds go up to {MOST_ROLLS}")
    if steps > MOST_STEPS:
        raise TooLarge(f"distinct picks that would take {steps:,} steps; exact odds go up to {MOST_STEPS:,}")


class Inclusion:
    """Which lines are in at one depth: chances of one and of a pair, averaged over the number of rolls."""

    def __init__(self, weights: FloatArray, blank: float, rolls: AnyLaw, row: int = 0) -> None:
        self._blank = blank
        self._open = np.flatnonzero(weights > 0)
        self._weights = weights[self._open]
        self._lines = weights.size
        values, chances = rolls.row(row)
        # Where nothing stays in, rolls beyond the last line find nothing left.
        capped = values if blank > 0 else np.minimum(values, self._open.size)
        self._rolls = np.bincount(capped, weights=chances).astype(np.float64)
        self._times = _times(self._weights, blank) if self._open.size else np.zeros(0)

    def steps(self, pairs: bool = False, columns: int = 0) -> int:
        """How many steps the compiled loops take."""
        lines, counts = int(self._open.size), int(self._rolls.size)
        return int(self._times.size) * counts * lines * (4 + (lines if pairs else 0) + 4 * columns)

    @property
    def is_idle(self) -> bool:
        """Whether nothing is rolled, or no line is open."""
        return self._open.size == 0 or self._rolls.size < 2

    @cached_property
    def one(self) -> FloatArray:
        """Chance of each line to be in, shape (n,)."""
        fewer = np.append(np.cumsum(self._rolls[::-1])[::-1][1:], 0.0)  # P(R > c) at c others
        return np.minimum(self._spread_out(fewer), 1.0)

    @cached_property
    def out(self) -> FloatArray:
        """Chance of each line to be out, shape (n,)."""
        if self.is_idle:
            return np.ones(self._lines)
        result = np.ones(self._lines)
        result[self._open] = np.minimum(self._spread_out(np.cumsum(self._rolls))[self._open], 1.0)
        return result

    def _spread_out(self, worth: FloatArray) -> FloatArray:
        result = np.zeros(self._lines)
        if not self.is_idle:
            result[self._open] = inclusions(self._weights, self._blank, self._times, _STEP, worth)
        return result

    @cached_property
    def covariance(self) -> FloatArray:
        """Of being in, of every two lines, shape (n, n).

        From whichever of the four chances (in or out, in or out) are small.
        """
        result = np.zeros((self._lines, self._lines))
        if self.is_idle:
            return result
        at_least = np.cumsum(self._rolls[::-1])[::-1]
        both_in = np.concatenate([at_least[2:], np.zeros(2)])[: self._rolls.size]
        ins, outs = pairs(self._weights, self._blank, self._times, _STEP, both_in, np.cumsum(self._rolls))
        one, out = self.one[self._open], self.out[self._open]
        often = one > 0.5
        mixed = out[:, None] * one[None, :]  # of i out and j in
        apart = np.where(one[None, :] < out[:, None], one[None, :] - ins, out[:, None] - outs)
        found = np.where(
            often[:, None] & often[None, :],
            outs - np.outer(out, out),
            np.where(~often[:, None] & ~often[None, :], ins - np.outer(one, one), 0.0),
        )
        rows = often[:, None] & ~often[None, :]
        found = np.where(rows, mixed - apart, found)
        found = np.where(rows.T, (mixed - apart).T, found)
        np.fill_diagonal(found, one * out)
        result[np.ix_(self._open, self._open)] = found
        return result

    def any_of(self, hit: FloatArray) -> float:
        """Chance that some line that is in gives one, where line i does with hit[i], shape (n,)."""
        if self.is_idle:
            return 0.0
        last = np.ascontiguousarray(self._rolls[1:])
        chances = np.ascontiguousarray(hit[self._open])
        # A run ends with its last roll, which may be a blank long after every line is out.
        slowest = min(float(self._weights.min()), self._blank or np.inf)
        times = _times(self._weights, self._blank, slowest)
        found = any_included(self._weights, self._blank, times, _STEP, last, chances)
        return min(float(found), 1.0)


def _at_depth(
    at: int, inclusion: Inclusion, lines: Sequence[Outcome], columns: IntArray
) -> tuple[FloatArray, FloatArray, FloatArray, FloatArray, float, float]:
    """(hit, mean, var, cov) by column and (mean, var) of value, at one depth."""
    hit, mean, var, cov = (np.zeros((len(lines), columns.size)) for _ in range(4))
    for row, line in enumerate(lines):
        where = line.places(columns)
        hit[row, where], mean[row, where] = line.hit[at], line.mean[at]
        var[row, where], cov[row, where] = line.var[at], line.cov[at]
    value_mean = np.array([line.value_mean[at] for line in lines])
    value_var = np.array([line.value_var[at] for line in lines])
    one, spread = inclusion.one, inclusion.covariance
    moved = spread @ mean
    return (
        _hits(inclusion, hit),
        one @ mean,
        np.maximum(one @ var + (mean * moved).sum(axis=0), 0.0),
        one @ cov + value_mean @ moved,
        float(one @ value_mean),
        max(float(one @ value_var + value_mean @ spread @ value_mean), 0.0),
    )


def _hits(inclusion: Inclusion, hit: FloatArray) -> FloatArray:
    """Chance of at least one, by column. A column on one line needs that line alone."""
    result = inclusion.one @ hit
    for column in np.flatnonzero((hit > 0).sum(axis=0) > 1):
        result[column] = inclusion.any_of(np.ascontiguousarray(hit[:, column]))
    return np.minimum(result, 1.0)


def _times(weights: FloatArray, blank: float, slowest: float | None = None) -> FloatArray:
    """Times at which to look, evenly spaced in log t, until whatever is slowest has rung."""
    low = np.log(1e-18 / (weights.sum() + blank))
    high = np.log(60.0 / (slowest or weights.min()))
    return np.exp(np.arange(low, high + _STEP, _STEP))
