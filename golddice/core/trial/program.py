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

# pools: first and end item, and where its guide begins, of how many steps
POOL_FIELDS = 4


# What is kept of what is received, see `belongings`. Of an item with a column in the results: its slot of kit
# (or -1), its score's widths, its money (or -1), its size, the pieces of sets that it is, and whether any of
# this is asked when a unit comes.
G_ITEM, G_KIT, G_WIDTHS, G_END_WIDTHS, G_MONEY, G_WIDTH, G_HEIGHT, G_STACK, G_PIECES, G_END_PIECES = range(10)
G_ASKED = 10
GOODS_FIELDS = 11
# Of a source: its cells (0 for none), its price (money or -1, amount), when what fell is picked up (a
# quantity, or -1), whether what fell goes after a time, and whether any of this can take something away.
O_COLUMNS, O_ROWS, O_MONEY, O_AMOUNT, O_PICK_UP, O_LASTS, O_TAKES = range(7)
OWN_FIELDS = 7
# ground: (lasts, missed) of a source
# Of a piece of a set: the set, the column of its item (or -1), how many are asked for.
P_SET, P_SLOT, P_COUNT = range(3)
PIECE_FIELDS = 3

# The head of `code`: where each block begins. A_: blocks of integers in `code` itself;
# R_: blocks in `real`; S_: blocks in a player's state; then some counts.
A_TABLES, A_LINES, A_YIELDS, A_QUANTITIES, A_SOURCES, A_DROPS, A_POOLS, A_POOL_ITEMS = range(8)
A_GUIDE, A_SLOTS, A_GOODS, A_OWN, A_PIECES, A_PIECES_OF, A_SETS = range(8, 15)
R_LINES, R_NOTHING, R_FACTORS, R_DROPS, R_POOLS, R_VALUES, R_SECONDS = range(15, 22)
R_SCORES, R_WIDTHS, R_GROUND = range(22, 25)
# What outlives an event lies first, so that it lies alike in the programs of several depths.
S_CARRIED, S_COUNTS, S_FIRST, S_DROUGHT, S_SEEN, S_CLOCK = range(25, 31)
S_BAG, S_ASIDE, S_SOLD, S_LOST, S_MISSED, S_LEFT, S_ROOM, S_IN_ROOM, S_IN_PART = range(31, 40)
S_PURSE, S_BOUGHT, S_REFUSED, S_WORN, S_SETS, S_PIECES, S_CELLS, S_INSIDE = range(40, 48)
S_TAKEN, S_STACK = 48, 49
N_LINES, N_PLAIN, N_CARRIED, N_KEEPS, N_WHITHER, N_BAG_COLUMNS, N_BAG_ROWS = range(50, 57)
HEAD = 57

# At S_CLOCK: executions so far; whether what is given now is a visit's own, not an event's; events and
# encounters so far on a route; what was received last (its slot, from 1), how often that was the same as
# what came before it, and how often anything was received.
AT_CLOCK, AT_VISIT, AT_EVENTS, AT_ENCOUNTERS, AT_LAST, AT_SAME, AT_RECEIPTS = range(7)
# Of what is kept: the number of the part that is played now (an event, or what a visit gives between two);
# whose it is (a source, from 1; 0 of none; -1 of a visit); whether all of it stays on the ground; cells in
# use of the bag and of the container that is open; openings so far, those in which something was lost, the
# last of these; units left behind since the bag was emptied.
AT_PART, AT_FROM, AT_GROUND, AT_USED, AT_INSIDE, AT_OPENED, AT_SHORT, AT_SHORT_PART, AT_FULL = range(7, 16)
CLOCKS = 16

# At S_WORN, of each slot of kit: the column of what is worn (from 1), upgrades, the event of the first, the
# part of the last, how many units were ever worn, how many came.
W_ITEM, W_UPGRADES, W_FIRST, W_PART, W_TIMES, W_UNITS = range(6)
WORN_FIELDS = 6
# At S_SETS, of each set: pieces of which there are enough, the part and the event with which it was complete,
# units of its pieces beyond those that it asks for by then.
E_HAVE, E_PART, E_EVENT, E_SPARE = range(4)
SET_FIELDS = 4


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
    sources (s, 2) first and end drop; drops (d, 6); drop_reals (d, 2); pools (p, 4) first and end
    into pool_items and pool_upper, offset and size of the guide; slots (i,) the column of each item in the
    results, -1 where out of reach; values (k,) of one unit of each slot; seconds (s,) that an event of each
    source takes.

    Of what is kept, all empty where nothing is: goods (k, 11); own (s, 7); pieces (n, 3) of all sets;
    pieces_of, the pieces that an item is, by number; sets (e, 2) first and end piece; scores (k, 2) the least
    and the most of a unit; widths; ground (s, 2).
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
    goods: IntArray
    own: IntArray
    pieces: IntArray
    pieces_of: IntArray
    sets: IntArray
    line_reals: FloatArray
    nothing: FloatArray
    factors: FloatArray
    drop_reals: FloatArray
    pool_upper: FloatArray
    values: FloatArray
    seconds: FloatArray
    scores: FloatArray
    widths: FloatArray
    ground: FloatArray


class Room(NamedTuple):
    """What a player needs room for where things are kept: kinds of money, slots of kit, the bag's columns and
    rows (0 for no end of them), the rows of the largest container. Nothing where `used` is not set; `whither`
    where it is told what becomes of units, besides being worn and counted for sets."""

    used: bool = False
    whither: bool = False
    money: int = 0
    kit: int = 0
    bag: tuple[int, int] = (0, 0)
    inside: int = 0


def packed(blocks: Blocks, carried: int, stack: int, plain: bool, room: Room) -> Program:
    """Lay the blocks end to end and note in the head where each begins. `carried` is how many numbers a
    player carries."""
    head = np.zeros(HEAD, dtype=np.int64)
    ints, reals = list(blocks[:15]), list(blocks[15:])
    head[A_TABLES : A_SETS + 1] = HEAD + _starts([block.size for block in ints])
    head[R_LINES : R_GROUND + 1] = _starts([block.size for block in reals])
    lines, slots = blocks.lines.shape[0], blocks.values.size
    own = _kept_sizes(blocks, room)
    head[S_CARRIED : S_STACK + 1] = _starts([carried, slots, slots, slots, slots, CLOCKS, *own, lines, 0])
    head[N_LINES], head[N_PLAIN], head[N_CARRIED] = lines, plain, carried
    head[N_KEEPS : N_BAG_ROWS + 1] = room.used, room.whither, *room.bag
    return Program(
        code=np.concatenate([head, *(block.ravel() for block in ints)]),
        real=np.concatenate([block.ravel() for block in reals]),
        state_size=int(head[S_STACK]) + 4 * stack,
    )


def _kept_sizes(blocks: Blocks, room: Room) -> list[int]:
    """Of the blocks from S_BAG to S_INSIDE."""
    if not room.used:
        return [0] * (S_INSIDE - S_BAG + 1)
    slots, sources = blocks.values.size, blocks.seconds.size
    sets, pieces = blocks.sets.shape[0], blocks.pieces.shape[0]
    by_slot = [slots if room.whither else 0] * (S_PURSE - S_BAG)
    kit = [room.money, sources, sources, WORN_FIELDS * room.kit, SET_FIELDS * sets, pieces]
    return [*by_slot, *kit, 2 * room.bag[1], 2 * room.inside]


def _starts(sizes: list[int]) -> IntArray:
    return np.cumsum([0, *sizes[:-1]])
