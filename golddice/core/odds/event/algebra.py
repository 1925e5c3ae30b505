"""One event, folded from the bottom up: every table and source once, each after all that it leads to.

What an event is, is told here: a source tries its drops, a drop rolls a table so many times, a roll hits
lines by the table's rule, a line gives its yields, a yield so many of an item, of a table or of one of a
pool. What each of these comes to is asked of an algebra: moments, the chance of any, means, generating
functions. All of a fresh player's event, whose misses, hits and cards stay as they are, where anything is
carried.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable, Hashable, Iterable, Sequence
from dataclasses import dataclass
from functools import partial
from typing import ClassVar, Generic, TypeVar

import numpy as np

from golddice.core.arrays import FloatArray, IntArray
from golddice.core.errors import TooLarge
from golddice.core.game.models import BaseLine, Drop, ItemNamed, PickTable, Pool, Source, Table, Yield
from golddice.core.game.views import View
from golddice.core.odds.event.rules import roll_chances
from golddice.core.odds.event.subsets import averaged_sets
from golddice.core.results import RESULTS
from golddice.core.stopping import go_on
from golddice.core.terms.catalogue import PoolKey, pool_key
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.law import AnyLaw
from golddice.core.terms.lines import PlainLines, no_plain_lines, plain_lines
from golddice.core.terms.resting import is_distinct
from golddice.core.terms.size import missing, part_of, view_key

V = TypeVar("V")


@dataclass(frozen=True)
class Roll:
    """One roll of a table: one of its lines, chances (n, d), or the blank, (d,); without a blank each on
    its own. `plain` says which lines are taken at once."""

    chances: FloatArray
    blank: FloatArray | None
    plain: PlainLines
    table: Table | None = None


class Algebra(ABC, Generic[V]):
    """What each part of an event comes to, under conditions of d depths.

    Results are kept under `key`, if there is one, and what each part rests on. `takes_plain` says whether
    lines that give so many of one item are taken all at once by `together`; else they are lines like others.
    """

    takes_plain: ClassVar[bool] = False

    def __init__(self, under: Conditions, key: Hashable = None) -> None:
        self.under, self._key = under, key
        self._found: dict[View, V] = {}
        self._pools: dict[PoolKey, V] = {}

    # --- what an algebra says ----------------------------------------------------------------------------

    @abstractmethod
    def item(self, at: int, law: AnyLaw) -> V:
        """So many of the item at a place of the catalogue."""

    @abstractmethod
    def one_item(self, items: IntArray, chances: FloatArray) -> V:
        """One of these items, chances (n, d), or nothing with what is left."""

    @abstractmethod
    def repeated(self, law: AnyLaw, once: V) -> V:
        """That, independently so many times."""

    @abstractmethod
    def perhaps(self, chance: FloatArray, part: V) -> V:
        """That with a chance (d,), else nothing."""

    @abstractmethod
    def all_of(self, parts: Iterable[V]) -> V:
        """All of them, independently of each other; none of them is nothing."""

    @abstractmethod
    def together(self, roll: Roll, others: Iterable[V]) -> V:
        """One roll of a table. `others` are what the lines that are not plain give, in order, made as they
        are taken: a table may have thousands."""

    @abstractmethod
    def distinct(self, table: PickTable) -> V:
        """An execution whose rolls take lines away from each other."""

    # --- the fold ----------------------------------------------------------------------------------------

    def of(self, view: View) -> V:
        """One event of a source, or one execution of a table. Raises TooLarge."""
        if view not in self._found:
            known = None if self._key is None else RESULTS.peek((self._key, view_key(self.under, view)))
            if known is not None:
                self._found[view] = known
                return self._found[view]
            for one in missing(self.under, view, self._found):
                go_on()
                rests_on = None if self._key is None else view_key(self.under, one)
                self._found[one] = self._kept(rests_on, partial(self._worked_out, one))
        return self._found[view]

    def _kept(self, rests_on: Hashable, make: Callable[[], V]) -> V:
        return make() if self._key is None else RESULTS.get((self._key, rests_on), make)

    def _worked_out(self, view: View) -> V:
        part = part_of(self.under, view)
        return self.tried(part, part.drops) if isinstance(part, Source) else self.executed(part)

    def table(self, name: str) -> V:
        """One execution of a table, all its rolls."""
        return self.of(View("table", name))

    def source(self, name: str) -> V:
        """One event of a source: every drop tried."""
        return self.of(View("source", name))

    def tried(self, source: Source, drops: Sequence[Drop]) -> V:
        """Some drops of a source, each tried."""
        return self.all_of(self.drop(source, drop) for drop in drops)

    def drop(self, source: Source, drop: Drop) -> V:
        """One try of a drop: its chance, then its table so many times."""
        return self.perhaps(self.under.drop_chance(drop), self.dropped(source, drop))

    def dropped(self, source: Source, drop: Drop) -> V:
        """What a drop gives when it hits."""
        return self.repeated(self.under.law(drop.times), self.table(drop.table))

    def executed(self, table: Table) -> V:
        """One execution as for a fresh player, whatever the table carries from event to event."""
        if is_distinct(self.under, table):
            assert table.rule == "pick"
            return self.distinct(table)
        chances, nothing = roll_chances(table, self.under)
        plain = plain_lines(table, self.under) if self.takes_plain else no_plain_lines(len(table.lines))
        roll = Roll(chances, None if table.rule == "each" else nothing, plain, table)
        others = (self.line(table, table.lines[at]) for at in plain.others)
        return self.rolled(self.under.law(table.rolls), self.together(roll, others))

    def rolled(self, law: AnyLaw, roll: V) -> V:
        """So many rolls; `roll` is nobody else's."""
        return self.repeated(law, roll)

    def line(self, table: Table, line: BaseLine) -> V:
        """What a line gives when it is hit: all its yields."""
        return self.yields(line.yields)

    def yields(self, yields: Sequence[Yield]) -> V:
        if len(yields) == 1:
            return self.given(yields[0])
        return self.all_of(self.given(given) for given in yields)

    def given(self, given: Yield) -> V:
        """What one yield gives, its quantity drawn."""
        law = self.under.law(given.quantity)
        match given.what:
            case ItemNamed(item):
                return self.item(self.under.item_index[item], law)
            case View() as view:
                return self.repeated(law, self.of(view))
            case Pool() as pool:
                return self.repeated(law, self.pool(pool))

    def pool(self, pool: Pool) -> V:
        """One unit of a pool: one of its items, by abundance and the tiers' curves."""
        pooled = pool_key(pool)
        if pooled not in self._pools:
            rests_on = None if self._key is None else (self.under.tiers_key, pooled)
            self._pools[pooled] = self._kept(rests_on, partial(self._one_of_pool, pool))
        return self._pools[pooled]

    def _one_of_pool(self, pool: Pool) -> V:
        return self.one_item(self.under.pool_items(pool), self.under.pool_chances(pool))


def open_sets(under: Conditions, table: PickTable, most: int, what: str) -> tuple[IntArray, FloatArray]:
    """The lines of a distinct pick that can be in, and at one depth the chance of each set of them, (2^n,).
    Raises TooLarge of more than so many lines."""
    weights = under.weights(table)[:, 0]
    lines = np.flatnonzero(weights > 0)
    if lines.size > most:
        raise TooLarge(
            f"“{table.id}” picks distinct lines from {lines.size}; {what} is worked out for up to {most}"
        )
    blank = np.array([float(under.nothing(table)[0])])
    return lines, averaged_sets(weights[lines, None], blank, under.law(table.rolls))[:, 0]
