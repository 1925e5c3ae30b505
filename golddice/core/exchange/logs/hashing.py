"""Numbers that stand for texts: of millions of names only which are alike is wanted."""

from __future__ import annotations

from typing import Any

import numpy as np
from numba import njit

from golddice.core.arrays import IntArray

NONE = -1  # of an empty text


def numbered(texts: Any) -> IntArray:
    """A number for each text of an Arrow array of strings without nulls, the same for the same text; of two
    that differ it is the same with a chance of 2^-63. Blanks around a text do not count."""
    _, offsets, data = texts.buffers()
    ends = np.frombuffer(offsets, dtype=np.int32)[texts.offset : texts.offset + len(texts) + 1]
    letters = np.frombuffer(data if data is not None else b"", dtype=np.uint8)
    return np.asarray(_numbered(ends, letters))


@njit(cache=True, nogil=True)
def _numbered(ends, letters):  # type: ignore[no-untyped-def]
    """FNV-1a (Fowler, Noll and Vo), its bits mixed as in SplitMix64 (Steele, Lea and Flood 2014)."""
    found = np.empty(ends.size - 1, dtype=np.int64)
    for at in range(found.size):
        first, last = ends[at], ends[at + 1]
        while first < last and letters[first] <= 32:
            first += 1
        while first < last and letters[last - 1] <= 32:
            last -= 1
        sign = np.uint64(14695981039346656037)
        for letter in range(first, last):
            sign = (sign ^ np.uint64(letters[letter])) * np.uint64(1099511628211)
        sign = (sign ^ (sign >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
        sign = (sign ^ (sign >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
        sign = sign ^ (sign >> np.uint64(31))
        found[at] = NONE if first == last else np.int64(sign >> np.uint64(1))
    return found
