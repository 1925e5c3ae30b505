"""The event kernel: plays players through events, compiled by Numba.

One function per roll rule; an explicit stack for what is nested. The same code plays a million
players without a trace and one with it: where `trace` is None, Numba compiles the notes away.
What every event comes through is put in where it is called (`forceinline`): to call it would take a tenth
of the time.

A program is two flat arrays (see `program`), handed to the rules as bare pointers: counting
references to arrays at every call would cost thirty times the work itself. `play` owns the arrays
while it runs.

The order in which numbers are drawn is part of the product: changing it changes the results of
every seed, so it changes `KERNEL_VERSION` too. Within an event it is: each drop in file order, its chance
and its times (three numbers, and what a hit then rolls); a table's rolls (two); each roll's own numbers;
then, of what is given, two for each quantity and one for each unit of a pool.

On a route events are numbered through; how often something is done at a stop, and each execution of a spawn
table, draw from places of their own, far beyond those of any event.
"""

from __future__ import annotations

import numpy as np
from numba import njit

from golddice.core.trial.amounts import drawn_quantity, from_pool
from golddice.core.trial.belongings import comes, is_priced, keep_of, part_begins, pays, visit_goes_on
from golddice.core.trial.carrying import is_open, received, tested, value_so_far
from golddice.core.trial.fields import drop_of, line_of, pointer_to, real_of, slot_at, table_of, yield_of
from golddice.core.trial.notes import (
    N_DROP,
    N_EVENT,
    N_GIVES,
    N_ITEM,
    N_NONE,
    N_QUANTITY,
    N_ROLLS,
    N_TIMES,
    begins,
    goes_on,
    note,
)
from golddice.core.trial.plain import plain_player
from golddice.core.trial.program import (
    A_SLOTS,
    A_SOURCES,
    AT_ENCOUNTERS,
    AT_EVENTS,
    AT_VISIT,
    D_AFTER,
    D_MISSES,
    D_OPEN,
    D_SURE,
    D_TABLE,
    D_TIMES,
    EACH,
    ITEM,
    L_END_YIELD,
    L_FIRST_YIELD,
    L_OPEN,
    LF_CHANCE,
    N_PLAIN,
    POOL,
    R_DROPS,
    R_SECONDS,
    S_CLOCK,
    S_COUNTS,
    S_FIRST,
    S_STACK,
    SOURCE,
    T_DYNAMIC,
    T_END_LINE,
    T_FIRST_LINE,
    T_ROLLS,
    T_RULE,
    TABLE,
    Y_KIND,
    Y_QUANTITY,
    Y_REF,
)
from golddice.core.trial.rng import at_event, next_unit, reserved, start_of, unit_of
from golddice.core.trial.rules import chance_now, hits_on, one_line
from golddice.core.trial.waymarks import note_player

KERNEL_VERSION = 2
STOPS = 2**30  # where the numbers of stops begin, counted in events; and those of encounters
ENCOUNTERS = 2**31

# what waits on the stack: (operation, row, how many, execution number); of what goes on after an event that a
# visit met (GO_ON, place of its numbers, number of the event before)
EVENT, DROP, EXECUTE, ROLL, MET, GO_ON = range(6)


