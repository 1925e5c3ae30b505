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

import numpy as np
from numba import njit, types
from numba.extending import intrinsic

from golddice.core.arrays import FloatArray
from golddice.core.trial.program import (
    A_DROPS,
    A_GUIDE,
    A_LINES,
    A_POOL_ITEMS,
    A_POOLS,
    A_QUANTITIES,
    A_SLOTS,
    A_SOURCES,
    A_TABLES,
    A_YIELDS,
    CONSTANT,
    D_AFTER,
    D_GUARD,
    D_SURE,
    D_TABLE,
    D_TIMES,
    DECK,
    DROP_FIELDS,
    EACH,
    FIRST,
    ITEM,
    L_AFTER,
    L_COPIES,
    L_END_YIELD,
    L_FIRST_YIELD,
    L_GUARD,
    L_HITS,
    L_LIMIT,
    L_SURE,
    LF_CHANCE,
    LF_RISE,
    LF_UPPER,
    LF_WEIGHT,
    LINE_FIELDS,
    LINE_FLOATS,
    N_LINES,
    N_PLAIN,
    PICK,
    POOL,
    Q_COUNT,
    Q_KIND,
    Q_MIN,
    Q_STEP,
    QUANTITY_FIELDS,
    R_DROPS,
    R_FACTORS,
    R_LINES,
    R_NOTHING,
    R_POOLS,
    R_VALUES,
    RANGE,
    S_CLOCK,
    S_COUNTS,
    S_DROUGHT,
    S_FIRST,
    S_HITS,
    S_LEFT,
    S_MISSES,
    S_SEEN,
    S_STACK,
    S_TAKEN,
    SOURCE,
    T_DISTINCT,
    T_DYNAMIC,
    T_END_LINE,
    T_FIRST_LINE,
    T_GUIDE,
    T_GUIDE_SIZE,
    T_ROLLS,
    T_RULE,
    T_TRIES,
    TABLE,
    TABLE_FIELDS,
    Y_KIND,
    Y_QUANTITY,
    Y_REF,
    YIELD_FIELDS,
)
from golddice.core.trial.rng import next_of, next_unit, seed_player

KERNEL_VERSION = 1

# what waits on the stack: (operation, row, how many, execution number)
EVENT, DROP, EXECUTE, ROLL = range(4)

# kinds of note in a trace: (kind, row, line, number drawn or -1, from, to, extra)
N_EVENT, N_DROP, N_TIMES, N_ROLLS, N_PICK, N_TEST = range(6)
N_CARD, N_DUE, N_QUANTITY, N_ITEM, N_NONE = range(6, 11)
NOTE_FIELDS = 7


@intrinsic
def _pointer(typing_context, array):  # type: ignore[no-untyped-def]
    """Where an array's first element lies."""

    def generate(context, builder, signature, arguments):  # type: ignore[no-untyped-def]
        return context.make_array(signature.args[0])(context, builder, arguments[0]).data

    return types.CPointer(array.dtype)(array), generate


@njit(cache=True, inline="always")
def table_of(code, table, field):  # type: ignore[no-untyped-def]
    return code[code[A_TABLES] + table * TABLE_FIELDS + field]


@njit(cache=True, inline="always")
def line_of(code, line, field):  # type: ignore[no-untyped-def]
    return code[code[A_LINES] + line * LINE_FIELDS + field]


@njit(cache=True, inline="always")
def real_of(code, real, line, field):  # type: ignore[no-untyped-def]
    return real[code[R_LINES] + line * LINE_FLOATS + field]


@njit(cache=True, inline="always")
def yield_of(code, at, field):  # type: ignore[no-untyped-def]
    return code[code[A_YIELDS] + at * YIELD_FIELDS + field]


@njit(cache=True, inline="always")
def quantity_of(code, at, field):  # type: ignore[no-untyped-def]
    return code[code[A_QUANTITIES] + at * QUANTITY_FIELDS + field]


@njit(cache=True, inline="always")
def drop_of(code, at, field):  # type: ignore[no-untyped-def]
    return code[code[A_DROPS] + at * DROP_FIELDS + field]


