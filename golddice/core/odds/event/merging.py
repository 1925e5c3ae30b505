"""Compiled loops that put many outcomes together: one pass over all entries of all parts.

Parts lie one after another: part i has the entries starts[i] to starts[i + 1], each of one column.
Figures of entries have shape (d, e) for d depths, figures of parts (d, n), chances of parts (n, d).
"""

from __future__ import annotations

import numpy as np
from numba import njit

_CLOSE = 0.75  # a column with more chance than this: one minus it would lose digits


@njit(cache=True, nogil=True)
def columns_of(every):  # type: ignore[no-untyped-def]
    """The columns among entries, rising, and where each entry's stands among them."""
    most = 0
    for column in every:
        most = max(most, column)
    rank = np.zeros(most + 1, np.int64)  # among the columns, from 1
    for column in every:
        rank[column] = 1
    count = 0
    for column in range(rank.size):
        if rank[column]:
            count += 1
            rank[column] = count
    columns, place = np.empty(count, np.int64), np.empty(every.size, np.int64)
    for entry in range(every.size):
        place[entry] = rank[every[entry]] - 1
        columns[place[entry]] = every[entry]
    return columns, place


@njit(cache=True, nogil=True)
def one_of(columns, place, starts, chances, blank, hit, mean, var, cov, worth, worth_var):  # type: ignore[no-untyped-def]
    """Exactly one part happens, or nothing: (hit, mean, var, cov, value mean, value variance).

    `columns` is how many there are. Variances by deviations from the whole's mean, which needs the
    chance of the parts that lack a column: see `_lacking`.
    """
    depths, parts = worth.shape
    hits, means = np.zeros((depths, columns)), np.zeros((depths, columns))
    variances, covs = np.zeros((depths, columns)), np.zeros((depths, columns))
    value, value_var = np.zeros(depths), np.zeros(depths)
    having, none = np.empty(columns), np.empty(columns)
    for d in range(depths):
        for part in range(parts):
            value[d] += chances[part, d] * worth[d, part]
        value_var[d] = blank[d] * value[d] ** 2
        having[:] = 0.0
        for part in range(parts):
            p, off = chances[part, d], worth[d, part] - value[d]
            value_var[d] += p * (worth_var[d, part] + off * off)
            for at in range(starts[part], starts[part + 1]):
                column = place[at]
                having[column] += p
                hits[d, column] += p * hit[d, at]
                means[d, column] += p * mean[d, at]
                covs[d, column] += p * (cov[d, at] + mean[d, at] * off)
        for part in range(parts):
            p = chances[part, d]
            for at in range(starts[part], starts[part + 1]):
                away = mean[d, at] - means[d, place[at]]
                variances[d, place[at]] += p * (var[d, at] + away * away)
        _lacking(having, place, starts, chances, d, blank[d], none)
        for column in range(columns):
            hits[d, column] = min(hits[d, column], 1.0)
            variances[d, column] += none[column] * means[d, column] ** 2
    return hits, means, variances, covs, value, value_var


@njit(cache=True, nogil=True)
def _lacking(having, place, starts, chances, d, blank, none):  # type: ignore[no-untyped-def]
    """Chance, by column, that a part without it (or the blank) happens.

    One minus the chance of the parts that have it, except where that would cancel: there the others
    are added up one by one.
    """
    close = 0
    for column in range(having.size):
        none[column] = max(1.0 - having[column], 0.0)
        if having[column] > _CLOSE:
            none[column] = blank
            close += 1
    if close == 0:
        return
    last = np.zeros(having.size, np.int64)  # the last part that has the column, from 1
    columns = np.flatnonzero(having > _CLOSE)
    for part in range(starts.size - 1):
        for at in range(starts[part], starts[part + 1]):
            last[place[at]] = part + 1
        for near in columns:
            if last[near] != part + 1:
                none[near] += chances[part, d]


@njit(cache=True, nogil=True)
def each_of(columns, place, starts, chances, hit, mean, var, cov, worth, worth_var):  # type: ignore[no-untyped-def]
    """Each part happens with its own chance: the same figures as `one_of`.

    a or b is a + b (1 - a), which keeps the digits of small chances.
    """
    depths, parts = worth.shape
    hits, means = np.zeros((depths, columns)), np.zeros((depths, columns))
    variances, covs = np.zeros((depths, columns)), np.zeros((depths, columns))
    value, value_var = np.zeros(depths), np.zeros(depths)
    for d in range(depths):
        for part in range(parts):
            p, value_here = chances[part, d], worth[d, part]
            miss = 1.0 - p
            value[d] += p * value_here
            value_var[d] += p * (worth_var[d, part] + miss * value_here**2)
            for at in range(starts[part], starts[part + 1]):
                column, m = place[at], mean[d, at]
                hits[d, column] += p * hit[d, at] * (1.0 - hits[d, column])
                hits[d, column] = min(hits[d, column], 1.0)
                means[d, column] += p * m
                variances[d, column] += p * (var[d, at] + miss * m * m)
                covs[d, column] += p * (cov[d, at] + miss * m * value_here)
    return hits, means, variances, covs, value, value_var
