"""How things stand at a mark on the way, read player by player: each one's numbers lie together, those of all
players of one kind do not."""

from __future__ import annotations

from typing import Any

import numpy as np
from numba import njit

from golddice.core.trial.program import E_PART, SET_FIELDS, W_UPGRADES, WORN_FIELDS

# The events after which it is noted how things stand, the number of the first of these marks, and what
# `note_player` takes: places, effects, by_player, by_mark.
Marks = tuple[Any, int, tuple[int, ...], tuple[Any, ...], tuple[Any, ...], tuple[Any, ...]]


@njit(cache=True, nogil=True)
def note_standing(players, places, effects, at, by_player, by_mark):  # type: ignore[no-untyped-def]
    """Write of all players how they stand at mark `at`, see `note_player`. players : states (p, s) and worn
    scores (p, g)."""
    states, wearing = players
    for row in range(states.shape[0]):
        note_player(states[row], wearing[row], row, places, effects, at, by_player, by_mark)


@njit(cache=True, nogil=True)
def note_player(state, wearing, row, places, effects, at, by_player, by_mark):  # type: ignore[no-untyped-def]
    """Write what is worn, money, cells and properties of a player, of this row, at mark `at`; and count in
    how many bags are full, upgrades and whole sets there are.

    places : where in a state the purse, cells used, the mark of a full bag, slots of kit, sets and counts
        begin; whether it is told what becomes of units.
    effects : bases of properties (q,); of items (column, property, units that count) and their amounts; of
        sets (row, property) and their amounts.
    by_player : worn (p, f, g), money (p, f, m), cells (p, f), properties (p, f, q).
    by_mark : full (f,), upgrades (f, g), sets (f, e).
    """
    purse, used, full_at, slots, sets_at, counts, is_told = places
    bases, of_items, item_amounts, of_sets, set_amounts = effects
    worn, money, cells, properties = by_player
    full, upgrades, sets = by_mark
    for slot in range(worn.shape[2]):
        worn[row, at, slot] = wearing[slot]
        upgrades[at, slot] += state[slots + slot * WORN_FIELDS + W_UPGRADES]
    if is_told:
        for kind in range(money.shape[2]):
            money[row, at, kind] = state[purse + kind]
        cells[row, at] = state[used]
        full[at] += state[full_at] > 0
    for one in range(sets.shape[1]):
        sets[at, one] += state[sets_at + one * SET_FIELDS + E_PART] > 0
    held = properties[row, at]
    for one in range(bases.size):
        held[one] = bases[one]
    for one in range(item_amounts.size):
        units = min(state[counts + of_items[one, 0]], of_items[one, 2])
        held[of_items[one, 1]] += item_amounts[one] * units
    for one in range(set_amounts.size):
        if state[sets_at + of_sets[one, 0] * SET_FIELDS + E_PART] > 0:
            held[of_sets[one, 1]] += set_amounts[one]


def no_marks(players: int) -> Marks:
    """For whoever keeps nothing on the way."""
    ints, floats = np.zeros(0, dtype=np.int64), np.zeros(0)
    effects = floats, ints.reshape(0, 3), floats, ints.reshape(0, 2), floats
    worn, money = np.zeros((players, 0, 0), dtype=np.float32), np.zeros((players, 0, 0), dtype=np.int64)
    by_player = worn, money, np.zeros((players, 0), dtype=np.int64), np.zeros((players, 0, 0))
    return ints, 0, (0,) * 7, effects, by_player, (ints, ints.reshape(0, 0), ints.reshape(0, 0))
