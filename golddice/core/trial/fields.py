"""Reading a program's records from inside the kernel.

The two flat arrays are handed to the rules as bare pointers: counting references to arrays at every
call would cost thirty times the work itself.
"""

from __future__ import annotations

from numba import njit, types
from numba.extending import intrinsic

from golddice.core.trial.program import (
    A_DROPS,
    A_LINES,
    A_TABLES,
    A_YIELDS,
    DROP_FIELDS,
    LINE_FIELDS,
    LINE_FLOATS,
    R_LINES,
    S_CARRIED,
    TABLE_FIELDS,
    YIELD_FIELDS,
)


@intrinsic
def pointer_to(typing_context, array):  # type: ignore[no-untyped-def]
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
def drop_of(code, at, field):  # type: ignore[no-untyped-def]
    return code[code[A_DROPS] + at * DROP_FIELDS + field]


@njit(cache=True, inline="always")
def slot_at(code, slot):  # type: ignore[no-untyped-def]
    """Where a slot of what is carried lies in a player's state."""
    return code[S_CARRIED] + slot
