"""What a try gives where only a few values can come: each of them with its chance."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import NamedTuple

import numpy as np

from golddice.core.arrays import FloatArray, IntArray
from golddice.core.errors import TooLarge
from golddice.core.game.models import PickTable
from golddice.core.odds.event.algebra import Algebra, Roll, open_sets
from golddice.core.stopping import go_on
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.law import AnyLaw

MOST_VALUES = 1 << 17
_MOST_PAIRS = 1 << 22
_MOST_TOTAL = 1 << 62
_MOST_SUBSET_LINES = 10
_MOST_REPEATS = 4_096


class Distribution(NamedTuple):
    """values (n,), rising; chances (n,), which sum to 1."""

    values: IntArray
    chances: FloatArray


NOTHING = Distribution(np.zeros(1, dtype=np.int64), np.ones(1))


class Few(Algebra[Distribution]):
    """The distribution of the total of one try, at the one depth of `under`; `units` by item index, whole.
    Raises TooLarge where more values can come than are kept."""

    def __init__(self, under: Conditions, units: Mapping[int, int]) -> None:
        super().__init__(under)
        self._units = units

    def item(self, at: int, law: AnyLaw) -> Distribution:
        values, chances = law.row(0)
        unit = self._units.get(at, 0)
        if unit * law.most >= _MOST_TOTAL:
            raise TooLarge("a total beyond whole numbers")
        return _gathered(values * unit, chances)

    def one_item(self, items: IntArray, chances: FloatArray) -> Distribution:
        units = [self._units.get(at, 0) for at in items.tolist()]
        if max(units, default=0) >= _MOST_TOTAL:
            raise TooLarge("a total beyond whole numbers")
        left = 0.0 if chances[:, 0].any() else 1.0
        return _gathered(np.array([*units, 0], dtype=np.int64), np.append(chances[:, 0], left))

    def repeated(self, law: AnyLaw, once: Distribution) -> Distribution:
        if law.is_one or (once.values.size == 1 and once.values[0] == 0):
            return once
        values, chances = law.row(0)
        if law.most > _MOST_REPEATS:
            raise TooLarge(f"{law.most:,} times the same")
        parts, power, done = [], NOTHING, 0
        for value, chance in zip(values.tolist(), chances.tolist(), strict=True):
            power, done = _sum(power, powered(once, value - done)), value
            parts.append((chance, power))
        return _one_of(parts)

    def perhaps(self, chance: FloatArray, part: Distribution) -> Distribution:
        share = float(chance[0])
        return part if share == 1.0 else _one_of([(share, part), (1.0 - share, NOTHING)])

    def all_of(self, parts: Iterable[Distribution]) -> Distribution:
        result = NOTHING
        for part in parts:
            result = _sum(result, part)
        return result

    def together(self, roll: Roll, others: Iterable[Distribution]) -> Distribution:
        if roll.blank is None:
            hits = zip(roll.chances, others, strict=True)
            return self.all_of(self.perhaps(chance, one) for chance, one in hits)
        parts = [(float(chance[0]), one) for chance, one in zip(roll.chances, others, strict=True)]
        return _one_of([*parts, (float(roll.blank[0]), NOTHING)])

    def distinct(self, table: PickTable) -> Distribution:
        lines, sets = open_sets(self.under, table, _MOST_SUBSET_LINES, "a whole distribution")
        given = [self.line(table, table.lines[at]) for at in lines]
        parts = []
        for mask, chance in enumerate(sets.tolist()):
            if chance > 0:
                inside = (one for at, one in enumerate(given) if mask >> at & 1)
                parts.append((chance, self.all_of(inside)))
        return _one_of(parts)


def powered(once: Distribution, times: int) -> Distribution:
    """The total of so many independent ones, by doubling."""
    result, power = NOTHING, once
    while times:
        if times & 1:
            result = _sum(result, power)
        times >>= 1
        if times:
            power = _sum(power, power)
    return result


def _sum(one: Distribution, other: Distribution) -> Distribution:
    if one.values.size == 1 and one.values[0] == 0:
        return other
    if other.values.size == 1 and other.values[0] == 0:
        return one
    if one.values.size * other.values.size > _MOST_PAIRS:
        raise TooLarge("more values than are kept one by one")
    if int(one.values[-1]) + int(other.values[-1]) >= _MOST_TOTAL:
        raise TooLarge("a total beyond whole numbers")
    go_on()
    values = (one.values[:, None] + other.values).ravel()
    return _gathered(values, (one.chances[:, None] * other.chances).ravel())


def _one_of(parts: Iterable[tuple[float, Distribution]]) -> Distribution:
    kept = [(chance, part) for chance, part in parts if chance > 0]
    if sum(part.values.size for _, part in kept) > _MOST_PAIRS:
        raise TooLarge("more values than are kept one by one")
    values = np.concatenate([part.values for _, part in kept])
    return _gathered(values, np.concatenate([chance * part.chances for chance, part in kept]))


def _gathered(values: IntArray, chances: FloatArray) -> Distribution:
    """Each value once, without those that cannot come."""
    found, which = np.unique(values[chances > 0], return_inverse=True)
    if found.size > MOST_VALUES:
        raise TooLarge("more values than are kept one by one")
    return Distribution(found, np.bincount(which.ravel(), weights=chances[chances > 0]).astype(np.float64))