@njit(cache=True, nogil=True)
def play(program, work, bag, root, seed, first_player, events, checkpoints, trace):  # type: ignore[no-untyped-def]
    """Play the players of a bag, each through `events` events.

    `program` is (code, real); `work` is (state, random), room that is reset for each player; `root`
    is (kind, row). `checkpoints` are the events (rising) at which the value so far goes into the
    fan. `trace` is None or an array, see `new_trace`.
    """
    counts, first, drought, value, fan = bag
    code, real = _pointer(program[0]), _pointer(program[1])
    state, random = _pointer(work[0]), _pointer(work[1])
    notes = None if trace is None else _pointer(trace)
    slots = counts.shape[1]
    plain = notes is None and root[0] == SOURCE and code[N_PLAIN] == 1
    for row in range(value.size):
        _fresh(code, state, random, seed, first_player + row)
        if plain:
            _plain_player(code, real, state, random, root[1], events, checkpoints, fan[row], slots)
        else:
            _any_player(code, real, state, random, root, events, checkpoints, fan[row], slots, notes)
        value[row] = _value(code, real, state, slots)
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
        _one_event(code, real, state, random, event, notes)
        if mark < checkpoints.size and checkpoints[mark] == event:
            fan[mark] = _value(code, real, state, slots)
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
def _value(code, real, state, slots):  # type: ignore[no-untyped-def]
    """The value of what a player has so far."""
    total = 0.0
    for slot in range(slots):
        total += state[code[S_COUNTS] + slot] * real[code[R_VALUES] + slot]
    return total


@njit(cache=True, nogil=True)
def _one_event(code, real, state, random, event, trace):  # type: ignore[no-untyped-def]
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
            _note(trace, N_EVENT, ref, -1, -1.0, 0.0, 0.0, 0)
            low, end = code[code[A_SOURCES] + 2 * ref], code[code[A_SOURCES] + 2 * ref + 1]
            if low < end:
                top = _push(code, state, top, DROP, low, end, 0)


