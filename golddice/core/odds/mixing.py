"""Compiled loops over items x depths, for `depths`, and over states, for `carried`: each one pass over
memory, nothing allocated.

Chances are put together so that none loses digits near 0: a or b is a + b (1 - a), never
1 - (1 - a)(1 - b).
"""

from __future__ import annotations

import numpy as np
from numba import njit

from golddice.core.arrays import FloatArray
from golddice.core.odds.law import Law

MOST_STEPS = 64


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


def any_of_rolls(law: Law, hit: FloatArray) -> FloatArray:
    """Chance of at least one hit in a number of tries drawn from `law`. Shape (k, d)."""
    if law.most > MOST_STEPS or law.values.ndim > 1:
        return np.minimum(law.any_of(np.ascontiguousarray(hit.T)).T, 1.0)
    result = hit.copy()
    any_of_rolls_in_place(law, result)
    return result


def any_of_rolls_in_place(law: Law, hit: FloatArray) -> None:
    """The same written over `hit`, for laws that are alike at all depths and of at most MOST_STEPS."""
    weights = np.zeros(law.most + 1)
    np.add.at(weights, law.values, law.chances)
    _any_of(weights, hit)


@njit(cache=True, nogil=True)
def _any_of(weights, hit):  # type: ignore[no-untyped-def]
    """sum_n weights[n] (1 - (1 - h)^n), the powers step by step: s(n + 1) = s(n) + h (1 - s(n))."""
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
