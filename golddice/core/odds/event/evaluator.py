"""Exact moments of every table and source of a game, by putting outcomes together bottom-up.

For what carries nothing from one roll to the next; `walk` builds on it for what does. Each table
is worked out once, however often it is reached.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, TypeVar

import numpy as np

from golddice.core.arrays import FloatArray, IntArray
from golddice.core.game.links import links_of
from golddice.core.game.models import BaseLine, Drop, Pool, Source, Table, Yield
from golddice.core.odds.event.distinct import distinct_outcome
from golddice.core.odds.event.outcome import (
    Outcome,
    Parts,
    independent,
    mixture,
    nothing,
    perhaps,
    repeat,
    total,
    with_mark,
)
from golddice.core.odds.event.rules import roll_chances
from golddice.core.odds.terms.axis import Axis
from golddice.core.odds.terms.catalogue import PoolKey, pool_key
from golddice.core.odds.terms.columns import Columns
from golddice.core.odds.terms.conditions import Conditions
from golddice.core.odds.terms.law import Law
from golddice.core.odds.terms.lines import PlainLines, plain_lines

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
        self._turned: frozenset[str] = frozenset()
        if self._previous is not None:
            self._turned = under.turned_since(self._previous.under)
            under.take_over(self._previous.under, self._turned)
        self._same: dict[tuple[str, str], bool] = {}
        self._kept: dict[tuple[str, ...], Any] = {}
        if previous is not None:
            previous._previous = None  # no chain of all evaluators that ever were
        self._tables: dict[str, Outcome] = {}
        self._pools: dict[PoolKey, Outcome] = {}
        self._laws: dict[int, tuple[Law, tuple[FloatArray, ...]]] = {}
        if self._previous is not None and not self._turned:
            self._pools, self._laws = self._previous._pools, self._previous._laws
        self._sources: dict[str, Outcome] = {}
        # Of all that a table or source reaches: columns and what a player carries; `prospect` and
        # `walk` fill them.
        self.reached_columns: dict[str, set[int]] = {}
        self.reached_axes: dict[tuple[str, str], dict[tuple[str, ...], Axis]] = {}
        # Of lines of a table in these shares (as bytes), or nothing; `walk` fills it.
        self.mixtures: dict[tuple[str, bytes, float], Outcome] = {}

    def table(self, name: str) -> Outcome:
        """One execution of a table, all its rolls: as for a fresh player, where it carries anything."""
        if name not in self._tables:
            if self._previous is not None and self._is_same("table", name):
                self._tables[name] = self._previous.table(name)
                return self._tables[name]
            self._tables[name] = self.executed(self.under.table(name))
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
        return all(
            id(drop) in before
            and not self._turned & self.under.curves_of(drop)
            and self._is_same("table", drop.table)
            for drop in drops
        )

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
        return (
            previous.detail == self.detail
            and old.flags == new.flags
            and np.array_equal(old.depths, new.depths)
            and old.catalogue.is_of(new.game)
            and (not self.detail or previous.columns.parts == self.columns.parts)
        )

    def _is_same(self, kind: str, name: str) -> bool:
        """Whether a table or source, and all that it reaches, is as it was: the same objects, under
        the same curves."""
        if (kind, name) not in self._same:
            assert self._previous is not None
            here = self.under.tables if kind == "table" else self.under.sources
            there = self._previous.under.tables if kind == "table" else self._previous.under.sources
            found: Table | Source | None = here.get(name)
            self._same[kind, name] = (
                found is not None
                and found is there.get(name)
                and not self._turned & self.under.curves_of(found)
                and all(self._is_same(*link) for link in links_of(found))
            )
        return self._same[kind, name]

    @property
    def _depths(self) -> int:
        return int(self.under.depths.size)

    def executed(self, table: Table) -> Outcome:
        """One execution as for a fresh player, whatever the table carries from event to event."""
        rolls = self.under.law(table.rolls)
        if table.rule == "pick" and table.distinct and rolls.most > 1:
            lines = [self.line(table, line) for line in table.lines]
            weights = self.under.weights(table)
            return distinct_outcome(weights, self.under.nothing(table), rolls, lines)
        chances, blank = roll_chances(table, self.under)
        plain = plain_lines(table, self.under)
        others = Parts.of([self.line(table, table.lines[at]) for at in plain.others], self._depths)
        parts = self._plain(table, plain).and_then(others)
        if table.rule == "each":
            return repeat(rolls, independent(chances[plain.order], parts))
        return repeat(rolls, mixture(chances[plain.order], parts, blank))

    def _plain(self, table: Table, lines: PlainLines) -> Parts:
        """What those lines give that give so many of one item, all at once: of each its item's column,
        its tier's and the units', which move together; with detail the line's own two as well."""
        worth = self.under.item_values[lines.items]
        value, value_var = worth * lines.mean, worth**2 * lines.var
        tiers, units = self.columns.tier(0) + self.under.item_tiers[lines.items], self.columns.units
        columns = [lines.items, tiers, np.full(lines.at.size, units)]
        hit, mean, var = [lines.some] * 3, [lines.mean] * 3, [lines.var] * 3
        cov = [worth * lines.var] * 3
        if self.detail:
            one, none = np.ones(lines.at.size), np.zeros(lines.at.size)
            hits = self._hit_columns(table)[lines.at]
            columns += [hits, hits + 1]
            hit, mean = [*hit, one, one], [*mean, one, value]
            var, cov = [*var, none, value_var], [*cov, none, value_var]
        rows = [np.stack(part, axis=1).ravel() for part in (hit, mean, var, cov)]
        by_depth = (np.repeat(row[None], self._depths, axis=0) for row in (*rows, value, value_var))
        starts = len(columns) * np.arange(lines.at.size + 1)
        return Parts(np.stack(columns, axis=1).ravel(), starts, *by_depth)

    def _hit_columns(self, table: Table) -> IntArray:
        """The column of each line's hits."""
        hits = [self.columns.line_hits(table.id, line.id) for line in table.lines]
        return np.array(hits, dtype=np.int64)

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
        return repeat(law, self.pool(given.pool))

    def _item(self, at: int, law: Law) -> Outcome:
        """So many of one item: its column, its tier's and the units' move together."""
        item = self.under.game.items[at]
        tier = self.under.tier_index[item.tier]
        columns = np.array([at, self.columns.tier(tier), self.columns.units])
        some, mean, var, flat, square = self._laid_out(law)
        return Outcome(columns, some, mean, var, item.value * var, item.value * flat, item.value**2 * square)

    def _laid_out(self, law: Law) -> tuple[FloatArray, ...]:
        """A law's chance of some, mean and variance for each depth and an item's three columns; its
        mean and variance by depth alone."""
        if id(law) not in self._laws:
            wide, flat = np.ones((self._depths, 3)), self.under.ones
            figures = [law.some[:, None] * wide, law.mean[:, None] * wide, law.var[:, None] * wide]
            self._laws[id(law)] = (law, (*figures, law.mean * flat, law.var * flat))
        return self._laws[id(law)][1]

    def pool(self, pool: Pool) -> Outcome:
        """One unit of a pool: one of its items, by abundance and the tiers' curves."""
        key = pool_key(pool)
        if key not in self._pools:
            self._pools[key] = self._one_of(self.under.pool_items(pool), self.under.pool_chances(pool).T)
        return self._pools[key]

    def _one_of(self, members: IntArray, chances: FloatArray) -> Outcome:
        """One of these items, with chances (d, n) that sum to 1, or all 0 where there is none.

        Each column is then a chance p that it is hit, once: variance p (1 - p), covariance with
        the value p (E[value | hit] - E[value]).
        """
        if members.size == 0:
            return nothing(self._depths)
        values = self.under.item_values[members]
        worth = chances @ values
        tiers, place = np.unique(self.under.item_tiers[members], return_inverse=True)
        by_tier = np.zeros((members.size, tiers.size))
        by_tier[np.arange(members.size), place] = 1.0
        some = np.minimum(chances.sum(axis=1, keepdims=True), 1.0)
        carried = chances * values
        hit = np.hstack([chances, np.minimum(chances @ by_tier, 1.0), some])
        with_value = np.hstack([carried, carried @ by_tier, worth[:, None]])
        columns = np.concatenate([members, self.columns.tier(0) + tiers, [self.columns.units]])
        off = values[None, :] - worth[:, None]
        return Outcome(
            columns,
            hit,
            hit,
            hit * _others(chances, by_tier, hit),
            with_value - hit * worth[:, None],
            worth,
            (chances * off * off).sum(axis=1) + (1.0 - some[:, 0]) * worth**2,
        )


def _others(chances: FloatArray, by_tier: FloatArray, hit: FloatArray) -> FloatArray:
    """Chance that a pool's unit is none of a column: of an item, a tier, or of anything at all.

    One minus `hit`, but where that would lose digits the others are added up one by one.
    """
    none = 1.0 - hit
    close = np.flatnonzero((hit > 0.75).any(axis=0))
    if close.size:
        blank = np.where(chances.sum(axis=1, keepdims=True) > 0, 0.0, 1.0)
        member = np.hstack([np.eye(chances.shape[1]), by_tier, np.ones((chances.shape[1], 1))])[:, close]
        none[:, close] = chances @ (1.0 - member) + blank
    return none
