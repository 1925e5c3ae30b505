"""Compiled loops over items x depths, for `depth_odds` and `flows`: each one pass over memory, nothing
allocated.

Chances are put together so that none loses digits near 0: a or b is a + b (1 - a), never
1 - (1 - a)(1 - b).
"""

from __future__ import annotations

import numpy as np
from numba import njit


@njit(cache=True, nogil=True)
def ranked(reached):  # type: ignore[no-untyped-def]
    """The places that are reached, rising; and by place its rank among them, -1 of those that are not."""
    ranks = np.empty(reached.size, np.int64)
    count = 0
    for place in range(reached.size):
        ranks[place] = count if reached[place] else -1
        count += reached[place]
    places = np.empty(count, np.int64)
    for place in range(reached.size):
        if reached[place]:
            places[ranks[place]] = place
    return places, ranks


@njit(cache=True, nogil=True)
def mix_into(into, rows, chance, part):  # type: ignore[no-untyped-def]
    """One of several parts happens: into[rows] += chance * part.

    Shapes (k, d), (m,), (d,), (m, d).
    """
    for at in range(rows.size):
        row = rows[at]
        for depth in range(into.shape[1]):
            into[row, depth] += chance[depth] * part[at, depth]


@njit(cache=True, nogil=True)
def mix_items_into(into, rows, chances, each):  # type: ignore[no-untyped-def]
    """The same for parts of one thing each, whose figure is alike at all depths: part i goes to rows[i],
    nowhere where that is below 0. Shapes (k, d), (m,), (m, d), (m,)."""
    for part in range(rows.size):
        row = rows[part]
        if row >= 0:
            for depth in range(into.shape[1]):
                into[row, depth] += chances[part, depth] * each[part]


@njit(cache=True, nogil=True)
def or_into(into, rows, chance, part):  # type: ignore[no-untyped-def]
    """Independently of the rest, the part happens with its chance. Shapes as in `mix_into`."""
    for at in range(rows.size):
        row = rows[at]
        for depth in range(into.shape[1]):
            now = into[row, depth]
            into[row, depth] = now + chance[depth] * part[at, depth] * (1.0 - now)


@njit(cache=True, nogil=True)
def or_items_into(into, rows, chances, each):  # type: ignore[no-untyped-def]
    """The same for parts of one thing each. Shapes as in `mix_items_into`."""
    for part in range(rows.size):
        row = rows[part]
        if row >= 0:
            for depth in range(into.shape[1]):
                into[row, depth] += chances[part, depth] * each[part] * (1.0 - into[row, depth])


@njit(cache=True, nogil=True)
def worth_of_one(chances, blank, rows, mean, var, others, other_mean, other_var):  # type: ignore[no-untyped-def]
    """(mean, variance) of the value where one of several parts happens, or the blank, worth nothing.

    chances (n, d), blank (d,). Part rows[i] has the same mean[i] and var[i] at all depths, shapes (m,);
    part others[j] those of its row, (k, d). By deviations from the mean, so that no digits are lost.
    """
    whole, spread = np.zeros(blank.size), np.empty(blank.size)
    for at in range(rows.size):
        for depth in range(blank.size):
            whole[depth] += chances[rows[at], depth] * mean[at]
    for at in range(others.size):
        for depth in range(blank.size):
            whole[depth] += chances[others[at], depth] * other_mean[at, depth]
    for depth in range(blank.size):
        spread[depth] = blank[depth] * whole[depth] ** 2
    for at in range(rows.size):
        for depth in range(blank.size):
            off = mean[at] - whole[depth]
            spread[depth] += chances[rows[at], depth] * (var[at] + off * off)
    for at in range(others.size):
        for depth in range(blank.size):
            off = other_mean[at, depth] - whole[depth]
            spread[depth] += chances[others[at], depth] * (other_var[at, depth] + off * off)
    return whole, spread


@njit(cache=True, nogil=True)
def worth_of_each(chances, rows, mean, var, others, other_mean, other_var):  # type: ignore[no-untyped-def]
    """The same where each part happens independently of the rest, with its chance."""
    whole, spread = np.zeros(chances.shape[1]), np.zeros(chances.shape[1])
    for at in range(rows.size):
        for depth in range(whole.size):
            chance = chances[rows[at], depth]
            whole[depth] += chance * mean[at]
            spread[depth] += chance * (var[at] + (1.0 - chance) * mean[at] ** 2)
    for at in range(others.size):
        for depth in range(whole.size):
            chance, each = chances[others[at], depth], other_mean[at, depth]
            whole[depth] += chance * each
            spread[depth] += chance * (other_var[at, depth] + (1.0 - chance) * each**2)
    return whole, spread
