"""Compiled loops over the lines of a table x depths: weights and chances at depth, and what the rules
make of them. Closed forms of `domain.md`, section 4.
"""

from __future__ import annotations

import math

import numpy as np
from numba import njit


@njit(cache=True, nogil=True)
def scaled(entered, curves, curve, tiers, tier):  # type: ignore[no-untyped-def]
    """entered[i] times row curve[i] of `curves` times row tier[i] of `tiers` (of the last for -1).

    Shapes (n,), (c, d), (n,), (t, d), (n,); the result's (n, d).
    """
    result = np.empty((entered.size, curves.shape[1]))
    for line in range(entered.size):
        for depth in range(result.shape[1]):
            factor = curves[curve[line], depth] * tiers[tier[line], depth]
            result[line, depth] = entered[line] * factor
    return result


@njit(cache=True, nogil=True)
def share_weights(weights, nothing):  # type: ignore[no-untyped-def]
    """Each weight's share of all, and that of nothing, which is 1 where all are 0. Shapes (n, d), (d,)."""
    count, depths = weights.shape
    chances, blank = np.zeros((count, depths)), np.ones(depths)
    total = nothing.copy()
    for row in range(count):
        for depth in range(depths):
            total[depth] += weights[row, depth]
    for depth in range(depths):
        if total[depth] > 0.0:
            blank[depth] = nothing[depth] / total[depth]
    for row in range(count):
        for depth in range(depths):
            if total[depth] > 0.0:
                chances[row, depth] = weights[row, depth] / total[depth]
    return chances, blank


@njit(cache=True, nogil=True)
def first_that_hits(chances):  # type: ignore[no-untyped-def]
    """c_i * prod_{j<i} (1 - c_j), shape (n, d), and the chance that all miss, shape (d,)."""
    result, reached = np.empty_like(chances), np.ones(chances.shape[1])
    for row in range(chances.shape[0]):
        for depth in range(reached.size):
            result[row, depth] = chances[row, depth] * reached[depth]
            reached[depth] *= 1.0 - chances[row, depth]
    return result, reached


@njit(cache=True, nogil=True)
def tried_again(weights, chances, tries):  # type: ignore[no-untyped-def]
    """p_i c_i (1 - (1 - s)^tries) / s with s = sum p c, shape (n, d), and (1 - s)^tries, shape (d,).

    As tries nears 1 or s nears 0 the factor goes to `tries`; expm1 and log1p keep its digits.
    """
    result, _ = share_weights(weights, np.zeros(weights.shape[1]))
    hit, none = np.zeros(weights.shape[1]), np.ones(weights.shape[1])
    for row in range(result.shape[0]):
        for depth in range(hit.size):
            result[row, depth] *= chances[row, depth]
            hit[depth] += result[row, depth]
    for depth in range(hit.size):
        s = min(hit[depth], 1.0)
        if s > 0.0:
            none[depth] = (1.0 - s) ** tries
            some = 1.0 if s == 1.0 else -math.expm1(tries * math.log1p(-s))
            hit[depth] = some / s
    for row in range(result.shape[0]):
        for depth in range(hit.size):
            result[row, depth] *= hit[depth]
    return result, none


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
