"""The chance that an event gives any unit that counts, where every unit of an item counts only with some
chance: its score is higher than one asked about, or it is of a set.

Chances that something counts are added and never taken from 1, so that tiny ones keep their digits. What
gives nothing that counts is not worked out: of a large table one slot's items are few.
"""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from golddice.core.arrays import FloatArray
from golddice.core.errors import TooLarge
from golddice.core.game.models import Drop, ItemNamed, PickTable, Pool, Source, Table, Yield
from golddice.core.game.views import View
from golddice.core.odds.event.rules import roll_chances
from golddice.core.odds.event.subsets import averaged_sets
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.law import AnyLaw
from golddice.core.terms.resting import is_distinct
from golddice.core.terms.size import missing, part_of

MOST_SUBSET_LINES = 12

# The chance that any counts, at each of w points; None where it is 0 at all of them.
Chance = FloatArray | None


class Thinned:
    """`counts` is, of the items that count, by their place in the game, the chance of a unit to count, at
    each of w points."""

    def __init__(self, under: Conditions, counts: Mapping[int, FloatArray]) -> None:
        self.under, self._counts = under, dict(counts)
        self._found: dict[View, Chance] = {}

    def some(self, view: View, points: int) -> FloatArray:
        """Chance that any unit that counts comes of one event of a source, or one execution of a table, at
        each of so many points."""
        for one in missing(self.under, view, self._found):
            part = part_of(self.under, one)
            self._found[one] = self._source(part) if isinstance(part, Source) else self._executed(part)
        found = self._found[view]
        return np.zeros(points) if found is None else np.minimum(found, 1.0)

    def _source(self, source: Source) -> Chance:
        return _either([self._drop(drop) for drop in source.drops])

    def _drop(self, drop: Drop) -> Chance:
        chance = float(self.under.drop_chance(drop)[0])
        inner = self._found[View("table", drop.table)]
        if chance == 0 or inner is None:
            return None
        return chance * _of(self.under.law(drop.times), inner)

    def _executed(self, table: Table) -> Chance:
        given = [_either([self._yielded(one) for one in line.yields]) for line in table.lines]
        if all(one is None for one in given):
            return None
        if is_distinct(self.under, table):
            assert table.rule == "pick"
            return self._distinct(table, given)
        chances = roll_chances(table, self.under)[0][:, 0]
        roll = _each_of(chances, given) if table.rule == "each" else _one_of(chances, given)
        return None if roll is None else _of(self.under.law(table.rolls), roll)

    def _yielded(self, given: Yield) -> Chance:
        match given.what:
            case ItemNamed(item):
                inner = self._counts.get(self.under.item_index[item])
            case Pool() as pool:
                inner = self._pool(pool)
            case View() as view:
                inner = self._found[view]
        return None if inner is None else _of(self.under.law(given.quantity), inner)

    def _pool(self, pool: Pool) -> Chance:
        chances = self.under.pool_chances(pool)[:, 0]
        members = self.under.pool_items(pool).tolist()
        return _one_of(chances, [self._counts.get(at) for at in members])

    def _distinct(self, table: PickTable, given: list[Chance]) -> Chance:
        """Over the sets of lines that can be in, that any of them gives one."""
        weights = self.under.weights(table)[:, 0]
        open_lines = np.flatnonzero(weights > 0)
        if open_lines.size > MOST_SUBSET_LINES:
            raise TooLarge(
                f"“{table.id}” picks distinct lines from {open_lines.size}; "
                f"kit and sets of such are worked out for up to {MOST_SUBSET_LINES}"
            )
        blank = np.array([float(self.under.nothing(table)[0])])
        sets = averaged_sets(weights[open_lines, None], blank, self.under.law(table.rolls))[:, 0]
        rows: list[tuple[float, FloatArray | float]] = [(float(one), 0.0) for one in sets]
        for at in open_lines:  # bit 0 first: pairs (mask, mask + 1) fold into one
            rows = [_folded(rows[i], rows[i + 1], given[at]) for i in range(0, len(rows), 2)]
        return np.asarray(rows[0][1]) if np.ndim(rows[0][1]) else None


def _folded(
    without: tuple[float, FloatArray | float], with_it: tuple[float, FloatArray | float], given: Chance
) -> tuple[float, FloatArray | float]:
    """Two sets of lines, of which the second has one more: their chance together, and that they come and give
    any."""
    likely, some = with_it
    if given is not None:
        some = some + (likely - some) * given
    return without[0] + likely, without[1] + some


def _of(law: AnyLaw, inner: FloatArray) -> FloatArray:
    """Of so many times."""
    return inner if law.is_one else np.asarray(law.any_of(inner[None])[0])


def _either(parts: list[Chance]) -> Chance:
    """Of parts that are independent."""
    result: Chance = None
    for part in parts:
        if part is not None:
            result = part if result is None else result + part * (1.0 - result)
    return result


def _one_of(chances: FloatArray, given: list[Chance]) -> Chance:
    """Exactly one of them, or nothing."""
    result: Chance = None
    for chance, one in zip(chances.tolist(), given, strict=True):
        if chance > 0 and one is not None:
            result = chance * one if result is None else result + chance * one
    return result


def _each_of(chances: FloatArray, given: list[Chance]) -> Chance:
    """Each of them on a chance of its own."""
    own = zip(chances.tolist(), given, strict=True)
    return _either([None if one is None or chance == 0 else chance * one for chance, one in own])
