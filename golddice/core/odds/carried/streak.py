"""The chance of having none yet, event after event, from every state that a player can be in."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from golddice.core.arrays import BoolArray, FloatArray, IntArray
from golddice.core.odds.carried.chaining import classes_from_start

AHEAD = 64  # events that are followed at a time
_SAME = 1e-9  # of a rate
_ROUNDING = 4e-15
_NOTHING = 1e-13  # a chance that is nothing but rounding


@dataclass(frozen=True)
class Tail:
    """From the event `start` on the chance of none is exp(`start_log` + (k - start) * `step_log`)."""

    start: int
    start_log: float
    step_log: float


class Streak:
    """The chance of having none yet, by state, followed as far as it is asked for."""

    def __init__(self, step: Callable[[FloatArray], FloatArray], states: int) -> None:
        self._step = step
        self._none = np.ones(states)
        self._fresh = [1.0]

    def upto(self, events: int) -> FloatArray:
        """For a fresh player after 0, 1 ... so many events, shape (events + 1,)."""
        while len(self._fresh) <= events:
            self._none = self._step(self._none)
            self._fresh.append(float(self._none[0]))
        return np.array(self._fresh[: events + 1])

    @property
    def tail(self) -> Tail | None:
        """How it goes on from where it has been followed to, where it falls alike from every state:
        then the states have sorted themselves out, and it falls so for ever."""
        return _tail(len(self._fresh) - 1, self._none, self._step(self._none))


class Stepping(Streak):
    """The same with one event as a matrix."""

    def __init__(self, matrix: FloatArray) -> None:
        super().__init__(lambda none: np.asarray(matrix @ none), matrix.shape[0])
        self.matrix = matrix

    @property
    def tail(self) -> Tail | None:
        return self._tail_of(len(self._fresh) - 1, self._none)

    def _tail_of(self, start: int, none: FloatArray) -> Tail | None:
        met = self._classes[0] >= 0  # only what a player without any can come to
        return _tail(start, none[met], (self.matrix @ none)[met])

    @cached_property
    def for_ever(self) -> float:
        """The chance never to have one: to come to where it cannot come any more, and none is left."""
        classes, closed = self._classes
        lost = 1.0 - self.matrix.sum(axis=1)
        empty = [at for at in np.flatnonzero(closed) if bool((lost[classes == at] < _NOTHING).all())]
        ends = np.isin(classes, empty)
        if ends[0] or not empty:
            return float(ends[0])
        others = np.flatnonzero((classes >= 0) & ~ends)
        stay = np.eye(others.size) - self.matrix[np.ix_(others, others)]
        into = self.matrix[np.ix_(others, np.flatnonzero(ends))].sum(axis=1)
        return float(np.linalg.solve(stay, into)[np.searchsorted(others, 0)])

    @cached_property
    def _classes(self) -> tuple[IntArray, BoolArray]:
        found: tuple[IntArray, BoolArray] = classes_from_start(np.ascontiguousarray(self.matrix))
        return found


class Leaping(Stepping):
    """The same AHEAD events at a time: with the first rows of all powers of the matrix up to there, and
    the next power to go on from."""

    def __init__(self, matrix: FloatArray) -> None:
        super().__init__(matrix)
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
        return self._known[: events + 1]

    @property
    def tail(self) -> Tail | None:
        return self._tail_of(self._known.size, self._now)


def _tail(start: int, none: FloatArray, after: FloatArray) -> Tail | None:
    """The first state is the fresh player's."""
    if not bool((none > 0).all()):
        return None
    rates = 1.0 - after / none
    if np.ptp(rates) > max(_SAME * float(rates.max()), _ROUNDING) or rates[0] >= 1.0:
        return None
    return Tail(start, math.log(none[0]), math.log1p(-max(float(rates[0]), 0.0)))
