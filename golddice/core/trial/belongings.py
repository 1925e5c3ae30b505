"""What a player keeps of what is received: kit and sets, the container that it lay in, the ground, the purse
and the bag. Every part of a route comes through here: an event, or what a visit itself gives between two.

Where nothing is kept none of this is compiled into what is played. Its numbers are drawn from places of their
own, so that what is rolled is the same with it and without.

`keep` is (the worn scores of a player, the place of the last number that was drawn here).
"""

from __future__ import annotations

import numpy as np
from numba import njit, types
from numba.extending import overload

from golddice.core.trial.amounts import drawn_quantity
from golddice.core.trial.fields import pointer_to
from golddice.core.trial.notes import N_LEFT, N_LOST, N_OUT, N_PAID, N_REFUSED, N_SET, N_WORN, note
from golddice.core.trial.packing import put
from golddice.core.trial.program import (
    A_GOODS,
    A_OWN,
    A_PIECES,
    A_PIECES_OF,
    A_SETS,
    AT_FROM,
    AT_FULL,
    AT_GROUND,
    AT_INSIDE,
    AT_OPENED,
    AT_PART,
    AT_SHORT,
    AT_SHORT_PART,
    AT_USED,
    E_EVENT,
    E_HAVE,
    E_PART,
    E_SPARE,
    G_ASKED,
    G_END_PIECES,
    G_END_WIDTHS,
    G_HEIGHT,
    G_ITEM,
    G_KIT,
    G_MONEY,
    G_PIECES,
    G_STACK,
    G_WIDTH,
    G_WIDTHS,
    GOODS_FIELDS,
    N_BAG_COLUMNS,
    N_BAG_ROWS,
    N_KEEPS,
    N_WHITHER,
    O_AMOUNT,
    O_COLUMNS,
    O_LASTS,
    O_MONEY,
    O_PICK_UP,
    O_ROWS,
    O_TAKES,
    OWN_FIELDS,
    P_COUNT,
    P_SET,
    P_SLOT,
    PIECE_FIELDS,
    R_GROUND,
    R_SCORES,
    R_WIDTHS,
    S_BAG,
    S_BOUGHT,
    S_CELLS,
    S_CLOCK,
    S_COUNTS,
    S_IN_PART,
    S_IN_ROOM,
    S_INSIDE,
    S_LEFT,
    S_LOST,
    S_MISSED,
    S_PIECES,
    S_PURSE,
    S_REFUSED,
    S_ROOM,
    S_SETS,
    S_WORN,
    SET_FIELDS,
    W_FIRST,
    W_ITEM,
    W_PART,
    W_TIMES,
    W_UNITS,
    W_UPGRADES,
    WORN_FIELDS,
)
from golddice.core.trial.rng import GOLDEN, at_event, next_unit

KEPT = 3 * 2**30  # where the numbers of events begin here, counted in events
PARTS = KEPT + 2**29  # and those of what a visit gives between events, by the number of the part
NO_ROOM = -1  # for a new stack, until the bag is emptied


def keep_of(kept, row):  # type: ignore[no-untyped-def]
    """What a player of `new_keep` keeps, as pointers; None where nothing is kept."""
    raise NotImplementedError("only what is compiled can point")


@overload(keep_of)
def _keep_of(kept, row):  # type: ignore[no-untyped-def]
    # By type: told apart by value, it would be compiled as something that may be either.
    if isinstance(kept, types.NoneType):
        return lambda kept, row: None
    return lambda kept, row: (pointer_to(kept[0][row]), pointer_to(kept[1]))


@njit(cache=True, nogil=True)
def pays(code, state, source, attempts, trace):  # type: ignore[no-untyped-def]
    """Whether a source's price can be paid, which is taken then; else all the attempts are refused: what is
    in the purse changes no more between them."""
    if code[N_KEEPS] == 0:
        return True
    own = code[A_OWN] + source * OWN_FIELDS
    money = code[own + O_MONEY]
    if money < 0:
        return True
    at, price = code[S_PURSE] + money, code[own + O_AMOUNT]
    if state[at] < price:
        state[code[S_REFUSED] + source] += attempts
        note(trace, N_REFUSED, source, -1, -1.0, state[at], price, attempts)
        return False
    state[at] -= price
    state[code[S_BOUGHT] + source] += 1
    return True