@njit(cache=True, nogil=True)
def play(program, work, players, root, seed, events, fan, stop, kept, trace):  # type: ignore[no-untyped-def]
    """Take players through events, from what they carry.

    `program` is (code, real); `work` is (a state for each player, all 0 for fresh ones; room for the
    generator); `players` is (first, how many); `root` is (kind, row); `events` is (the number of the
    first, how many). `fan` is (checkpoints, rising events; the value so far at each, by player; the value
    in the end). `stop` is looked at now and then: what was played when it is set is worth nothing.
    `kept` is None, or what `kept.room_to_keep` gives where something is kept of what is received: at its
    marks it is noted how a player stands.
    `trace` is None or an array, see `new_trace`.
    """
    code, real = pointer_to(program[0]), pointer_to(program[1])
    random, halt = pointer_to(work[1]), pointer_to(stop)
    notes = None if trace is None else pointer_to(trace)
    checkpoints, paths, values = fan
    slots = code[S_FIRST] - code[S_COUNTS]
    plain = notes is None and code[N_PLAIN] == 1
    rows = (root[1], np.int64(-1)) if root[0] == SOURCE else (np.int64(-1), root[1])
    for row in range(players[1]):
        state = pointer_to(work[0][row])
        start = start_of(seed, players[0] + row)
        keep = keep_of(kept, row)  # type: ignore[no-untyped-call]
        done, end, seen = events[0], events[0] + events[1], 0
        last = 0
        while done < end:
            # From mark to mark, where it is noted on the way how things stand.
            until = end
            if kept is not None and last < kept[2].size:
                until = kept[2][last] + 1
            some = (done, until - done)
            ahead, path = checkpoints[seen:], paths[row][seen:]
            if plain:
                plain_player(code, real, state, start, rows, some[0], some[1], ahead, path, slots, halt, keep)
            else:
                _any_player(
                    code, real, state, random, start, root, some, ahead, path, slots, halt, keep, notes
                )
            if halt[0] != 0:
                return
            if kept is not None and last < kept[2].size:
                at = kept[3] + last
                note_player(work[0][row], kept[0][row], row, kept[4], kept[5], at, kept[6], kept[7])
                last += 1
            while seen < checkpoints.size and checkpoints[seen] < until:
                seen += 1
            done = until
        values[row] = value_so_far(code, real, state, slots)


@njit(cache=True, nogil=True)
def play_stop(program, work, players, root, seed, stop, seconds, values, halt, kept, trace):  # type: ignore[no-untyped-def]
    """Take players through one stop of a route, from what they carry.

    `program`, `work`, `players`, `kept` and `trace` as in `play`. `root` is the row of a source, whose
    events are done, or of a spawn table, which is executed at every encounter. `stop` is (number of the
    stop, whether it is visited, the quantities of how often and of encounters, seconds between these).
    `seconds` (p,) is added to; `values` (p,) becomes the value so far.
    """
    code, real = pointer_to(program[0]), pointer_to(program[1])
    random, sign = pointer_to(work[1]), pointer_to(halt)
    notes = None if trace is None else pointer_to(trace)
    slots = code[S_FIRST] - code[S_COUNTS]
    for row in range(players[1]):
        state = pointer_to(work[0][row])
        start = start_of(seed, players[0] + row)
        keep = keep_of(kept, row)  # type: ignore[no-untyped-call]
        random[0] = at_event(start, STOPS + stop[0])
        times = drawn_quantity(code, real, random, stop[2])
        if stop[1]:
            seconds[row] += _visits(code, real, state, random, start, root, times, stop, sign, keep, notes)
        else:
            done = _events_here(code, real, state, random, start, root, times, slots, sign, keep, notes)
            seconds[row] += done * real[code[R_SECONDS] + root]
        if sign[0] != 0:
            return
        values[row] = value_so_far(code, real, state, slots)


@njit(cache=True, nogil=True)
def _events_here(code, real, state, random, start, root, times, slots, halt, keep, notes):  # type: ignore[no-untyped-def]
    """So many events of a source, as far as they can be paid for. Gives how many there were."""
    if keep is not None and is_priced(code, root):
        for done in range(times):
            if halt[0] != 0 or not pays(code, state, root, times - done, notes):
                return done
            one = np.int64(1)  # a number like any other: what is written here would be compiled by itself
            _some_events(code, real, state, random, start, root, one, slots, halt, keep, notes)
        return times
    _some_events(code, real, state, random, start, root, times, slots, halt, keep, notes)
    return times


