"""Compiled loops that follow players forward from event to event."""

from __future__ import annotations

import numpy as np
from numba import njit


@njit(cache=True, nogil=True)
def follow_event(starts, ends, chances, means, mean, spread, here, first):  # type: ignore[no-untyped-def]
    """One event more of players who are spread over states.

    starts (s + 1,), ends, chances (e,): the moves that an event makes; means (e, k): how much of each thing
    a move brings; mean, spread (s, k): what an event brings from each state, and the mean of its variance
    given the move. here (s,): the chance of each state; first (s, k): E[X; state] of what came so far, X told
    from its mean. Gives both after the event, X told from its new mean; by how much the mean grew, (k,); and
    by how much the variance did, (k,).
    """
    size, kinds = mean.shape
    after, first_after = np.zeros(size), np.zeros((size, kinds))
    gain, more = np.zeros(kinds), np.zeros(kinds)
    for state in range(size):
        for at in range(kinds):
            gain[at] += here[state] * mean[state, at]
    for state in range(size):
        p = here[state]
        for at in range(kinds):
            more[at] += p * spread[state, at] + 2.0 * first[state, at] * (mean[state, at] - gain[at])
        for move in range(starts[state], starts[state + 1]):
            end, chance = ends[move], chances[move]
            after[end] += p * chance
            for at in range(kinds):
                off = means[move, at] - gain[at]
                first_after[end, at] += chance * (first[state, at] + p * off)
                more[at] += p * chance * off * off
    return after, first_after, gain, more
