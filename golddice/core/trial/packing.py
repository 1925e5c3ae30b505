"""Packing things into cells: the first place that is free, upright before turned.

A row of cells is two words of 64 bits, one bit for each taken cell, so that a place is found with a few
shifts a row whatever lies there already. Compiled, and used alike by players, by pictures of a packing and
by whoever packs a list.
"""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numba import njit

from golddice.core.game.models import Item
from golddice.core.trial.fields import pointer_to

_WORD = 64
MOST_UNITS = 1_000_000


@njit(cache=True, nogil=True)
def put(grid, at, columns, rows, width, height):  # type: ignore[no-untyped-def]
    """Take the first free place for a thing: rows from the top, in a row from the left, upright, and turned
    only where it is free nowhere upright. `grid` holds the rows from `at` on, two words each.

    Gives 2 * (row * columns + column), plus 1 where it is turned; -1 where it does not fit.
    """
    place = _first_free(grid, at, columns, rows, width, height)
    if place >= 0:
        _take(grid, at, columns, place, width, height)
        return 2 * place
    if width == height:
        return -1
    place = _first_free(grid, at, columns, rows, height, width)
    if place < 0:
        return -1
    _take(grid, at, columns, place, height, width)
    return 2 * place + 1


@njit(cache=True, nogil=True)
def _first_free(grid, at, columns, rows, width, height):  # type: ignore[no-untyped-def]
    """row * columns + column of the first free place, or -1."""
    if width > columns or height > rows:
        return -1
    inside = _ones(columns - width + 1)  # where a thing so wide may begin
    for row in range(rows - height + 1):
        low, high = np.uint64(0), np.uint64(0)
        for under in range(height):
            low |= np.uint64(grid[at + 2 * (row + under)])
            high |= np.uint64(grid[at + 2 * (row + under) + 1])
        low, high = ~low, ~high
        free = 1
        while free < width:  # bit c stays where so many from c on are free
            step = min(free, width - free)
            low, high = low & _low_shifted(low, high, step), high & _high_shifted(high, step)
            free += step
        low, high = low & inside[0], high & inside[1]
        if low != 0:
            return row * columns + _lowest(low)
        if high != 0:
            return row * columns + _WORD + _lowest(high)
    return -1


@njit(cache=True, nogil=True)
def _take(grid, at, columns, place, width, height):  # type: ignore[no-untyped-def]
    row, column = place // columns, place % columns
    for under in range(row, row + height):
        for cell in range(column, column + width):
            word = at + 2 * under + cell // _WORD
            grid[word] = np.int64(np.uint64(grid[word]) | (np.uint64(1) << np.uint64(cell % _WORD)))


@njit(cache=True, inline="always")
def _ones(count):  # type: ignore[no-untyped-def]
    """Two words whose lowest bits, so many, are set."""
    every = ~np.uint64(0)
    low = every if count >= _WORD else (np.uint64(1) << np.uint64(count)) - np.uint64(1)
    high = np.uint64(0) if count <= _WORD else (np.uint64(1) << np.uint64(count - _WORD)) - np.uint64(1)
    return low, high


@njit(cache=True, inline="always")
def _low_shifted(low, high, step):  # type: ignore[no-untyped-def]
    """The low word of two, shifted down."""
    if step >= _WORD:
        return high >> np.uint64(step - _WORD) if step > _WORD else high
    return (low >> np.uint64(step)) | (high << np.uint64(_WORD - step))


@njit(cache=True, inline="always")
def _high_shifted(high, step):  # type: ignore[no-untyped-def]
    return np.uint64(0) if step >= _WORD else high >> np.uint64(step)


@njit(cache=True, inline="always")
def _lowest(word):  # type: ignore[no-untyped-def]
    """The number of the lowest bit that is set, by halves."""
    at = 0
    for half in (32, 16, 8, 4, 2, 1):
        if word & ((np.uint64(1) << np.uint64(half)) - np.uint64(1)) == 0:
            word = word >> np.uint64(half)
            at += half
    return at


@njit(cache=True, nogil=True)
def _put_here(cells, columns, rows, width, height):  # type: ignore[no-untyped-def]
    return put(pointer_to(cells), 0, columns, rows, width, height)


@dataclass
class Stack:
    """Units of one item that lie together; `column` and `row` of the top left cell, from 0."""

    item: str
    column: int
    row: int
    turned: bool
    count: int


@dataclass
class Packing:
    """Cells `columns` by `rows` that are filled unit by unit.

    stacks : in the order in which they were begun. purse : units of money, which takes no room.
    left : units that did not fit, by item. cells_used : of all stacks.
    """

    columns: int
    rows: int
    stacks: list[Stack] = field(default_factory=list)
    purse: dict[str, int] = field(default_factory=dict)
    left: dict[str, int] = field(default_factory=dict)
    cells_used: int = 0

    def __post_init__(self) -> None:
        self._cells = np.zeros(2 * self.rows, dtype=np.int64)
        self._open: dict[str, int] = {}  # the stack of each item that has room
        self._shut: set[tuple[int, int]] = set()  # sizes that fit no more, since nothing is taken out

    def add(self, item: Item) -> int | str | None:
        """The number of the stack that one unit goes onto, `purse`, or None where it does not fit."""
        if item.currency:
            self.purse[item.id] = self.purse.get(item.id, 0) + 1
            return "purse"
        at = self._open.get(item.id)
        if at is None:
            at = self._begun(item)
        if at is None:
            self.left[item.id] = self.left.get(item.id, 0) + 1
            return None
        self.stacks[at].count += 1
        if self.stacks[at].count >= item.stack:
            self._open.pop(item.id, None)
        return at

    def _begun(self, item: Item) -> int | None:
        size = item.width, item.height
        if size in self._shut:
            return None
        place = int(_put_here(self._cells, self.columns, self.rows, *size))
        if place < 0:
            self._shut.add(size)
            return None
        row, column = divmod(place // 2, self.columns)
        self.stacks.append(Stack(item.id, column, row, bool(place % 2), 0))
        self.cells_used += item.width * item.height
        self._open[item.id] = len(self.stacks) - 1
        return self._open[item.id]
