"""Drawing quantities, and items from pools. A constant passes over the numbers that a range would draw."""

from __future__ import annotations

import numpy as np
from numba import njit

from golddice.core.trial.program import (
    A_GUIDE,
    A_POOL_ITEMS,
    A_POOLS,
    A_QUANTITIES,
    DICE,
    ONE,
    POOL_FIELDS,
    Q_COUNT,
    Q_KIND,
    Q_MIN,
    Q_STEP,
    QUANTITY_FIELDS,
    R_FACTORS,
    R_POOLS,
    RANGE,
)
from golddice.core.trial.rng import GOLDEN, next_unit, unit_at


@njit(cache=True, inline="always")
def amount_at(code, real, record, factor, place):  # type: ignore[no-untyped-def]
    """A quantity that is no dice: a constant or a value of a range, then its curve. Two numbers: one to
    draw it, one to round it. `record` is where it begins, `place` that of the last number drawn; gives
    the amount and the new place.
    """
    value = code[record + Q_MIN]
    if code[record + Q_KIND] == RANGE:
        value += code[record + Q_STEP] * np.int64(unit_at(place + GOLDEN) * code[record + Q_COUNT])
    place += GOLDEN + GOLDEN
    if factor != 1.0:
        value = made_whole(value * factor, place)
    return value, place


@njit(cache=True, inline="always")
def amount_of(code, real, quantities, factors, ref, place):  # type: ignore[no-untyped-def]
    """The same of a quantity by its number; exactly one, which most are, without a look at it."""
    if ref == ONE:
        return np.int64(1), place + GOLDEN + GOLDEN
    return amount_at(code, real, quantities + ref * QUANTITY_FIELDS, real[factors + ref], place)


@njit(cache=True, inline="always")
def made_whole(exact, place):  # type: ignore[no-untyped-def]
    """Stochastic rounding: up with the chance of the fraction, so that the mean is exact."""
    near = np.rint(exact)
    whole = np.int64(near)
    if abs(exact - near) >= 1e-12 * near:
        low = np.floor(exact)
        whole = np.int64(low) + (1 if unit_at(place) < exact - low else 0)
    return whole


@njit(cache=True, inline="always")
def drawn_quantity(code, real, random, ref):  # type: ignore[no-untyped-def]
    """Draw a quantity, dice too; exactly one, which most are, without a look at it."""
    if ref == ONE:
        random[0] += GOLDEN + GOLDEN
        drawn = np.int64(1)
    else:
        drawn = _drawn(code, real, random, ref)
    return drawn


@njit(cache=True, nogil=True)
def _drawn(code, real, random, ref):  # type: ignore[no-untyped-def]
    record = code[A_QUANTITIES] + ref * QUANTITY_FIELDS
    factor = real[code[R_FACTORS] + ref]
    if code[record + Q_KIND] == DICE:
        value = code[record + Q_MIN]
        for _ in range(code[record + Q_COUNT]):
            value += 1 + np.int64(next_unit(random) * code[record + Q_STEP])
        random[0] += GOLDEN
        return value if factor == 1.0 else made_whole(value * factor, random[0])
    value, random[0] = amount_at(code, real, record, factor, random[0])
    return value


@njit(cache=True, nogil=True)
def from_pool(code, real, random, pool):  # type: ignore[no-untyped-def]
    """One item of a pool by its weight; -1 where the pool is empty. Searched from its guide on, as lines are
    (`rules.where_it_falls`); the last item ends at 1."""
    number = next_unit(random)
    record = code[A_POOLS] + pool * POOL_FIELDS
    size = code[record + 3]
    if size == 0:
        return -1
    at, uppers = code[code[A_GUIDE] + code[record + 2] + np.int64(number * size)], code[R_POOLS]
    while real[uppers + at] <= number:
        at += 1
    return code[code[A_POOL_ITEMS] + at]
