"""A game compiled for the event kernel: all that depth and flags decide is decided.

Every table, line, yield ... is a record of a few numbers, and the constants below name its fields. Closed
lines and drops are there too: numbers are drawn for them as for others. References are row numbers.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from golddice.core.arrays import FloatArray, IntArray

# rules
PICK, EACH, FIRST, RETRY, DECK = range(5)
RULES = {"pick": PICK, "each": EACH, "first": FIRST, "retry": RETRY, "deck": DECK}

# kinds of yield
ITEM, TABLE, SOURCE, POOL = range(4)

# kinds of quantity
CONSTANT, RANGE, DICE = range(3)
ONE = 0  # the first quantity is always exactly one

# fields of a table
T_RULE, T_FIRST_LINE, T_END_LINE, T_ROLLS, T_TRIES, T_DISTINCT = range(6)
T_DYNAMIC, T_GUIDE, T_GUIDE_SIZE = range(6, 9)
TABLE_FIELDS = 9

# fields of a line, whole numbers (those of what is carried are slots, or -1) and reals
L_FIRST_YIELD, L_END_YIELD, L_OPEN, L_LIMIT, L_HITS, L_MISSES, L_AFTER, L_SURE, L_LEFT, L_COPIES = range(10)
LINE_FIELDS = 10
LF_WEIGHT, LF_CHANCE, LF_RISE, LF_UPPER = range(4)
LINE_FLOATS = 4

# yields
Y_KIND, Y_REF, Y_QUANTITY = range(3)
YIELD_FIELDS = 3

# quantities: for a range MIN, STEP, COUNT; for dice COUNT dice, STEP faces, MIN added
Q_KIND, Q_MIN, Q_STEP, Q_COUNT = range(4)
QUANTITY_FIELDS = 4

# drops
D_TABLE, D_TIMES, D_OPEN, D_MISSES, D_AFTER, D_SURE = range(6)
DROP_FIELDS = 6
# drop_reals: (chance, rise)


# The head of `code`: where each block begins. A_: blocks of integers in `code` itself;
# R_: blocks in `real`; S_: blocks in a player's state; then some counts.
A_TABLES, A_LINES, A_YIELDS, A_QUANTITIES, A_SOURCES, A_DROPS, A_POOLS, A_POOL_ITEMS = range(8)
A_GUIDE, A_SLOTS = 8, 9
R_LINES, R_NOTHING, R_FACTORS, R_DROPS, R_POOLS, R_VALUES, R_SECONDS = range(10, 17)
# What outlives an event lies first, so that it lies alike in the programs of several depths.
S_CARRIED, S_COUNTS, S_FIRST, S_DROUGHT, S_SEEN, S_CLOCK, S_TAKEN, S_STACK = range(17, 25)
N_LINES, N_PLAIN, N_CARRIED = range(25, 28)
HEAD = 32

# At S_CLOCK: executions so far; whether what is given now is a visit's own, not an event's; events and
# encounters so far on a route; what was received last (its slot, from 1), how often that was the same as
# what came before it, and how often anything was received.
AT_CLOCK, AT_VISIT, AT_EVENTS, AT_ENCOUNTERS, AT_LAST, AT_SAME, AT_RECEIPTS = range(7)
CLOCKS = 7


class Program(NamedTuple):
    """What the kernel runs: two flat arrays, blocks of records behind a head of offsets.

    code : ndarray of int64. real : ndarray of float64. state_size : length of a player's state.
    """

    code: IntArray
    real: FloatArray
    state_size: int


class Blocks(NamedTuple):
    """The blocks of a program before they are packed.

    Shapes: t tables, l lines, y yields, q quantities, s sources, d drops, p pools, k slots of items.
    tables (t, 9); nothing (t,) weights; guide (g,) see `rules.picked`; lines (l, 10);
    line_reals (l, 4); yields (y, 3); quantities (q, 4); factors (q,) the curves' multipliers;
    sources (s, 2) first and end drop; drops (d, 6); drop_reals (d, 2); pools (p, 2) first and end
    into pool_items and pool_upper; slots (i,) the column of each item in the results, -1 where out
    of reach; values (k,) of one unit of each slot; seconds (s,) that an event of each source takes.
    """

    tables: IntArray
    lines: IntArray
    yields: IntArray
    quantities: IntArray
    sources: IntArray
    drops: IntArray
    pools: IntArray
    pool_items: IntArray
    guide: IntArray
    slots: IntArray
    line_reals: FloatArray
    nothing: FloatArray
    factors: FloatArray
    drop_reals: FloatArray
    pool_upper: FloatArray
    values: FloatArray
    seconds: FloatArray


def packed(blocks: Blocks, carried: int, stack: int, plain: bool) -> Program:
    """Lay the blocks end to end and note in the head where each begins. `carried` is how many numbers a
    player carries."""
    head = np.zeros(HEAD, dtype=np.int64)
    ints, reals = list(blocks[:10]), list(blocks[10:])
    head[A_TABLES : A_SLOTS + 1] = HEAD + _starts([block.size for block in ints])
    head[R_LINES : R_SECONDS + 1] = _starts([block.size for block in reals])
    lines, slots = blocks.lines.shape[0], blocks.values.size
    head[S_CARRIED : S_STACK + 1] = _starts([carried, slots, slots, slots, slots, CLOCKS, lines, 0])
    head[N_LINES], head[N_PLAIN], head[N_CARRIED] = lines, plain, carried
    return Program(
        code=np.concatenate([head, *(block.ravel() for block in ints)]),
        real=np.concatenate([block.ravel() for block in reals]),
        state_size=int(head[S_STACK]) + 4 * stack,
    )


def _starts(sizes: list[int]) -> IntArray:
    return np.cumsum([0, *sizes[:-1]])
