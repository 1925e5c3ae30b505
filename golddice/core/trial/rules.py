"""One roll by each rule that gives at most one line. (`each` is the kernel's: it gives several.)

A roll draws as many numbers as its rule and its table say, whether or not they can matter: what a line is
now must not move the numbers that come after.
"""

from __future__ import annotations

import numpy as np
from numba import njit

from golddice.core.trial.carrying import can_take, is_due, is_open, risen, tested
from golddice.core.trial.fields import line_of, real_of, slot_at, table_of
from golddice.core.trial.notes import N_CARD, N_DUE, N_PICK, N_TEST, note
from golddice.core.trial.program import (
    A_GUIDE,
    DECK,
    FIRST,
    L_COPIES,
    L_HITS,
    L_LEFT,
    L_LIMIT,
    LF_CHANCE,
    LF_UPPER,
    LF_WEIGHT,
    LINE_FLOATS,
    PICK,
    R_LINES,
    R_NOTHING,
    S_TAKEN,
    T_DYNAMIC,
    T_END_LINE,
    T_FIRST_LINE,
    T_GUIDE,
    T_GUIDE_SIZE,
    T_TRIES,
)
from golddice.core.trial.rng import next_unit, reserved, unit_of


@njit(cache=True, nogil=True, forceinline=True)
def one_line(code, real, state, random, table, rule, clock, trace):  # type: ignore[no-untyped-def]
    """The line that one roll gives, or -1, for the rules that give at most one."""
    if rule == PICK:
        number = next_unit(random)
        if table_of(code, table, T_DYNAMIC) == 0:
            return _picked(code, real, table, number, trace)
        return _picked_by_state(code, real, state, table, clock, number, trace)
    if rule == FIRST:
        return _first(code, real, state, random, table, trace)
    if rule == DECK:
        return _card(code, state, table, next_unit(random), trace)
    return _retry(code, real, state, random, table, clock, trace)


@njit(cache=True, inline="always")
def where_it_falls(code, real, guide, size, end, uppers, number):  # type: ignore[no-untyped-def]
    """The line on which a number falls on the strip, `end` for nothing: lines in order, then nothing.

    The guide holds, for each of its equal steps, the first line that ends beyond the step's start,
    so the search takes constant time on average (Chen and Asau 1974). `guide` and `uppers` are where
    a table's guide and the reals of all lines begin.
    """
    line = code[guide + np.int64(number * size)]
    while line < end and real[uppers + line * LINE_FLOATS] <= number:
        line += 1
    return line


@njit(cache=True, nogil=True, forceinline=True)
def _picked(code, real, table, number, trace):  # type: ignore[no-untyped-def]
    """A pick whose weights are what they are."""
    size = table_of(code, table, T_GUIDE_SIZE)
    if size == 0:
        return -1
    guide, end = code[A_GUIDE] + table_of(code, table, T_GUIDE), table_of(code, table, T_END_LINE)
    line = where_it_falls(code, real, guide, size, end, code[R_LINES] + LF_UPPER, number)
    if trace is not None:
        first = table_of(code, table, T_FIRST_LINE)
        low = real_of(code, real, line - 1, LF_UPPER) if line > first else 0.0
        high = 1.0 if line == end else real_of(code, real, line, LF_UPPER)
        note(trace, N_PICK, table, -1 if line == end else line, number, low, high, 0)
    return -1 if line == end else line


@njit(cache=True, nogil=True)
def _picked_by_state(code, real, state, table, clock, number, trace):  # type: ignore[no-untyped-def]
    """A pick whose weights depend on what the player carries."""
    first, end = table_of(code, table, T_FIRST_LINE), table_of(code, table, T_END_LINE)
    chosen = _due_line(code, state, table, clock, trace)
    if chosen < 0:
        chosen = _by_weight(code, real, state, table, clock, True, number, trace)
    for line in range(first, end):
        if line != chosen and can_take(code, state, table, line, clock):
            tested(code, state, line, False, trace)
    if chosen >= 0:
        tested(code, state, chosen, True, trace)
        state[code[S_TAKEN] + chosen] = clock
    return chosen


@njit(cache=True, nogil=True)
def _due_line(code, state, table, clock, trace):  # type: ignore[no-untyped-def]
    """The first line in order that is due, or -1."""
    for line in range(table_of(code, table, T_FIRST_LINE), table_of(code, table, T_END_LINE)):
        if is_due(code, state, line) and can_take(code, state, table, line, clock):
            note(trace, N_DUE, table, line, -1.0, 0.0, 1.0, 0)
            return line
    return -1


