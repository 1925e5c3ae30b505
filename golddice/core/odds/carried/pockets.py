"""What a player carries of one table, line or drop: every content it can have, and how a roll moves it.

A pocket is the smallest thing that moves by itself: all misses, hits and cards of a table that rolls its
lines together; of `each`, one line's; a drop's misses. A content is a row of whole numbers, and content 0
is a fresh player's, all zeros: a deck without cards is shuffled before the next is drawn. Contents belong
to no depth: those that any of the conditions can lead to are all there, and a player can go from one depth
to another.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np
from propcache.api import cached_property

from golddice.core.arrays import BoolArray, FloatArray, IntArray
from golddice.core.errors import TooLarge
from golddice.core.game.finding import by_id
from golddice.core.game.models import DeckTable, Guard, RetryTable, Table
from golddice.core.odds.carried.axes import (
    MOST_MISSES,
    Axis,
    Key,
    Reach,
    exclusive_axes,
    is_due,
    risen,
    tested_axes,
)
from golddice.core.stopping import go_on
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.resting import is_distinct

MOST_CONTENTS = 60_000
MOST_LISTED = 8_000_000  # contents times what a roll does to each of their numbers
_GRID = 4_096  # contents that are listed without looking which of them can be come to
_LONG = 500  # values along an axis, of a grid that is not looked through
_FEW = 8  # and as many where only some rolls are followed: most of a grid is too far then


@dataclass(frozen=True)
class Branch:
    """One thing that a roll can do: its chance and the content after, for every content.

    `line` is the index of the line that hits, None for nothing.
    """

    chance: FloatArray
    after: IntArray
    line: int | None


class Pocket:
    """The contents, shape (n, a) for a axes, and where each stands among them."""

    def __init__(self, key: Key, axes: list[Axis], reach: Reach) -> None:
        self.key = key
        self.axes = [reach.size(key, axis) for axis in axes]
        is_long = any(axis.size > MOST_MISSES and axis.kind == "misses" for axis in self.axes)
        if is_long and key not in reach.settled:
            raise TooLarge(f"{_named(key)}: streaks of more than {MOST_MISSES:,} misses")
        self.column = {(axis.kind, axis.line): at for at, axis in enumerate(self.axes)}
        self._weights = _code_weights([axis.size for axis in self.axes])

    def _list(self, moves: Callable[[IntArray], list[IntArray]], reach: Reach, whole: bool) -> None:
        """Find every content. `moves` gives those that each row can be moved to; where it does not tell
        all, the `whole` grid is taken."""
        rolls = reach.rolls
        cells = math.prod(axis.size for axis in self.axes)
        whole = whole and self.key not in reach.settled
        longest = max((axis.size for axis in self.axes), default=1)
        if longest > _LONG and cells <= MOST_CONTENTS:
            whole = True  # a roll at a time would take long
        elif longest > MOST_CONTENTS and self.key not in reach.settled:
            whole = True
        if whole and cells > MOST_CONTENTS:
            raise TooLarge(f"{_named(self.key)}: a player can be in more than {MOST_CONTENTS:,} states")
        if not self.axes:
            self.contents = np.zeros((1, 0), dtype=np.int64)
        elif self.key in reach.settled:
            self.contents = np.array([[axis.size - 1 if axis.kind == "hits" else 0 for axis in self.axes]])
        elif whole or cells <= (_GRID if rolls is None else _FEW):
            grid = np.indices([axis.size for axis in self.axes], dtype=np.int64).reshape(len(self.axes), -1).T
            self.contents = np.ascontiguousarray(grid)
        else:
            self.contents = self._found(moves, rolls)
        codes = self.contents @ self._weights
        self._order = np.argsort(codes, kind="stable")
        self._codes = codes[self._order]

    def _found(self, moves: Callable[[IntArray], list[IntArray]], rolls: int | None) -> IntArray:
        """All that can be come to from a fresh player, level by level."""
        front = np.zeros((1, len(self.axes)), dtype=np.int64)
        found, known, level = [front], front @ self._weights, 0
        while front.shape[0] and (rolls is None or level < rolls):
            reached = moves(front)
            every = np.concatenate(reached) if reached else front[:0]
            codes, first = np.unique(every @ self._weights, return_index=True)
            new = ~np.isin(codes, known, assume_unique=True)
            front = every[first[new]]
            known = np.concatenate([known, codes[new]])
            go_on()
            if known.size * max(len(self.axes), 1) ** 2 > MOST_LISTED or known.size > MOST_CONTENTS:
                raise TooLarge(f"{_named(self.key)}: a player can be in more than {MOST_CONTENTS:,} states")
            found.append(front)
            level += 1
        return np.concatenate(found)

    @property
    def size(self) -> int:
        return int(self.contents.shape[0])

    def at(self, contents: IntArray) -> IntArray:
        """Where contents stand. Those past the last roll that is followed stay where they are not."""
        codes = contents @ self._weights
        places = np.minimum(np.searchsorted(self._codes, codes), self._codes.size - 1)
        found = self._order[places]
        return np.where(self._codes[places] == codes, found, 0)

    def edge(self, axis: Axis) -> BoolArray:
        """The contents at the last value of a cut axis."""
        return np.asarray(self.contents[:, self.column[axis.kind, axis.line]] == axis.size - 1)


def _code_weights(sizes: list[int]) -> IntArray:
    """Numbers that make one of a content; where they would not fit, ones that hardly ever collide."""
    if math.prod(sizes) < 2**62:
        return np.array([math.prod(sizes[at + 1 :]) for at in range(len(sizes))], dtype=np.int64)
    drawn = np.random.default_rng(0).integers(1, 2**62, len(sizes), dtype=np.int64)
    return drawn | 1


def _named(key: Key) -> str:
    return f"“{key[1]}”"


# --- a line of `each`, or a drop -------------------------------------------------------------------------


class Tested(Pocket):
    """Something on a chance of its own, with a guard, a limit or both; at d depths."""

    def __init__(
        self,
        key: Key,
        guard: Guard | None,
        limit: int | None,
        opened: BoolArray,
        chances: FloatArray,
        reach: Reach,
    ) -> None:
        self._guard, self._limit, self._open, self._chances = guard, limit, opened, chances
        super().__init__(key, tested_axes(guard, limit, chances[opened]), reach)
        self._list(self._moves, reach, whole=False)

    def tried(self, row: int) -> tuple[FloatArray, IntArray, IntArray]:
        """At one depth: the chance by content, and the contents after a hit and after a miss."""
        chance, hit, miss = self._tried(self.contents, row)
        return chance, self.at(hit), self.at(miss)

    def _tried(self, contents: IntArray, row: int) -> tuple[FloatArray, IntArray, IntArray]:
        part = np.full(contents.shape[0], bool(self._open[row]))
        hit, miss = contents.copy(), contents.copy()
        chance = np.full(contents.shape[0], float(self._chances[row]))
        hits, misses = self.column.get(("hits", 0)), self.column.get(("misses", 0))
        if hits is not None:
            part &= contents[:, hits] < (self._limit or 0)
            hit[part, hits] = np.minimum(hit[part, hits] + 1, self.axes[hits].size - 1)
        held = np.zeros(contents.shape[0], dtype=np.int64) if misses is None else contents[:, misses]
        chance = np.minimum(1.0, chance + risen(self._guard, held))
        chance[is_due(self._guard, held)] = 1.0
        if misses is not None:
            hit[part, misses] = 0
            miss[part, misses] = np.minimum(held[part] + 1, self.axes[misses].size - 1)
        return np.where(part, chance, 0.0), hit, miss

    def _moves(self, contents: IntArray) -> list[IntArray]:
        return [moved for row in range(self._open.size) for moved in self._tried(contents, row)[1:]]


# --- rolls that give at most one line --------------------------------------------------------------------


class Exclusive(Pocket):
    """All that a player carries of a table of which a roll gives at most one line."""

    def __init__(self, table: Table, under: Conditions, axes: list[Axis], reach: Reach) -> None:
        self.table, self._under = table, under
        super().__init__(("table", table.id), axes, reach)
        # In a distinct pick lines that are out do not count their misses: more can be come to.
        self._list(self._moves, reach, whole=is_distinct(under, table) and bool(axes))

    def rolled(self, row: int) -> list[Branch]:
        """The branches of one roll at one depth."""
        found = self._rolled(self.contents, row, None)
        return [
            Branch(chance, self.at(after), line) for chance, after, line in found if bool((chance > 0).any())
        ]

    def rolled_without(self, row: int, out: BoolArray) -> Iterator[tuple[FloatArray, IntArray, int | None]]:
        """The branches of one roll of a distinct pick, by which lines are out, (lines, sets): chance and
        content after, both (sets, contents), and the line that hits."""
        sets, contents = out.shape[1], np.tile(self.contents, (out.shape[1], 1))
        for chance, after, line in self._rolled(contents, row, np.repeat(out, self.size, axis=1)):
            yield chance.reshape(sets, -1), self.at(after).reshape(sets, -1), line

    def _moves(self, contents: IntArray) -> list[IntArray]:
        return [
            after[chance > 0]
            for row in range(self._under.depths.size)
            for chance, after, _ in self._rolled(contents, row, None)
        ]

    def _rolled(
        self, contents: IntArray, row: int, out: BoolArray | None
    ) -> list[tuple[FloatArray, IntArray, int | None]]:
        raise NotImplementedError

    @cached_property
    def _lines(self) -> range:
        return range(len(self.table.lines))

    @cached_property
    def _gates(self) -> list[BoolArray]:
        """Where each line is open, by depth, its limit aside."""
        return [self._under.line_open(line, self.table.rule != "deck") for line in self.table.lines]

    def _takes_part(self, contents: IntArray, row: int, at: int, out: BoolArray | None) -> BoolArray:
        """Where a line is open: always, never, or until its limit is reached; `out` says, by line and
        content, where one is out already."""
        if not bool(self._gates[at][row]):
            return np.zeros(contents.shape[0], dtype=bool)
        hits = self.column.get(("hits", at))
        part = np.ones(contents.shape[0], dtype=bool) if out is None else ~out[at]
        return part if hits is None else part & (contents[:, hits] < (self.table.lines[at].limit or 0))

    def _misses(self, contents: IntArray, at: int) -> IntArray:
        column = self.column.get(("misses", at))
        return np.zeros(contents.shape[0], dtype=np.int64) if column is None else contents[:, column]

    def _count(self, contents: IntArray, at: int, part: BoolArray, hit: bool) -> None:
        """Count a hit or a miss of a line, where it took part. Writes into the contents."""
        misses, hits = self.column.get(("misses", at)), self.column.get(("hits", at))
        if misses is not None:
            most = self.axes[misses].size - 1
            counted = 0 if hit else np.minimum(contents[part, misses] + 1, most)
            contents[part, misses] = counted
        if hit and hits is not None:
            contents[part, hits] = np.minimum(contents[part, hits] + 1, self.axes[hits].size - 1)

    def _after(self, contents: IntArray, parts: list[BoolArray], hit: int | None) -> IntArray:
        """After a roll in which all open lines took part and one, or none, hit."""
        after = contents.copy()
        for at in self._held:
            self._count(after, at, parts[at], at == hit)
        return after

    @cached_property
    def _held(self) -> list[int]:
        """The lines of which a player carries something."""
        return sorted({axis.line for axis in self.axes})


class Weighed(Exclusive):
    """A pick, or a retry: one line among all that are open, by weight."""

    def _rolled(
        self, contents: IntArray, row: int, out: BoolArray | None
    ) -> list[tuple[FloatArray, IntArray, int | None]]:
        parts = [self._takes_part(contents, row, at, out) for at in self._lines]
        due = [
            parts[at] & is_due(self.table.lines[at].guard, self._misses(contents, at)) for at in self._lines
        ]
        shares, blank = self._shares(contents, row, parts)
        anyone = np.any(due, axis=0) if due else np.zeros(contents.shape[0], dtype=bool)
        found: list[tuple[FloatArray, IntArray, int | None]] = []
        waiting = np.zeros(contents.shape[0], dtype=bool)
        for at in self._lines:
            first = due[at] & ~waiting  # where several are due, the first of them takes the roll
            waiting |= due[at]
            chance = np.where(anyone, np.where(first, 1.0, 0.0), shares[at])
            if bool((chance > 0).any()):
                found.append((chance, self._after(contents, parts, at), at))
        nothing = np.where(anyone, 0.0, blank)
        if bool((nothing > 0).any()):
            found.append((nothing, self._after(contents, parts, None), None))
        return found

    def _shares(
        self, contents: IntArray, row: int, parts: list[BoolArray]
    ) -> tuple[list[FloatArray], FloatArray]:
        """The chance of each line and of nothing, where none is due."""
        if isinstance(self.table, RetryTable):
            return self._tried_again(contents, row, parts, self.table.tries)
        assert self.table.rule == "pick"
        weights, nothing = self._under.weights(self.table)[:, row], self._under.nothing(self.table)[row]
        heavy = []
        for at, part in enumerate(parts):
            rise = risen(self.table.lines[at].guard, self._misses(contents, at))
            heavy.append(np.where(part, weights[at] * (1.0 + rise), 0.0))
        total = np.sum(heavy, axis=0) + nothing if heavy else np.full(contents.shape[0], nothing)
        some = total > 0
        shares = [np.divide(w, total, out=np.zeros_like(w), where=some) for w in heavy]
        blank = np.divide(nothing, total, out=np.ones_like(total), where=some)
        return shares, blank

    def _tried_again(
        self, contents: IntArray, row: int, parts: list[BoolArray], tries: int
    ) -> tuple[list[FloatArray], FloatArray]:
        weights, chances = self._under.weights(self.table)[:, row], self._under.chances(self.table)[:, row]
        heavy = np.array([np.where(part, weights[at], 0.0) for at, part in enumerate(parts)])
        heavy = heavy.reshape(len(parts), contents.shape[0])
        total = heavy.sum(axis=0)
        p = np.divide(heavy, total, out=np.zeros_like(heavy), where=total > 0)
        rises = [risen(self.table.lines[at].guard, self._misses(contents, at)) for at, _ in enumerate(parts)]
        c = np.array([np.minimum(1.0, chances[at] + rise) for at, rise in enumerate(rises)]).reshape(p.shape)
        s = np.minimum((p * c).sum(axis=0), 1.0)
        with np.errstate(divide="ignore", invalid="ignore"):
            log_none = tries * np.log1p(-s)
            factor = np.where(s > 0, -np.expm1(log_none) / s, 0.0)
        return list(p * c * factor), np.exp(log_none)


class InOrder(Exclusive):
    """`first`: lines are tested in order until one hits; those behind it are not tested."""

    def _rolled(
        self, contents: IntArray, row: int, out: BoolArray | None
    ) -> list[tuple[FloatArray, IntArray, int | None]]:
        chances = self._under.chances(self.table)[:, row]
        reached = np.ones(contents.shape[0])
        now = contents
        found: list[tuple[FloatArray, IntArray, int | None]] = []
        for at in self._lines:
            part = self._takes_part(contents, row, at, out)
            guard, misses = self.table.lines[at].guard, self._misses(contents, at)
            chance = np.minimum(1.0, chances[at] + risen(guard, misses))
            chance = np.where(part, np.where(is_due(guard, misses), 1.0, chance), 0.0)
            if bool((reached * chance > 0).any()):
                hit = now.copy()
                self._count(hit, at, part, True)
                found.append((reached * chance, hit, at))
            if at in self._held:
                now = now.copy()
                self._count(now, at, part, False)
            reached = reached * (1.0 - chance)
        if bool((reached > 0).any()):
            found.append((reached, now, None))
        return found


class Deck(Exclusive):
    """Cards drawn without replacement. One axis a line for what is left; hits of limited lines."""

    def _rolled(
        self, contents: IntArray, row: int, out: BoolArray | None
    ) -> list[tuple[FloatArray, IntArray, int | None]]:
        assert isinstance(self.table, DeckTable)
        left = self._left(contents, row)
        total = left.sum(axis=1)
        found: list[tuple[FloatArray, IntArray, int | None]] = []
        for at, line in enumerate(self.table.lines):
            chance = np.divide(left[:, at], total, out=np.zeros(total.size), where=total > 0)
            if not bool((chance > 0).any()):
                continue
            rest = left.copy()
            rest[:, at] = np.maximum(rest[:, at] - 1, 0)
            after = contents.copy()
            hits = self.column.get(("hits", at))
            if hits is not None and line.limit is not None:
                after[:, hits] = np.minimum(after[:, hits] + 1, self.axes[hits].size - 1)
                rest[after[:, hits] >= line.limit, at] = 0  # it leaves the deck at once
            after[:, self._cards] = rest[:, self._carded]
            found.append((chance, after, at))
        if bool((total == 0).any()):
            found.append((np.where(total == 0, 1.0, 0.0), contents, None))
        return found

    def _left(self, contents: IntArray, row: int) -> IntArray:
        """Cards left of each line, an empty deck shuffled anew from the lines open at the depth."""
        left = np.zeros((contents.shape[0], len(self.table.lines)), dtype=np.int64)
        left[:, self._carded] = contents[:, self._cards]
        empty = left.sum(axis=1) == 0
        for at, line in enumerate(self.table.lines):
            part = self._takes_part(contents, row, at, None)
            left[empty & part, at] = getattr(line, "copies", 0)
        return left

    @cached_property
    def _carded(self) -> list[int]:
        return [axis.line for axis in self.axes if axis.kind == "left"]

    @cached_property
    def _cards(self) -> list[int]:
        return [at for at, axis in enumerate(self.axes) if axis.kind == "left"]


# --- the pocket of a key ----------------------------------------------------------------


def pocket_of(key: Key, under: Conditions, reach: Reach) -> Pocket:
    """The pocket of a key. Raises TooLarge."""
    if key[0] == "drop":
        drop = by_id(under.source(key[1]).drops, key[2])
        return Tested(key, drop.guard, None, under.drop_open(drop), under.drop_chance(drop), reach)
    table = under.table(key[1])
    if key[0] == "line":
        at = next(at for at, line in enumerate(table.lines) if line.id == key[2])
        line = table.lines[at]
        return Tested(key, line.guard, line.limit, under.line_open(line), under.chances(table)[at], reach)
    return exclusive(table, under, reach)


def exclusive(table: Table, under: Conditions, reach: Reach) -> Exclusive:
    """The pocket of a table of which a roll gives at most one line; of one content where nothing is
    carried."""
    axes = exclusive_axes(table, under)
    kinds = {"pick": Weighed, "retry": Weighed, "first": InOrder, "deck": Deck}
    return kinds[table.rule](table, under, axes, reach)
