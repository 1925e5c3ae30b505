"""The notes of a trace, written while a player is played. Where there is no trace, Numba compiles them
away."""

from __future__ import annotations

import numpy as np
from numba import njit

from golddice.core.arrays import FloatArray

# kinds of note in a trace: (kind, row, line, number drawn or -1, from, to, extra)
N_EVENT, N_DROP, N_TIMES, N_ROLLS, N_PICK, N_TEST = range(6)
N_CARD, N_DUE, N_QUANTITY, N_ITEM, N_NONE, N_MISSES, N_GIVES = range(6, 13)
NOTE_FIELDS = 7


@njit(cache=True, nogil=True)
def note(trace, kind, row, line, number, low, high, extra):  # type: ignore[no-untyped-def]
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