@njit(cache=True, nogil=True)
def is_priced(code, source):  # type: ignore[no-untyped-def]
    return code[N_KEEPS] == 1 and code[code[A_OWN] + source * OWN_FIELDS + O_MONEY] >= 0


@njit(cache=True, nogil=True)
def part_begins(code, real, state, keep, start, event, source, trace):  # type: ignore[no-untyped-def]
    """An event begins: its container is empty, and it is drawn when what falls is picked up. `source` is -1
    where it is of none, as when a table is rolled by itself."""
    if code[N_KEEPS] == 0:
        return
    clock = code[S_CLOCK]
    state[clock + AT_PART] += 1
    state[clock + AT_FROM] = source + 1
    state[clock + AT_GROUND] = 0
    keep[1][0] = at_event(start, KEPT + event)
    if source < 0 or code[N_WHITHER] == 0:
        return
    own = code[A_OWN] + source * OWN_FIELDS
    if code[own + O_MONEY] >= 0:
        money = code[S_PURSE] + code[own + O_MONEY]
        note(trace, N_PAID, source, -1, -1.0, state[money], 0.0, code[own + O_AMOUNT])
    if code[own + O_COLUMNS] > 0:
        for word in range(2 * code[own + O_ROWS]):
            state[code[S_INSIDE] + word] = 0
        state[clock + AT_INSIDE] = 0
        state[clock + AT_OPENED] += 1
    if code[own + O_LASTS] == 1 and code[own + O_PICK_UP] >= 0:
        luck = keep[1]
        taken = drawn_quantity(code, real, luck, code[own + O_PICK_UP])
        state[clock + AT_GROUND] = taken > real[code[R_GROUND] + 2 * source]


@njit(cache=True, nogil=True)
def visit_goes_on(code, state, keep, start):  # type: ignore[no-untyped-def]
    """What a visit gives by itself begins, or goes on after an event."""
    if code[N_KEEPS] == 0:
        return
    clock = code[S_CLOCK]
    state[clock + AT_PART] += 1
    state[clock + AT_FROM] = -1
    state[clock + AT_GROUND] = 0
    keep[1][0] = at_event(start, PARTS + state[clock + AT_PART])


@njit(cache=True, inline="always")
def comes(code, real, state, keep, slot, event, count, trace):  # type: ignore[no-untyped-def]
    """Units of an item are received."""
    if code[N_KEEPS] == 1 and code[code[A_GOODS] + slot * GOODS_FIELDS + G_ASKED] == 1:
        _come(code, real, state, keep, slot, event, count, trace)


@njit(cache=True, nogil=True)
def _come(code, real, state, keep, slot, event, count, trace):  # type: ignore[no-untyped-def]
    """They are tried on, counted for sets; and kept, as far as they can be."""
    good = code[A_GOODS] + slot * GOODS_FIELDS
    if code[good + G_KIT] >= 0:
        _tried_on(code, real, state, keep, slot, event, count, trace)
    if code[good + G_PIECES] < code[good + G_END_PIECES]:
        _gathered(code, state, slot, event, count, trace)
    if code[N_WHITHER] == 0:
        return
    left, source = count, state[code[S_CLOCK] + AT_FROM] - 1
    if source >= 0 and code[code[A_OWN] + source * OWN_FIELDS + O_TAKES] == 1:
        left = _got_out(code, real, state, keep, slot, source, left, trace)
    money = code[good + G_MONEY]
    if money >= 0:
        state[code[S_PURSE] + money] += left
    elif left > 0:
        _bagged(code, state, slot, left, trace)


