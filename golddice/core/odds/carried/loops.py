"""A compiled loop over the states of a chain: which of them lead to each other."""

from __future__ import annotations

import numpy as np
from numba import njit


@njit(cache=True, nogil=True)
def classes_from_start(chain):  # type: ignore[no-untyped-def]
    """The classes of states that lead to each other, of those that state 0 leads to.

    Shape (s, s) of chances from row to column. Gives each state's class (-1: never reached), and
    whether each class is closed, that is never left. Tarjan's algorithm without recursion: a class is
    told once all that it leads to are, so classes are numbered from the last to the first.
    """
    size = chain.shape[0]
    order = np.full(size, -1, np.int64)  # when each state was come to
    lowest = np.zeros(size, np.int64)  # the earliest that is reached from it and not yet told
    found = np.full(size, -1, np.int64)
    trail, open_states = np.empty(size, np.int64), np.empty(size, np.int64)
    next_of = np.zeros(size, np.int64)
    depth, held, count, classes = 0, 0, 0, 0
    trail[0] = 0
    while depth >= 0:
        state = trail[depth]
        if order[state] < 0:
            order[state] = lowest[state] = count
            count += 1
            open_states[held] = state
            held += 1
        went_on = False
        while next_of[state] < size:
            other = next_of[state]
            if chain[state, other] > 0:
                if order[other] < 0:
                    depth += 1
                    trail[depth] = other
                    went_on = True
                    break
                if found[other] < 0:
                    lowest[state] = min(lowest[state], lowest[other])
            next_of[state] += 1
        if went_on:
            continue
        if lowest[state] == order[state]:
            while True:
                held -= 1
                found[open_states[held]] = classes
                if open_states[held] == state:
                    break
            classes += 1
        depth -= 1
        if depth >= 0:
            before = trail[depth]
            lowest[before] = min(lowest[before], lowest[state])
    return found, _never_left(chain, found, classes)


@njit(cache=True, nogil=True)
def _never_left(chain, found, classes):  # type: ignore[no-untyped-def]
    closed = np.ones(classes, np.bool_)
    for state in range(found.size):
        if found[state] < 0 or not closed[found[state]]:
            continue
        for other in range(found.size):
            if chain[state, other] > 0 and found[other] != found[state]:
                closed[found[state]] = False
                break
    return closed


@njit(cache=True, nogil=True)
def gather_into(result, chance, place, rows):  # type: ignore[no-untyped-def]
    """result[s] += chance[s] * rows[place[s]] for every state s. Shapes (s, k), (s,), (s,), (m, k)."""
    for state in range(chance.size):
        p = chance[state]
        if p != 0.0:
            row = place[state]
            for at in range(result.shape[1]):
                result[state, at] += p * rows[row, at]
