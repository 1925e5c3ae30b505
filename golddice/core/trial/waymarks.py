"""How things stand at a mark on the way, read player by player: each one's numbers lie together, those of all
players of one kind do not."""

from __future__ import annotations

from numba import njit

from golddice.core.trial.program import E_PART, SET_FIELDS, W_UPGRADES, WORN_FIELDS


@njit(cache=True, nogil=True)
def note_standing(players, places, effects, at, by_player, by_mark):  # type: ignore[no-untyped-def]
    """Write what is worn, money, cells and properties of each player at mark `at`, and how many bags are
    full, upgrades and whole sets there are.

    players : states (p, s) and worn scores (p, g).
    places : where in a state the purse, cells used, the mark of a full bag, slots of kit, sets and counts
        begin; whether it is told what becomes of units.
    effects : bases of properties (q,); of items (column, property, units that count) and their amounts; of
        sets (row, property) and their amounts.
    by_player : worn (p, f, g), money (p, f, m), cells (p, f), properties (p, f, q).
    by_mark : full (f,), upgrades (f, g), sets (f, e).
    """
    states, wearing = players
    purse, used, full_at, slots, sets_at, counts, is_told = places
    bases, of_items, item_amounts, of_sets, set_amounts = effects
    worn, money, cells, properties = by_player
    full, upgrades, sets = by_mark
    for player in range(states.shape[0]):
        state = states[player]
        for slot in range(worn.shape[2]):
            worn[player, at, slot] = wearing[player, slot]
            upgrades[at, slot] += state[slots + slot * WORN_FIELDS + W_UPGRADES]
        if is_told:
            for kind in range(money.shape[2]):
                money[player, at, kind] = state[purse + kind]
            cells[player, at] = state[used]
            full[at] += state[full_at] > 0
        for row in range(sets.shape[1]):
            sets[at, row] += state[sets_at + row * SET_FIELDS + E_PART] > 0
        held = properties[player, at]
        for one in range(bases.size):
            held[one] = bases[one]
        for one in range(item_amounts.size):
            units = min(state[counts + of_items[one, 0]], of_items[one, 2])
            held[of_items[one, 1]] += item_amounts[one] * units
        for one in range(set_amounts.size):
            if state[sets_at + of_sets[one, 0] * SET_FIELDS + E_PART] > 0:
                held[of_sets[one, 1]] += set_amounts[one]
