"""What the players of a unit kept of what they received: read from their states, at some marks on the way and
in the end."""

from __future__ import annotations

from collections.abc import Mapping
from decimal import Decimal
from fractions import Fraction
from typing import Any

import numpy as np
import numpy.typing as npt

from golddice.core.arrays import FloatArray, IntArray
from golddice.core.game.models import Property, Sale
from golddice.core.trial import program as p
from golddice.core.trial.belongings import empty_bags, new_keep
from golddice.core.trial.compiling import Compiled
from golddice.core.trial.waymarks import Marks, no_marks, note_standing

MOST_MARKS = 20
Arrays = Mapping[str, npt.NDArray[np.generic]]
_SAFE = 2**62
_NOWHERE: IntArray = np.zeros(0, dtype=np.int64)


def kept_marks(marks: IntArray) -> IntArray:
    """At most MOST_MARKS of the marks, the last included."""
    if marks.size <= MOST_MARKS:
        return marks
    picked = np.unique(np.linspace(0, marks.size, MOST_MARKS + 1).round().astype(np.int64))
    return marks[picked[picked > 0] - 1]


def room_to_keep(
    keeping: Keeping | None, players: int, trace: FloatArray | None, ends: IntArray | None = None
) -> tuple[Any, ...] | None:
    """What the kernel is given for it, with the events at which it notes how things stand. With a trace there
    is room even where nothing is kept: the program says so, and the kernel is compiled for one kind of trace
    only."""
    if keeping is not None:
        return *keeping.players, *keeping.marks(_NOWHERE if ends is None else ends)
    return None if trace is None else (*new_keep(players, 0), *no_marks(players))


