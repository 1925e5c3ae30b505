"""The array types that the core passes around."""

from __future__ import annotations

import ctypes
from contextlib import suppress

import numpy as np
import numpy.typing as npt

FloatArray = npt.NDArray[np.float64]
ComplexArray = npt.NDArray[np.complex128]
IntArray = npt.NDArray[np.int64]
BoolArray = npt.NDArray[np.bool_]


def give_back() -> None:
    """Hand memory that is free, but kept for later, back to the system, where that can be asked for."""
    with suppress(OSError, AttributeError):
        ctypes.CDLL(None).malloc_trim(0)


_OWN_PLACE = 8 * 2**20  # bytes
_M_MMAP_THRESHOLD = -3  # as glibc's malloc.h calls it


def large_ones_apart() -> None:
    """Large arrays get memory of their own, which goes back as soon as they are gone: for work whose arrays
    are as long as a file. Else what is freed stays between what is not, once a larger one was freed."""
    with suppress(OSError, AttributeError):
        ctypes.CDLL(None).mallopt(_M_MMAP_THRESHOLD, _OWN_PLACE)


def distinct(values: IntArray) -> IntArray:
    """Each once, rising. By sorting, which of millions is quicker, and smaller, than by a table of hashes."""
    ordered = np.sort(values)
    is_new = np.ones(ordered.size, dtype=bool)
    np.not_equal(ordered[1:], ordered[:-1], out=is_new[1:])
    return np.asarray(ordered[is_new])
