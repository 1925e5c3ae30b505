"""The fast way for what most sources are: plain picks of items.

Draws the same numbers at the same places as `kernel.one_event`, from the same pieces, but with nothing in
the way: no stack, and the places of all blocks in local variables. Several times as fast.
"""

from __future__ import annotations

import numpy as np
from numba import njit

from golddice.core.trial.amounts import amount_of
from golddice.core.trial.belongings import comes, part_begins
from golddice.core.trial.carrying import receive, value_so_far
from golddice.core.trial.program import (
    A_DROPS,
    A_GUIDE,
    A_LINES,
    A_QUANTITIES,
    A_SLOTS,
    A_SOURCES,
    A_TABLES,
    A_YIELDS,
    AT_LAST,
    AT_RECEIPTS,
    AT_SAME,
    D_OPEN,
    D_TABLE,
    D_TIMES,
    DROP_FIELDS,
    L_END_YIELD,
    L_FIRST_YIELD,
    LF_UPPER,
    LINE_FIELDS,
    R_DROPS,
    R_FACTORS,
    R_LINES,
    S_CLOCK,
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
from golddice.core.trial.rng import EVENT, GOLDEN, at_event, unit_at
from golddice.core.trial.rules import where_it_falls

LOOK = 64  # events between two looks at the stop sign: one can come to hundreds of thousands of rolls


@njit(cache=True, nogil=True)
def plain_player(code, real, state, start, root, first_event, events, checkpoints, fan, slots, stop, keep):  # type: ignore[no-untyped-def]
    """Events of a player at a source whose tables are all plain picks of items, or at one such table. `root`
    is (row of the source, row of the table), -1 for the other."""
    tables, lines, yields = code[A_TABLES], code[A_LINES], code[A_YIELDS]
    quantities, drops, guides, columns = code[A_QUANTITIES], code[A_DROPS], code[A_GUIDE], code[A_SLOTS]
    uppers, factors, chances = code[R_LINES] + LF_UPPER, code[R_FACTORS], code[R_DROPS]
    counts, firsts, droughts, seen = code[S_COUNTS], code[S_FIRST], code[S_DROUGHT], code[S_SEEN]
    before = code[S_CLOCK]
    # Repeats are counted here and put back in the end: every record would wait for its own count.
    last, same, receipts = state[before + AT_LAST], state[before + AT_SAME], state[before + AT_RECEIPTS]
    alone, low_drop, end_drop = root[1] >= 0, 0, 1
    if not alone:
        low_drop, end_drop = code[code[A_SOURCES] + 2 * root[0]], code[code[A_SOURCES] + 2 * root[0] + 1]
    mark = 0
    # The number of the next event's first roll, if it stands where this one's did: begun before it is known
    # what falls now, so that a roll does not wait for its number.
    guess, ahead = at_event(start, 0), 0.0
    begun, end_event = first_event, first_event + events
    while begun < end_event and stop[0] == 0:
        # As far as nothing is looked at: what an event has no need of is out of its way, a tenth of its time.
        until = min(end_event, begun + LOOK)
        is_marked = mark < checkpoints.size and begun <= checkpoints[mark] < until
        if is_marked:
            until = checkpoints[mark] + 1
        for event in range(begun, until):
            place, is_first = at_event(start, event), True
            if keep is not None:
                part_begins(code, real, state, keep, start, event, root[0], None)
            for drop in range(low_drop, end_drop):
                times, row = np.int64(1), root[1]
                if not alone:
                    record = drops + drop * DROP_FIELDS
                    place += GOLDEN
                    chance = real[chances + 2 * drop]
                    hit = code[record + D_OPEN] == 1 and (chance >= 1.0 or unit_at(place) < chance)
                    if not hit:
                        place += GOLDEN + GOLDEN
                        continue
                    times, place = amount_of(code, real, quantities, factors, code[record + D_TIMES], place)
                    row = code[record + D_TABLE]
                table = tables + row * TABLE_FIELDS
                size, end, guide = (
                    code[table + T_GUIDE_SIZE],
                    code[table + T_END_LINE],
                    guides + code[table + T_GUIDE],
                )
                ref = code[table + T_ROLLS]
                for _ in range(times):
                    rolls, place = amount_of(code, real, quantities, factors, ref, place)
                    for _ in range(rolls):
                        place += GOLDEN
                        if size == 0:
                            continue
                        number = ahead if place == guess else unit_at(place)
                        if is_first:
                            guess, is_first = place + EVENT, False
                            ahead = unit_at(guess)
                        line = where_it_falls(code, real, guide, size, end, uppers, number)
                        if line == end:
                            continue
                        given = code[lines + line * LINE_FIELDS + L_FIRST_YIELD]
                        if given == code[lines + line * LINE_FIELDS + L_END_YIELD]:
                            continue
                        given = yields + given * YIELD_FIELDS
                        many = code[given + Y_QUANTITY]
                        count, place = amount_of(code, real, quantities, factors, many, place)
                        if count > 0:
                            slot = code[columns + code[given + Y_REF]]
                            receive(state, counts, firsts, droughts, seen, slot, event, count)
                            if keep is not None:
                                comes(code, real, state, keep, slot, event, count, None)
                            same += last == slot + 1
                            receipts += 1
                            last = slot + 1
        if is_marked:
            fan[mark] = value_so_far(code, real, state, slots)
            mark += 1
        begun = until
    state[before + AT_LAST], state[before + AT_SAME], state[before + AT_RECEIPTS] = last, same, receipts