@njit(cache=True, nogil=True)
def _plain_player(code, real, state, random, source, events, checkpoints, fan, slot_count):  # type: ignore[no-untyped-def]
    """All events of a player at a source whose tables are all plain picks of items.

    Draws the same numbers in the same order as `_one_event`, but with nothing in the way: no stack,
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
            times, s0, s1, s2, s3 = _amount(
                code, real, quantities, factors, code[record + D_TIMES], s0, s1, s2, s3
            )
            size, end = code[table + T_GUIDE_SIZE], code[table + T_END_LINE]
            begin = guide + code[table + T_GUIDE]
            for _ in range(times):
                rolls, s0, s1, s2, s3 = _amount(
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
                    count, s0, s1, s2, s3 = _amount(
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
            fan[mark] = _value(code, real, state, slot_count)
            mark += 1


@njit(cache=True, inline="always")
def _amount(code, real, quantities, factors, ref, s0, s1, s2, s3):  # type: ignore[no-untyped-def]
    """`_quantity`, with the generator in local variables; no dice here."""
    at = quantities + ref * QUANTITY_FIELDS
    value = code[at + Q_MIN]
    if code[at + Q_KIND] == RANGE:
        number, s0, s1, s2, s3 = next_of(s0, s1, s2, s3)
        value += code[at + Q_STEP] * np.int64(number * code[at + Q_COUNT])
    factor = real[factors + ref]
    if factor != 1.0:
        exact = value * factor
        near = np.rint(exact)
        if abs(exact - near) < 1e-12 * max(1.0, near):
            value = np.int64(near)
        else:
            number, s0, s1, s2, s3 = next_of(s0, s1, s2, s3)
            value = np.int64(np.floor(exact)) + (1 if number < exact - np.floor(exact) else 0)
    return value, s0, s1, s2, s3


@njit(cache=True, nogil=True)
def _execute(code, real, state, random, event, table, top, trace):  # type: ignore[no-untyped-def]
    """Execute a table once: draw how many rolls, and roll."""
    rolls = _quantity(code, real, random, table_of(code, table, T_ROLLS))
    _note(trace, N_ROLLS, table, -1, -1.0, 0.0, 0.0, rolls)
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
    _note(trace, N_DROP, ref, -1, number, 0.0, chance, hit)
    if guard >= 0:
        state[code[S_MISSES] + guard] = 0 if hit else state[code[S_MISSES] + guard] + 1
    if not hit:
        return top
    times = _quantity(code, real, random, drop_of(code, ref, D_TIMES))
    _note(trace, N_TIMES, ref, -1, -1.0, 0.0, 0.0, times)
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
            line = _one_line(code, real, state, random, table, rule, clock, trace)
            if line >= 0:
                top = _give(code, real, state, random, event, line, top, trace)
            else:
                _note(trace, N_NONE, table, -1, -1.0, 0.0, 0.0, 0)
        if top > start:
            _turn(code, state, start, top)
            return top
        top = base
    return top


@njit(cache=True, nogil=True)
def _one_line(code, real, state, random, table, rule, clock, trace):  # type: ignore[no-untyped-def]
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
        count = _quantity(code, real, random, yield_of(code, at, Y_QUANTITY))
        if count <= 0:
            _note(trace, N_QUANTITY, at, line, -1.0, 0.0, 0.0, 0)
            continue
        kind, ref = yield_of(code, at, Y_KIND), yield_of(code, at, Y_REF)
        if kind == ITEM:
            _receive(code, real, state, random, event, ref, count, trace)
        elif kind == TABLE:
            top = _push(code, state, top, EXECUTE, ref, count, 0)
        elif kind == SOURCE:
            top = _push(code, state, top, EVENT, ref, count, 0)
        elif kind == POOL:
            for _ in range(count):
                item = _from_pool(code, real, state, random, ref)
                if item >= 0:
                    _receive(code, real, state, random, event, item, 1, trace)
    return top


@njit(cache=True, nogil=True)
def _receive(code, real, state, random, event, item, count, trace):  # type: ignore[no-untyped-def]
    """Put units of an item into the bag; keep track of the first one and of droughts."""
    _note(trace, N_ITEM, item, -1, -1.0, 0.0, 0.0, count)
    slot = code[code[A_SLOTS] + item]
    state[code[S_COUNTS] + slot] += count
    last = state[code[S_SEEN] + slot]
    if last != event:
        if last == 0:
            state[code[S_FIRST] + slot] = event
        state[code[S_DROUGHT] + slot] = max(state[code[S_DROUGHT] + slot], event - last - 1)
        state[code[S_SEEN] + slot] = event


@njit(cache=True, nogil=True)
def _from_pool(code, real, state, random, pool):  # type: ignore[no-untyped-def]
    """One item of a pool by its weight; -1 where the pool is empty. Bisection."""
    low, end = code[code[A_POOLS] + 2 * pool + 0], code[code[A_POOLS] + 2 * pool + 1]
    if low == end:
        return -1
    number = next_unit(random)
    high = end - 1
    while low < high:
        middle = (low + high) // 2
        if real[code[R_POOLS] + middle] <= number:
            low = middle + 1
        else:
            high = middle
    return code[code[A_POOL_ITEMS] + low]


@njit(cache=True, nogil=True)
def _quantity(code, real, random, ref):  # type: ignore[no-untyped-def]
    """Draw a quantity: a constant, a value of a range, or a throw of dice; then its curve."""
    kind = quantity_of(code, ref, Q_KIND)
    value = quantity_of(code, ref, Q_MIN)
    if kind != CONSTANT:
        step, count = quantity_of(code, ref, Q_STEP), quantity_of(code, ref, Q_COUNT)
        if kind == RANGE:
            value += step * np.int64(next_unit(random) * count)
        else:
            for _ in range(count):
                value += 1 + np.int64(next_unit(random) * step)
    factor = real[code[R_FACTORS] + ref]
    if factor != 1.0:
        return _made_whole(value * factor, random)
    return value


@njit(cache=True, nogil=True)
def _made_whole(exact, random):  # type: ignore[no-untyped-def]
    """Stochastic rounding: up with the chance of the fraction, so that the mean is exact."""
    near = np.rint(exact)
    if abs(exact - near) < 1e-12 * max(1.0, near):
        return np.int64(near)
    low = np.floor(exact)
    return np.int64(low) + (1 if next_unit(random) < exact - low else 0)


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
        _note(trace, N_PICK, table, -1, number, low, 1.0, 0)
        return -1
    _note(trace, N_PICK, table, line, number, low, real_of(code, real, line, LF_UPPER), 0)
    return line


@njit(cache=True, nogil=True)
def _is_open(code, real, state, random, line):  # type: ignore[no-untyped-def]
    """Whether a line's limit leaves it open."""
    limit = line_of(code, line, L_LIMIT)
    return limit == 0 or state[code[S_HITS] + line_of(code, line, L_HITS)] < limit


