"""Picks without replacement of few lines: the chance of every set of lines, at all depths at once."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from golddice.core.arrays import BoolArray, FloatArray, IntArray
from golddice.core.odds.event.outcome import Outcome
from golddice.core.terms.law import AnyLaw

MOST_LINES = 10
_MOST_WORK = 20_000_000


def is_few(weights: FloatArray, rolls: AnyLaw) -> bool:
    """Whether the recursion over sets is the quicker way. Weights of shape (n, d)."""
    lines, depths = int(weights.shape[0]), int(weights.shape[1])
    return lines <= MOST_LINES and (rolls.most * lines * depths << lines) <= _MOST_WORK


def subset_chances(weights: FloatArray, blank: FloatArray, rolls: int) -> list[FloatArray]:
    """P(exactly this set of lines is in) after 0, 1, ... `rolls` rolls, by bit mask.

    Weights (n, d), blank (d,); each of shape (2^n, d). The plain recursion; nothing cancels.
    """
    inside = _inside(weights.shape[0])
    masks = np.arange(inside.shape[0])
    left = blank + (~inside).astype(np.float64) @ weights
    now = np.zeros((masks.size, blank.size))
    now[0] = 1.0
    every = [now]
    # Shares of what is left, not of 1: weights may be as small as numbers are.
    lasting = left > 0
    stays = np.divide(blank, left, out=np.zeros_like(left), where=lasting)
    joins = []
    for i in range(weights.shape[0]):
        free = ~inside[:, i]
        share = np.divide(weights[i], left[free], out=np.zeros_like(left[free]), where=lasting[free])
        joins.append((free, masks[free] | (1 << i), share))
    for _ in range(rolls):
        before = np.where(lasting, now, 0.0)
        now = before * stays + (now - before)
        for free, with_it, share in joins:
            now[with_it] += before[free] * share
        every.append(now)
    return every


def few_outcome(
    weights: FloatArray, blank: FloatArray, rolls: AnyLaw, lines: Sequence[Outcome], columns: IntArray
) -> Outcome:
    """One execution: weights (n, d) and blank (d,) at depth, the outcome of each line when hit.

    Variances by how far each set's means lie from the whole's: where one set is nearly certain they have
    all their digits.
    """
    sets = averaged_sets(weights, blank, rolls)
    inside = _inside(len(lines)).astype(np.float64)
    shape = (len(lines), blank.size, columns.size)
    hit, mean, var, cov = (np.zeros(shape) for _ in range(4))
    for row, line in enumerate(lines):
        where = line.places(columns)
        hit[row][:, where], mean[row][:, where] = line.hit, line.mean
        var[row][:, where], cov[row][:, where] = line.var, line.cov
    values = np.stack([line.value_mean for line in lines])
    spreads = np.stack([line.value_var for line in lines])
    one = (inside.T @ sets).T
    value_mean, means = np.einsum("di,id->d", one, values), np.einsum("di,idc->dc", one, mean)
    value_var, variances = np.einsum("di,id->d", one, spreads), np.einsum("di,idc->dc", one, var)
    covs = np.einsum("di,idc->dc", one, cov)
    for at in range(blank.size):  # a depth at a time: sets x columns fit a cache, and with depths they do not
        off = inside @ mean[:, at] - means[at]
        off_value = inside @ values[:, at] - value_mean[at]
        variances[at] += sets[:, at] @ (off * off)
        covs[at] += (sets[:, at] * off_value) @ off
        value_var[at] += sets[:, at] @ (off_value * off_value)
    return Outcome(columns, _any(sets, hit), means, variances, covs, value_mean, value_var)


def few_inclusions(weights: FloatArray, blank: FloatArray, rolls: AnyLaw) -> FloatArray:
    """Chance of each line to be in, shape (n, d)."""
    inside = _inside(weights.shape[0]).astype(np.float64)
    return np.asarray(inside.T @ averaged_sets(weights, blank, rolls))


def averaged_sets(weights: FloatArray, blank: FloatArray, rolls: AnyLaw) -> FloatArray:
    """The chance of each set, over the number of rolls. Shape (2^n, d)."""
    every = subset_chances(weights, blank, rolls.most)
    result = np.zeros_like(every[0])
    for row in range(blank.size if rolls.varies else 1):
        here = slice(row, row + 1) if rolls.varies else slice(None)
        for count, chance in zip(*rolls.row(row), strict=True):
            result[:, here] += float(chance) * every[int(count)][:, here]
    return result


def _any(sets: FloatArray, hit: FloatArray) -> FloatArray:
    """Chance of at least one by depth and column: over sets, that any line in the set gives one."""
    result = np.einsum("sd,si,idc->dc", sets, _inside(hit.shape[0]).astype(np.float64), hit, optimize=True)
    several = np.flatnonzero((hit.max(axis=1) > 0).sum(axis=0) > 1)
    if several.size:
        some = np.zeros((1, hit.shape[1], several.size))
        for line in hit[:, :, several]:
            some = np.concatenate([some, some + line * (1.0 - some)])
        result[:, several] = np.einsum("sd,sdc->dc", sets, some)
    return np.asarray(np.minimum(result, 1.0))


def _inside(lines: int) -> BoolArray:
    """Which lines are in each set, shape (2^n, n)."""
    masks = np.arange(1 << lines)
    return np.array([(masks >> i) & 1 for i in range(lines)], dtype=bool).reshape(lines, masks.size).T
