"""The states that a player can be in: every combination of what is in some pockets. State 0 is fresh."""

from __future__ import annotations

import math
from collections.abc import Iterable

import numpy as np

from golddice.core.arrays import BoolArray, FloatArray, IntArray
from golddice.core.errors import TooLarge
from golddice.core.odds.carried.axes import Key, Reach
from golddice.core.odds.carried.pockets import Exclusive, Pocket, Tested, pocket_of
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.size import Rolled

MOST_STATES = 60_000


class Space:
    """States are numbered; everything about them is an array over all of them, so that a roll is worked
    out for all at once. Each pocket has a stride in the numbering."""

    def __init__(self, pockets: Iterable[Pocket]) -> None:
        self.pockets = {pocket.key: pocket for pocket in pockets}
        self.size = math.prod(pocket.size for pocket in self.pockets.values())
        if self.size > MOST_STATES:
            raise TooLarge(f"a player can be in more than {MOST_STATES:,} states, which is the limit")
        self._strides: dict[Key, int] = {}
        stride = 1
        for key, pocket in reversed(self.pockets.items()):
            self._strides[key] = stride
            stride *= pocket.size
        self.every: IntArray = np.arange(self.size)

    def has(self, key: Key) -> bool:
        return key in self.pockets

    def tested(self, key: Key) -> Tested:
        pocket = self.pockets[key]
        assert isinstance(pocket, Tested)
        return pocket

    def exclusive(self, key: Key) -> Exclusive:
        pocket = self.pockets[key]
        assert isinstance(pocket, Exclusive)
        return pocket

    def at(self, key: Key) -> IntArray:
        """The content of a pocket, by its number, for every state."""
        return (self.every // self._strides[key]) % self.pockets[key].size

    def within(self, key: Key) -> tuple[IntArray, int]:
        """The content of a pocket by state, and by how much a state's number changes with the content's;
        of one that is not there the same content everywhere."""
        return (self.at(key), self._strides[key]) if self.has(key) else (np.zeros_like(self.every), 0)

    def chance(self, key: Key, chance: FloatArray) -> FloatArray:
        """A chance by content as one by state."""
        return np.asarray(chance[self.at(key)])

    def moved(self, key: Key, after: IntArray) -> IntArray:
        """The states after a pocket's content has moved; `after` is by content."""
        now = self.at(key)
        return np.asarray(self.every + (after[now] - now) * self._strides[key])

    def edges(self) -> dict[tuple[Key, int], BoolArray]:
        """The states at the end of each cut axis, by (pocket, line)."""
        return {
            (key, axis.line): pocket.edge(axis)[self.at(key)]
            for key, pocket in self.pockets.items()
            for axis in pocket.axes
            if axis.is_cut
        }


def space_of(keys: Iterable[Key], under: Conditions, stretch: dict[tuple[Key, int], int]) -> Space:
    """All that a player can come to, at any of the depths. Raises TooLarge."""
    return Space(pocket_of(key, under, Reach(stretch=stretch)) for key in keys)


def near_space(keys: Iterable[Key], under: Conditions, rolls: Rolled) -> Space:
    """All that a fresh player can come to within one event; `rolls` is `size.most_rolls` of it."""

    def near(key: Key) -> Reach:
        return Reach(rolls.get(("source" if key[0] == "drop" else "table", key[1]), 0))  # type: ignore[call-overload]

    return Space(pocket_of(key, under, near(key)) for key in keys)