@njit(cache=True, nogil=True)
def _rise(code, real, state, random, line):  # type: ignore[no-untyped-def]
    """r * max(0, m - after): by how much a line's guard has risen."""
    guard = line_of(code, line, L_GUARD)
    if guard < 0:
        return 0.0
    over = state[code[S_MISSES] + guard] - line_of(code, line, L_AFTER)
    return real_of(code, real, line, LF_RISE) * over if over > 0 else 0.0


@njit(cache=True, nogil=True)
def _is_due(code, real, state, random, line):  # type: ignore[no-untyped-def]
    """Whether a line's guard makes it hit for certain on this roll."""
    guard, sure = line_of(code, line, L_GUARD), line_of(code, line, L_SURE)
    return guard >= 0 and sure > 0 and state[code[S_MISSES] + guard] + 1 >= sure


@njit(cache=True, nogil=True)
def _tested(code, real, state, random, line, hit):  # type: ignore[no-untyped-def]
    """Count a hit or a miss of an open line for its guard and its limit."""
    guard, limit = line_of(code, line, L_GUARD), line_of(code, line, L_HITS)
    if guard >= 0:
        state[code[S_MISSES] + guard] = 0 if hit else state[code[S_MISSES] + guard] + 1
    if hit and limit >= 0:
        state[code[S_HITS] + limit] += 1


@njit(cache=True, nogil=True)
def _can_take(code, real, state, random, table, line, clock):  # type: ignore[no-untyped-def]
    """Whether a line takes part in this roll: limit not reached, not picked before if distinct."""
    if table_of(code, table, T_DISTINCT) == 1 and state[code[S_TAKEN] + line] == clock:
        return False
    return _is_open(code, real, state, random, line)


@njit(cache=True, nogil=True)
def _picked_by_state(code, real, state, random, table, clock, trace):  # type: ignore[no-untyped-def]
    """A pick whose weights depend on what the player carries."""
    first, end = table_of(code, table, T_FIRST_LINE), table_of(code, table, T_END_LINE)
    chosen = _due_line(code, real, state, random, table, clock, trace)
    if chosen < 0:
        chosen = _by_weight(code, real, state, random, table, clock, True, trace)
    for line in range(first, end):
        if line != chosen and _can_take(code, real, state, random, table, line, clock):
            _tested(code, real, state, random, line, False)
    if chosen >= 0:
        _tested(code, real, state, random, chosen, True)
        state[code[S_TAKEN] + chosen] = clock
    return chosen


@njit(cache=True, nogil=True)
def _due_line(code, real, state, random, table, clock, trace):  # type: ignore[no-untyped-def]
    """The first line in order that is due, or -1."""
    for line in range(table_of(code, table, T_FIRST_LINE), table_of(code, table, T_END_LINE)):
        if _is_due(code, real, state, random, line) and _can_take(
            code, real, state, random, table, line, clock
        ):
            _note(trace, N_DUE, table, line, -1.0, 0.0, 1.0, 0)
            return line
    return -1


@njit(cache=True, nogil=True)
def _by_weight(code, real, state, random, table, clock, rises, trace):  # type: ignore[no-untyped-def]
    """One line among those that take part, or -1 for nothing; weights as they are now."""
    first, end = table_of(code, table, T_FIRST_LINE), table_of(code, table, T_END_LINE)
    total = real[code[R_NOTHING] + table]
    for line in range(first, end):
        if _can_take(code, real, state, random, table, line, clock):
            factor = 1.0 + _rise(code, real, state, random, line) if rises else 1.0
            total += real_of(code, real, line, LF_WEIGHT) * factor
    if total <= 0.0:
        return -1
    number = next_unit(random)
    low = 0.0
    last = -1
    for line in range(first, end):
        if _can_take(code, real, state, random, table, line, clock):
            factor = 1.0 + _rise(code, real, state, random, line) if rises else 1.0
            weight = real_of(code, real, line, LF_WEIGHT) * factor
            if number * total < low + weight:
                _note(trace, N_PICK, table, line, number, low / total, (low + weight) / total, 0)
                return line
            low += weight
            if weight > 0.0:
                last = line
    if real[code[R_NOTHING] + table] == 0.0:
        return last  # rounding at the very end of the strip
    _note(trace, N_PICK, table, -1, number, low / total, 1.0, 0)
    return -1


