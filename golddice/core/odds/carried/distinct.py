"""Rolls without replacement for players who carry something: backwards roll by roll, for all sets of lines
that are out at once.

Before a roll with r left, what is yet to come is told by which lines are out and by the player's state. Of
each number of rolls left there is one bundle, slab by slab: a slab is a set, with all states in it.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from propcache.api import cached_property

from golddice.core.arrays import BoolArray, IntArray
from golddice.core.game.models import PickTable
from golddice.core.odds.carried.folds import Bundle, Fold, Way
from golddice.core.odds.carried.pockets import Exclusive
from golddice.core.stopping import go_on
from golddice.core.terms.conditions import Conditions

_BLOCK_CELLS = 1 << 18  # of a slab's numbers, so that a block of slabs stays near the processor


@dataclass(frozen=True)
class _After:
    """What is yet to come after a roll: of every set of lines that can be out then, a slab of the bundle.

    given : folds in what a line gives, over so many slabs.
    """

    bundle: Bundle
    slab_of: dict[int, int]
    fold: Fold
    given: Callable[[int, Bundle], Bundle]


@dataclass(frozen=True)
class Rolling:
    """One table's roll over a space, at one depth: that of `under`, which has no other.

    row : which of the pocket's depths that is.
    at : ndarray of int, shape (s,); the content of the table's pocket in each state.
    stride : by how much a state's number changes with the content's.
    """

    table: PickTable
    under: Conditions
    pocket: Exclusive
    row: int
    at: IntArray
    stride: int

    def left(
        self, rolls: int, ended: Bundle, fold: Fold, given: Callable[[int, Bundle], Bundle]
    ) -> list[Bundle]:
        """What is yet to come with 0, 1 ... `rolls` rolls left and no line out, each over all states; `given`
        folds in what a line gives, over so many slabs."""
        levels = self._levels(rolls)
        after = _After(ended, dict.fromkeys(levels[0], 0), fold, given)
        found = [ended]
        for sets in levels[1:]:
            before = self._rolled(sets, after)
            after = _After(before, {out: slab for slab, out in enumerate(sets)}, fold, given)
            found.append(fold.taken(before, self._every))  # the empty set is the first of each
        return found

    def _levels(self, rolls: int) -> list[list[int]]:
        """The sets of lines that can be out, as bits, by how many rolls are left: 0 first."""
        levels = [[0]]
        while len(levels) <= rolls:
            sets = self._after(levels[-1])
            if len(sets) == len(levels[-1]):  # they only become more, until all are there
                return [levels[-1]] * (rolls + 1 - len(levels)) + levels[::-1]
            levels.append(sets)
        return levels[::-1]

    def _after(self, sets: list[int]) -> list[int]:
        """Those that can be out after a roll, and none, from where fewer rolls begin."""
        found = {0: None}
        for out in sets:
            if self._can_be_blank(out):
                found[out] = None
            found |= {out | bit: None for bit in self._bits if not out & bit}
        return list(found)

    @cached_property
    def _lines(self) -> list[int]:
        """The lines that can hit."""
        weights = self.under.weights(self.table)[:, 0]
        return [
            at
            for at, line in enumerate(self.table.lines)
            if bool(self.under.line_open(line)[0])
            and (weights[at] > 0 or (line.guard is not None and line.guard.sure_at is not None))
        ]

    @cached_property
    def _bits(self) -> list[int]:
        return [1 << at for at in self._lines]

    @cached_property
    def _lasting(self) -> int:
        """The lines of which one is always there, as long as it is not out."""
        weights = self.under.weights(self.table)[:, 0]
        lines = self.table.lines
        return sum(1 << at for at in self._lines if weights[at] > 0 and lines[at].limit is None)

    def _can_be_blank(self, out: int) -> bool:
        return bool(self.under.nothing(self.table)[0] > 0) or not self._lasting & ~out

    # --- one roll ----------------------------------------------------------------------------------------

    def _rolled(self, sets: list[int], after: _After) -> Bundle:
        """Before a roll with these sets out; some slabs at a time."""
        width = max(after.fold.width, len(self.table.lines))
        at_a_time = max(1, _BLOCK_CELLS // (self.at.size * width))
        blocks = []
        for start in range(0, len(sets), at_a_time):
            go_on()
            blocks.append(self._block(sets[start : start + at_a_time], after))
        return blocks[0] if len(blocks) == 1 else tuple(map(np.concatenate, zip(*blocks, strict=True)))

    def _block(self, sets: list[int], after: _After) -> Bundle:
        ways = []
        for chance, contents, line in self.pocket.rolled_without(self.row, self._out(sets)):
            bit = 0 if line is None else 1 << line
            slabs = np.flatnonzero(chance.any(axis=1))
            goes_to = np.array([after.slab_of[sets[slab] | bit] for slab in slabs.tolist()])
            kinds, which = np.unique(goes_to, return_inverse=True)
            come = after.fold.taken(after.bundle, (kinds[:, None] * self.at.size + self._every).ravel())
            if line is not None:
                come = after.given(line, come)
            place = np.zeros((len(sets), self.at.size), dtype=np.int64)
            place[slabs] = which.reshape(-1, 1) * self.at.size + self._moved(contents[slabs])
            ways.append(Way(chance[:, self.at].ravel(), come, place.ravel()))
        return after.fold.mix(ways)

    def _out(self, sets: list[int]) -> BoolArray:
        """Which lines are out, (lines, sets)."""
        lines = range(len(self.table.lines))
        return np.array([[bool(out >> at & 1) for out in sets] for at in lines], dtype=bool).reshape(
            len(lines), -1
        )

    def _moved(self, after: IntArray) -> IntArray:
        """The states after; `after` is by content, slab by slab."""
        return np.asarray(self._every + (after[:, self.at] - self.at) * self.stride)

    @cached_property
    def _every(self) -> IntArray:
        return np.arange(self.at.size)
