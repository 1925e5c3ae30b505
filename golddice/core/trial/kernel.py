"""The event kernel: plays players through events, compiled by Numba.

One function per roll rule; an explicit stack for what is nested. The same code plays a million
players without a trace and one with it: where `trace` is None, Numba compiles the notes away.

A program is two flat arrays (see `program`), handed to the rules as bare pointers: counting
references to arrays at every call would cost thirty times the work itself. `play` owns the arrays
while it runs.

The order in which numbers are drawn is part of the product: changing it changes the results of
every seed, so it changes `KERNEL_VERSION` too.
"""

from __future__ import annotations

from numba import njit

from golddice.core.trial.amounts import drawn_quantity, from_pool
from golddice.core.trial.carrying import is_open, tested, value_so_far
from golddice.core.trial.fields import drop_of, line_of, pointer_to, table_of, yield_of
from golddice.core.trial.notes import (
    N_DROP,
    N_EVENT,
    N_GIVES,
    N_ITEM,
    N_NONE,
    N_QUANTITY,
    N_ROLLS,
    N_TIMES,
    note,
)
from golddice.core.trial.plain import plain_player
from golddice.core.trial.program import (
    A_SLOTS,
    A_SOURCES,
    D_AFTER,
    D_GUARD,
    D_SURE,
    D_TABLE,
    D_TIMES,
    EACH,
    ITEM,
    L_COPIES,
    L_END_YIELD,
    L_FIRST_YIELD,
    N_LINES,
    N_PLAIN,
    POOL,
    R_DROPS,
    S_CLOCK,
    S_COUNTS,
    S_DROUGHT,
    S_FIRST,
    S_LEFT,
    S_MISSES,
    S_SEEN,
    S_STACK,
    SOURCE,
    T_END_LINE,
    T_FIRST_LINE,
    T_ROLLS,
    T_RULE,
    TABLE,
    Y_KIND,
    Y_QUANTITY,
    Y_REF,
)
from golddice.core.trial.rng import next_unit, seed_player
from golddice.core.trial.rules import chance_now, hits_on, one_line

KERNEL_VERSION = 1

# what waits on the stack: (operation, row, how many, execution number)
EVENT, DROP, EXECUTE, ROLL = range(4)


@njit(cache=True, nogil=True)
def play(program, work, bag, root, seed, first_player, events, checkpoints, trace):  # type: ignore[no-untyped-def]
    """Play the players of a bag, each through `events` events.

    `program` is (code, real); `work` is (state, random), room that is reset for each player; `root`
    is (kind, row). `checkpoints` are the events (rising) at which the value so far goes into the
    fan. `trace` is None or an array, see `new_trace`.
    """
    counts, first, drought, value, fan = bag
    code, real = pointer_to(program[0]), pointer_to(program[1])
    state, random = pointer_to(work[0]), pointer_to(work[1])
    notes = None if trace is None else pointer_to(trace)
    slots = counts.shape[1]
    plain = notes is None and root[0] == SOURCE and code[N_PLAIN] == 1
    for row in range(value.size):
        _fresh(code, state, random, seed, first_player + row)
        if plain:
            plain_player(code, real, state, random, root[1], events, checkpoints, fan[row], slots)
        else:
            _any_player(code, real, state, random, root, events, checkpoints, fan[row], slots, notes)
        value[row] = value_so_far(code, real, state, slots)
        for slot in range(slots):
            counts[row, slot] = state[code[S_COUNTS] + slot]
            first[row, slot] = state[code[S_FIRST] + slot]
            since = events - state[code[S_SEEN] + slot]
            drought[row, slot] = max(state[code[S_DROUGHT] + slot], since)


@njit(cache=True, nogil=True)
def _any_player(code, real, state, random, root, events, checkpoints, fan, slots, notes):  # type: ignore[no-untyped-def]
    """All events of a player."""
    mark = 0
    for event in range(1, events + 1):
        _push(code, state, 0, EVENT if root[0] == SOURCE else EXECUTE, root[1], 1, 0)
        one_event(code, real, state, random, event, notes)
        if mark < checkpoints.size and checkpoints[mark] == event:
            fan[mark] = value_so_far(code, real, state, slots)
            mark += 1


