"""Quantiles: the least value that so large a share lies at or below."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

import numpy as np
import numpy.typing as npt

from golddice.core.arrays import FloatArray, IntArray

_TIE = 1e-9  # of a rank, or of a share: what only rounding lies between is there


def at_rank(ordered: npt.NDArray[Any], rank: float) -> float:
    """Of a rising sample the value of a rank, counted from 1."""
    return float(ordered[min(max(math.ceil(rank - _TIE) - 1, 0), ordered.size - 1)])


def of_sample(ordered: npt.NDArray[Any], share: float) -> float:
    """Of a rising sample."""
    return at_rank(ordered, share * ordered.size)


def of_distribution(cumulative: FloatArray | IntArray, shares: npt.ArrayLike) -> IntArray:
    """The places at which a cumulative distribution, or counts, first come to these shares of its last."""
    wanted = np.asarray(shares) * cumulative[-1]
    return np.asarray(np.searchsorted(cumulative, wanted - _TIE))


def of_function(at_most: Callable[[int], float], share: float, highest: int) -> int:
    """Of whole numbers from 0 to the highest, whose distribution function is told number by number: by
    halving."""
    low, high = 0, highest
    while low < high:
        middle = (low + high) // 2
        low, high = (low, middle) if at_most(middle) >= share else (middle + 1, high)
    return low