@njit(cache=True, nogil=True)
def _some_events(code, real, state, random, start, root, times, slots, halt, keep, notes):  # type: ignore[no-untyped-def]
    nowhere, nothing = np.zeros(0, np.int64), np.zeros(0)
    at = code[S_CLOCK] + AT_EVENTS
    first = state[at] + 1
    if notes is None and code[N_PLAIN] == 1:
        rows = (root, np.int64(-1))
        plain_player(code, real, state, start, rows, first, times, nowhere, nothing, slots, halt, keep)
    else:
        events = (first, times)
        from_here = (np.int64(SOURCE), root)
        _any_player(
            code, real, state, random, start, from_here, events, nowhere, nothing, slots, halt, keep, notes
        )
    state[at] += times


@njit(cache=True, nogil=True)
def _visits(code, real, state, random, start, root, times, stop, halt, keep, notes):  # type: ignore[no-untyped-def]
    """So many visits: encounters, each an execution of the spawn table. Gives the seconds that they take."""
    seconds = np.zeros(1)
    taken = pointer_to(seconds)
    clock = code[S_CLOCK]
    for _ in range(times):
        encounters = drawn_quantity(code, real, random, stop[3])
        own = random[0]
        for _ in range(encounters):
            state[clock + AT_ENCOUNTERS] += 1
            random[0] = at_event(start, ENCOUNTERS + state[clock + AT_ENCOUNTERS])
            state[clock + AT_VISIT] = 1
            goes_on(notes, state[clock + AT_ENCOUNTERS])
            if keep is not None:
                visit_goes_on(code, state, keep, start)
            _push(code, state, 0, EXECUTE, root, 1, 0)
            event = max(1, state[clock + AT_EVENTS])
            one_event(code, real, state, random, event, halt, keep, notes, start, taken)
            state[clock + AT_VISIT] = 0
            seconds[0] += stop[4]
            if halt[0] != 0:
                return seconds[0]
        random[0] = own
    return seconds[0]


@njit(cache=True, nogil=True)
def collect(states, counts_at, events, counts, first, drought):  # type: ignore[no-untyped-def]
    """What players have after so many events each, (p,): units, the event of the first, the longest drought.
    `counts_at` is where the counts begin in a state."""
    slots = counts.shape[1]
    for row in range(counts.shape[0]):
        for slot in range(slots):
            at = counts_at + slot
            counts[row, slot] = states[row, at]
            first[row, slot] = states[row, at + slots]
            since = events[row] - states[row, at + 3 * slots]
            drought[row, slot] = max(states[row, at + 2 * slots], since)


@njit(cache=True, nogil=True)
def _any_player(code, real, state, random, start, root, events, checkpoints, fan, slots, halt, keep, notes):  # type: ignore[no-untyped-def]
    """Events of a player."""
    mark = 0
    nobody = pointer_to(np.zeros(1))
    for event in range(events[0], events[0] + events[1]):
        random[0] = at_event(start, event)
        begins(notes, event)
        if keep is not None:
            source = root[1] if root[0] == SOURCE else np.int64(-1)
            part_begins(code, real, state, keep, start, event, source, notes)
        _push(code, state, 0, EVENT if root[0] == SOURCE else EXECUTE, root[1], 1, 0)
        one_event(code, real, state, random, event, halt, keep, notes, start, nobody)
        if halt[0] != 0:
            return
        if mark < checkpoints.size and checkpoints[mark] == event:
            fan[mark] = value_so_far(code, real, state, slots)
            mark += 1


