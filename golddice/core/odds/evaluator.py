"""Exact moments of every table and source of a game, by putting outcomes together bottom-up.

For what carries nothing from one roll to the next; `carried` builds on it for what does. Each table
is worked out once, however often it is reached.
"""

from __future__ import annotations

import operator
from collections.abc import Callable, Sequence
from functools import cached_property
from typing import Any, TypeVar

import numpy as np

from golddice.core.arrays import FloatArray
from golddice.core.game.models import BaseLine, Drop, Pool, Source, Table, Yield
from golddice.core.odds.columns import Columns
from golddice.core.odds.conditions import Conditions
from golddice.core.odds.distinct import distinct_outcome
from golddice.core.odds.law import Law
from golddice.core.odds.outcome import (
    Outcome,
    mixture,
    nothing,
    perhaps,
    repeat,
    total,
    with_mark,
)
from golddice.core.odds.rules import roll_chances
from golddice.core.odds.states import table_axes

Kept = TypeVar("Kept")


class Evaluator:
    """Outcomes of a game under conditions.

    `detail` adds the columns of lines and drops, which screens need and totals do not. `previous`
    is an evaluator of the game before an edit: what the edit does not reach is taken over from it.
    """

    def __init__(self, under: Conditions, detail: bool = True, previous: Evaluator | None = None) -> None:
        self.under = under
        self.detail = detail
        self.columns = Columns(under.game)
        self._previous = previous if previous is not None and self._is_alike(previous) else None
        if self._previous is not None:
            under.take_over(self._previous.under)
        self._same: dict[tuple[str, str], bool] = {}
        self._kept: dict[tuple[str, ...], Any] = {}
        if previous is not None:
            previous._previous = None  # no chain of all evaluators that ever were
        self._tables: dict[str, Outcome] = {}
        self._sources: dict[str, Outcome] = {}

    def table(self, name: str) -> Outcome:
        """One execution of a table: all its rolls."""
        if name not in self._tables:
            if self._previous is not None and self._is_same("table", name):
                self._tables[name] = self._previous.table(name)
                return self._tables[name]
            table = self.under.table(name)
            assert not table_axes(table, self.under), "what carries state is `carried`'s work"
            self._tables[name] = self._executed(table)
        return self._tables[name]

    def source(self, name: str) -> Outcome:
        """One event of a source: every drop tried."""
        if name not in self._sources:
            if self._previous is not None and self._is_same("source", name):
                self._sources[name] = self._previous.source(name)
                return self._sources[name]
            source = self.under.source(name)
            drops = [self.drop(source, drop) for drop in source.drops]
            self._sources[name] = total(drops, self._depths)
        return self._sources[name]

    def drop(self, source: Source, drop: Drop) -> Outcome:
        """One try of a drop: its chance, then its table so many times."""
        given = repeat(self.under.law(drop.times), self.table(drop.table))
        if self.detail:
            hits = self.columns.drop_hits(source.id, drop.id)
            given = with_mark(given, hits, hits + 1)
        return perhaps(self.under.drop_chance(drop), given)

    def kept(self, key: tuple[str, ...], drops: Sequence[Drop], make: Callable[[], Kept]) -> Kept:
        """What was worked out under a key, here or, where nothing it rests on was edited, before.

        `key` begins with the kind and id of a table or source; `drops` are those it is about.
        """
        if key not in self._kept:
            before = self._previous
            found = None if before is None else before._kept.get(key)
            if found is not None and self._rests_on_same(key, drops):
                self._kept[key] = found
            else:
                self._kept[key] = make()
        result: Kept = self._kept[key]
        return result

    def _rests_on_same(self, key: tuple[str, ...], drops: Sequence[Drop]) -> bool:
        if key[0] == "table":
            return self._is_same("table", key[1])
        assert self._previous is not None
        source = self._previous.under.sources.get(key[1])
        before = [id(drop) for drop in source.drops] if source else []
        return all(id(drop) in before and self._is_same("table", drop.table) for drop in drops)

    def line(self, table: Table, line: BaseLine) -> Outcome:
        """What a line gives when it is hit: all its yields."""
        body = total([self.given(given) for given in line.yields], self._depths)
        if not self.detail:
            return body
        hits = self.columns.line_hits(table.id, line.id)
        return with_mark(body, hits, hits + 1)

    def _is_alike(self, previous: Evaluator) -> bool:
        """Whether outcomes of another evaluator can stand here: same conditions, same columns."""
        old, new = previous.under, self.under
        lists: list[tuple[Sequence[object], Sequence[object]]] = [
            (old.game.items, new.game.items),
            (old.game.tiers, new.game.tiers),
            (old.game.curves, new.game.curves),
        ]
        return (
            previous.detail == self.detail
            and old.flags == new.flags
            and np.array_equal(old.depths, new.depths)
            and all(len(a) == len(b) and all(map(operator.is_, a, b)) for a, b in lists)
            and (not self.detail or previous.columns.parts == self.columns.parts)
        )

    def _is_same(self, kind: str, name: str) -> bool:
        """Whether a table or source, and all that it reaches, is as it was: the same objects."""
        if (kind, name) not in self._same:
            assert self._previous is not None
            here = self.under.tables if kind == "table" else self.under.sources
            there = self._previous.under.tables if kind == "table" else self._previous.under.sources
            found: Table | Source | None = here.get(name)
            self._same[kind, name] = found is there.get(name) and all(
                self._is_same(*link) for link in _links(found)
            )
        return self._same[kind, name]

    @property
    def _depths(self) -> int:
        return int(self.under.depths.size)

    def _executed(self, table: Table) -> Outcome:
        rolls = self.under.law(table.rolls)
        lines = [self.line(table, line) for line in table.lines]
        if table.rule == "pick" and table.distinct and rolls.most > 1:
            weights = self.under.weights(table)
            return distinct_outcome(weights, self.under.nothing(table), rolls, lines)
        chances, blank = roll_chances(table, self.under)
        if table.rule == "each":
            tried = [perhaps(p, line) for p, line in zip(chances, lines, strict=True)]
            return repeat(rolls, total(tried, self._depths))
        return repeat(rolls, mixture(list(chances), lines, blank))

    def given(self, given: Yield) -> Outcome:
        """What one yield gives, its quantity drawn."""
        law = self.under.law(given.quantity)
        if given.item is not None:
            return self._item(self.under.item_index[given.item], law)
        if given.table is not None:
            return repeat(law, self.table(given.table))
        if given.source is not None:
            return repeat(law, self.source(given.source))
        assert given.pool is not None
        return repeat(law, self._pool(given.pool))

    def _item(self, at: int, law: Law) -> Outcome:
        """So many of one item: its column, its tier's and the units' move together."""
        item = self.under.game.items[at]
        tier = self.under.tier_index[item.tier]
        columns = np.array([at, self.columns.tier(tier), self.columns.units])
        mean, var, some = law.mean, law.var, law.some
        wide, flat = self._ones_wide, self.under.ones
        spread = var[:, None] * wide
        return Outcome(
            columns,
            some[:, None] * wide,
            mean[:, None] * wide,
            spread,
            item.value * spread,
            item.value * mean * flat,
            item.value**2 * var * flat,
        )

    @cached_property
    def _ones_wide(self) -> FloatArray:
        """One for each depth and each of the three columns of an item."""
        return np.ones((self._depths, 3))

    def _pool(self, pool: Pool) -> Outcome:
        """One unit of a pool: one of its items, by abundance and the tiers' curves."""
        members = self.under.pool_items(pool)
        chances = self.under.pool_chances(pool)
        if members.size == 0:
            return nothing(self._depths)
        one = Law(np.array([1]), np.ones(1))
        blank = np.where(chances.sum(axis=0) > 0, 0.0, 1.0)
        return mixture(list(chances), [self._item(int(at), one) for at in members], blank)


def _links(part: Table | Source | None) -> list[tuple[str, str]]:
    """The tables and sources that a table or source rolls."""
    if part is None:
        return []
    if isinstance(part, Source):
        return [("table", drop.table) for drop in part.drops]
    every = [given for line in part.lines for given in line.yields]
    tables = [("table", given.table) for given in every if given.table is not None]
    return tables + [("source", given.source) for given in every if given.source is not None]
