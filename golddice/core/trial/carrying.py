"""What a player carries: hits of a line's limit, misses of its guard, and what they have received."""

from __future__ import annotations

from numba import njit

from golddice.core.trial.fields import line_of, real_of, table_of
from golddice.core.trial.notes import N_MISSES, note
from golddice.core.trial.program import (
    L_AFTER,
    L_GUARD,
    L_HITS,
    L_LIMIT,
    L_SURE,
    LF_RISE,
    R_VALUES,
    S_COUNTS,
    S_HITS,
    S_MISSES,
    S_TAKEN,
    T_DISTINCT,
)


@njit(cache=True, nogil=True)
def is_open(code, real, state, random, line):  # type: ignore[no-untyped-def]
    """Whether a line's limit leaves it open."""
    limit = line_of(code, line, L_LIMIT)
    return limit == 0 or state[code[S_HITS] + line_of(code, line, L_HITS)] < limit


@njit(cache=True, nogil=True)
def risen(code, real, state, random, line):  # type: ignore[no-untyped-def]
    """r * max(0, m - after): by how much a line's guard has risen."""
    guard = line_of(code, line, L_GUARD)
    if guard < 0:
        return 0.0
    over = state[code[S_MISSES] + guard] - line_of(code, line, L_AFTER)
    return real_of(code, real, line, LF_RISE) * over if over > 0 else 0.0


@njit(cache=True, nogil=True)
def is_due(code, real, state, random, line):  # type: ignore[no-untyped-def]
    """Whether a line's guard makes it hit for certain on this roll."""
    guard, sure = line_of(code, line, L_GUARD), line_of(code, line, L_SURE)
    return guard >= 0 and sure > 0 and state[code[S_MISSES] + guard] + 1 >= sure


@njit(cache=True, nogil=True)
def tested(code, real, state, random, line, hit, trace):  # type: ignore[no-untyped-def]
    """Count a hit or a miss of an open line for its guard and its limit."""
    guard, limit = line_of(code, line, L_GUARD), line_of(code, line, L_HITS)
    if guard >= 0:
        note(trace, N_MISSES, line, line, -1.0, state[code[S_MISSES] + guard], 0.0, hit)
        state[code[S_MISSES] + guard] = 0 if hit else state[code[S_MISSES] + guard] + 1
    if hit and limit >= 0:
        state[code[S_HITS] + limit] += 1


@njit(cache=True, nogil=True)
def can_take(code, real, state, random, table, line, clock):  # type: ignore[no-untyped-def]
    """Whether a line takes part in this roll: limit not reached, not picked before if distinct."""
    if table_of(code, table, T_DISTINCT) == 1 and state[code[S_TAKEN] + line] == clock:
        return False
    return is_open(code, real, state, random, line)


@njit(cache=True, nogil=True)
def value_so_far(code, real, state, slots):  # type: ignore[no-untyped-def]
    """The value of what a player has so far."""
    total = 0.0
    for slot in range(slots):
        total += state[code[S_COUNTS] + slot] * real[code[R_VALUES] + slot]
    return total
