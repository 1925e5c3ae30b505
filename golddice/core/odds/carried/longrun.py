"""What follows from how a player's state moves, after very many events."""

from __future__ import annotations

import numpy as np

from golddice.core.arrays import FloatArray, IntArray
from golddice.core.odds.carried.chaining import classes_from_start


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
