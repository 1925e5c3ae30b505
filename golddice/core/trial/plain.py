"""The fast way for what most sources are: plain picks of items."""

from __future__ import annotations

import numpy as np
from numba import njit

from golddice.core.trial.amounts import amount_of
from golddice.core.trial.carrying import value_so_far
from golddice.core.trial.program import (
    A_DROPS,
    A_GUIDE,
    A_LINES,
    A_QUANTITIES,
    A_SLOTS,
    A_SOURCES,
    A_TABLES,
    A_YIELDS,
    D_TABLE,
    D_TIMES,
    DROP_FIELDS,
    L_END_YIELD,
    L_FIRST_YIELD,
    LF_UPPER,
    LINE_FIELDS,
    LINE_FLOATS,
    R_DROPS,
    R_FACTORS,
    R_LINES,
    S_COUNTS,
    S_DROUGHT,
    S_FIRST,
    S_SEEN,
    T_END_LINE,
    T_GUIDE,
    T_GUIDE_SIZE,
    T_ROLLS,
    TABLE_FIELDS,
    Y_QUANTITY,
    Y_REF,
    YIELD_FIELDS,
)
from golddice.core.trial.rng import next_of


@njit(cache=True, nogil=True)
def plain_player(code, real, state, random, source, events, checkpoints, fan, slot_count):  # type: ignore[no-untyped-def]
    """All events of a player at a source whose tables are all plain picks of items.

    Draws the same numbers in the same order as `one_event`, but with nothing in the way: no stack,
    the generator and the places of all blocks in local variables. Several times as fast, for what
    most sources are.
    """
    tables, lines, yields = code[A_TABLES], code[A_LINES], code[A_YIELDS]
    quantities, drops, guide, slots = code[A_QUANTITIES], code[A_DROPS], code[A_GUIDE], code[A_SLOTS]
    uppers, factors, chances = code[R_LINES] + LF_UPPER, code[R_FACTORS], code[R_DROPS]
    counts, first, drought, seen = code[S_COUNTS], code[S_FIRST], code[S_DROUGHT], code[S_SEEN]
    low_drop, end_drop = code[code[A_SOURCES] + 2 * source], code[code[A_SOURCES] + 2 * source + 1]
    s0, s1, s2, s3 = random[0], random[1], random[2], random[3]
    mark = 0
    for event in range(1, events + 1):
        for drop in range(low_drop, end_drop):
            chance = real[chances + 2 * drop]
            if chance < 1.0:
                if chance <= 0.0:
                    continue
                number, s0, s1, s2, s3 = next_of(s0, s1, s2, s3)
                if number >= chance:
                    continue
            record = drops + drop * DROP_FIELDS
            table = tables + code[record + D_TABLE] * TABLE_FIELDS
            times, s0, s1, s2, s3 = amount_of(
                code, real, quantities, factors, code[record + D_TIMES], s0, s1, s2, s3
            )
            size, end = code[table + T_GUIDE_SIZE], code[table + T_END_LINE]
            begin = guide + code[table + T_GUIDE]
            for _ in range(times):
                rolls, s0, s1, s2, s3 = amount_of(
                    code, real, quantities, factors, code[table + T_ROLLS], s0, s1, s2, s3
                )
                if size == 0:
                    continue
                for _ in range(rolls):
                    number, s0, s1, s2, s3 = next_of(s0, s1, s2, s3)
                    line = code[begin + np.int64(number * size)]
                    while line < end and real[uppers + line * LINE_FLOATS] <= number:
                        line += 1
                    if line == end:
                        continue
                    at = lines + line * LINE_FIELDS
                    given = code[at + L_FIRST_YIELD]
                    if given == code[at + L_END_YIELD]:
                        continue
                    given = yields + given * YIELD_FIELDS
                    count, s0, s1, s2, s3 = amount_of(
                        code, real, quantities, factors, code[given + Y_QUANTITY], s0, s1, s2, s3
                    )
                    if count <= 0:
                        continue
                    slot = code[slots + code[given + Y_REF]]
                    state[counts + slot] += count
                    last = state[seen + slot]
                    if last != event:
                        if last == 0:
                            state[first + slot] = event
                        # A branch here is mispredicted at every record; a maximum costs nothing.
                        state[drought + slot] = max(state[drought + slot], event - last - 1)
                        state[seen + slot] = event
        if mark < checkpoints.size and checkpoints[mark] == event:
            fan[mark] = value_so_far(code, real, state, slot_count)
            mark += 1