@njit(cache=True, nogil=True)
def _tried_on(code, real, state, keep, slot, event, count, trace):  # type: ignore[no-untyped-def]
    """Each unit's stats are rolled; what scores more than what is worn is worn instead."""
    good = code[A_GOODS] + slot * GOODS_FIELDS
    kit, clock = code[good + G_KIT], code[S_CLOCK]
    worn, luck, at = keep[0], keep[1], code[S_WORN] + kit * WORN_FIELDS
    state[at + W_UNITS] += count
    scores, first, end = code[R_SCORES] + 2 * slot, code[good + G_WIDTHS], code[good + G_END_WIDTHS]
    if real[scores + 1] <= worn[kit]:  # whatever is rolled
        luck[0] += np.uint64(count * (end - first)) * GOLDEN
        return
    for _ in range(count):
        score = real[scores]
        for width in range(first, end):
            score += real[code[R_WIDTHS] + width] * next_unit(luck)
        if score <= worn[kit]:
            continue
        before = state[at + W_ITEM] - 1
        old = -1 if before < 0 else code[code[A_GOODS] + before * GOODS_FIELDS + G_ITEM]
        note(trace, N_WORN, code[good + G_ITEM], old, -1.0, score, worn[kit], 1)
        worn[kit] = score
        state[at + W_ITEM] = slot + 1
        state[at + W_TIMES] += 1
        if state[clock + AT_FROM] >= 0 and state[at + W_PART] != state[clock + AT_PART]:
            state[at + W_PART] = state[clock + AT_PART]
            state[at + W_UPGRADES] += 1
            if state[at + W_UPGRADES] == 1:
                state[at + W_FIRST] = event


@njit(cache=True, nogil=True)
def _gathered(code, state, slot, event, count, trace):  # type: ignore[no-untyped-def]
    """Units count for the sets that they are pieces of; the counts are those with them."""
    good, part = code[A_GOODS] + slot * GOODS_FIELDS, state[code[S_CLOCK] + AT_PART]
    have = state[code[S_COUNTS] + slot]
    for at in range(code[good + G_PIECES], code[good + G_END_PIECES]):
        piece = code[code[A_PIECES_OF] + at]
        record = code[A_PIECES] + piece * PIECE_FIELDS
        one, asked = code[record + P_SET], code[record + P_COUNT]
        own = code[S_SETS] + one * SET_FIELDS
        first, end = code[code[A_SETS] + 2 * one], code[code[A_SETS] + 2 * one + 1]
        if have - count < asked <= have:
            state[code[S_PIECES] + piece] = part
            state[own + E_HAVE] += 1
            if state[own + E_HAVE] == end - first:
                state[own + E_PART], state[own + E_EVENT] = part, event
                note(trace, N_SET, one, -1, -1.0, 0.0, 0.0, 1)
        if state[own + E_PART] == part:
            state[own + E_SPARE] = _spare(code, state, first, end)


@njit(cache=True, nogil=True)
def _spare(code, state, first, end):  # type: ignore[no-untyped-def]
    """Units of a set's pieces beyond those that it asks for."""
    total = 0
    for piece in range(first, end):
        record = code[A_PIECES] + piece * PIECE_FIELDS
        total += state[code[S_COUNTS] + code[record + P_SLOT]] - code[record + P_COUNT]
    return total


