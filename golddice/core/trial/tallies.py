"""Counting what was seen among players, in forms that can be added up unit by unit."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from golddice.core.arrays import FloatArray, IntArray

BINS = 48
WAITS = (0.5, 0.9, 0.99)
SMALL = 2**16


class Tally:
    """How often each whole number, from 0 up, was seen among the players.

    Small numbers are counted in a row of their own, which costs a hundredth of a dictionary; large ones,
    which may be anything, in a dictionary.
    """

    def __init__(self) -> None:
        self._small = np.zeros(0, dtype=np.int64)
        self._large: Counter[int] = Counter()

    def add(self, values: IntArray) -> None:
        if values.size and values.max() >= SMALL:
            large = values >= SMALL
            self._large.update(values[large].tolist())
            values = values[~large]
        found = np.bincount(values)
        if found.size > self._small.size:
            self._small = np.concatenate([self._small, np.zeros(found.size - self._small.size, np.int64)])
        self._small[: found.size] += found

    @property
    def seen(self) -> tuple[IntArray, IntArray]:
        """The numbers that were seen, rising, and how often each was."""
        small = np.flatnonzero(self._small)
        large = np.array(sorted(self._large.items()), dtype=np.int64).reshape(-1, 2)
        return np.concatenate([small, large[:, 0]]), np.concatenate([self._small[small], large[:, 1]])

    def at_least(self, least: int) -> int:
        """How many were so much or more."""
        values, times = self.seen
        return int(times[values >= least].sum())

    @property
    def zeros(self) -> int:
        return int(self._small[0]) if self._small.size else 0

    def quantiles(self, qs: Sequence[float]) -> list[int]:
        """For each q the smallest v with at least the share q at or below it."""
        values, times = self.seen
        below = np.cumsum(times)
        return [int(values[at]) for at in np.searchsorted(below, np.array(qs) * below[-1] - 1e-9)]

    def bins(self, most: int = BINS) -> list[dict[str, float]]:
        """A histogram of at most so many bins: from, to (both included) and how many."""
        values, times = self.seen
        low, high = int(values[0]), int(values[-1])
        width = max(1, -(-(high - low + 1) // most))
        counts = np.bincount((values - low) // width, weights=times)
        return [
            {"from": low + at * width, "to": low + (at + 1) * width - 1, "count": int(count)}
            for at, count in enumerate(counts)
        ]


@dataclass
class Spread:
    """Mean and spread of numbers that come in parts.

    Parts are put together by their means and their squares about them (Chan, Golub and LeVeque 1979):
    squares about 0 overflow for millions of units, and cancel where all are nearly alike.
    """

    count: int = 0
    mean: float = 0.0
    squares: float = 0.0  # about the mean

    def add(self, values: IntArray | FloatArray) -> None:
        if not values.size:
            return
        mean = float(values.mean())
        off = values - mean
        count, apart = self.count + values.size, mean - self.mean
        self.squares += float(off @ off) + apart * apart * self.count * values.size / count
        self.mean += apart * values.size / count
        self.count = count

    @property
    def sd(self) -> float:
        return math.sqrt(self.squares / self.count) if self.count else 0.0


def total_of(counts: IntArray) -> int:
    """The sum of whole numbers of any size."""
    fits = counts.size == 0 or int(counts.max()) < 2**62 // counts.size
    return int(counts.sum()) if fits else sum(counts.tolist())


def ranked(ordered: FloatArray, q: float) -> float:
    """Smallest value with at least the share q at or below it."""
    return float(ordered[max(0, int(np.ceil(q * ordered.size - 1e-9)) - 1)])
