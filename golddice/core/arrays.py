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
