"""Generating functions of an event where every unit of an item counts only with some chance: at z = 1 - that
chance for each item they are the chance that none counts.

Of all that gives nothing that counts the function is 1, and is not worked out: of a large table one slot's
items are few.
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

# At each of w points, or None where it is 1 at all of them.
Function = FloatArray | None


class Thinned:
    """`kept` is, of the items that count, by their place in the game, the chance of a unit not to count, at
    each of w points."""

    def __init__(self, under: Conditions, kept: Mapping[int, FloatArray]) -> None:
        self.under, self._kept = under, dict(kept)
        self._found: dict[View, Function] = {}

    def none(self, view: View, points: int) -> FloatArray:
        """Chance that no unit that counts comes of one event of a source, or one execution of a table, at
        each of so many points."""
        for one in missing(self.under, view, self._found):
            part = part_of(self.under, one)
            self._found[one] = self._source(part) if isinstance(part, Source) else self._executed(part)
        found = self._found[view]
        return np.ones(points) if found is None else np.clip(found, 0.0, 1.0)

    def _source(self, source: Source) -> Function:
        return _product([self._drop(drop) for drop in source.drops])

    def _drop(self, drop: Drop) -> Function:
        chance = float(self.under.drop_chance(drop)[0])
        inner = self._found[View("table", drop.table)]
        if chance == 0 or inner is None:
            return None
        return 1 - chance + chance * _of(self.under.law(drop.times), inner)

    def _executed(self, table: Table) -> Function:
        given = [_product([self._yielded(one) for one in line.yields]) for line in table.lines]
        if all(one is None for one in given):
            return None
        if is_distinct(self.under, table):
            assert table.rule == "pick"
            return self._distinct(table, given)
        chances = roll_chances(table, self.under)[0][:, 0]
        roll = _all_of(chances, given) if table.rule == "each" else _one_of(chances, given)
        return None if roll is None else _of(self.under.law(table.rolls), roll)

    def _yielded(self, given: Yield) -> Function:
        match given.what:
            case ItemNamed(item):
                inner = self._kept.get(self.under.item_index[item])
            case Pool() as pool:
                inner = self._pool(pool)
            case View() as view:
                inner = self._found[view]
        return None if inner is None else _of(self.under.law(given.quantity), inner)

    def _pool(self, pool: Pool) -> Function:
        chances = self.under.pool_chances(pool)[:, 0]
        members = self.under.pool_items(pool).tolist()
        return _one_of(chances, [self._kept.get(at) for at in members])

    def _distinct(self, table: PickTable, given: list[Function]) -> Function:
        """Over the sets of lines that can be in, the product of what they give."""
        weights = self.under.weights(table)[:, 0]
        kept = np.flatnonzero(weights > 0)
        if kept.size > MOST_SUBSET_LINES:
            raise TooLarge(
                f"“{table.id}” picks distinct lines from {kept.size}; "
                f"kit and sets of such are worked out for up to {MOST_SUBSET_LINES}"
            )
        blank = np.array([float(self.under.nothing(table)[0])])
        rows = list(averaged_sets(weights[kept, None], blank, self.under.law(table.rolls))[:, 0])
        for at in kept:  # bit 0 first: pairs (mask, mask + 1) fold into one
            one = given[at]
            rows = [
                rows[i] + (rows[i + 1] if one is None else rows[i + 1] * one) for i in range(0, len(rows), 2)
            ]
        return rows[0] if np.ndim(rows[0]) else None


def _of(law: AnyLaw, inner: FloatArray) -> FloatArray:
    """Of so many times."""
    if law.is_one:
        return inner
    return np.asarray(law.pgf(inner), dtype=np.float64)  # type: ignore[arg-type]  # numbers do as well


def _product(parts: list[Function]) -> Function:
    result: Function = None
    for part in parts:
        if part is not None:
            result = part if result is None else result * part
    return result


def _one_of(chances: FloatArray, given: list[Function]) -> Function:
    """Exactly one of them, or nothing: 1 - the sum of chance * (1 - its function)."""
    lost: Function = None
    for chance, one in zip(chances.tolist(), given, strict=True):
        if chance > 0 and one is not None:
            lost = chance * (1.0 - one) if lost is None else lost + chance * (1.0 - one)
    return None if lost is None else 1.0 - lost


def _all_of(chances: FloatArray, given: list[Function]) -> Function:
    """Each of them on a chance of its own."""
    own = [
        None if one is None or chance == 0 else 1.0 - chance * (1.0 - one)
        for chance, one in zip(chances.tolist(), given, strict=True)
    ]
    return _product(own)
