"""Generating functions of what one try gives, at roots of unity: the whole distribution of a total."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from golddice.core.arrays import ComplexArray, FloatArray
from golddice.core.errors import TooLarge
from golddice.core.game.models import BaseLine, Drop, ItemNamed, PickTable, Pool, Source, Table, Yield
from golddice.core.game.views import View
from golddice.core.odds.carried.folds import AllOf, Given, OneOf
from golddice.core.odds.event.rules import roll_chances
from golddice.core.odds.event.subsets import averaged_sets
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.resting import is_distinct
from golddice.core.terms.size import missing, part_of

MOST_SUBSET_LINES = 12


class Functions:
    """Generating functions of one try at the roots of unity, shape (size // 2 + 1,)."""

    def __init__(self, under: Conditions, amounts: Mapping[int, float], size: int) -> None:
        self.under, self.amounts, self.size = under, amounts, size
        self._found: dict[View, ComplexArray] = {}

    def view(self, view: View) -> ComplexArray:
        """One event of a source, or one execution of a table, after all that it leads to."""
        for one in missing(self.under, view, self._found):
            part = part_of(self.under, one)
            self._found[one] = self._source(part) if isinstance(part, Source) else self._executed(part)
        return self._found[view]

    def _source(self, source: Source) -> ComplexArray:
        result = np.ones(self.size // 2 + 1, dtype=np.complex128)
        for drop in source.drops:
            result = result * self._drop(drop)
        return result

    def _table(self, name: str) -> ComplexArray:
        return self.view(View("table", name))

    def of(self, given: Given) -> ComplexArray | None:
        """Of whatever a walk folds in; None for a mere note."""
        what = given.what
        if what is None:
            return None
        if isinstance(what, Drop):
            return self._drop(what)
        if isinstance(what, Yield):
            return self._yielded(what)
        if isinstance(what, BaseLine):
            return self._given(what.yields)
        if isinstance(what, OneOf):
            lines = [line.yields for line in what.table.lines]
            return self._one_of(what.shares, lines, np.array([what.blank]))
        if isinstance(what, AllOf):
            return self._all_of(what.chances, [line.yields for line in what.table.lines])
        return self._table(what.id)

    def _drop(self, drop: Drop) -> ComplexArray:
        chance = float(self.under.drop_chance(drop)[0])
        if chance == 0:
            return np.ones(self.size // 2 + 1, dtype=np.complex128)
        return 1 - chance + chance * self.under.law(drop.times).pgf(self._table(drop.table))

    def _executed(self, table: Table) -> ComplexArray:
        rolls = self.under.law(table.rolls)
        if is_distinct(self.under, table):
            assert table.rule == "pick"
            return self._distinct(table)
        chances, blank = roll_chances(table, self.under)
        if table.rule == "each":
            return rolls.pgf(self._all_of(chances[:, 0], [line.yields for line in table.lines]))
        return rolls.pgf(self._one_of(chances[:, 0], [line.yields for line in table.lines], blank))

    def _one_of(self, chances: FloatArray, given: list[list[Yield]], blank: FloatArray) -> ComplexArray:
        """Exactly one list of yields; plain items share a single transform."""
        plain = np.zeros(self.size)
        plain[0] = float(blank[0])
        nested = np.zeros(self.size // 2 + 1, dtype=np.complex128)
        for chance, yields in zip(chances, given, strict=True):
            if chance > 0:
                alone = self._placed(yields)
                if alone is None:
                    nested += chance * self._given(yields)
                else:
                    plain += chance * alone
        return np.asarray(np.fft.rfft(plain)) + nested

    def _all_of(self, chances: FloatArray, given: list[list[Yield]]) -> ComplexArray:
        """Each list of yields on a chance of its own."""
        result = np.ones(self.size // 2 + 1, dtype=np.complex128)
        for chance, yields in zip(chances, given, strict=True):
            if chance > 0:
                result = result * (1 - chance + chance * self._given(yields))
        return result

    def _given(self, yields: list[Yield]) -> ComplexArray:
        result = np.ones(self.size // 2 + 1, dtype=np.complex128)
        for given in yields:
            result = result * self._yielded(given)
        return result

    def _yielded(self, given: Yield) -> ComplexArray:
        law = self.under.law(given.quantity)
        placed = self._placed([given])
        if placed is not None:
            return np.asarray(np.fft.rfft(placed))
        match given.what:
            case View() as view:
                return law.pgf(self.view(view))
            case Pool() as pool:
                return law.pgf(self._pool(pool))
            case ItemNamed():
                raise AssertionError("an item alone is placed")

    def _placed(self, yields: list[Yield]) -> FloatArray | None:
        """The distribution on the grid of a lone item, or of nothing; None for anything else."""
        if not yields:
            return self._put(np.zeros(1), np.ones(1))
        if len(yields) > 1 or yields[0].item is None:
            return None
        values, chances = self.under.law(yields[0].quantity).row(0)
        amount = self.amounts.get(self.under.item_index[yields[0].item], 0.0)
        return self._put(values.astype(np.float64) * amount, chances)

    def _put(self, amounts: FloatArray, chances: FloatArray) -> FloatArray:
        """Chances laid on the grid modulo its size; between two points both share, mean kept."""
        low = np.floor(amounts)
        up = amounts - low
        at = low.astype(np.int64) % self.size
        grid = np.bincount(at, weights=chances * (1 - up), minlength=self.size)
        if np.any(up > 0):
            grid += np.bincount((at + 1) % self.size, weights=chances * up, minlength=self.size)
        return grid.astype(np.float64)

    def _pool(self, pool: Pool) -> ComplexArray:
        members = self.under.pool_items(pool)
        chances = self.under.pool_chances(pool)[:, 0]
        grid = np.zeros(self.size)
        for at, chance in zip(members, chances, strict=True):
            amount = np.array([self.amounts.get(int(at), 0.0)])
            grid += chance * self._put(amount, np.ones(1))
        if chances.sum() == 0:
            grid[0] = 1.0
        return np.asarray(np.fft.rfft(grid))

    def _distinct(self, table: PickTable) -> ComplexArray:
        """Over the sets of lines that can be in, the product of what they give."""
        weights = self.under.weights(table)[:, 0]
        kept = np.flatnonzero(weights > 0)
        if kept.size > MOST_SUBSET_LINES:
            raise TooLarge(
                f"“{table.id}” picks distinct lines from {kept.size}; "
                f"a whole distribution is worked out for up to {MOST_SUBSET_LINES}"
            )
        blank = float(self.under.nothing(table)[0])
        chances = averaged_sets(weights[kept, None], np.array([blank]), self.under.law(table.rolls))[:, 0]
        return self._subset_sum(chances, [self._given(table.lines[at].yields) for at in kept])

    def _subset_sum(self, chances: FloatArray, given: list[ComplexArray]) -> ComplexArray:
        """sum over masks of chance * product of given_i, line by line (halving the masks)."""
        rows = [np.full(self.size // 2 + 1, p, dtype=np.complex128) for p in chances]
        for one in given:  # bit 0 first: pairs (mask, mask + 1) fold into one
            rows = [rows[i] + rows[i + 1] * one for i in range(0, len(rows), 2)]
        return rows[0]
