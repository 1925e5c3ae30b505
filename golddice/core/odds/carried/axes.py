"""The numbers that a player carries of tables, lines and drops, and how far each counts: the axes of what can
be in a pocket, and which pockets there are."""

from __future__ import annotations

import math
from collections.abc import Hashable
from dataclasses import dataclass

import numpy as np

from golddice.core.arrays import BoolArray, FloatArray, IntArray
from golddice.core.game.models import DeckLine, Drop, Guard, Table
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.forms import form_of
from golddice.core.terms.layout import Held, slots_of

MOST_MISSES = 5_000
_UNLIKELY = 40.0  # a streak of chance e^-40 is not followed further, to begin with

Key = tuple[str, ...]


@dataclass(frozen=True)
class Axis:
    """One number of a content: the misses of a guard, the hits of a limit, or the cards left of a line.

    `size` : how many values it takes. `is_cut` : larger ones would matter too; they are counted as the
    last, and whoever answers has to know how likely that is.
    """

    kind: Held
    line: int
    size: int
    is_cut: bool = False


@dataclass(frozen=True)
class Reach:
    """How far contents are followed: by at most so many rolls from a fresh player, None for all there are;
    and cut axes so many times as far as to begin with, by (key of the pocket, line), or as far as so many
    rolls go.

    open_from : limits of so many and more are never reached; opened : nor are these, by (key of the pocket,
    line). settled : of these pockets all limits have been.
    """

    rolls: int | None = None
    stretch: dict[tuple[Key, int], int] | None = None
    is_whole: bool = False
    open_from: int | None = None
    opened: frozenset[tuple[Key, int]] = frozenset()
    settled: frozenset[Key] = frozenset()

    @property
    def told(self) -> tuple[Hashable, ...]:
        """As a cache key."""
        stretch = tuple((self.stretch or {}).items())
        return self.rolls, stretch, self.is_whole, self.open_from, self.opened, self.settled

    def size(self, key: Key, axis: Axis) -> Axis:
        size = axis.size
        is_far = self.open_from is not None and size > self.open_from
        if axis.kind == "hits" and (is_far or (key, axis.line) in self.opened):
            return Axis(axis.kind, axis.line, 1)
        if axis.is_cut and self.is_whole and self.rolls is not None:
            return Axis(axis.kind, axis.line, self.rolls + 1)
        if axis.is_cut and self.stretch is not None:
            size *= self.stretch.get((key, axis.line), 1)
        if axis.kind != "left" and self.rolls is not None and self.rolls + 1 < size:
            return Axis(axis.kind, axis.line, self.rolls + 1)  # no roll goes further
        return Axis(axis.kind, axis.line, size, axis.is_cut)


# --- how far misses count --------------------------------------------------------------------------------


def rising_size(guard: Guard, chances: FloatArray, sure: bool) -> int:
    """For chances of a line or drop, where it is open: until all are certain, by `sure_at` or by rising
    to 1. `sure` : whether a chance of 1 is a hit, or counting goes on to `sure_at`."""
    sizes = []
    if guard.sure_at is not None:
        sizes.append(max(2, guard.sure_at))
    if guard.rise > 0 and (sure or guard.sure_at is None):
        lowest = float(chances.min(initial=1.0))
        steps = math.ceil(min((1.0 - lowest) / guard.rise, 1e9) - 1e-12)
        if lowest < 1.0:
            sizes.append(max(2, guard.after + steps + 1))
    return min(sizes) if sizes else 1


def _streak(guard: Guard, weight: float, rest: float) -> int:
    """For a rising weight, which is never certain: until a longer streak is out of the question while
    the others stay as they are. They may rise too, so whoever answers looks at what lies beyond."""
    unlikely, misses = 0.0, 0
    while unlikely < _UNLIKELY and misses <= MOST_MISSES:
        now = weight * (1 + guard.rise * max(0, misses - guard.after))
        unlikely -= math.log(rest / (now + rest)) if rest > 0 else _UNLIKELY
        misses += 1
    return misses + misses // 2 + 1


def is_due(guard: Guard | None, misses: IntArray) -> BoolArray:
    """Where `sure_at` makes a hit certain: m + 1 >= n."""
    if guard is None or guard.sure_at is None:
        return np.zeros(misses.shape, dtype=bool)
    return np.asarray(misses + 1 >= guard.sure_at)


