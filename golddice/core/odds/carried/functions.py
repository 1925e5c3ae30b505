"""Generating functions of what one try gives, at roots of unity: the whole distribution of a total."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

import numpy as np

from golddice.core.arrays import ComplexArray, FloatArray, IntArray
from golddice.core.game.models import BaseLine, Drop, PickTable, Table, Yield
from golddice.core.game.views import View
from golddice.core.odds.carried.folds import AllOf, Given, OneOf
from golddice.core.odds.event.algebra import Algebra, Roll, open_sets
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.law import AnyLaw
from golddice.core.terms.lines import no_plain_lines

MOST_SUBSET_LINES = 12
# Of so many of one item the distribution on the grid, shape (size,), real; of all else its transform.
Function = FloatArray | ComplexArray


class Functions(Algebra[Function]):
    """Generating functions of one try at the roots of unity, shape (size // 2 + 1,), at the one depth of
    `under`. What lies on the grid alone is transformed once it meets another, so lines of one item share a
    single transform."""

    def __init__(self, under: Conditions, amounts: Mapping[int, float], size: int) -> None:
        super().__init__(under)
        self.amounts, self.size = amounts, size

    def whole(self, view: View) -> ComplexArray:
        """Of one event of a source, or one execution of a table."""
        return self._transformed(self.of(view))

    def of_given(self, given: Given) -> ComplexArray | None:
        """Of whatever a walk folds in; None for a mere note."""
        what = given.what
        return None if what is None else self._transformed(self._of(what))

    def _of(self, what: Yield | Drop | BaseLine | OneOf | AllOf | Table) -> Function:
        if isinstance(what, Drop):
            tried = self.repeated(self.under.law(what.times), self.table(what.table))
            return self.perhaps(self.under.drop_chance(what), tried)
        if isinstance(what, Yield):
            return self.given(what)
        if isinstance(what, BaseLine):
            return self.yields(what.yields)
        if isinstance(what, (OneOf, AllOf)):
            blank = np.array([what.blank]) if isinstance(what, OneOf) else None
            chances = what.shares if isinstance(what, OneOf) else what.chances
            hits = np.flatnonzero(chances > 0)
            others = (self.line(what.table, what.table.lines[at]) for at in hits)
            return self.together(Roll(chances[hits, None], blank, no_plain_lines(hits.size)), others)
        return self.table(what.id)

    def item(self, at: int, law: AnyLaw) -> Function:
        values, chances = law.row(0)
        return self._put(values.astype(np.float64) * self.amounts.get(at, 0.0), chances)

    def one_item(self, items: IntArray, chances: FloatArray) -> Function:
        grid = np.zeros(self.size)
        for at, chance in zip(items.tolist(), chances[:, 0], strict=True):
            grid += chance * self._put(np.array([self.amounts.get(at, 0.0)]), np.ones(1))
        if chances.sum() == 0:
            grid[0] = 1.0
        return self._transformed(grid)

    def repeated(self, law: AnyLaw, once: Function) -> Function:
        return once if law.is_one else law.pgf(self._transformed(once))

    def perhaps(self, chance: FloatArray, part: Function) -> Function:
        share = float(chance[0])
        return np.asarray(1 - share + share * self._transformed(part))

    def all_of(self, parts: Iterable[Function]) -> Function:
        result = np.ones(self.size // 2 + 1, dtype=np.complex128)
        for part in parts:
            result = result * self._transformed(part)
        return result

    def together(self, roll: Roll, others: Iterable[Function]) -> Function:
        hits = ((chance, one) for chance, one in zip(roll.chances, others, strict=True) if chance[0] > 0)
        if roll.blank is None:
            return self.all_of(self.perhaps(chance, one) for chance, one in hits)
        grid = np.zeros(self.size)
        grid[0] = float(roll.blank[0])
        nested = np.zeros(self.size // 2 + 1, dtype=np.complex128)
        for chance, one in hits:
            target: Any = nested if np.iscomplexobj(one) else grid
            target += float(chance[0]) * one
        return np.asarray(np.fft.rfft(grid)) + nested

    def distinct(self, table: PickTable) -> Function:
        """Over the sets of lines that can be in, the product of what they give."""
        lines, sets = open_sets(self.under, table, MOST_SUBSET_LINES, "a whole distribution")
        rows = [np.full(self.size // 2 + 1, p, dtype=np.complex128) for p in sets]
        for at in lines:  # bit 0 first: pairs (mask, mask + 1) fold into one
            one = self._transformed(self.line(table, table.lines[at]))
            rows = [rows[i] + rows[i + 1] * one for i in range(0, len(rows), 2)]
        return rows[0]

    def _transformed(self, one: Function) -> ComplexArray:
        return np.asarray(one if np.iscomplexobj(one) else np.fft.rfft(one), dtype=np.complex128)

    def _put(self, amounts: FloatArray, chances: FloatArray) -> FloatArray:
        """Chances laid on the grid modulo its size; between two points both share, mean kept."""
        low = np.floor(amounts)
        up = amounts - low
        at = low.astype(np.int64) % self.size
        grid = np.bincount(at, weights=chances * (1 - up), minlength=self.size)
        if np.any(up > 0):
            grid += np.bincount((at + 1) % self.size, weights=chances * up, minlength=self.size)
        return grid.astype(np.float64)