class Keeping:
    """The players of a unit while they are played, where something is kept. p players, f marks, k items, m
    kinds of money, s sources, g slots of kit, e sets, n pieces of sets, q properties."""

    def __init__(self, compiled: Compiled, states: IntArray, marks: int) -> None:
        self._compiled, self._states = compiled, states
        self._code, self._keeps = compiled.program.code, compiled.keeps
        self.players = new_keep(states.shape[0], len(self._keeps.kit))
        self._purse = self._block(p.S_PURSE, len(self._keeps.money))
        self._effects, self._places = self._all_effects(), self._all_places()
        self._begin()
        shape = states.shape[0], marks
        self._at = 0
        # On the way seven figures are enough; of what is worn in the end all are told.
        self._worn = np.zeros((*shape, len(self._keeps.kit)), dtype=np.float32)
        self._money = np.zeros((*shape, len(self._keeps.money)), dtype=np.int64)
        self._cells = np.zeros(shape, dtype=np.int64)
        self._full = np.zeros(marks, dtype=np.int64)
        self._upgrades = np.zeros((marks, len(self._keeps.kit)), dtype=np.int64)
        self._sets = np.zeros((marks, len(self._keeps.sets)), dtype=np.int64)
        self._properties = np.zeros((*shape, len(self._keeps.game.properties)))
        self._full_first = np.zeros(states.shape[0], dtype=np.int64)

    @staticmethod
    def of(compiled: Compiled | None, states: IntArray, marks: int) -> Keeping | None:
        """None where nothing is kept."""
        if compiled is None or not compiled.keeps.used:
            return None
        return Keeping(compiled, states, marks)

    def _begin(self) -> None:
        carry = self._keeps.carry
        for item, amount in (carry.purse or {}).items() if carry is not None else ():
            self._purse[:, self._keeps.money.index(item)] = amount

    def _block(self, start: int, size: int) -> IntArray:
        at = int(self._code[start])
        return self._states[:, at : at + size]

    def _clock(self, at: int) -> IntArray:
        return self._states[:, int(self._code[p.S_CLOCK]) + at]

    def _fields(self, start: int, fields: int, rows: int) -> IntArray:
        """Records of so many fields, shape (p, rows, fields)."""
        return self._block(start, fields * rows).reshape(self._states.shape[0], rows, fields)

    # --- on the way --------------------------------------------------------------------------------------

    def mark(self) -> None:
        """Note how things stand."""
        _, at, *what = self.marks(_NOWHERE)
        places, effects, by_player, by_mark = what
        note_standing((self._states, self.players[0]), places, effects, at, by_player, by_mark)
        self._at += 1

    def marks(self, ends: IntArray) -> Marks:
        """Those after these events, which whoever plays notes; `passed` says that it is done."""
        by_player = self._worn, self._money, self._cells, self._properties
        return (
            ends,
            self._at,
            self._places,
            self._effects,
            by_player,
            (self._full, self._upgrades, self._sets),
        )

    def passed(self, marks: int) -> None:
        self._at += marks

    def stop_done(self, number: int) -> None:
        """After a stop, by number from 1: whose bag is full now."""
        new = (self._full_first == 0) & (self._clock(p.AT_FULL) > 0)
        self._full_first[new] = number

    def leg_done(self, sells: Sale | None, stores: bool) -> None:
        """The bag is sold, or put aside."""
        if sells is None and not stores:
            return
        gone = np.zeros((self._states.shape[0], self._keeps.items.size), dtype=np.int64)
        into = int(self._code[p.S_ASIDE if stores else p.S_SOLD])
        empty_bags(self._states, self._code, gone, into)
        if sells is not None:
            worth = [item.value for item in self._keeps.goods]
            self._purse[:, self._keeps.money.index(sells.item)] += proceeds(gone, worth, sells.share)

    def _all_places(self) -> tuple[int, ...]:
        code = self._code
        clock, starts = int(code[p.S_CLOCK]), (p.S_WORN, p.S_SETS, p.S_COUNTS)
        told = int(code[p.S_PURSE]), clock + p.AT_USED, clock + p.AT_FULL
        return (*told, *(int(code[start]) for start in starts), int(self._keeps.whither))

    def _all_effects(self) -> tuple[FloatArray, IntArray, FloatArray, IntArray, FloatArray]:
        """As `note_standing` takes them."""
        keeps, game = self._keeps, self._keeps.game
        at = {one.id: number for number, one in enumerate(game.properties)}
        of_items = [(slot, one) for slot, item in enumerate(keeps.goods) for one in item.effects]
        of_sets = [(row, one) for row, number in enumerate(keeps.sets) for one in game.sets[number].effects]
        items = [(slot, at[one.property], one.units) for slot, one in of_items]
        return (
            np.array([one.base for one in game.properties], dtype=np.float64),
            np.array(items, dtype=np.int64).reshape(-1, 3),
            np.array([one.amount for _, one in of_items], dtype=np.float64),
            np.array([(row, at[one.property]) for row, one in of_sets], dtype=np.int64).reshape(-1, 2),
            np.array([one.amount for _, one in of_sets], dtype=np.float64),
        )

    # --- in the end --------------------------------------------------------------------------------------

    def collected(self) -> Arrays:
        """Sums over the players where that is enough, else by player; names end in `_sum` for sums."""
        keeps = self._keeps
        sources, kit = len(keeps.sources), len(keeps.kit)
        worn = self._fields(p.S_WORN, p.WORN_FIELDS, kit)
        sets = self._fields(p.S_SETS, p.SET_FIELDS, len(keeps.sets))
        bought, refused = self._block(p.S_BOUGHT, sources), self._block(p.S_REFUSED, sources)
        found: dict[str, npt.NDArray[np.generic]] = {
            f"{name}_sum": self._of_items(start).sum(0)
            for name, start in (
                ("bag", p.S_BAG),
                ("aside", p.S_ASIDE),
                ("sold", p.S_SOLD),
                ("lost", p.S_LOST),
                ("missed", p.S_MISSED),
                ("left", p.S_LEFT),
            )
        }
        lost = self._of_items(p.S_LOST)
        found |= {
            "lost_units": lost.sum(1),
            "lost_worth": lost @ np.array([item.value for item in keeps.goods]),
            "bought_sum": bought.sum(0),
            "refused_sum": refused.sum(0),
            "never_sum": ((refused > 0) & (bought == 0)).sum(0),
            "openings_sum": np.array([self._clock(p.AT_OPENED).sum(), self._clock(p.AT_SHORT).sum()]),
            "inside": self._clock(p.AT_INSIDE).copy(),
            "full_first": self._full_first,
            "full_sum": self._full,
            "worn_at": self._worn,
            "worn": self.players[0][:, :kit].copy(),
            "worn_by_item_sum": self._worn_items(worn),
            "upgrades": worn[:, :, p.W_UPGRADES].copy(),
            "upgrades_sum": self._upgrades,
            "upgraded_first": worn[:, :, p.W_FIRST].copy(),
            "tried_sum": worn[:, :, [p.W_TIMES, p.W_UNITS]].sum(0),
            "purse": self._money,
            "cells": self._cells,
            "complete": np.where(sets[:, :, p.E_PART] > 0, np.maximum(sets[:, :, p.E_EVENT], 1), 0),
            "complete_sum": self._sets,
            "have_sum": sets[:, :, p.E_HAVE].sum(0),
            "spare_sum": sets[:, :, p.E_SPARE].sum(0),
            "last_sum": self._last(sets),
            "properties": self._properties,
        }
        return found

    def _of_items(self, start: int) -> IntArray:
        """What became of each item's units, (p, k)."""
        size = self._keeps.items.size
        if not self._keeps.whither:
            return np.zeros((self._states.shape[0], size), dtype=np.int64)
        return self._block(start, size)

    def _worn_items(self, worn: IntArray) -> IntArray:
        """How many players wear each item in the end, (k,)."""
        every = worn[:, :, p.W_ITEM].ravel()
        return np.bincount(every[every > 0] - 1, minlength=self._keeps.items.size).astype(np.int64)

    def _last(self, sets: IntArray) -> FloatArray:
        """Of each piece the players for whom it was the last to come; those that came together share. (n,)"""
        pieces = self._block(p.S_PIECES, len(self._keeps.pieces))
        found = np.zeros(len(self._keeps.pieces))
        rows = np.array([row for row, _, _ in self._keeps.pieces], dtype=np.int64)
        for row in range(sets.shape[1]):
            own = np.flatnonzero(rows == row)
            done = sets[:, row, p.E_PART]
            is_last = (pieces[:, own] == done[:, None]) & (done > 0)[:, None]
            found[own] += (is_last / np.maximum(is_last.sum(1), 1)[:, None]).sum(0)
        return found


def bounded(held: FloatArray, one: Property) -> FloatArray:
    low = -np.inf if one.least is None else one.least
    high = np.inf if one.most is None else one.most
    return np.clip(held, low, high)


def proceeds(counts: IntArray, worth: list[float], share: float) -> IntArray:
    """floor(share * worth of the counts), of exact decimals: 0.29 of 100 is 29. counts (p, k); gives (p,)."""
    exact = [Fraction(Decimal(repr(value))) * Fraction(Decimal(repr(share))) for value in worth]
    below = int(np.lcm.reduce([one.denominator for one in exact], dtype=object)) if exact else 1
    each = [int(one * below) for one in exact]
    highest = max((int(counts[:, slot].max(initial=0)) * whole for slot, whole in enumerate(each)), default=0)
    if highest * max(1, len(each)) < _SAFE and below < _SAFE:
        return np.asarray(counts @ np.array(each, dtype=np.int64) // below)
    whole = counts.astype(object) @ np.array(each, dtype=object)
    return np.array([min(int(one) // below, _SAFE) for one in whole], dtype=np.int64)
