"""Compiled loops over items x depths, for `depths` and `law`, and over states, for `carried`: each one
pass over memory, nothing allocated.

Chances are put together so that none loses digits near 0: a or b is a + b (1 - a), never
1 - (1 - a)(1 - b).
"""

from __future__ import annotations

import numpy as np
from numba import njit


@njit(cache=True, nogil=True)
def mix_into(hit, mean, rows, chance, part_hit, part_mean):  # type: ignore[no-untyped-def]
    """One of several parts happens: hit[rows] += chance * part, and so the means.

    Shapes (k, d), (k, d), (m,), (d,), (m, d), (m, d).
    """
    for row in range(rows.size):
        into = rows[row]
        for at in range(hit.shape[1]):
            hit[into, at] += chance[at] * part_hit[row, at]
            mean[into, at] += chance[at] * part_mean[row, at]


@njit(cache=True, nogil=True)
def mix_items_into(hit, mean, rows, chances, some, many):  # type: ignore[no-untyped-def]
    """The same for parts of one item each, whose figures are alike at all depths: item i goes to
    rows[i]. Shapes (k, d), (k, d), (m,), (m, d), (m,), (m,)."""
    for part in range(rows.size):
        into = rows[part]
        for at in range(hit.shape[1]):
            hit[into, at] += chances[part, at] * some[part]
            mean[into, at] += chances[part, at] * many[part]


@njit(cache=True, nogil=True)
def or_items_into(hit, mean, rows, chances, some, many):  # type: ignore[no-untyped-def]
    """The same, each independently of the rest."""
    for part in range(rows.size):
        into = rows[part]
        for at in range(hit.shape[1]):
            hit[into, at] += chances[part, at] * some[part] * (1.0 - hit[into, at])
            mean[into, at] += chances[part, at] * many[part]


@njit(cache=True, nogil=True)
def or_into(hit, mean, rows, chance, part_hit, part_mean):  # type: ignore[no-untyped-def]
    """Independently of the rest, the part happens with its chance. Shapes as in `mix_into`."""
    for row in range(rows.size):
        into = rows[row]
        for at in range(hit.shape[1]):
            now = hit[into, at]
            hit[into, at] = now + chance[at] * part_hit[row, at] * (1.0 - now)
            mean[into, at] += chance[at] * part_mean[row, at]


@njit(cache=True, nogil=True)
def gather_into(result, chance, place, rows):  # type: ignore[no-untyped-def]
    """result[s] += chance[s] * rows[place[s]] for every state s. Shapes (s, k), (s,), (s,), (m, k)."""
    for state in range(chance.size):
        p = chance[state]
        if p != 0.0:
            row = place[state]
            for at in range(result.shape[1]):
                result[state, at] += p * rows[row, at]


@njit(cache=True, nogil=True)
def any_of_tries(weights, hit):  # type: ignore[no-untyped-def]
    """hit = sum_n weights[n] (1 - (1 - hit)^n), in its place; shape (k, d).

    The powers step by step, s(n + 1) = s(n) + h (1 - s(n)).
    """
    some = np.empty(hit.shape[1])
    once = np.empty(hit.shape[1])
    for row in range(hit.shape[0]):
        some[:] = 0.0
        once[:] = hit[row]
        hit[row] = 0.0
        for n in range(1, weights.size):
            weight = weights[n]
            for at in range(hit.shape[1]):
                some[at] += once[at] * (1.0 - some[at])
                hit[row, at] += weight * some[at]