@njit(cache=True, nogil=True)
def _by_weight(code, real, state, table, clock, rises, number, trace):  # type: ignore[no-untyped-def]
    """One line among those that take part, or -1 for nothing; weights as they are now."""
    first, end = table_of(code, table, T_FIRST_LINE), table_of(code, table, T_END_LINE)
    total = real[code[R_NOTHING] + table]
    for line in range(first, end):
        if can_take(code, state, table, line, clock):
            factor = 1.0 + risen(code, real, state, line) if rises else 1.0
            total += real_of(code, real, line, LF_WEIGHT) * factor
    if total <= 0.0:
        return -1
    low = 0.0
    last = -1
    for line in range(first, end):
        if can_take(code, state, table, line, clock):
            factor = 1.0 + risen(code, real, state, line) if rises else 1.0
            weight = real_of(code, real, line, LF_WEIGHT) * factor
            if number * total < low + weight:
                note(trace, N_PICK, table, line, number, low / total, (low + weight) / total, 0)
                return line
            low += weight
            if weight > 0.0:
                last = line
    if real[code[R_NOTHING] + table] == 0.0:
        return last  # rounding at the very end of the strip
    note(trace, N_PICK, table, -1, number, low / total, 1.0, 0)
    return -1


@njit(cache=True, nogil=True)
def chance_now(code, real, state, line):  # type: ignore[no-untyped-def]
    """A line's chance with what its guard adds."""
    if is_due(code, state, line):
        return 1.0
    return min(1.0, real_of(code, real, line, LF_CHANCE) + risen(code, real, state, line))


@njit(cache=True, nogil=True)
def hits_on(table, line, chance, number, trace):  # type: ignore[no-untyped-def]
    """Test one line on a chance. Of sure things the number is not told."""
    told = number if 0.0 < chance < 1.0 else -1.0
    hit = number < chance
    note(trace, N_TEST, table, line, told, 0.0, chance, hit)
    return hit


@njit(cache=True, nogil=True)
def _first(code, real, state, random, table, trace):  # type: ignore[no-untyped-def]
    """Lines in order until one hits; the rest are not tested."""
    first, end = table_of(code, table, T_FIRST_LINE), table_of(code, table, T_END_LINE)
    place = reserved(random, end - first)
    for line in range(first, end):
        if is_open(code, state, line):
            chance = chance_now(code, real, state, line)
            hit = hits_on(table, line, chance, unit_of(place, line - first), trace)
            tested(code, state, line, hit, trace)
            if hit:
                return line
    return -1


@njit(cache=True, nogil=True)
def _retry(code, real, state, random, table, clock, trace):  # type: ignore[no-untyped-def]
    """A line by weight, then its chance; on a miss again, up to `tries` times in all."""
    tries = table_of(code, table, T_TRIES)
    place = reserved(random, 2 * tries)
    chosen = _due_line(code, state, table, clock, trace)
    if chosen < 0:
        chosen = _tried(code, real, state, table, clock, tries, place, trace)
    if table_of(code, table, T_DYNAMIC) == 1:
        for line in range(table_of(code, table, T_FIRST_LINE), table_of(code, table, T_END_LINE)):
            if is_open(code, state, line):
                tested(code, state, line, line == chosen, trace)
    return chosen


@njit(cache=True, nogil=True)
def _tried(code, real, state, table, clock, tries, place, trace):  # type: ignore[no-untyped-def]
    for at in range(tries):
        number = unit_of(place, 2 * at)
        if table_of(code, table, T_DYNAMIC) == 0:
            line = _picked(code, real, table, number, trace)
        else:
            line = _by_weight(code, real, state, table, clock, False, number, trace)
        if line < 0:
            return -1
        chance = min(1.0, real_of(code, real, line, LF_CHANCE) + risen(code, real, state, line))
        if hits_on(table, line, chance, unit_of(place, 2 * at + 1), trace):
            return line
    return -1


@njit(cache=True, nogil=True)
def _card(code, state, table, number, trace):  # type: ignore[no-untyped-def]
    """Draw a card; an empty deck is shuffled first, of the lines that are open then."""
    first, end = table_of(code, table, T_FIRST_LINE), table_of(code, table, T_END_LINE)
    total = 0
    for line in range(first, end):
        total += state[slot_at(code, line_of(code, line, L_LEFT))]
    if total == 0:
        for line in range(first, end):
            if is_open(code, state, line):
                copies = line_of(code, line, L_COPIES)
                state[slot_at(code, line_of(code, line, L_LEFT))] = copies
                total += copies
    if total == 0:
        return -1
    place = np.int64(number * total)
    for line in range(first, end):
        at = slot_at(code, line_of(code, line, L_LEFT))
        if place < state[at]:
            note(trace, N_CARD, table, line, number, state[at], total, 0)
            state[at] -= 1
            tested(code, state, line, True, trace)
            if _used_up(code, state, line):
                state[at] = 0
            return line
        place -= state[at]
    return -1


@njit(cache=True, nogil=True)
def _used_up(code, state, line):  # type: ignore[no-untyped-def]
    """Whether a line's limit is reached: its cards leave the deck at once."""
    limit = line_of(code, line, L_LIMIT)
    return limit > 0 and state[slot_at(code, line_of(code, line, L_HITS))] >= limit
