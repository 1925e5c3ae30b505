"""One roll by each rule that gives at most one line. (`each` is the kernel's: it gives as it goes.)"""

from __future__ import annotations

import numpy as np
from numba import njit

from golddice.core.trial.carrying import can_take, is_due, is_open, risen, tested
from golddice.core.trial.fields import line_of, real_of, table_of
from golddice.core.trial.notes import N_CARD, N_DUE, N_PICK, N_TEST, note
from golddice.core.trial.program import (
    A_GUIDE,
    DECK,
    FIRST,
    L_COPIES,
    LF_CHANCE,
    LF_UPPER,
    LF_WEIGHT,
    PICK,
    R_NOTHING,
    S_LEFT,
    S_TAKEN,
    T_DYNAMIC,
    T_END_LINE,
    T_FIRST_LINE,
    T_GUIDE,
    T_GUIDE_SIZE,
    T_TRIES,
)
from golddice.core.trial.rng import next_unit


@njit(cache=True, nogil=True)
def one_line(code, real, state, random, table, rule, clock, trace):  # type: ignore[no-untyped-def]
    """The line that one roll gives, or -1, for the rules that give at most one."""
    if rule == PICK:
        if table_of(code, table, T_DYNAMIC) == 0:
            return _picked(code, real, state, random, table, trace)
        return _picked_by_state(code, real, state, random, table, clock, trace)
    if rule == FIRST:
        return _first(code, real, state, random, table, trace)
    if rule == DECK:
        return _card(code, real, state, random, table, trace)
    return _retry(code, real, state, random, table, clock, trace)


@njit(cache=True, nogil=True)
def _picked(code, real, state, random, table, trace):  # type: ignore[no-untyped-def]
    """Where a number falls on the strip: lines in order, then nothing.

    The guide holds, for each of its equal steps, the first line that ends beyond the step's start,
    so the search takes constant time on average (Chen and Asau 1974).
    """
    size = table_of(code, table, T_GUIDE_SIZE)
    if size == 0:
        return -1
    number = next_unit(random)
    line = code[code[A_GUIDE] + table_of(code, table, T_GUIDE) + np.int64(number * size)]
    end = table_of(code, table, T_END_LINE)
    while line < end and real_of(code, real, line, LF_UPPER) <= number:
        line += 1
    first = table_of(code, table, T_FIRST_LINE)
    low = real_of(code, real, line - 1, LF_UPPER) if line > first else 0.0
    if line == end:
        note(trace, N_PICK, table, -1, number, low, 1.0, 0)
        return -1
    note(trace, N_PICK, table, line, number, low, real_of(code, real, line, LF_UPPER), 0)
    return line


@njit(cache=True, nogil=True)
def _picked_by_state(code, real, state, random, table, clock, trace):  # type: ignore[no-untyped-def]
    """A pick whose weights depend on what the player carries."""
    first, end = table_of(code, table, T_FIRST_LINE), table_of(code, table, T_END_LINE)
    chosen = _due_line(code, real, state, random, table, clock, trace)
    if chosen < 0:
        chosen = _by_weight(code, real, state, random, table, clock, True, trace)
    for line in range(first, end):
        if line != chosen and can_take(code, real, state, random, table, line, clock):
            tested(code, real, state, random, line, False, trace)
    if chosen >= 0:
        tested(code, real, state, random, chosen, True, trace)
        state[code[S_TAKEN] + chosen] = clock
    return chosen


@njit(cache=True, nogil=True)
def _due_line(code, real, state, random, table, clock, trace):  # type: ignore[no-untyped-def]
    """The first line in order that is due, or -1."""
    for line in range(table_of(code, table, T_FIRST_LINE), table_of(code, table, T_END_LINE)):
        if is_due(code, real, state, random, line) and can_take(
            code, real, state, random, table, line, clock
        ):
            note(trace, N_DUE, table, line, -1.0, 0.0, 1.0, 0)
            return line
    return -1