@njit(cache=True, nogil=True)
def one_event(code, real, state, random, event, halt, keep, trace, start, seconds):  # type: ignore[no-untyped-def]
    """Work the stack down to nothing. Events that a visit meets are numbered, draw from places of their own
    and add what they take to `seconds`."""
    top = 1
    while top > 0 and halt[0] == 0:
        top -= 1
        at = code[S_STACK] + 4 * top
        operation, ref, count, clock = state[at], state[at + 1], state[at + 2], state[at + 3]
        if operation == EXECUTE:
            if count > 1:
                top = _push(code, state, top, EXECUTE, ref, count - 1, 0)
            count = drawn_quantity(code, real, random, table_of(code, ref, T_ROLLS))
            note(trace, N_ROLLS, ref, -1, -1.0, 0.0, 0.0, count)
            if count > 0 and table_of(code, ref, T_DYNAMIC) == 1:  # no other asks which execution it is
                state[code[S_CLOCK]] += 1
                clock = state[code[S_CLOCK]]
            operation = np.int64(ROLL)
        if operation == ROLL:
            top = _rolls(code, real, state, random, event, ref, count, clock, top, halt, keep, trace)
        elif operation == DROP:
            if ref + 1 < count:
                top = _push(code, state, top, DROP, ref + 1, count, 0)
            top = _drop(code, real, state, random, ref, top, trace)
        elif operation == GO_ON:
            random[0], event = np.uint64(ref), count
            state[code[S_CLOCK] + AT_VISIT] = 1
            goes_on(trace, state[code[S_CLOCK] + AT_ENCOUNTERS])
            if keep is not None:
                visit_goes_on(code, state, keep, start)
        else:
            if count > 1:
                top = _push(code, state, top, operation, ref, count - 1, 0)
            if operation == MET:
                if keep is not None and not pays(code, state, ref, 1, trace):
                    continue
                top = _push(code, state, top, GO_ON, np.int64(random[0]), event, 0)
                state[code[S_CLOCK] + AT_VISIT] = 0
                state[code[S_CLOCK] + AT_EVENTS] += 1
                event = state[code[S_CLOCK] + AT_EVENTS]
                random[0] = at_event(start, event)
                seconds[0] += real[code[R_SECONDS] + ref]
                begins(trace, event)
                if keep is not None:
                    part_begins(code, real, state, keep, start, event, ref, trace)
            note(trace, N_EVENT, ref, -1, -1.0, 0.0, 0.0, 0)
            low, end = code[code[A_SOURCES] + 2 * ref], code[code[A_SOURCES] + 2 * ref + 1]
            if low < end:
                top = _push(code, state, top, DROP, low, end, 0)


@njit(cache=True, inline="always")
def _push(code, state, top, operation, ref, count, clock):  # type: ignore[no-untyped-def]
    at = code[S_STACK] + 4 * top
    state[at] = operation
    state[at + 1] = ref
    state[at + 2] = count
    state[at + 3] = clock
    return top + 1


@njit(cache=True, nogil=True, forceinline=True)
def _drop(code, real, state, random, ref, top, trace):  # type: ignore[no-untyped-def]
    """Try one drop: its chance, its guard, then how many times the table is rolled."""
    number = next_unit(random)
    if drop_of(code, ref, D_OPEN) == 0:
        reserved(random, 2)
        return top
    slot, misses = drop_of(code, ref, D_MISSES), -1
    chance = real[code[R_DROPS] + 2 * ref]
    if slot >= 0:
        misses = state[slot_at(code, slot)]
        over = max(0, misses - drop_of(code, ref, D_AFTER))
        chance = min(1.0, chance + real[code[R_DROPS] + 2 * ref + 1] * over)
        if drop_of(code, ref, D_SURE) > 0 and misses + 1 >= drop_of(code, ref, D_SURE):
            chance = 1.0
    hit = number < chance
    note(trace, N_DROP, ref, -1, number if 0.0 < chance < 1.0 else -1.0, misses, chance, hit)
    if slot >= 0:
        state[slot_at(code, slot)] = 0 if hit else misses + 1
    if not hit:
        reserved(random, 2)
        return top
    times = drawn_quantity(code, real, random, drop_of(code, ref, D_TIMES))
    note(trace, N_TIMES, ref, -1, -1.0, 0.0, 0.0, times)
    if times > 0:
        top = _push(code, state, top, EXECUTE, drop_of(code, ref, D_TABLE), times, 0)
    return top


