"""What a player carries, as a finite state space: misses of guards, hits of limits, decks.

A space is a grid with one axis for each thing carried. States are numbered; everything about them is
an array over all states, so that a roll is worked out for all of them at once.
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from golddice.core.arrays import BoolArray, FloatArray, IntArray
from golddice.core.errors import TooLarge
from golddice.core.game.models import DeckTable, Drop, Guard, Line, Table
from golddice.core.odds.terms.axis import Axis
from golddice.core.odds.terms.conditions import Conditions

MOST_STATES = 60_000
MOST_MISSES = 5_000
TOO_MANY = MOST_STATES + 1
_NEVER = 40.0  # a streak of chance e^-40 is not followed further


class Space:
    """A grid of states. State 0 is a fresh player.

    `rolls` is by how many rolls each deck may be drawn from at most, where only what is near a
    fresh player is wanted; None for all of it.
    """

    def __init__(self, axes: Iterable[Axis], rolls: dict[str, int] | None = None) -> None:
        self.axes = {axis.key: axis for axis in axes}
        self.rolls = rolls
        sizes = [axis.size for axis in self.axes.values()]
        self.size = math.prod(sizes)
        if self.size > MOST_STATES:
            raise TooLarge(f"a player can be in more than {MOST_STATES:,} states, which is the limit")
        self._strides: dict[tuple[str, ...], int] = {}
        stride = 1
        for axis in reversed(self.axes.values()):
            self._strides[axis.key] = stride
            stride *= axis.size

    @cached_property
    def every(self) -> IntArray:
        return np.arange(self.size)

    def has(self, key: tuple[str, ...]) -> bool:
        return key in self.axes

    def at(self, key: tuple[str, ...]) -> IntArray:
        """The value on an axis, for every state."""
        return (self.every // self._strides[key]) % self.axes[key].size

    def moved(self, state: IntArray, key: tuple[str, ...], value: IntArray) -> IntArray:
        """The states with another value on one axis, kept inside the grid."""
        axis, stride = self.axes[key], self._strides[key]
        now = (state // stride) % axis.size
        return state + (np.minimum(value, axis.size - 1) - now) * stride


@dataclass(frozen=True)
class Branch:
    """One thing that a roll can do: its chance and the state after, for every state.

    `line` is the index of the line that hits, None for nothing.
    """

    chance: FloatArray
    after: IntArray
    line: int | None


# --- axes ------------------------------------------------------------------------------------------


def table_axes(table: Table, under: Conditions) -> list[Axis]:
    """What a player carries for one table."""
    return under.remembered("axes", table, lambda: _table_axes(table, under))


def _table_axes(table: Table, under: Conditions) -> list[Axis]:
    if table.rule == "deck":
        return [Axis(("deck", table.id), _deck_size(table, under))]
    axes = []
    for at, line in enumerate(table.lines):
        if (line.guard is None and line.limit is None) or not bool(under.line_open(line)[0]):
            continue
        size = _guard_size(table, at, under)
        if size > 1:
            axes.append(Axis(("guard", table.id, line.id), size))
        if line.limit is not None:
            axes.append(Axis(("limit", table.id, line.id), line.limit + 1))
    return axes


def drop_axes(source: str, drop: Drop, under: Conditions) -> list[Axis]:
    """What a player carries for one drop: its guard."""
    if drop.guard is None or not bool(under.drop_open(drop)[0]):
        return []
    size = _rising_size(drop.guard, float(under.drop_chance(drop)[0]))
    return [Axis(("drop", source, drop.id), size)] if size > 1 else []


def _guard_size(table: Table, at: int, under: Conditions) -> int:
    """How many misses in a row make a difference, counting none."""
    guard = table.lines[at].guard
    if guard is None:
        return 1
    if table.rule == "retry" and guard.sure_at is not None:
        # A chance of 1 is no hit yet: another line can be tried first. So misses count on to the end.
        return _kept(max(2, guard.sure_at))
    if table.rule != "pick":
        chance = float(under.chances(table)[at, 0])
        weight = float(under.weights(table)[at, 0]) if table.rule == "retry" else 1.0
        return _rising_size(guard, chance if weight > 0 else 1.0)
    if guard.sure_at is not None:
        return _kept(max(2, guard.sure_at))
    weight = float(under.weights(table)[at, 0])
    if guard.rise == 0 or weight == 0:
        return 1
    rest = float(under.weights(table)[:, 0].sum() - weight + under.nothing(table)[0])
    return _streak(guard, weight, rest) if rest > 0 else 1


def _rising_size(guard: Guard, chance: float) -> int:
    """For a chance: until it is certain, by `sure_at` or by rising to 1."""
    sizes = [] if guard.sure_at is None else [guard.sure_at]
    if guard.rise > 0 and chance < 1:
        sizes.append(guard.after + math.ceil((1.0 - chance) / guard.rise - 1e-12) + 1)
    return _kept(max(2, min(sizes))) if sizes else 1


def _streak(guard: Guard, weight: float, rest: float) -> int:
    """For a rising weight, which is never certain: until a longer streak is out of the question."""
    unlikely, misses = 0.0, 0
    while unlikely < _NEVER:
        now = weight * (1 + guard.rise * max(0, misses - guard.after))
        unlikely -= math.log(rest / (now + rest))
        misses += 1
        if misses > MOST_MISSES:
            return TOO_MANY
    return _kept(misses + misses // 2)


def _kept(size: int) -> int:
    """A size, or one that no space can hold."""
    return size if size <= MOST_MISSES else TOO_MANY


def _deck_size(table: DeckTable, under: Conditions) -> int:
    """How many contents a deck can have. Without limits every number left of every line can be."""
    if any(line.limit for line in table.lines):
        try:
            return Deck(table, under).size
        except TooLarge:
            return TOO_MANY
    copies = [line.copies for line in table.lines if bool(under.line_open(line, scaled=False)[0])]
    return min(max(1, math.prod(count + 1 for count in copies) - 1), TOO_MANY)


def near_space(axes: Iterable[Axis], rolls: dict[tuple[str, str], int], under: Conditions) -> Space:
    """What a fresh player can come to within one event; `rolls` is `size.most_rolls` of what is rolled."""
    decks = {name: count for (kind, name), count in rolls.items() if kind == "table"}
    cut = []
    for axis in axes:
        kind, name = axis.key[0], axis.key[1]
        count = rolls.get(("source" if kind == "drop" else "table", name), 0)
        table = under.tables.get(name)
        if kind == "deck" and isinstance(table, DeckTable):
            cut.append(Axis(axis.key, Deck(table, under, count).size))
        else:
            cut.append(axis.near(count))
    return Space(cut, decks)


# --- branches --------------------------------------------------------------------------------------


class Rolls:
    """The branches of one roll of a table, over a space."""

    def __init__(self, table: Table, under: Conditions, space: Space) -> None:
        self.table, self.space = table, space
        self.open = [bool(under.line_open(line, table.rule != "deck")[0]) for line in table.lines]
        self._none = np.zeros(space.size)
        rule = table.rule
        self._weights = under.weights(table)[:, 0] if rule in ("pick", "retry") else np.zeros(0)
        self._chances = under.chances(table)[:, 0] if rule not in ("pick", "deck") else np.zeros(0)
        self._nothing = float(under.nothing(table)[0]) if table.rule == "pick" else 0.0
        self._under = under

    def takes_part(self, at: int, taken: frozenset[int] = frozenset()) -> BoolArray:
        """Where a line is open: always, never, or until its limit is reached."""
        line = self.table.lines[at]
        if not self.open[at] or at in taken:
            return np.zeros(self.space.size, dtype=bool)
        if line.limit is None:
            return np.ones(self.space.size, dtype=bool)
        return np.asarray(self.space.at(("limit", self.table.id, line.id)) < line.limit)

    def exclusive(self, taken: frozenset[int] = frozenset()) -> list[Branch]:
        """For the rules that give at most one line. `taken` lines are out (distinct picks)."""
        if isinstance(self.table, DeckTable):
            most = None if self.space.rolls is None else self.space.rolls.get(self.table.id, 0)
            return Deck(self.table, self._under, most).branches(self.space)
        if self.table.rule == "first":
            return self._first()
        chances = self._pick(taken) if self.table.rule == "pick" else self._retry()
        parts = [self.takes_part(at, taken) for at in range(len(self.table.lines))]
        branches = []
        for at, chance in enumerate(chances):
            if np.any(chance > 0):
                branches.append(Branch(chance, self._after(parts, at), at))
        blank = np.maximum(1.0 - np.sum(chances, axis=0), 0.0) if chances else self._none + 1.0
        if np.any(blank > 1e-15):
            branches.append(Branch(blank, self._after(parts, None), None))
        return branches

    def tested(self, at: int) -> tuple[FloatArray, IntArray, IntArray]:
        """For one line on a chance of its own: chance, and the states after a hit and a miss."""
        part = self.takes_part(at)
        chance = np.where(part, self._chance(at), 0.0)
        hit = self._tested(self.space.every, at, part, True)
        return chance, hit, self._tested(self.space.every, at, part, False)

    def _pick(self, taken: frozenset[int]) -> list[FloatArray]:
        weights, due = [], []
        for at in range(len(self.table.lines)):
            part = self.takes_part(at, taken)
            weights.append(np.where(part, self._weights[at] * (1.0 + self._rise(at)), 0.0))
            due.append(part & self._is_due(at))
        total = np.sum(weights, axis=0) + self._nothing if weights else self._none
        shares = [np.divide(w, total, out=np.zeros_like(w), where=total > 0) for w in weights]
        return _due_first(shares, due)

    def _retry(self) -> list[FloatArray]:
        assert self.table.rule == "retry"
        parts = [self.takes_part(at) for at in range(len(self.table.lines))]
        weights = np.array([np.where(p, self._weights[at], 0.0) for at, p in enumerate(parts)])
        total = weights.sum(axis=0)
        p = np.divide(weights, total, out=np.zeros_like(weights), where=total > 0)
        c = np.array([np.minimum(1.0, self._chances[at] + self._rise(at)) for at in range(len(parts))])
        s = np.minimum((p * c).sum(axis=0), 1.0)
        with np.errstate(divide="ignore", invalid="ignore"):
            factor = np.where(s > 0, -np.expm1(self.table.tries * np.log1p(-s)) / s, 0.0)
        due = [part & self._is_due(at) for at, part in enumerate(parts)]
        return _due_first(list(p * c * factor), due)

    def _first(self) -> list[Branch]:
        reached = self._none + 1.0
        state = self.space.every
        branches = []
        for at in range(len(self.table.lines)):
            part = self.takes_part(at)
            chance = np.where(part, self._chance(at), 0.0)
            if np.any(reached * chance > 0):
                branches.append(Branch(reached * chance, self._tested(state, at, part, True), at))
            state = self._tested(state, at, part, False)
            reached = reached * (1.0 - chance)
        if np.any(reached > 0):
            branches.append(Branch(reached, state, None))
        return branches

    def _chance(self, at: int) -> FloatArray:
        """A line's chance with what its guard adds."""
        risen = np.minimum(1.0, self._chances[at] + self._rise(at))
        return np.where(self._is_due(at), 1.0, risen)

    def _misses(self, at: int) -> IntArray | None:
        key = ("guard", self.table.id, self.table.lines[at].id)
        return self.space.at(key) if self.space.has(key) else None

    def _rise(self, at: int) -> FloatArray:
        guard, misses = self.table.lines[at].guard, self._misses(at)
        if guard is None or misses is None:
            return self._none
        return guard.rise * np.maximum(0, misses - guard.after)

    def _is_due(self, at: int) -> BoolArray:
        return is_due(self.table.lines[at].guard, self._misses(at), self.space.size)

    def _after(self, parts: list[BoolArray], hit: int | None) -> IntArray:
        """The state after a roll in which all open lines took part and one, or none, hit."""
        state = self.space.every
        for at in self._held:
            state = self._tested(state, at, parts[at], at == hit)
        return state

    @cached_property
    def _held(self) -> list[int]:
        """The lines for which a player carries something."""
        kinds = ("guard", "limit")
        return [
            at
            for at, line in enumerate(self.table.lines)
            if any(self.space.has((kind, self.table.id, line.id)) for kind in kinds)
        ]

    def _tested(self, state: IntArray, at: int, part: BoolArray, hit: bool) -> IntArray:
        """Count a hit or a miss of a line, where it took part."""
        line: Line = self.table.lines[at]
        guard, limit = (("guard", self.table.id, line.id), ("limit", self.table.id, line.id))
        result = state
        if self.space.has(guard):
            misses = np.zeros_like(state) if hit else self.space.at(guard) + 1
            result = np.where(part, self.space.moved(result, guard, misses), result)
        if hit and self.space.has(limit):
            result = np.where(part, self.space.moved(result, limit, self.space.at(limit) + 1), result)
        return result