@njit(cache=True, nogil=True)
def _by_weight(code, real, state, random, table, clock, rises, trace):  # type: ignore[no-untyped-def]
    """One line among those that take part, or -1 for nothing; weights as they are now."""
    first, end = table_of(code, table, T_FIRST_LINE), table_of(code, table, T_END_LINE)
    total = real[code[R_NOTHING] + table]
    for line in range(first, end):
        if can_take(code, real, state, random, table, line, clock):
            factor = 1.0 + risen(code, real, state, random, line) if rises else 1.0
            total += real_of(code, real, line, LF_WEIGHT) * factor
    if total <= 0.0:
        return -1
    number = next_unit(random)
    low = 0.0
    last = -1
    for line in range(first, end):
        if can_take(code, real, state, random, table, line, clock):
            factor = 1.0 + risen(code, real, state, random, line) if rises else 1.0
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
def chance_now(code, real, state, random, line):  # type: ignore[no-untyped-def]
    """A line's chance with what its guard adds."""
    if is_due(code, real, state, random, line):
        return 1.0
    chance = real_of(code, real, line, LF_CHANCE) + risen(code, real, state, random, line)
    return min(1.0, chance)


@njit(cache=True, nogil=True)
def hits_on(code, real, state, random, table, line, chance, trace):  # type: ignore[no-untyped-def]
    """Test one line on a chance; sure things draw no number."""
    number = next_unit(random) if 0.0 < chance < 1.0 else -1.0
    hit = chance >= 1.0 or (number >= 0.0 and number < chance)
    note(trace, N_TEST, table, line, number, 0.0, chance, hit)
    return hit


@njit(cache=True, nogil=True)
def _first(code, real, state, random, table, trace):  # type: ignore[no-untyped-def]
    """Lines in order until one hits; the rest are not tested."""
    for line in range(table_of(code, table, T_FIRST_LINE), table_of(code, table, T_END_LINE)):
        if is_open(code, real, state, random, line):
            chance = chance_now(code, real, state, random, line)
            hit = hits_on(code, real, state, random, table, line, chance, trace)
            tested(code, real, state, random, line, hit, trace)
            if hit:
                return line
    return -1


@njit(cache=True, nogil=True)
def _retry(code, real, state, random, table, clock, trace):  # type: ignore[no-untyped-def]
    """A line by weight, then its chance; on a miss again, up to `tries` times in all."""
    chosen = _due_line(code, real, state, random, table, clock, trace)
    if chosen < 0:
        for _ in range(table_of(code, table, T_TRIES)):
            if table_of(code, table, T_DYNAMIC) == 0:
                line = _picked(code, real, state, random, table, trace)
            else:
                line = _by_weight(code, real, state, random, table, clock, False, trace)
            if line < 0:
                break
            chance = min(1.0, real_of(code, real, line, LF_CHANCE) + risen(code, real, state, random, line))
            if hits_on(code, real, state, random, table, line, chance, trace):
                chosen = line
                break
    if table_of(code, table, T_DYNAMIC) == 1:
        for line in range(table_of(code, table, T_FIRST_LINE), table_of(code, table, T_END_LINE)):
            if is_open(code, real, state, random, line):
                tested(code, real, state, random, line, line == chosen, trace)
    return chosen


@njit(cache=True, nogil=True)
def _card(code, real, state, random, table, trace):  # type: ignore[no-untyped-def]
    """Draw a card; an empty deck is reshuffled first."""
    first, end = table_of(code, table, T_FIRST_LINE), table_of(code, table, T_END_LINE)
    total = 0
    for line in range(first, end):
        total += state[code[S_LEFT] + line]
    if total == 0:
        for line in range(first, end):
            if is_open(code, real, state, random, line):
                state[code[S_LEFT] + line] = line_of(code, line, L_COPIES)
                total += state[code[S_LEFT] + line]
    if total == 0:
        return -1
    number = next_unit(random)
    place = np.int64(number * total)
    for line in range(first, end):
        if place < state[code[S_LEFT] + line]:
            note(trace, N_CARD, table, line, number, state[code[S_LEFT] + line], total, 0)
            state[code[S_LEFT] + line] -= 1
            tested(code, real, state, random, line, True, trace)
            if not is_open(code, real, state, random, line):
                state[code[S_LEFT] + line] = 0
            return line
        place -= state[code[S_LEFT] + line]
    return -1