@njit(cache=True, inline="always")
def _rolls(code, real, state, random, event, table, left, clock, top, halt, keep, trace):  # type: ignore[no-untyped-def]
    """Roll a table until its rolls are used up or a roll leaves something nested to do first."""
    rule = table_of(code, table, T_RULE)
    while left > 0:
        left -= 1
        if left & 1023 == 0 and halt[0] != 0:
            return top
        base = top
        if left > 0:
            top = _push(code, state, top, ROLL, table, left, clock)
        start = top
        if rule == EACH:
            if trace is None and table_of(code, table, T_DYNAMIC) == 0:
                top = _each_as_it_is(code, real, state, random, event, table, top, keep)
            else:
                top = _each(code, real, state, random, event, table, top, keep, trace)
        else:
            line = one_line(code, real, state, random, table, rule, clock, trace)
            if line >= 0:
                top = _give(code, real, state, random, event, line, top, keep, trace)
            else:
                note(trace, N_NONE, table, -1, -1.0, 0.0, 0.0, 0)
        if top > start:
            _turn(code, state, start, top)
            return top
        top = base
    return top


@njit(cache=True, nogil=True)
def _each(code, real, state, random, event, table, top, keep, trace):  # type: ignore[no-untyped-def]
    """Every line on its own chance."""
    first, end = table_of(code, table, T_FIRST_LINE), table_of(code, table, T_END_LINE)
    place = reserved(random, end - first)
    for line in range(first, end):
        if is_open(code, state, line):
            chance = chance_now(code, real, state, line)
            hit = hits_on(table, line, chance, unit_of(place, line - first), trace)
            tested(code, state, line, hit, trace)
            if hit:
                top = _give(code, real, state, random, event, line, top, keep, trace)
    return top


@njit(cache=True, nogil=True, forceinline=True)
def _each_as_it_is(code, real, state, random, event, table, top, keep):  # type: ignore[no-untyped-def]
    """The same where chances are what they are, whatever came before."""
    first, end = table_of(code, table, T_FIRST_LINE), table_of(code, table, T_END_LINE)
    place = reserved(random, end - first)
    for line in range(first, end):
        chance = real_of(code, real, line, LF_CHANCE)
        if unit_of(place, line - first) < chance and line_of(code, line, L_OPEN) == 1:
            top = _give(code, real, state, random, event, line, top, keep, None)
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
def _give(code, real, state, random, event, line, top, keep, trace):  # type: ignore[no-untyped-def]
    """Hand over a line's yields: items at once, tables and sources by way of the stack."""
    for at in range(line_of(code, line, L_FIRST_YIELD), line_of(code, line, L_END_YIELD)):
        count = drawn_quantity(code, real, random, yield_of(code, at, Y_QUANTITY))
        if count <= 0:
            note(trace, N_QUANTITY, at, line, -1.0, 0.0, 0.0, 0)
            continue
        kind, ref = yield_of(code, at, Y_KIND), yield_of(code, at, Y_REF)
        if kind == ITEM:
            _receive(code, real, state, event, ref, count, keep, trace)
        elif kind == TABLE:
            note(trace, N_GIVES, at, line, -1.0, 0.0, 0.0, count)
            top = _push(code, state, top, EXECUTE, ref, count, 0)
        elif kind == SOURCE:
            note(trace, N_GIVES, at, line, -1.0, 0.0, 0.0, count)
            is_met = state[code[S_CLOCK] + AT_VISIT] == 1
            top = _push(code, state, top, MET if is_met else EVENT, ref, count, 0)
        elif kind == POOL:
            for _ in range(count):
                item = from_pool(code, real, random, ref)
                if item >= 0:
                    _receive(code, real, state, event, item, np.int64(1), keep, trace)
    return top


@njit(cache=True, nogil=True)
def _receive(code, real, state, event, item, count, keep, trace):  # type: ignore[no-untyped-def]
    note(trace, N_ITEM, item, -1, -1.0, 0.0, 0.0, count)
    slot = code[code[A_SLOTS] + item]
    received(code, state, slot, event, count)
    if keep is not None:
        comes(code, real, state, keep, slot, event, count, trace)
