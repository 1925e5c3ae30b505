"""Drawing quantities, and items from pools."""

from __future__ import annotations

import numpy as np
from numba import njit

from golddice.core.trial.fields import quantity_of
from golddice.core.trial.program import (
    A_POOL_ITEMS,
    A_POOLS,
    CONSTANT,
    Q_COUNT,
    Q_KIND,
    Q_MIN,
    Q_STEP,
    QUANTITY_FIELDS,
    R_FACTORS,
    R_POOLS,
    RANGE,
)
from golddice.core.trial.rng import next_of, next_unit


@njit(cache=True, inline="always")
def amount_of(code, real, quantities, factors, ref, s0, s1, s2, s3):  # type: ignore[no-untyped-def]
    """`drawn_quantity`, with the generator in local variables; no dice here."""
    at = quantities + ref * QUANTITY_FIELDS
    value = code[at + Q_MIN]
    if code[at + Q_KIND] == RANGE:
        number, s0, s1, s2, s3 = next_of(s0, s1, s2, s3)
        value += code[at + Q_STEP] * np.int64(number * code[at + Q_COUNT])
    factor = real[factors + ref]
    if factor != 1.0:
        exact = value * factor
        near = np.rint(exact)
        if abs(exact - near) < 1e-12 * max(1.0, near):
            value = np.int64(near)
        else:
            number, s0, s1, s2, s3 = next_of(s0, s1, s2, s3)
            value = np.int64(np.floor(exact)) + (1 if number < exact - np.floor(exact) else 0)
    return value, s0, s1, s2, s3


@njit(cache=True, nogil=True)
def drawn_quantity(code, real, random, ref):  # type: ignore[no-untyped-def]
    """Draw a quantity: a constant, a value of a range, or a throw of dice; then its curve."""
    kind = quantity_of(code, ref, Q_KIND)
    value = quantity_of(code, ref, Q_MIN)
    if kind != CONSTANT:
        step, count = quantity_of(code, ref, Q_STEP), quantity_of(code, ref, Q_COUNT)
        if kind == RANGE:
            value += step * np.int64(next_unit(random) * count)
        else:
            for _ in range(count):
                value += 1 + np.int64(next_unit(random) * step)
    factor = real[code[R_FACTORS] + ref]
    if factor != 1.0:
        return _made_whole(value * factor, random)
    return value


@njit(cache=True, nogil=True)
def _made_whole(exact, random):  # type: ignore[no-untyped-def]
    """Stochastic rounding: up with the chance of the fraction, so that the mean is exact."""
    near = np.rint(exact)
    if abs(exact - near) < 1e-12 * max(1.0, near):
        return np.int64(near)
    low = np.floor(exact)
    return np.int64(low) + (1 if next_unit(random) < exact - low else 0)


@njit(cache=True, nogil=True)
def from_pool(code, real, state, random, pool):  # type: ignore[no-untyped-def]
    """One item of a pool by its weight; -1 where the pool is empty. Bisection."""
    low, end = code[code[A_POOLS] + 2 * pool + 0], code[code[A_POOLS] + 2 * pool + 1]
    if low == end:
        return -1
    number = next_unit(random)
    high = end - 1
    while low < high:
        middle = (low + high) // 2
        if real[code[R_POOLS] + middle] <= number:
            low = middle + 1
        else:
            high = middle
    return code[code[A_POOL_ITEMS] + low]