@njit(cache=True, nogil=True)
def _got_out(code, real, state, keep, slot, source, count, trace):  # type: ignore[no-untyped-def]
    """How many units come out of the source's container, and are not left on the ground."""
    own, good = code[A_OWN] + source * OWN_FIELDS, code[A_GOODS] + slot * GOODS_FIELDS
    clock, left = code[S_CLOCK], count
    if code[own + O_COLUMNS] > 0 and code[good + G_MONEY] < 0:
        part = state[clock + AT_PART]
        room = code[S_IN_ROOM] + slot
        if state[code[S_IN_PART] + slot] != part:
            state[code[S_IN_PART] + slot] = part
            state[room] = 0
        columns, rows = code[own + O_COLUMNS], code[own + O_ROWS]
        left = _stacked(code, state, good, room, code[S_INSIDE], columns, rows, clock + AT_INSIDE, count)
        if left < count:
            state[code[S_LOST] + slot] += count - left
            note(trace, N_LOST, code[good + G_ITEM], source, -1.0, 0.0, 0.0, count - left)
            if state[clock + AT_SHORT_PART] != part:
                state[clock + AT_SHORT_PART] = part
                state[clock + AT_SHORT] += 1
    if left == 0:
        return left
    missed, chance = 0, real[code[R_GROUND] + 2 * source + 1]
    if state[clock + AT_GROUND] == 1 or chance >= 1.0:
        missed = left
    elif chance > 0.0:
        luck = keep[1]
        for _ in range(left):
            missed += next_unit(luck) < chance
    if missed > 0:
        state[code[S_MISSED] + slot] += missed
        gone = state[clock + AT_GROUND]
        note(trace, N_OUT, code[good + G_ITEM], source, -1.0, gone, 0.0, missed)
    return left - missed


@njit(cache=True, nogil=True)
def _bagged(code, state, slot, count, trace):  # type: ignore[no-untyped-def]
    """Units go into the bag, where one is told and as far as there is room."""
    good, left = code[A_GOODS] + slot * GOODS_FIELDS, count
    if code[N_BAG_COLUMNS] > 0:
        columns, rows, clock = code[N_BAG_COLUMNS], code[N_BAG_ROWS], code[S_CLOCK]
        room, used = code[S_ROOM] + slot, clock + AT_USED
        left = _stacked(code, state, good, room, code[S_CELLS], columns, rows, used, count)
        if left < count:
            state[code[S_LEFT] + slot] += count - left
            state[clock + AT_FULL] += count - left
            note(trace, N_LEFT, code[good + G_ITEM], -1, -1.0, state[used], columns * rows, count - left)
    state[code[S_BAG] + slot] += left


@njit(cache=True, nogil=True)
def _stacked(code, state, good, room, grid, columns, rows, used, count):  # type: ignore[no-untyped-def]
    """How many units fit: onto the stack of the item that has room (only the latest can), else onto new ones.
    `room` is where it stands how many more the stack takes. Nothing is taken out, so that what does not fit
    once fits no more."""
    if state[room] == NO_ROOM:
        return 0
    width, height, stack = code[good + G_WIDTH], code[good + G_HEIGHT], code[good + G_STACK]
    left = count - min(count, state[room])
    state[room] -= count - left
    while left > 0:
        if put(state, grid, columns, rows, width, height) < 0:
            state[room] = NO_ROOM
            break
        state[used] += width * height
        state[room] = stack - min(left, stack)
        left -= min(left, stack)
    return count - left


@njit(cache=True, nogil=True)
def empty_bags(states, code, aside, into):  # type: ignore[no-untyped-def]
    """After a leg: what is in each bag goes to where `into` begins (put aside, or sold), and its cells are
    free. `aside` (p, k) becomes what went."""
    for player in range(states.shape[0]):
        for slot in range(aside.shape[1]):
            bag = code[S_BAG] + slot
            aside[player, slot] = states[player, bag]
            states[player, into + slot] += states[player, bag]
            states[player, bag] = 0
            states[player, code[S_ROOM] + slot] = 0
        for word in range(2 * code[N_BAG_ROWS]):
            states[player, code[S_CELLS] + word] = 0
        states[player, code[S_CLOCK] + AT_USED] = 0
        states[player, code[S_CLOCK] + AT_FULL] = 0


def new_keep(players: int, kit: int) -> tuple[np.ndarray, np.ndarray]:
    """Worn scores, shape (p, g) and at least one column; and room for the generator. What is kept of players
    goes to the kernel as these with the marks on the way, see `waymarks`."""
    return np.zeros((players, max(1, kit))), np.zeros(1, dtype=np.uint64)
