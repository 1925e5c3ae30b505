"""Exact moments of every table and source of a game, by putting outcomes together bottom-up.

For what carries nothing from one roll to the next; `walk` builds on it for what does. Each table
is worked out once, however often it is reached, and what nobody has touched since is found again.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from golddice.core.arrays import FloatArray, IntArray
from golddice.core.game.models import BaseLine, Drop, ItemNamed, Pool, Source, Table, Yield
from golddice.core.game.views import View
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
from golddice.core.results import RESULTS, cache_key
from golddice.core.stopping import go_on
from golddice.core.terms.catalogue import PoolKey, pool_key
from golddice.core.terms.columns import Columns
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.forms import form_of
from golddice.core.terms.law import AnyLaw
from golddice.core.terms.lines import PlainLines, plain_lines
from golddice.core.terms.resting import is_distinct
from golddice.core.terms.size import missing, part_of, view_key


class Evaluator:
    """Outcomes of a game under conditions.

    `detail` adds the columns of lines and drops, which screens need and totals do not.
    """

    def __init__(self, under: Conditions, detail: bool = True) -> None:
        self.under = under
        self.detail = detail
        self.columns = Columns(under.catalogue)
        self._found: dict[View, Outcome] = {}
        self._pools: dict[PoolKey, Outcome] = {}
        self._laws: dict[int, tuple[AnyLaw, tuple[FloatArray, ...]]] = {}
        # Of all that a table or source reaches; `carried.columns` fills it.
        self.reached_columns: dict[View, set[int]] = {}
        # Of lines of a table in these shares (as bytes), or nothing; `walk` fills it.
        self.mixtures: dict[tuple[str, bytes, float], Outcome] = {}

    def of(self, view: View) -> Outcome:
        """The next event of a source or execution of a table: as for a fresh player whose misses, hits
        and cards stay as they are, where it carries anything."""
        if view not in self._found:
            self._find(view)
        return self._found[view]

    def _find(self, view: View) -> None:
        """Whatever is not known yet, each after all that it leads to."""
        key = ("outcome", self.detail)
        known = RESULTS.peek((*key, view_key(self.under, view)))
        if known is not None:
            self._found[view] = known
            return
        for one in missing(self.under, view, self._found):
            go_on()
            sign = view_key(self.under, one)
            self._found[one] = RESULTS.get((*key, sign), lambda one=one: self._worked_out(one))  # type: ignore[misc]

    def _worked_out(self, view: View) -> Outcome:
        part = part_of(self.under, view)
        if isinstance(part, Source):
            return total([self.drop(part, drop) for drop in part.drops], self._depths)
        return self.executed(part)

    def table(self, name: str) -> Outcome:
        """One execution of a table, all its rolls."""
        return self.of(View("table", name))

    def source(self, name: str) -> Outcome:
        """One event of a source: every drop tried."""
        return self.of(View("source", name))

    def drop(self, source: Source, drop: Drop) -> Outcome:
        """One try of a drop: its chance, then its table so many times."""
        given = repeat(self.under.law(drop.times), self.table(drop.table))
        if self.detail:
            hits = self.columns.drop_hits(source.id, drop.id)
            given = with_mark(given, hits, hits + 1)
        return perhaps(self.under.drop_chance(drop), given)

    def line(self, table: Table, line: BaseLine) -> Outcome:
        """What a line gives when it is hit: all its yields."""
        body = total([self.given(given) for given in line.yields], self._depths)
        if not self.detail:
            return body
        hits = self.columns.line_hits(table.id, line.id)
        return with_mark(body, hits, hits + 1)

    @property
    def _depths(self) -> int:
        return int(self.under.depths.size)

    def executed(self, table: Table) -> Outcome:
        """One execution as for a fresh player, whatever the table carries from event to event."""
        rolls = self.under.law(table.rolls)
        if is_distinct(self.under, table):
            assert table.rule == "pick"
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
        """Those lines that give so many of one item, all at once."""
        # The same at all depths: a game at one of them asks again for every other.
        key = ("plain lines", self.detail, cache_key((form_of(table), self.under.catalogue)))
        columns, *rows = RESULTS.get(key, lambda: self._plain_row(table, lines))
        starts = np.arange(0, columns.size + 1, 5 if self.detail else 3)
        if self._depths == 1:
            return Parts(columns, starts, *rows)
        return Parts(columns, starts, *(np.repeat(row, self._depths, axis=0) for row in rows))

    def _plain_row(self, table: Table, lines: PlainLines) -> tuple[Any, ...]:
        """Of each its item's column, its tier's and the units', which move together; with detail the
        line's own two as well. The columns, shape (e,); hit, mean, var, cov, shape (1, e); mean and variance
        of the value, shape (1, n)."""
        worth = self.under.item_values[lines.items]
        value, value_var = worth * lines.mean, worth**2 * lines.var
        tiers, units = (
            self.columns.tier(0) + self.under.catalogue.item_groups[lines.items],
            self.columns.units,
        )
        columns = [lines.items, tiers, np.full(lines.at.size, units)]
        hit, mean, var = [lines.some] * 3, [lines.mean] * 3, [lines.var] * 3
        cov = [worth * lines.var] * 3
        if self.detail:
            one, none = np.ones(lines.at.size), np.zeros(lines.at.size)
            hits = self._hit_columns(table)[lines.at]
            columns += [hits, hits + 1]
            hit, mean = [*hit, one, one], [*mean, one, value]
            var, cov = [*var, none, value_var], [*cov, none, value_var]
        rows = [np.stack(part, axis=1).reshape(1, -1) for part in (hit, mean, var, cov)]
        return (np.stack(columns, axis=1).ravel(), *rows, value[None], value_var[None])

    def _hit_columns(self, table: Table) -> IntArray:
        """The column of each line's hits."""
        hits = [self.columns.line_hits(table.id, line.id) for line in table.lines]
        return np.array(hits, dtype=np.int64)

    def given(self, given: Yield) -> Outcome:
        """What one yield gives, its quantity drawn."""
        law = self.under.law(given.quantity)
        match given.what:
            case ItemNamed(item):
                return self._item(self.under.item_index[item], law)
            case View() as view:
                return repeat(law, self.of(view))
            case Pool() as pool:
                return repeat(law, self.pool(pool))

    def _item(self, at: int, law: AnyLaw) -> Outcome:
        """So many of one item: its column, its tier's and the units' move together."""
        item = self.under.game.items[at]
        group = int(self.under.catalogue.item_groups[at])
        columns = np.array([at, self.columns.tier(group), self.columns.units])
        some, mean, var, flat, square = self._laid_out(law)
        return Outcome(columns, some, mean, var, item.value * var, item.value * flat, item.value**2 * square)

    def _laid_out(self, law: AnyLaw) -> tuple[FloatArray, ...]:
        """A law's chance of some, mean and variance for each depth and an item's three columns; its
        mean and variance by depth alone."""
        found = self._laws.get(id(law))
        if found is None:
            wide, flat = np.ones((self._depths, 3)), self.under.ones
            figures = [law.some[:, None] * wide, law.mean[:, None] * wide, law.var[:, None] * wide]
            found = self._laws[id(law)] = (law, (*figures, law.mean * flat, law.var * flat))
        return found[1]

    def pool(self, pool: Pool) -> Outcome:
        """One unit of a pool: one of its items, by abundance and the tiers' curves."""
        pooled = pool_key(pool)
        known = self._pools.get(pooled)
        if known is None:
            key = ("one of", self.under.tiers_key, pooled)
            items, chances = self.under.pool_items, self.under.pool_chances
            known = RESULTS.get(key, lambda: self._one_of(items(pool), chances(pool).T))
            self._pools[pooled] = known
        return known

    def _one_of(self, members: IntArray, chances: FloatArray) -> Outcome:
        """One of these items, with chances (d, n) that sum to 1, or all 0 where there is none.

        Each column is then a chance p that it is hit, once: variance p (1 - p), covariance with
        the value p (E[value | hit] - E[value]).
        """
        if members.size == 0:
            return nothing(self._depths)
        values = self.under.item_values[members]
        worth = chances @ values
        tiers, place = np.unique(self.under.catalogue.item_groups[members], return_inverse=True)
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
        blank = np.where(chances.sum(axis=1) > 0, 0.0, 1.0)
        for column in close.tolist():
            others = chances @ (1.0 - _members(column, by_tier))
            none[:, column] = others + blank
    return none


def _members(column: int, by_tier: FloatArray) -> FloatArray:
    """Which of a pool's items a column counts: one of them, those of a tier, or all."""
    items, tiers = by_tier.shape
    if column >= items:
        return np.asarray(by_tier[:, column - items]) if column < items + tiers else np.ones(items)
    own = np.zeros(items)
    own[column] = 1.0
    return own