@njit(cache=True, nogil=True)
def _chance_now(code, real, state, random, line):  # type: ignore[no-untyped-def]
    """A line's chance with what its guard adds."""
    if _is_due(code, real, state, random, line):
        return 1.0
    chance = real_of(code, real, line, LF_CHANCE) + _rise(code, real, state, random, line)
    return min(1.0, chance)


@njit(cache=True, nogil=True)
def _hits(code, real, state, random, table, line, chance, trace):  # type: ignore[no-untyped-def]
    """Test one line on a chance; sure things draw no number."""
    number = next_unit(random) if 0.0 < chance < 1.0 else -1.0
    hit = chance >= 1.0 or (number >= 0.0 and number < chance)
    _note(trace, N_TEST, table, line, number, 0.0, chance, hit)
    return hit


@njit(cache=True, nogil=True)
def _each(code, real, state, random, event, table, top, trace):  # type: ignore[no-untyped-def]
    """Every line on its own chance."""
    for line in range(table_of(code, table, T_FIRST_LINE), table_of(code, table, T_END_LINE)):
        if _is_open(code, real, state, random, line):
            chance = _chance_now(code, real, state, random, line)
            hit = _hits(code, real, state, random, table, line, chance, trace)
            _tested(code, real, state, random, line, hit)
            if hit:
                top = _give(code, real, state, random, event, line, top, trace)
    return top


@njit(cache=True, nogil=True)
def _first(code, real, state, random, table, trace):  # type: ignore[no-untyped-def]
    """Lines in order until one hits; the rest are not tested."""
    for line in range(table_of(code, table, T_FIRST_LINE), table_of(code, table, T_END_LINE)):
        if _is_open(code, real, state, random, line):
            chance = _chance_now(code, real, state, random, line)
            hit = _hits(code, real, state, random, table, line, chance, trace)
            _tested(code, real, state, random, line, hit)
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
            chance = min(1.0, real_of(code, real, line, LF_CHANCE) + _rise(code, real, state, random, line))
            if _hits(code, real, state, random, table, line, chance, trace):
                chosen = line
                break
    if table_of(code, table, T_DYNAMIC) == 1:
        for line in range(table_of(code, table, T_FIRST_LINE), table_of(code, table, T_END_LINE)):
            if _is_open(code, real, state, random, line):
                _tested(code, real, state, random, line, line == chosen)
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
            if _is_open(code, real, state, random, line):
                state[code[S_LEFT] + line] = line_of(code, line, L_COPIES)
                total += state[code[S_LEFT] + line]
    if total == 0:
        return -1
    number = next_unit(random)
    place = np.int64(number * total)
    for line in range(first, end):
        if place < state[code[S_LEFT] + line]:
            _note(trace, N_CARD, table, line, number, state[code[S_LEFT] + line], total, 0)
            state[code[S_LEFT] + line] -= 1
            _tested(code, real, state, random, line, True)
            if not _is_open(code, real, state, random, line):
                state[code[S_LEFT] + line] = 0
            return line
        place -= state[code[S_LEFT] + line]
    return -1


@njit(cache=True, nogil=True)
def _note(trace, kind, row, line, number, low, high, extra):  # type: ignore[no-untyped-def]
    """Write one row of the trace, while there is room."""
    if trace is not None:
        count, room = np.int64(trace[0]), np.int64(trace[1])
        if count < room:
            at = (count + 1) * NOTE_FIELDS
            trace[at] = kind
            trace[at + 1] = row
            trace[at + 2] = line
            trace[at + 3] = number
            trace[at + 4] = low
            trace[at + 5] = high
            trace[at + 6] = extra
        trace[0] = count + 1


def new_trace(room: int) -> FloatArray:
    """Room for so many notes, shape (room + 1, 7). The first row holds how many there were (more
    than the room when some were lost) and the room."""
    trace = np.zeros((room + 1, NOTE_FIELDS))
    trace[0, 1] = room
    return trace
