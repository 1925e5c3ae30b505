"""Counting what was seen among players, in forms that can be added up unit by unit."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

import numpy as np

from golddice.core.arrays import FloatArray, IntArray
from golddice.core.quantiles import of_distribution

BINS = 48
WAITS = (0.5, 0.9, 0.99)
SMALL = 2**16
_TOGETHER = 2**17  # places that are counted in at once


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
        self.add_counted(np.bincount(values))

    def add_counted(self, found: IntArray) -> None:
        """How often each number from 0 up was seen besides."""
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
        return [int(values[at]) for at in of_distribution(np.cumsum(times), qs)]

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


class Tallies:
    """Tallies of several kinds of numbers, which are counted together: one by one each would cost a call."""

    def __init__(self, kinds: int) -> None:
        self._each = [Tally() for _ in range(kinds)]

    def __getitem__(self, kind: int) -> Tally:
        return self._each[kind]

    def add(self, rows: IntArray) -> None:
        """Numbers from 0 up, (kinds, n)."""
        kinds, width = rows.shape[0], int(rows.max(initial=-1)) + 1
        if kinds * width > _TOGETHER:
            for tally, row in zip(self._each, rows, strict=True):
                tally.add(row)
            return
        places = rows + width * np.arange(kinds)[:, None]
        found = np.bincount(places.ravel(), minlength=kinds * width).reshape(kinds, width)
        for tally, counted in zip(self._each, found, strict=True):
            tally.add_counted(counted)


class Spreads:
    """Means and spreads of several kinds of numbers that come in parts, (kinds,).

    Parts are put together by their means and their squares about them (Chan, Golub and LeVeque 1979):
    squares about 0 overflow for millions of units, and cancel where all are nearly alike.
    """

    def __init__(self, kinds: int) -> None:
        self._count, self.mean, self._squares = 0, np.zeros(kinds), np.zeros(kinds)

    def add(self, rows: IntArray | FloatArray) -> None:
        """Numbers of each kind, (kinds, n)."""
        more = rows.shape[1]
        if not more:
            return
        mean = rows.mean(axis=1)
        off, apart, count = rows - mean[:, None], mean - self.mean, self._count + more
        self._squares += np.einsum("kn,kn->k", off, off) + apart * apart * (self._count * more / count)
        self.mean = self.mean + apart * (more / count)
        self._count = count

    @property
    def sd(self) -> FloatArray:
        return np.sqrt(self._squares / max(self._count, 1))


def totals_of(rows: IntArray) -> list[int]:
    """The sums of rows of whole numbers of any size."""
    fits = rows.size == 0 or int(rows.max()) < 2**62 // rows.shape[1]
    return rows.sum(axis=1).tolist() if fits else [sum(row.tolist()) for row in rows]
