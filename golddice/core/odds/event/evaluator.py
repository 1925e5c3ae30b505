"""Exact moments of every table and source of a game, by putting outcomes together bottom-up.

For what carries nothing from one roll to the next; `walk` builds on it for what does. Each table
is worked out once, however often it is reached, and what nobody has touched since is found again.
"""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

import numpy as np

from golddice.core.arrays import FloatArray, IntArray
from golddice.core.game.models import BaseLine, Drop, PickTable, Source, Table
from golddice.core.game.views import View
from golddice.core.odds.event.algebra import Algebra, Roll
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
from golddice.core.results import RESULTS, cache_key
from golddice.core.terms.columns import Columns
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.forms import form_of
from golddice.core.terms.law import AnyLaw
from golddice.core.terms.lines import PlainLines


class Evaluator(Algebra[Outcome]):
    """Outcomes of a game under conditions.

    `detail` adds the columns of lines and drops, which screens need and totals do not.
    """

    takes_plain = True

    def __init__(self, under: Conditions, detail: bool = True) -> None:
        super().__init__(under, ("outcome", detail))
        self.detail = detail
        self.columns = Columns(under.catalogue)
        self._laws: dict[int, tuple[AnyLaw, tuple[FloatArray, ...]]] = {}
        # Of all that a table or source reaches; `carried.columns` fills it.
        self.reached_columns: dict[View, set[int]] = {}
        # Of lines of a table in these shares (as bytes), or nothing; `walk` fills it.
        self.mixtures: dict[tuple[str, bytes, float], Outcome] = {}

    def dropped(self, source: Source, drop: Drop) -> Outcome:
        given = super().dropped(source, drop)
        if not self.detail:
            return given
        hits = self.columns.drop_hits(source.id, drop.id)
        return with_mark(given, hits, hits + 1)

    def line(self, table: Table, line: BaseLine) -> Outcome:
        body = super().line(table, line)
        if not self.detail:
            return body
        hits = self.columns.line_hits(table.id, line.id)
        return with_mark(body, hits, hits + 1)

    @property
    def _depths(self) -> int:
        return int(self.under.depths.size)

    def repeated(self, law: AnyLaw, once: Outcome) -> Outcome:
        return repeat(law, once)

    def perhaps(self, chance: FloatArray, part: Outcome) -> Outcome:
        return perhaps(chance, part)

    def all_of(self, parts: Iterable[Outcome]) -> Outcome:
        return total(list(parts), self._depths)

    def distinct(self, table: PickTable) -> Outcome:
        lines = [self.line(table, line) for line in table.lines]
        rolls, weights = self.under.law(table.rolls), self.under.weights(table)
        return distinct_outcome(weights, self.under.nothing(table), rolls, lines)

    def together(self, roll: Roll, others: Iterable[Outcome]) -> Outcome:
        assert roll.table is not None
        parts = self._plain(roll.table, roll.plain).and_then(Parts.of(list(others), self._depths))
        chances = roll.chances[roll.plain.order]
        return independent(chances, parts) if roll.blank is None else mixture(chances, parts, roll.blank)

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

    def item(self, at: int, law: AnyLaw) -> Outcome:
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

    def one_item(self, items: IntArray, chances: FloatArray) -> Outcome:
        """Each column is then a chance p that it is hit, once: variance p (1 - p), covariance with the value
        p (E[value | hit] - E[value])."""
        return self._one_of(items, chances.T)

    def _one_of(self, members: IntArray, chances: FloatArray) -> Outcome:
        """Chances (d, n) that sum to 1, or all 0 where there is none."""
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
