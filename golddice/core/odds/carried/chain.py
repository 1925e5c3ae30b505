"""One event as a matrix of moves between states, and what follows from it for many events: the long run,
and totals after so many of them.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TypeVar

import numpy as np
from propcache.api import cached_property

from golddice.core.arrays import BoolArray, FloatArray, IntArray
from golddice.core.errors import TooLarge
from golddice.core.odds.carried.folds import Bundle, FirstMatrix, Fold, Moments
from golddice.core.odds.carried.loops import balanced, classes_from_start, eliminated, follow_totals

MOST_ELIMINATED = 512  # states; larger classes are solved by LAPACK and checked
Edge = TypeVar("Edge")
_ROOM = 1e-11  # by which a solved distribution may fail to be stationary


def long_run_weights(transitions: FloatArray) -> FloatArray:
    """The share of events that begin in each state, after very many events of a fresh player.

    Cesàro limits, so a chain that goes round (a deck) has them too: the stationary distribution of
    each closed class, times the chance to end in it from state 0 (Kemeny and Snell, ch. V).
    """
    found, is_closed = classes_from_start(np.ascontiguousarray(transitions))
    closed = np.flatnonzero(is_closed)
    weights = np.zeros(transitions.shape[0])
    ends = ending_in(transitions, found, [found == at for at in closed])
    for at, end in zip(closed, ends, strict=True):
        members = np.flatnonzero(found == at)
        weights[members] = end * _stationary(transitions[np.ix_(members, members)])
    return weights


def ending_in(
    transitions: FloatArray, classes: IntArray, ends: list[BoolArray], lost: FloatArray | None = None
) -> FloatArray:
    """The chance from state 0 to end in each of some sets of states that are not left again, shape
    (n,). `lost` is by state a chance to go nowhere of those (a hit, say), and ends there.

    Raises TooLarge where elimination would take long and rounding could tell anything.
    """
    at_start = [bool(one[0]) for one in ends]
    if any(at_start):
        return np.array(at_start, dtype=np.float64)
    if len(ends) == 1 and lost is None:
        return np.ones(1)
    inside = np.logical_or.reduce(ends)
    others = np.flatnonzero((classes >= 0) & ~inside)
    into = [transitions[np.ix_(others, np.flatnonzero(one))].sum(axis=1) for one in ends]
    if lost is not None:
        into.append(lost[others])
    rates, targets = transitions[np.ix_(others, others)], np.stack(into, axis=1)
    np.fill_diagonal(rates, 0.0)
    if others.size <= MOST_ELIMINATED:
        found = eliminated(np.ascontiguousarray(rates), np.ascontiguousarray(targets))
    else:  # by how a player leaves each state: what happens seldom is then not next to 1
        out = rates.sum(axis=1) + targets.sum(axis=1)
        left = np.linalg.solve(np.eye(others.size) - rates / out[:, None], targets / out[:, None])
        found = left[0] / left[0].sum()
    return np.asarray(found[: len(ends)])


def _stationary(transitions: FloatArray) -> FloatArray:
    """pi P = pi, sum pi = 1."""
    rates = np.array(transitions)
    np.fill_diagonal(rates, 0.0)
    if rates.shape[0] <= MOST_ELIMINATED:
        return np.asarray(balanced(rates))
    out = rates.sum(axis=1)
    system = (rates / out[:, None]).T - np.eye(out.size)
    system[-1] = 1.0
    right = np.zeros(out.size)
    right[-1] = 1.0
    try:
        weights = np.maximum(np.linalg.solve(system, right), 0.0) / out
    except np.linalg.LinAlgError:
        raise TooLarge(f"the long run of {out.size:,} states that hardly lead to each other") from None
    weights /= weights.sum()
    off = np.abs(weights @ rates - weights * out).sum()
    if off > _ROOM * float((weights * out).sum()):
        raise TooLarge(f"the long run of {out.size:,} states that hardly lead to each other")
    return np.asarray(weights)


def most_at_edges(transitions: FloatArray, edges: dict[Edge, BoolArray], events: int) -> dict[Edge, float]:
    """How likely a fresh player is at the edge of each cut axis, at most, in the first events and in the
    long run."""
    now = np.zeros(transitions.shape[0])
    now[0] = 1.0
    highest = dict.fromkeys(edges, 0.0)
    weights = long_run_weights(transitions)
    for _ in range(events):
        for key, edge in edges.items():
            highest[key] = max(highest[key], float(now[edge].sum()))
        now = now @ transitions
    return {key: max(highest[key], float(weights[edge].sum())) for key, edge in edges.items()}


@dataclass(frozen=True)
class Moves:
    """What an event does, by the moves between states that are possible.

    starts (s + 1,), ends, chances (e,) as in a sparse matrix by rows; means (e, k): how much of each
    thing a move brings on average. mean and spread (s, k): what an event brings, and the mean of its
    variance given the move. Means are told from a base (k,): so much an event has in common with every other.
    """

    starts: IntArray
    ends: IntArray
    chances: FloatArray
    means: FloatArray
    mean: FloatArray
    spread: FloatArray
    base: FloatArray

    @staticmethod
    def walked(event: Callable[[Fold], Bundle], columns: IntArray, size: int) -> Moves:
        """Of some columns, and of value last, by two walks through an event from every state of so many."""
        mean, var, _, value, value_var, *told_from = event(Moments(columns))
        bases = np.hstack(told_from)
        base = bases[0]  # what is likeliest at first
        after, counts, worth = event(FirstMatrix(columns, size, base))
        sums = [counts[:, at * size : (at + 1) * size] for at in range(columns.size)]
        means = np.hstack([mean, value]) + (bases - base)
        return Moves.of(after, [*sums, worth], means, np.hstack([var, value_var]), base)

    @staticmethod
    def of(
        after: FloatArray, sums: list[FloatArray], mean: FloatArray, var: FloatArray, base: FloatArray
    ) -> Moves:
        """From the transitions (s, s), E[how many; state after] of each thing (s, s), and the mean and
        variance of what an event brings (s, k); how many and mean from the base."""
        rows, ends = np.nonzero(after)
        chances = after[rows, ends]
        means = np.stack([one[rows, ends] / chances for one in sums], axis=1)
        off = means - mean[rows]
        moved = np.zeros_like(mean)
        np.add.at(moved, rows, chances[:, None] * off * off)
        starts = np.searchsorted(rows, np.arange(after.shape[0] + 1))
        return Moves(starts, ends, chances, means, mean, np.maximum(var - moved, 0.0), base)

    def after(self, events: int) -> tuple[FloatArray, FloatArray]:
        """Mean and variance of how many of each thing a fresh player has after so many events, (k,)."""
        found = [
            follow_totals(
                self.starts,
                self.ends,
                self.chances,
                np.ascontiguousarray(self.means[:, at]),
                np.ascontiguousarray(self.mean[:, at]),
                np.ascontiguousarray(self.spread[:, at]),
                events,
            )
            for at in range(self.mean.shape[1])
        ]
        means, variances = np.array([[float(part[0]) for part in one] for one in found]).reshape(-1, 2).T
        return events * self.base + means, variances

    @cached_property
    def count(self) -> int:
        return int(self.ends.size)
