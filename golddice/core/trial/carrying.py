"""What a player carries: hits of a line's limit, misses of its guard, and what they have received."""

from __future__ import annotations

from numba import njit

from golddice.core.trial.fields import line_of, real_of, slot_at, table_of
from golddice.core.trial.notes import N_MISSES, note
from golddice.core.trial.program import (
    AT_LAST,
    AT_RECEIPTS,
    AT_SAME,
    L_AFTER,
    L_HITS,
    L_LIMIT,
    L_MISSES,
    L_OPEN,
    L_SURE,
    LF_RISE,
    R_VALUES,
    S_CLOCK,
    S_COUNTS,
    S_DROUGHT,
    S_FIRST,
    S_SEEN,
    S_TAKEN,
    T_DISTINCT,
)


@njit(cache=True, nogil=True)
def is_open(code, state, line):  # type: ignore[no-untyped-def]
    """Whether depth, flags and its limit leave a line open."""
    if line_of(code, line, L_OPEN) == 0:
        return False
    limit = line_of(code, line, L_LIMIT)
    return limit == 0 or state[slot_at(code, line_of(code, line, L_HITS))] < limit


@njit(cache=True, nogil=True)
def risen(code, real, state, line):  # type: ignore[no-untyped-def]
    """r * max(0, m - after): by how much a line's guard has risen."""
    slot = line_of(code, line, L_MISSES)
    if slot < 0:
        return 0.0
    over = state[slot_at(code, slot)] - line_of(code, line, L_AFTER)
    return real_of(code, real, line, LF_RISE) * over if over > 0 else 0.0


@njit(cache=True, nogil=True)
def is_due(code, state, line):  # type: ignore[no-untyped-def]
    """Whether a line's guard makes it hit for certain on this roll."""
    slot, sure = line_of(code, line, L_MISSES), line_of(code, line, L_SURE)
    return slot >= 0 and sure > 0 and state[slot_at(code, slot)] + 1 >= sure


@njit(cache=True, nogil=True)
def tested(code, state, line, hit, trace):  # type: ignore[no-untyped-def]
    """Count a hit or a miss of an open line for its guard and its limit."""
    misses, hits = line_of(code, line, L_MISSES), line_of(code, line, L_HITS)
    if misses >= 0:
        at = slot_at(code, misses)
        note(trace, N_MISSES, line, line, -1.0, state[at], 0.0, hit)
        state[at] = 0 if hit else state[at] + 1
    if hit and hits >= 0:
        state[slot_at(code, hits)] += 1


@njit(cache=True, nogil=True)
def can_take(code, state, table, line, clock):  # type: ignore[no-untyped-def]
    """Whether a line takes part in this roll: open, and not picked before if distinct."""
    if table_of(code, table, T_DISTINCT) == 1 and state[code[S_TAKEN] + line] == clock:
        return False
    return is_open(code, state, line)


@njit(cache=True, inline="always")
def receive(state, counts, first, drought, seen, slot, event, count):  # type: ignore[no-untyped-def]
    """Put units of an item into the bag; keep track of the first one and of droughts. The blocks are where
    each begins in the state."""
    state[counts + slot] += count
    last = state[seen + slot]
    if last != event:
        if last == 0:
            state[first + slot] = event
        # A branch here is mispredicted at every record; a maximum costs nothing.
        state[drought + slot] = max(state[drought + slot], event - last - 1)
        state[seen + slot] = event


@njit(cache=True, nogil=True)
def received(code, state, slot, event, count):  # type: ignore[no-untyped-def]
    blocks = code[S_COUNTS], code[S_FIRST], code[S_DROUGHT], code[S_SEEN]
    receive(state, blocks[0], blocks[1], blocks[2], blocks[3], slot, event, count)
    at = code[S_CLOCK]
    state[at + AT_SAME] += state[at + AT_LAST] == slot + 1
    state[at + AT_RECEIPTS] += 1
    state[at + AT_LAST] = slot + 1


@njit(cache=True, nogil=True)
def value_so_far(code, real, state, slots):  # type: ignore[no-untyped-def]
    """The value of what a player has so far."""
    total = 0.0
    for slot in range(slots):
        total += state[code[S_COUNTS] + slot] * real[code[R_VALUES] + slot]
    return total
