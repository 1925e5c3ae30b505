"""The chance that an event gives any unit that counts, where every unit of an item counts only with some
chance: its score is higher than one asked about, or it is of a set.

Chances that something counts are added and never taken from 1, so that tiny ones keep their digits. What
gives nothing that counts is not worked out: of a large table one slot's items are few.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping

import numpy as np

from golddice.core.arrays import FloatArray, IntArray
from golddice.core.game.models import PickTable
from golddice.core.game.views import View
from golddice.core.odds.event.algebra import Algebra, Roll, open_sets
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.law import AnyLaw

MOST_SUBSET_LINES = 12

# The chance that any counts, at each of w points; None where it is 0 at all of them.
Chance = FloatArray | None


class Thinned(Algebra[Chance]):
    """At the one depth of `under`. `counts` is, of the items that count, by their place in the game, the
    chance of a unit to count, at each of w points."""

    def __init__(self, under: Conditions, counts: Mapping[int, FloatArray]) -> None:
        super().__init__(under)
        self._counts = dict(counts)

    def some(self, view: View, points: int) -> FloatArray:
        """Chance that any unit that counts comes of one event of a source, or one execution of a table, at
        each of so many points."""
        found = self.of(view)
        return np.zeros(points) if found is None else np.minimum(found, 1.0)

    def item(self, at: int, law: AnyLaw) -> Chance:
        return self.repeated(law, self._counts.get(at))

    def one_item(self, items: IntArray, chances: FloatArray) -> Chance:
        return _one_of(chances[:, 0], [self._counts.get(at) for at in items.tolist()])

    def repeated(self, law: AnyLaw, once: Chance) -> Chance:
        return once if once is None or law.is_one else np.asarray(law.any_of(once[None])[0])

    def perhaps(self, chance: FloatArray, part: Chance) -> Chance:
        return None if part is None or chance[0] == 0 else float(chance[0]) * part

    def all_of(self, parts: Iterable[Chance]) -> Chance:
        return _either(parts)

    def together(self, roll: Roll, others: Iterable[Chance]) -> Chance:
        if roll.blank is not None:
            return _one_of(roll.chances[:, 0], others)
        own = zip(roll.chances, others, strict=True)
        return _either([self.perhaps(chance, one) for chance, one in own])

    def distinct(self, table: PickTable) -> Chance:
        """Over the sets of lines that can be in, that any of them gives one."""
        given = [self.line(table, line) for line in table.lines]
        if all(one is None for one in given):
            return None
        lines, sets = open_sets(self.under, table, MOST_SUBSET_LINES, "kit or a set of such")
        rows: list[tuple[float, FloatArray | float]] = [(float(one), 0.0) for one in sets]
        for at in lines:  # bit 0 first: pairs (mask, mask + 1) fold into one
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


def _either(parts: Iterable[Chance]) -> Chance:
    """Of parts that are independent."""
    result: Chance = None
    for part in parts:
        if part is not None:
            result = part if result is None else result + part * (1.0 - result)
    return result


def _one_of(chances: FloatArray, given: Iterable[Chance]) -> Chance:
    """Exactly one of them, or nothing."""
    result: Chance = None
    for chance, one in zip(chances.tolist(), given, strict=True):
        if chance > 0 and one is not None:
            result = chance * one if result is None else result + chance * one
    return result
