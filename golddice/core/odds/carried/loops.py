"""Compiled loops over the states of a chain."""

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


@njit(cache=True, nogil=True)
def gather_from_into(result, chance, place, rows, base, wanted):  # type: ignore[no-untyped-def]
    """`gather_into` of rows that are told from a base of their own, (m, k), into a result that is told from
    what is wanted, (s, k)."""
    for state in range(chance.size):
        p = chance[state]
        if p != 0.0:
            row = place[state]
            for at in range(result.shape[1]):
                result[state, at] += p * (rows[row, at] + (base[row, at] - wanted[state, at]))


@njit(cache=True, nogil=True)
def gather_spread_into(var, cov, worth_var, chance, place, means, worths):  # type: ignore[no-untyped-def]
    """What a way adds to the variances of a mixture: chance[s] times the squares of how far its means
    lie from the whole's; and to the covariances their products with how far its worth does. Of both: the
    way's, (m, k) and (m, 1), from its base; the base that is wanted, and the whole's from that, (s, k)."""
    mean, base, wanted, whole = means
    worth, worth_base, worth_wanted, whole_worth = worths
    for state in range(chance.size):
        p = chance[state]
        if p == 0.0:
            continue
        row = place[state]
        off_worth = worth[row, 0] + (worth_base[row, 0] - worth_wanted[state, 0]) - whole_worth[state, 0]
        worth_var[state, 0] += p * off_worth * off_worth
        for at in range(mean.shape[1]):
            off = mean[row, at] + (base[row, at] - wanted[state, at]) - whole[state, at]
            var[state, at] += p * off * off
            cov[state, at] += p * off * off_worth


@njit(cache=True, nogil=True)
def eliminated(rates, targets):  # type: ignore[no-untyped-def]
    """The chance from state 0 to end in each target, by elimination without a subtraction.

    rates (n, n) from state to state, the diagonal left out of account, and targets (n, m): only their
    proportions within a row count. Every state must be able to leave for a lower one or a target. Sums
    of positive terms alone, so that the digits of the smallest rates are kept (Grassmann, Taksar and
    Heyman 1985). Both arrays are written over.
    """
    for last in range(rates.shape[0] - 1, 0, -1):
        out = 0.0
        for other in range(last):
            out += rates[last, other]
        for target in range(targets.shape[1]):
            out += targets[last, target]
        for state in range(last):
            share = rates[state, last] / out if out > 0.0 else 0.0
            if share != 0.0:
                for other in range(last):
                    rates[state, other] += share * rates[last, other]
                for target in range(targets.shape[1]):
                    targets[state, target] += share * targets[last, target]
    whole = targets[0].sum()
    return targets[0] / whole if whole > 0.0 else targets[0]


@njit(cache=True, nogil=True)
def balanced(rates):  # type: ignore[no-untyped-def]
    """The stationary distribution of a chain all of whose states lead to each other, by the same
    elimination; rates (n, n), the diagonal left out of account; written over."""
    size = rates.shape[0]
    outs = np.ones(size)
    for last in range(size - 1, 0, -1):
        out = 0.0
        for other in range(last):
            out += rates[last, other]
        outs[last] = out
        for state in range(last):
            share = rates[state, last] / out
            if share != 0.0:
                for other in range(last):
                    rates[state, other] += share * rates[last, other]
    weights = np.zeros(size)
    weights[0] = 1.0
    for state in range(1, size):
        into = 0.0
        for other in range(state):
            into += weights[other] * rates[other, state]
        weights[state] = into / outs[state]
    return weights / weights.sum()


@njit(cache=True, nogil=True)
def follow_totals(starts, ends, chances, means, mean, spread, events):  # type: ignore[no-untyped-def]
    """Mean and variance of a total over so many events, from every state.

    starts (s + 1,), ends, chances, means (e,): the moves that an event makes, their chances, and how much
    each brings on average; mean and spread (s,): what an event brings, and the mean of its variance given
    the move. With f what is yet to come, f' = mean + T f, and the variance spread + T v +
    sum p (brought + f - f')^2: about the means. Stops when every state gains the same from an event more,
    since then it goes on so: gives what has come of it, and how much every event more adds.
    """
    size = mean.size
    now, var = np.zeros(size), np.zeros(size)
    after, after_var = np.empty(size), np.empty(size)
    for event in range(events):
        for state in range(size):
            total = mean[state]
            for at in range(starts[state], starts[state + 1]):
                total += chances[at] * now[ends[at]]
            after[state] = total
        for state in range(size):
            total = spread[state]
            for at in range(starts[state], starts[state + 1]):
                off = means[at] + now[ends[at]] - after[state]
                total += chances[at] * (var[ends[at]] + off * off)
            after_var[state] = total
        gain, gain_var = after[0] - now[0], after_var[0] - var[0]
        steady = event > 0
        for state in range(size):
            room = 4e-15 * (abs(after[state]) + 1e-300)
            room_var = 4e-15 * (abs(after_var[state]) + 1e-300)
            steady = steady and abs(after[state] - now[state] - gain) <= room
            steady = steady and abs(after_var[state] - var[state] - gain_var) <= room_var
            if not steady:
                break
        now, after = after, now
        var, after_var = after_var, var
        if steady:
            left = events - event - 1
            return now + left * gain, var + left * gain_var
    return now, var
