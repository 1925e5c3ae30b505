"""The chance of having none yet, event after event."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from golddice.core.arrays import FloatArray

AHEAD = 64  # events that are followed at a time


class Streak:
    """The chance of having none yet, by state and column, followed as far as it is asked for."""

    def __init__(self, step: Callable[[FloatArray], FloatArray], states: int, columns: int) -> None:
        self._step = step
        self._none = np.ones((states, columns))
        self._fresh = [self._none[0]]

    def upto(self, events: int) -> FloatArray:
        """For a fresh player after 0, 1 ... so many events, shape (events + 1, columns)."""
        while len(self._fresh) <= events:
            self._none = self._step(self._none)
            self._fresh.append(self._none[0])
        return np.array(self._fresh[: events + 1])


class Leaping(Streak):
    """The same for one column, AHEAD events at a time: with the first rows of all powers of the
    event's matrix up to there, and the next power to go on from."""

    def __init__(self, matrix: FloatArray) -> None:
        self._rows = np.zeros((1, matrix.shape[0]))
        self._rows[0, 0] = 1.0
        power = matrix
        while self._rows.shape[0] < AHEAD:
            self._rows = np.vstack([self._rows, self._rows @ power])
            power = power @ power
        self._leap = power
        self._now: FloatArray = np.ones(matrix.shape[0])
        self._known: FloatArray = np.zeros(0)

    def upto(self, events: int) -> FloatArray:
        while self._known.size <= events:
            self._known = np.concatenate([self._known, self._rows @ self._now])
            self._now = self._leap @ self._now
        return self._known[: events + 1, None]
