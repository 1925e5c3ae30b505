"""The notes of a trace, written while a player is played. Where there is no trace, Numba compiles them
away."""

from __future__ import annotations

import numpy as np
from numba import njit, types

from golddice.core.arrays import FloatArray

# kinds of note in a trace: (kind, row, line, number drawn or -1, from, to, extra)
N_EVENT, N_DROP, N_TIMES, N_ROLLS, N_PICK, N_TEST = range(6)
N_CARD, N_DUE, N_QUANTITY, N_ITEM, N_NONE, N_MISSES, N_GIVES, N_BEGINS = range(6, 14)
N_LOST, N_OUT, N_LEFT, N_WORN, N_SET, N_PAID, N_REFUSED = range(14, 21)
NOTE_FIELDS = 7

# the first row: how many notes there were, how many there is room for, the first event that is noted,
# whether notes are taken now
COUNT, ROOM, FIRST, ON = range(4)


# Told beforehand, for both kinds of trace: else it would be compiled once for each kind of note.
_NUMBERS = (*3 * (types.int64,), *3 * (types.float64,), types.int64)
_TRACES = (types.none, types.Optional(types.CPointer(types.float64)))


@njit([types.void(trace, *_NUMBERS) for trace in _TRACES], cache=True, nogil=True)
def note(trace, kind, row, line, number, low, high, extra):  # type: ignore[no-untyped-def]
    """Write one row of the trace, while there is room."""
    if trace is not None:
        if trace[ON] == 0.0:
            return
        count, room = np.int64(trace[COUNT]), np.int64(trace[ROOM])
        if count < room:
            at = (count + 1) * NOTE_FIELDS
            trace[at] = kind
            trace[at + 1] = row
            trace[at + 2] = line
            trace[at + 3] = number
            trace[at + 4] = low
            trace[at + 5] = high
            trace[at + 6] = extra
        trace[COUNT] = count + 1


@njit(cache=True, nogil=True)
def begins(trace, event):  # type: ignore[no-untyped-def]
    """An event begins; from the first that is asked for on, notes are taken."""
    if trace is not None:
        if event >= trace[FIRST]:
            trace[ON] = 1.0
        note(trace, N_BEGINS, event, -1, -1.0, 0.0, 0.0, 0)


@njit(cache=True, nogil=True)
def goes_on(trace, encounter):  # type: ignore[no-untyped-def]
    """An encounter of a visit begins, or goes on after an event: told by its number, negative."""
    if trace is not None:
        note(trace, N_BEGINS, -encounter, -1, -1.0, 0.0, 0.0, 0)


def new_trace(room: int, first: int = 1) -> FloatArray:
    """Room for so many notes, of the events from `first` on; shape (room + 1, 7)."""
    trace = np.zeros((room + 1, NOTE_FIELDS))
    trace[0, ROOM], trace[0, FIRST] = room, first
    trace[0, ON] = first <= 1  # a visit may give something before there is any event
    return trace
