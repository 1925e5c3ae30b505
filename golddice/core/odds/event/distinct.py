"""Picks without replacement: `pick` with `distinct`, where nothing stays in.

Give line i an exponential clock of rate w_i that rings once, and nothing a Poisson process of rate
b. The order in which they ring is the order in which rolls pick them, so line i is among the first
R rolls when fewer than R others rang before it:

    P(i) = ∫ w_i e^{-w_i t} P(C_{-i}(t) <= R - 1) dt,

with C_{-i}(t) the number of other rings by t, a Poisson plus independent Bernoullis; likewise for
pairs (Efraimidis and Spirakis 2006 use the same clocks to sample). In x = log t the integrand is
analytic in the strip |Im x| < π/2 and dies at both ends, so the trapezoid rule with step 1/8 is
exact to rounding (error about e^{-2π (π/2) / (1/8)}, Trefethen and Weideman 2014).
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from golddice.core.arrays import FloatArray, IntArray
from golddice.core.errors import TooLarge
from golddice.core.odds.event.outcome import Outcome, nothing
from golddice.core.odds.event.subsets import few_inclusions, few_outcome, is_few
from golddice.core.odds.terms.law import Law

MOST_ROLLS = 400
_STEP = 0.125
_TINY_HIT = 1e-5


def distinct_outcome(weights: FloatArray, blank: FloatArray, rolls: Law, lines: Sequence[Outcome]) -> Outcome:
    """One execution: weights (n, d) and blank (d,) at depth, the outcome of each line when hit."""
    if rolls.most > MOST_ROLLS:
        raise TooLarge(f"{rolls.most} distinct rolls; exact odds go up to {MOST_ROLLS}")
    columns = np.unique(np.concatenate([np.zeros(0, dtype=np.int64), *(line.columns for line in lines)]))
    if columns.size == 0:
        return nothing(blank.size)
    if is_few(weights, rolls):
        return few_outcome(weights, blank, rolls, lines, columns)
    rows = [
        _at_depth(at, weights[:, at], float(blank[at]), rolls, lines, columns) for at in range(blank.size)
    ]
    hit, mean, var, cov = (np.stack([row[part] for row in rows]) for part in range(4))
    value_mean, value_var = (np.array([row[part] for row in rows]) for part in (4, 5))
    return Outcome(columns, hit, mean, var, cov, value_mean, value_var)


def inclusion_chances(weights: FloatArray, blank: FloatArray, rolls: Law) -> FloatArray:
    """Chance of each line to be in, shape (n, d); weights (n, d), blank (d,) at depth."""
    if is_few(weights, rolls):
        return few_inclusions(weights, blank, rolls)
    rows = [
        Inclusion(weights[:, at], float(blank[at]), rolls, at if rolls.values.ndim > 1 else 0).one
        for at in range(blank.size)
    ]
    return np.stack(rows, axis=1)


class Inclusion:
    """Which lines are in: chances of one and of a pair, averaged over the number of rolls.

    Attributes
    ----------
    one : ndarray, shape (n,)
    pair : ndarray, shape (n, n)
        P(i and j both in); the diagonal is `one`.
    """

    def __init__(self, weights: FloatArray, blank: float, rolls: Law, row: int = 0) -> None:
        self.weights, self.blank = weights, blank
        self._open = np.flatnonzero(weights > 0)
        values, chances = rolls.row(row)
        self._rolls = _capped(values, chances, self._open.size if blank == 0 else None)
        n = weights.size
        self.one, self.pair = np.zeros(n), np.zeros((n, n))
        if self._open.size and self._rolls.size > 1:
            self._integrate()

    def _integrate(self) -> None:
        w = self.weights[self._open]
        times, step = _clock(w, self.blank)
        size = self._rolls.size - 1  # coefficients 0 .. R - 1 are enough
        rung = -np.expm1(-np.outer(w, times))
        ring = np.outer(w, times) * np.exp(-np.outer(w, times)) * step  # dt = t dx
        before = _prefixes(rung, _poisson(self.blank * times, size))
        after = _suffixes(rung, size)
        at_least = np.cumsum(self._rolls[::-1])[::-1]  # at_least[c] = P(R >= c)
        one = np.empty(w.size)
        pair = np.zeros((w.size, w.size))
        for i in range(w.size):
            others = _weighted(before[i], after[i + 1], at_least[1:])
            one[i] = ring[i] @ others
            running = before[i]
            for j in range(i + 1, w.size):
                others = _weighted(running, after[j + 1], at_least[2:])
                both = ring[i] * rung[j] + ring[j] * rung[i]
                pair[i, j] = pair[j, i] = both @ others
                running = _with_line(running, rung[j])
        pair[np.diag_indices(w.size)] = one
        self.one[self._open] = np.minimum(one, 1.0)
        self.pair[np.ix_(self._open, self._open)] = np.minimum(pair, 1.0)

    def none_of(self, kept: FloatArray) -> FloatArray:
        """E[product over included lines of kept_i], for k vectors of shape (n, k); shape (k,)."""
        w, g = self.weights[self._open], kept[self._open]
        result = np.full(kept.shape[1], self._rolls[0])
        if not w.size:
            return np.ones(kept.shape[1])
        times, step = _clock(w, self.blank)
        rung = -np.expm1(-np.outer(w, times))
        ring = np.outer(w, times) * np.exp(-np.outer(w, times)) * step
        size = self._rolls.size - 1
        for column in range(kept.shape[1]):
            gained = rung * g[:, column : column + 1]
            before = _prefixes(rung, _poisson(self.blank * times, size), gained)
            after = _suffixes(rung, size, gained)
            last = self._rolls[1:]  # the R-th ring ends it: R - 1 rings before
            result[column] += (self.blank * times * step) @ _weighted(before[-1], after[-1], last)
            for i in range(w.size):
                rest = _weighted(before[i], after[i + 1], last)
                result[column] += g[i, column] * (ring[i] @ rest)
        return result


def _at_depth(
    at: int,
    weights: FloatArray,
    blank: float,
    rolls: Law,
    lines: Sequence[Outcome],
    columns: IntArray,
) -> tuple[FloatArray, FloatArray, FloatArray, FloatArray, float, float]:
    """(hit, mean, var, cov) by column and (mean, var) of value, at one depth."""
    inclusion = Inclusion(weights, blank, rolls, at if rolls.values.ndim > 1 else 0)
    hit, mean, var, cov = (np.zeros((len(lines), columns.size)) for _ in range(4))
    for row, line in enumerate(lines):
        where = line.places(columns)
        hit[row, where], mean[row, where] = line.hit[at], line.mean[at]
        var[row, where], cov[row, where] = line.var[at], line.cov[at]
    value_mean = np.array([line.value_mean[at] for line in lines])
    value_var = np.array([line.value_var[at] for line in lines])
    one = inclusion.one
    spread = inclusion.pair - np.outer(one, one)
    return (
        _hits(inclusion, hit),
        one @ mean,
        np.maximum(one @ var + np.einsum("ic,ij,jc->c", mean, spread, mean, optimize=True), 0.0),
        one @ cov + (spread @ value_mean) @ mean,
        float(one @ value_mean),
        max(float(one @ value_var + value_mean @ spread @ value_mean), 0.0),
    )


def _hits(inclusion: Inclusion, hit: FloatArray) -> FloatArray:
    """Chance of at least one, by column.

    A column on one line needs that line alone. On several, one minus the chance of none; and where
    all chances are tiny, inclusion and exclusion to the second order, which keeps the digits.
    """
    several = np.flatnonzero((hit > 0).sum(axis=0) > 1)
    result = inclusion.one @ hit
    tiny = several[hit[:, several].max(axis=0, initial=0.0) < _TINY_HIT]
    for column in tiny:
        h = hit[:, column]
        pairs = h @ inclusion.pair @ h - (inclusion.one * h) @ h
        result[column] -= pairs / 2
    large = np.setdiff1d(several, tiny)
    if large.size:
        result[large] = 1.0 - inclusion.none_of(1.0 - hit[:, large])
    return np.minimum(result, 1.0)


def _capped(values: IntArray, chances: FloatArray, most: int | None) -> FloatArray:
    """P(R = r) for r = 0, 1, ...; rolls beyond the last line find nothing left."""
    capped = values if most is None else np.minimum(values, most)
    return np.bincount(capped, weights=chances).astype(np.float64)


def _clock(weights: FloatArray, blank: float) -> tuple[FloatArray, float]:
    """Times at which to look, evenly spaced in log t, and the step."""
    low = np.log(1e-18 / (weights.sum() + blank))
    high = np.log(60.0 / weights.min())
    return np.exp(np.arange(low, high + _STEP, _STEP)), _STEP


def _poisson(rate: FloatArray, size: int) -> FloatArray:
    """P(N = c) for c < size at each rate, shape (t, size)."""
    pmf = np.empty((rate.size, size))
    pmf[:, 0] = np.exp(-rate)
    for c in range(1, size):
        pmf[:, c] = pmf[:, c - 1] * rate / c
    return pmf


def _with_line(counts: FloatArray, rung: FloatArray, gained: FloatArray | None = None) -> FloatArray:
    """Counts after one more line, which has rung (and then counts one) or not."""
    result = counts * (1.0 - rung)[:, None]
    result[:, 1:] += counts[:, :-1] * (rung if gained is None else gained)[:, None]
    return result


def _prefixes(rung: FloatArray, start: FloatArray, gained: FloatArray | None = None) -> list[FloatArray]:
    """Counts of nothing and of lines 0 .. i - 1, for i = 0 .. n."""
    counts = [start]
    for i in range(rung.shape[0]):
        counts.append(_with_line(counts[-1], rung[i], None if gained is None else gained[i]))
    return counts


def _suffixes(rung: FloatArray, size: int, gained: FloatArray | None = None) -> list[FloatArray]:
    """Counts of lines i .. n - 1, for i = 0 .. n."""
    none = np.zeros((rung.shape[1], size))
    none[:, 0] = 1.0
    return _prefixes(rung[::-1], none, None if gained is None else gained[::-1])[::-1]


def _weighted(left: FloatArray, right: FloatArray, worth: FloatArray) -> FloatArray:
    """Sum over a + b of left_a right_b worth[a + b], at each time; shape (t,)."""
    result = np.zeros(left.shape[0])
    for a in range(min(left.shape[1], worth.size)):
        tail = worth[a : a + right.shape[1]]
        result += left[:, a] * (right[:, : tail.size] @ tail)
    return result