@njit(cache=True, nogil=True)
def _fresh(code, state, random, seed, number):  # type: ignore[no-untyped-def]
    """A player with no hits, no misses and full decks, at the start of their random stream."""
    seed_player(random, seed, number)
    for at in range(code[S_STACK]):
        state[at] = 0
    for line in range(code[N_LINES]):
        state[code[S_LEFT] + line] = line_of(code, line, L_COPIES)


@njit(cache=True, nogil=True)
def one_event(code, real, state, random, event, trace):  # type: ignore[no-untyped-def]
    """Work the stack down to nothing."""
    top = 1
    while top > 0:
        top -= 1
        at = code[S_STACK] + 4 * top
        operation, ref, count, clock = state[at], state[at + 1], state[at + 2], state[at + 3]
        if operation == ROLL:
            top = _rolls(code, real, state, random, event, ref, count, clock, top, trace)
        elif operation == EXECUTE:
            if count > 1:
                top = _push(code, state, top, EXECUTE, ref, count - 1, 0)
            top = _execute(code, real, state, random, event, ref, top, trace)
        elif operation == DROP:
            if ref + 1 < count:
                top = _push(code, state, top, DROP, ref + 1, count, 0)
            top = _drop(code, real, state, random, ref, top, trace)
        else:
            if count > 1:
                top = _push(code, state, top, EVENT, ref, count - 1, 0)
            note(trace, N_EVENT, ref, -1, -1.0, 0.0, 0.0, 0)
            low, end = code[code[A_SOURCES] + 2 * ref], code[code[A_SOURCES] + 2 * ref + 1]
            if low < end:
                top = _push(code, state, top, DROP, low, end, 0)


@njit(cache=True, nogil=True)
def _execute(code, real, state, random, event, table, top, trace):  # type: ignore[no-untyped-def]
    """Execute a table once: draw how many rolls, and roll."""
    rolls = drawn_quantity(code, real, random, table_of(code, table, T_ROLLS))
    note(trace, N_ROLLS, table, -1, -1.0, 0.0, 0.0, rolls)
    if rolls <= 0:
        return top
    state[code[S_CLOCK]] += 1
    clock = state[code[S_CLOCK]]
    return _rolls(code, real, state, random, event, table, rolls, clock, top, trace)


@njit(cache=True, inline="always")
def _push(code, state, top, operation, ref, count, clock):  # type: ignore[no-untyped-def]
    at = code[S_STACK] + 4 * top
    state[at] = operation
    state[at + 1] = ref
    state[at + 2] = count
    state[at + 3] = clock
    return top + 1


@njit(cache=True, nogil=True)
def _drop(code, real, state, random, ref, top, trace):  # type: ignore[no-untyped-def]
    """Try one drop: its chance, its guard, then how many times the table is rolled."""
    guard = drop_of(code, ref, D_GUARD)
    chance = real[code[R_DROPS] + 2 * ref]
    if guard >= 0:
        misses = state[code[S_MISSES] + guard]
        over = max(0, misses - drop_of(code, ref, D_AFTER))
        chance = min(1.0, chance + real[code[R_DROPS] + 2 * ref + 1] * over)
        if drop_of(code, ref, D_SURE) > 0 and misses + 1 >= drop_of(code, ref, D_SURE):
            chance = 1.0
    number = next_unit(random) if 0.0 < chance < 1.0 else -1.0
    hit = chance >= 1.0 or (number >= 0.0 and number < chance)
    before = state[code[S_MISSES] + guard] if guard >= 0 else -1
    note(trace, N_DROP, ref, -1, number, before, chance, hit)
    if guard >= 0:
        state[code[S_MISSES] + guard] = 0 if hit else state[code[S_MISSES] + guard] + 1
    if not hit:
        return top
    times = drawn_quantity(code, real, random, drop_of(code, ref, D_TIMES))
    note(trace, N_TIMES, ref, -1, -1.0, 0.0, 0.0, times)
    if times > 0:
        top = _push(code, state, top, EXECUTE, drop_of(code, ref, D_TABLE), times, 0)
    return top


