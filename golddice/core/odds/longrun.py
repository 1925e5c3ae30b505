"""What follows from how a player's state moves: long-run averages, and waits with state."""

from __future__ import annotations

import math

import numpy as np

from golddice.core.arrays import FloatArray, IntArray
from golddice.core.odds.chaining import classes_from_start
from golddice.core.odds.waits import CONFIDENCES

_TIE = 1e-11
_STEADY = 1e-12
_STEADY_RATE = 1e-4  # of the rate itself: a rate that is still dying away is not steady
_NEVER = 1e-13


def long_run_weights(transitions: FloatArray) -> FloatArray:
    """The share of events that begin in each state, after very many events of a fresh player.

    Cesàro limits, so a chain that goes round (a deck) has them too: the stationary distribution of
    each closed class, times the chance to end in it from state 0 (Kemeny and Snell, ch. V).
    """
    found, is_closed = classes_from_start(np.ascontiguousarray(transitions))
    closed = np.flatnonzero(is_closed)
    weights = np.zeros(transitions.shape[0])
    for at, end in zip(closed, _absorbed(transitions, found, closed), strict=True):
        members = np.flatnonzero(found == at)
        weights[members] = end * _stationary(transitions[np.ix_(members, members)])
    return weights


def _absorbed(transitions: FloatArray, classes: IntArray, closed: IntArray) -> list[float]:
    """The chance to end in each closed class, from the first state."""
    if closed.size == 1:
        return [1.0]
    outside = np.flatnonzero((classes >= 0) & ~np.isin(classes, closed))
    if 0 not in outside:
        return [1.0 if classes[0] == at else 0.0 for at in closed]
    stay = np.eye(outside.size) - transitions[np.ix_(outside, outside)]
    into = [transitions[np.ix_(outside, np.flatnonzero(classes == at))].sum(axis=1) for at in closed]
    return list(np.linalg.solve(stay, np.stack(into, axis=1))[0])


def _stationary(transitions: FloatArray) -> FloatArray:
    """pi P = pi, sum pi = 1."""
    size = transitions.shape[0]
    system = transitions.T - np.eye(size)
    system[-1] = 1.0
    right = np.zeros(size)
    right[-1] = 1.0
    return np.asarray(np.maximum(np.linalg.solve(system, right), 0.0))


class Waiting:
    """Follows the chance of still having none, event by event, until all waits are known.

    Feed it with P(none after n events) for n = 1, 2, ... in blocks; one value a column.
    """

    def __init__(self, columns: int) -> None:
        self.events = 0
        self.waits: list[dict[str, int | None]] = [{} for _ in range(columns)]
        self._open = np.ones(columns, dtype=bool)
        self._before = np.ones((3, columns))

    @property
    def done(self) -> bool:
        return not self._open.any()

    def feed(self, none: FloatArray) -> None:
        """The next events, shape (n, columns)."""
        for at in np.flatnonzero(self._open):
            found = self.waits[at]
            for name, q in CONFIDENCES.items():
                if name not in found:
                    enough = np.flatnonzero(1.0 - none[:, at] >= q - _TIE)
                    if enough.size:
                        found[name] = self.events + int(enough[0]) + 1
            self._open[at] = len(found) < len(CONFIDENCES)
        self.events += none.shape[0]
        self._before = np.vstack([self._before, none])[-3:]

    def steady(self) -> None:
        """Columns whose chance now falls by the same factor each event are followed to their end:
        never there, where the factor is 1, else by logarithms."""
        for at in np.flatnonzero(self._open):
            first, second, third = self._before[:, at]
            now, last = third / second, second / first
            gone = 1.0 - now < _NEVER
            if abs(now - last) <= _STEADY and (gone or abs(now - last) <= _STEADY_RATE * (1.0 - now)):
                self._finish(int(at), third, now)

    def _finish(self, at: int, none: float, factor: float) -> None:
        found = self.waits[at]
        for name, q in CONFIDENCES.items():
            if name in found:
                continue
            if 1.0 - factor < _NEVER:
                found[name] = None
            else:
                more = math.log((1.0 - q) / none) / math.log(factor)
                found[name] = self.events + max(1, math.ceil(more - 1e-9))
        self._open[at] = False

    def give_up(self) -> None:
        """Columns still open have no answer."""
        for at in np.flatnonzero(self._open):
            for name in CONFIDENCES:
                self.waits[at].setdefault(name, None)
        self._open[:] = False