def risen(guard: Guard | None, misses: IntArray) -> FloatArray:
    """r * max(0, m - after)."""
    if guard is None:
        return np.zeros(misses.shape)
    return np.asarray(guard.rise * np.maximum(0, misses - guard.after), dtype=np.float64)


# --- which there are -------------------------------------------------------------------------------------


def table_keys(table: Table, under: Conditions) -> list[Key]:
    """The pockets of a table, by key, at any of the depths."""
    return under.remembered("pockets", table, lambda: _table_keys(table, under))


def _table_keys(table: Table, under: Conditions) -> list[Key]:
    if not form_of(table).holds:  # most tables
        return []
    if table.rule == "each":
        held = [at for at, line in enumerate(table.lines) if _is_held(table, at, under) and line]
        return [("line", table.id, table.lines[at].id) for at in held]
    return [("table", table.id)] if exclusive_axes(table, under) or table.rule == "deck" else []


def _is_held(table: Table, at: int, under: Conditions) -> bool:
    line = table.lines[at]
    opened = under.line_open(line)
    if not bool(opened.any()):
        return False
    guarded = line.guard is not None and rising_size(line.guard, under.chances(table)[at][opened], True) > 1
    return line.limit is not None or guarded


def drop_keys(source: str, drop: Drop, under: Conditions) -> list[Key]:
    if drop.guard is None:
        return []
    opened = under.drop_open(drop)
    size = rising_size(drop.guard, under.drop_chance(drop)[opened], True) if bool(opened.any()) else 1
    return [("drop", source, drop.id)] if size > 1 else []


def tested_axes(guard: Guard | None, limit: int | None, chances: FloatArray) -> list[Axis]:
    """The axes of something on a chance of its own, of its chances where it is open."""
    size = 1 if guard is None else rising_size(guard, chances, sure=True)
    misses = [Axis("misses", 0, size)] if size > 1 else []
    return misses if limit is None else [*misses, Axis("hits", 0, limit + 1)]


def exclusive_axes(table: Table, under: Conditions) -> list[Axis]:
    """The axes of a table of which a roll gives at most one line."""
    return under.remembered("axes", table, lambda: _exclusive_axes(table, under))


def _exclusive_axes(table: Table, under: Conditions) -> list[Axis]:
    if not form_of(table).holds:
        return []
    place = {line.id: at for at, line in enumerate(table.lines)}
    axes = [_axis_of(slot.kind, table, place[slot.part], under) for slot in slots_of(table)]
    return [axis for axis in axes if axis is not None]


def _axis_of(kind: Held, table: Table, at: int, under: Conditions) -> Axis | None:
    """How a number that a player may carry counts here; None where it makes no difference."""
    line = table.lines[at]
    if not bool(under.line_open(line, table.rule != "deck").any()):
        return None
    if kind == "left":
        return Axis("left", at, line.copies + 1) if isinstance(line, DeckLine) and line.copies else None
    if kind == "hits":
        return Axis("hits", at, (line.limit or 0) + 1)
    size, is_cut = _guard_size(table, at, under)
    return Axis("misses", at, size, is_cut) if size > 1 else None


def _guard_size(table: Table, at: int, under: Conditions) -> tuple[int, bool]:
    """How many misses in a row make a difference, counting none; and whether more would still."""
    line = table.lines[at]
    guard, opened = line.guard, under.line_open(line)
    assert guard is not None
    if table.rule != "pick":
        chances = under.chances(table)[at][opened]
        if table.rule == "first":
            return rising_size(guard, chances, sure=True), False
        # In a retry a chance of 1 is no hit yet: another line can be tried first.
        heavy = under.weights(table)[at][opened] > 0
        return rising_size(guard, chances[heavy], sure=False), False
    if guard.sure_at is not None:
        return max(2, guard.sure_at), False
    weights = under.weights(table)
    sizes = [1]
    for row in np.flatnonzero(opened & (weights[at] > 0)) if guard.rise > 0 else ():
        rest = float(weights[:, row].sum() - weights[at, row] + under.nothing(table)[row])
        if rest > 0:
            sizes.append(_streak(guard, float(weights[at, row]), rest))
    return max(sizes), max(sizes) > 1