@njit(cache=True, nogil=True)
def _rolls(code, real, state, random, event, table, left, clock, top, trace):  # type: ignore[no-untyped-def]
    """Roll a table until its rolls are used up or a roll leaves something nested to do first."""
    rule = table_of(code, table, T_RULE)
    while left > 0:
        left -= 1
        base = top
        if left > 0:
            top = _push(code, state, top, ROLL, table, left, clock)
        start = top
        if rule == EACH:
            top = _each(code, real, state, random, event, table, top, trace)
        else:
            line = one_line(code, real, state, random, table, rule, clock, trace)
            if line >= 0:
                top = _give(code, real, state, random, event, line, top, trace)
            else:
                note(trace, N_NONE, table, -1, -1.0, 0.0, 0.0, 0)
        if top > start:
            _turn(code, state, start, top)
            return top
        top = base
    return top


@njit(cache=True, nogil=True)
def _each(code, real, state, random, event, table, top, trace):  # type: ignore[no-untyped-def]
    """Every line on its own chance."""
    for line in range(table_of(code, table, T_FIRST_LINE), table_of(code, table, T_END_LINE)):
        if is_open(code, real, state, random, line):
            chance = chance_now(code, real, state, random, line)
            hit = hits_on(code, real, state, random, table, line, chance, trace)
            tested(code, real, state, random, line, hit, trace)
            if hit:
                top = _give(code, real, state, random, event, line, top, trace)
    return top


@njit(cache=True, nogil=True)
def _turn(code, state, start, end):  # type: ignore[no-untyped-def]
    """Reverse what a roll put on the stack, so that what was given first is done first."""
    end -= 1
    while start < end:
        low, high = code[S_STACK] + 4 * start, code[S_STACK] + 4 * end
        for part in range(4):
            state[low + part], state[high + part] = state[high + part], state[low + part]
        start += 1
        end -= 1


@njit(cache=True, nogil=True)
def _give(code, real, state, random, event, line, top, trace):  # type: ignore[no-untyped-def]
    """Hand over a line's yields: items at once, tables and sources by way of the stack."""
    for at in range(line_of(code, line, L_FIRST_YIELD), line_of(code, line, L_END_YIELD)):
        count = drawn_quantity(code, real, random, yield_of(code, at, Y_QUANTITY))
        if count <= 0:
            note(trace, N_QUANTITY, at, line, -1.0, 0.0, 0.0, 0)
            continue
        kind, ref = yield_of(code, at, Y_KIND), yield_of(code, at, Y_REF)
        if kind == ITEM:
            _receive(code, real, state, random, event, ref, count, trace)
        elif kind == TABLE:
            note(trace, N_GIVES, at, line, -1.0, 0.0, 0.0, count)
            top = _push(code, state, top, EXECUTE, ref, count, 0)
        elif kind == SOURCE:
            note(trace, N_GIVES, at, line, -1.0, 0.0, 0.0, count)
            top = _push(code, state, top, EVENT, ref, count, 0)
        elif kind == POOL:
            for _ in range(count):
                item = from_pool(code, real, state, random, ref)
                if item >= 0:
                    _receive(code, real, state, random, event, item, 1, trace)
    return top


@njit(cache=True, nogil=True)
def _receive(code, real, state, random, event, item, count, trace):  # type: ignore[no-untyped-def]
    """Put units of an item into the bag; keep track of the first one and of droughts."""
    note(trace, N_ITEM, item, -1, -1.0, 0.0, 0.0, count)
    slot = code[code[A_SLOTS] + item]
    state[code[S_COUNTS] + slot] += count
    last = state[code[S_SEEN] + slot]
    if last != event:
        if last == 0:
            state[code[S_FIRST] + slot] = event
        state[code[S_DROUGHT] + slot] = max(state[code[S_DROUGHT] + slot], event - last - 1)
        state[code[S_SEEN] + slot] = event
