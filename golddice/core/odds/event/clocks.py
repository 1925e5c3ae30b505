"""Compiled loops for picks without replacement: see `distinct`.

At every time of a grid each line has rung or not, on its own; what is counted is how many have, up to the
number of rolls. All terms are positive. Only one time's counts are held at once.
"""

from __future__ import annotations

import numpy as np
from numba import njit


@njit(cache=True, nogil=True)
def rung_by(weights, blank, time, step, size):  # type: ignore[no-untyped-def]
    """At one time: the chance that each line has rung, its chance to ring just then, and the chances that
    nothing has come up 0, 1 ... times, the last for as many or more."""
    rung, rings = np.empty(weights.size), np.empty(weights.size)
    for line in range(weights.size):
        rung[line] = -np.expm1(-weights[line] * time)
        rings[line] = weights[line] * time * np.exp(-weights[line] * time) * step  # dt = t dx
    blanks = np.zeros(size + 1)
    rate = blank * time
    blanks[0] = np.exp(-rate)
    for count in range(1, size):
        blanks[count] = blanks[count - 1] * rate / count
    if rate > 0.0:
        term = blanks[size - 1] * rate / size if size > 0 else 0.0
        count = size
        while term > 0.0 and (count < rate + 1 or term > 1e-18 * blanks[size]) and count < size + 400:
            blanks[size] += term
            count += 1
            term *= rate / count
        if rate > size + 60.0:  # the far end of a Poisson: nearly all of it
            rest = 0.0
            for at in range(size):
                rest += blanks[at]
            blanks[size] = 1.0 - rest
    return rung, rings, blanks


@njit(cache=True, nogil=True)
def inclusions(weights, blank, times, step, worth):  # type: ignore[no-untyped-def]
    """Of each line sum over times of ring(t) * E[worth(how many others have come up by t)], shape (n,).

    worth (size + 1,), the last for as many or more.
    """
    lines, size = weights.size, worth.size - 1
    found = np.zeros(lines)
    later = np.empty((lines + 1, size + 1))
    for time in times:
        rung, rings, before = rung_by(weights, blank, time, step, size)
        later[lines] = worth
        for line in range(lines - 1, -1, -1):  # what is worth how many have come up before these
            for count in range(size + 1):
                more = min(count + 1, size)
                later[line, count] = (1.0 - rung[line]) * later[line + 1, count]
                later[line, count] += rung[line] * later[line + 1, more]
        for line in range(lines):
            total = 0.0
            for count in range(size + 1):
                total += before[count] * later[line + 1, count]
            found[line] += rings[line] * total
            _come_up(before, rung[line])
    return found


@njit(cache=True, nogil=True)
def _come_up(counts, chance):  # type: ignore[no-untyped-def]
    """One more that has come up with this chance; the last count is for as many or more."""
    last = counts.size - 1
    counts[last] += counts[last - 1] * chance if last > 0 else 0.0
    for count in range(last - 1, 0, -1):
        counts[count] = counts[count] * (1.0 - chance) + counts[count - 1] * chance
    if last > 0:
        counts[0] *= 1.0 - chance


@njit(cache=True, nogil=True)
def pairs(weights, blank, times, step, both_in, both_out):  # type: ignore[no-untyped-def]
    """P(both in) and P(both out) of every two lines, shapes (n, n); the diagonals are left 0.

    both_in and both_out (size + 1,) say what is worth how many others have come up when the later of the
    two rings, and when the earlier does.
    """
    lines, size = weights.size, both_in.size - 1
    ins, outs = np.zeros((lines, lines)), np.zeros((lines, lines))
    later_in, later_out = np.empty((lines + 1, size + 1)), np.empty((lines + 1, size + 1))
    for time in times:
        rung, rings, before = rung_by(weights, blank, time, step, size)
        later_in[lines], later_out[lines] = both_in, both_out
        for line in range(lines - 1, -1, -1):
            for count in range(size + 1):
                more = min(count + 1, size)
                miss = 1.0 - rung[line]
                later_in[line, count] = (
                    miss * later_in[line + 1, count] + rung[line] * later_in[line + 1, more]
                )
                later_out[line, count] = (
                    miss * later_out[line + 1, count] + rung[line] * later_out[line + 1, more]
                )
        for line in range(lines):
            others = before.copy()
            for other in range(line + 1, lines):
                worth_in, worth_out = 0.0, 0.0
                for count in range(size + 1):
                    worth_in += others[count] * later_in[other + 1, count]
                    worth_out += others[count] * later_out[other + 1, count]
                second = rings[line] * rung[other] + rings[other] * rung[line]
                first = rings[line] * (1.0 - rung[other]) + rings[other] * (1.0 - rung[line])
                ins[line, other] += second * worth_in
                outs[line, other] += first * worth_out
                _come_up(others, rung[other])
            _come_up(before, rung[line])
    return ins + ins.T, outs + outs.T


@njit(cache=True, nogil=True)
def any_included(weights, blank, times, step, last, hit):  # type: ignore[no-untyped-def]
    """Chance that a line that is in gives one, where line i does with hit[i].

    last (size,): the chance that 1, 2 ... are rolled. A run ends when the last of them comes up: a line, or
    nothing. For the lines that have come up by then, with none given yet and with some.
    """
    size = last.size
    found = 0.0
    for time in times:
        rung, rings, blanks = rung_by(weights, blank, time, step, size)
        none, some = blanks[:size].copy(), np.zeros(size)
        none_ended, some_ended = (
            np.zeros(size),
            np.zeros(size),
        )  # one of the lines ends it, and is not counted
        for line in range(weights.size):
            r, g, h = rung[line], rings[line], hit[line]
            for count in range(size - 1, -1, -1):
                before = none_ended[count - 1] if count > 0 else 0.0
                before_some = some_ended[count - 1] if count > 0 else 0.0
                some_ended[count] = (
                    some_ended[count] * (1.0 - r)
                    + before_some * r
                    + before * r * h
                    + some[count] * g
                    + none[count] * g * h
                )
                none_ended[count] = (
                    none_ended[count] * (1.0 - r) + before * r * (1.0 - h) + none[count] * g * (1.0 - h)
                )
            for count in range(size - 1, -1, -1):
                before = none[count - 1] if count > 0 else 0.0
                before_some = some[count - 1] if count > 0 else 0.0
                some[count] = some[count] * (1.0 - r) + before_some * r + before * r * h
                none[count] = none[count] * (1.0 - r) + before * r * (1.0 - h)
        for count in range(size):
            found += last[count] * (some_ended[count] + blank * time * step * some[count])
    return found