def is_due(guard: Guard | None, misses: IntArray | None, size: int) -> BoolArray:
    """Where `sure_at` makes a hit certain: m + 1 >= n."""
    if guard is None or guard.sure_at is None:
        return np.zeros(size, dtype=bool)
    if misses is None:
        return np.full(size, guard.sure_at <= 1)
    return np.asarray(misses + 1 >= guard.sure_at)


def _due_first(chances: list[FloatArray], due: list[BoolArray]) -> list[FloatArray]:
    """Where lines are due, the first of them takes the roll."""
    result, waiting = [], np.zeros(due[0].shape, dtype=bool) if due else np.zeros(0, dtype=bool)
    anyone = np.any(due, axis=0) if due else waiting
    for chance, now in zip(chances, due, strict=True):
        result.append(np.where(anyone, np.where(now & ~waiting, 1.0, 0.0), chance))
        waiting = waiting | now
    return result


class Deck:
    """The contents that a deck can have, found by drawing every card from a full one.

    A content is (cards left by line, hits by limited line). An empty deck is the full one: it is
    reshuffled before the next card is drawn. `most` is how many draws are followed, None for all.
    """

    def __init__(self, table: DeckTable, under: Conditions, most: int | None = None) -> None:
        self.table = table
        self._full = [
            line.copies if bool(under.line_open(line, scaled=False)[0]) else 0 for line in table.lines
        ]
        first = (tuple(self._full), tuple(0 for line in table.lines if line.limit))
        self._number = {first: 0}
        self._draws: list[list[tuple[float, int, int]]] = []
        pending, draws = [first], 0
        while pending:
            reached = pending
            pending = []
            for content in reached:
                ends = most is not None and draws >= most
                self._draws.append([] if ends else self._drawn(content, pending))
            draws += 1
            if len(self._number) > MOST_STATES:
                raise TooLarge(f"the deck “{table.id}” has more than {MOST_STATES:,} contents")

    @property
    def size(self) -> int:
        return len(self._number)

    def branches(self, space: Space) -> list[Branch]:
        """One branch a line, and nothing for a deck without cards."""
        key = ("deck", self.table.id)
        now = space.at(key) if space.has(key) else np.zeros(space.size, dtype=np.int64)
        chance = np.zeros((len(self.table.lines) + 1, self.size))
        after = np.tile(np.arange(self.size), (len(self.table.lines) + 1, 1))
        for content, draws in enumerate(self._draws):
            for p, line, target in draws:
                chance[line, content], after[line, content] = p, target
            chance[-1, content] = 0.0 if draws else 1.0
        moved = [space.moved(space.every, key, row[now]) if space.has(key) else space.every for row in after]
        lines: list[int | None] = [*range(len(self.table.lines)), None]
        return [
            Branch(chance[row][now], moved[row], line) for row, line in enumerate(lines) if chance[row].any()
        ]

    def _drawn(
        self,
        content: tuple[tuple[int, ...], tuple[int, ...]],
        pending: list[tuple[tuple[int, ...], tuple[int, ...]]],
    ) -> list[tuple[float, int, int]]:
        """(chance, line, number of the content after) for each card that can be drawn."""
        left, hits = content
        if not any(left):
            left = self._shuffled(hits)
        total = sum(left)
        draws = []
        for line, count in enumerate(left):
            if count:
                after = self._without(left, hits, line)
                if after not in self._number:
                    self._number[after] = len(self._number)
                    pending.append(after)
                draws.append((count / total, line, self._number[after]))
        return draws

    def _shuffled(self, hits: tuple[int, ...]) -> tuple[int, ...]:
        return tuple(0 if self._closed(line, hits) else copies for line, copies in enumerate(self._full))

    def _without(
        self, left: tuple[int, ...], hits: tuple[int, ...], line: int
    ) -> tuple[tuple[int, ...], tuple[int, ...]]:
        """A card less; a line whose limit is reached leaves the deck at once."""
        counted = list(hits)
        if self.table.lines[line].limit:
            counted[self._place(line)] += 1
        kept = list(left)
        kept[line] = 0 if self._closed(line, tuple(counted)) else kept[line] - 1
        if not any(kept):
            kept = list(self._shuffled(tuple(counted)))
        return tuple(kept), tuple(counted)

    def _closed(self, line: int, hits: tuple[int, ...]) -> bool:
        limit = self.table.lines[line].limit
        return limit is not None and hits[self._place(line)] >= limit

    def _place(self, line: int) -> int:
        return sum(1 for other in self.table.lines[:line] if other.limit)
