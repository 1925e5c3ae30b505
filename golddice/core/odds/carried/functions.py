"""Generating functions of what one try gives: the whole distribution of a total.

What is kept is the generating function less 1, E[z^X] - 1: a sum over what can come, so that a try which
seldom gives anything has all its digits, also after a thousand million of them.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Iterable, Mapping
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from golddice.core.arrays import ComplexArray, FloatArray, IntArray
from golddice.core.game.models import BaseLine, Drop, PickTable, Table, Yield
from golddice.core.game.views import View
from golddice.core.odds.carried.folds import AllOf, Given, OneOf
from golddice.core.odds.event.algebra import Algebra, Roll, open_sets
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.law import AnyLaw
from golddice.core.terms.lines import no_plain_lines

MOST_SUBSET_LINES = 12
_FEW_ATOMS = 8  # of which a sum is quicker than a transform
_FEW_VALUES = 64  # of a quantity, whose powers are summed one by one
_LEAST_LOG = -745.0  # e^-745 is next to 0

Excess = npt.NDArray[np.float64 | np.complex128]


class Atoms(NamedTuple):
    """So much (>= 0) with such a chance, (n,) each; nothing with what is left."""

    amounts: FloatArray
    chances: FloatArray


# Of items drawn once the atoms, which are transformed together with their neighbours; of all else the excess.
Function = Atoms | Excess


class Points(ABC):
    """The points z at which generating functions are told."""

    size: int
    most_atoms: int  # that are summed one by one for a quantity; of longer ones the law is asked

    @abstractmethod
    def excess(self, atoms: Atoms) -> Excess:
        """Sum of chance * (z^amount - 1), shape (size,)."""

    def times(self, values: IntArray, amount: float) -> FloatArray:
        """So many times an amount."""
        return np.asarray(values * amount, dtype=np.float64)


class Roots(Points):
    """The roots of unity e^(-2 pi i k / period), k = 0 ... period / 2, for whole amounts, of which nothing
    but what is left by the period matters."""

    def __init__(self, period: int) -> None:
        self.period, self.size, self.most_atoms = period, period // 2 + 1, period
        self._steps = np.arange(self.size)
        self._circle = turned(np.arange(period) / period)

    def excess(self, atoms: Atoms) -> ComplexArray:
        at = atoms.amounts.astype(np.int64) % self.period
        grid = np.bincount(at, weights=atoms.chances, minlength=self.period)
        held = np.flatnonzero(grid)
        if held.size > _FEW_ATOMS:
            return np.asarray(np.fft.rfft(grid) - grid.sum())
        found = np.zeros(self.size, dtype=np.complex128)
        for place in held.tolist():
            found += grid[place] * self._circle[self._steps * place % self.period]
        return found

    def times(self, values: IntArray, amount: float) -> FloatArray:
        return np.asarray(values % self.period * (int(amount) % self.period) % self.period, dtype=np.float64)

    def shift(self, amount: int) -> ComplexArray:
        """What a generating function is multiplied by to be that of so much less."""
        return np.conj(1.0 + self._circle[self._steps * (amount % self.period) % self.period])


class Turns(Points):
    """e^(-2 pi i k / period), k = 0 ... size - 1, for amounts and a period that need not be whole."""

    most_atoms = _FEW_VALUES

    def __init__(self, period: float, size: int) -> None:
        self.period, self.size = period, size

    def excess(self, atoms: Atoms) -> ComplexArray:
        found = np.zeros(self.size, dtype=np.complex128)
        for amount, chance in zip(atoms.amounts.tolist(), atoms.chances.tolist(), strict=True):
            found += chance * turned(self.turns(amount))
        return found

    def turns(self, amount: float) -> FloatArray:
        return np.asarray(np.arange(self.size) * (amount / self.period) % 1.0)


class Rates(Points):
    """e^t for real t, for the chances of large deviations; infinite where it would be too large."""

    most_atoms = _FEW_VALUES

    def __init__(self, rates: FloatArray) -> None:
        self.rates, self.size = rates, rates.size

    def excess(self, atoms: Atoms) -> FloatArray:
        found = np.zeros(self.size)
        for amount, chance in zip(atoms.amounts.tolist(), atoms.chances.tolist(), strict=True):
            found += chance * np.expm1(self.rates * amount)
        return found


def turned(turns: FloatArray) -> ComplexArray:
    """e^(-2 pi i t) - 1, with the digits of small turns: -2 sin^2 and -i sin."""
    half = np.sin(np.pi * turns)
    return np.asarray(-2.0 * half * half - 1j * np.sin(2 * np.pi * turns))


def logarithm(excess: Excess) -> Excess:
    """log(1 + excess)."""
    if not np.iscomplexobj(excess):
        with np.errstate(divide="ignore"):
            return np.asarray(np.log1p(excess))
    x, y = excess.real, excess.imag
    with np.errstate(divide="ignore"):
        size = np.maximum(0.5 * np.log1p(np.maximum(2 * x + x * x + y * y, -1.0)), _LEAST_LOG)
    return np.asarray(size + 1j * np.arctan2(y, 1.0 + x))


class Functions(Algebra[Function]):
    """Generating functions of one try, less 1, at the one depth of `under`; `amounts` by item index."""

    def __init__(self, under: Conditions, amounts: Mapping[int, float], points: Points) -> None:
        super().__init__(under)
        self.amounts, self.points = amounts, points

    def whole(self, view: View) -> Excess:
        """Of one event of a source, or one execution of a table."""
        return self._told(self.of(view))

    def of_given(self, given: Given) -> ComplexArray | None:
        """Of whatever a walk folds in the function itself; None for a mere note."""
        what = given.what
        return None if what is None else np.asarray(1.0 + self._told(self._of(what)), dtype=np.complex128)

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
        amount = self.amounts.get(at, 0.0)
        if values.size > self.points.most_atoms and amount:
            return self.repeated(law, Atoms(np.array([amount]), np.ones(1)))
        some = values > 0 if amount else np.zeros(values.size, dtype=bool)
        return Atoms(self.points.times(values[some], amount), chances[some])

    def one_item(self, items: IntArray, chances: FloatArray) -> Function:
        amounts = np.array([self.amounts.get(at, 0.0) for at in items.tolist()])
        return Atoms(amounts[amounts > 0], chances[:, 0][amounts > 0])

    def repeated(self, law: AnyLaw, once: Function) -> Function:
        return once if law.is_one else _repeated(law, self._told(once))

    def perhaps(self, chance: FloatArray, part: Function) -> Function:
        share = float(chance[0])
        if isinstance(part, Atoms):
            return Atoms(part.amounts, share * part.chances)
        return np.asarray(share * part)

    def all_of(self, parts: Iterable[Function]) -> Function:
        result: Excess | None = None
        for part in map(self._told, parts):
            result = part if result is None else np.asarray(result + part + result * part)
        return np.zeros(self.points.size) if result is None else result

    def together(self, roll: Roll, others: Iterable[Function]) -> Function:
        hits = ((chance, one) for chance, one in zip(roll.chances, others, strict=True) if chance[0] > 0)
        tried = (self.perhaps(chance, one) for chance, one in hits)
        return self.all_of(tried) if roll.blank is None else self._one_of(tried)

    def _one_of(self, tried: Iterable[Function]) -> Function:
        """One of parts that exclude each other; those that are atoms are told at once."""
        nested: Excess | None = None
        atoms = []
        for one in tried:
            if isinstance(one, Atoms):
                atoms.append(one)
            else:
                nested = one if nested is None else np.asarray(nested + one)
        plain = Atoms(*(np.concatenate(each) for each in zip(*atoms, strict=True))) if atoms else None
        if nested is None:
            return Atoms(np.zeros(0), np.zeros(0)) if plain is None else plain
        return nested if plain is None else np.asarray(nested + self._told(plain))

    def distinct(self, table: PickTable) -> Function:
        """Over the sets of lines that can be in, the product of what they give: of each set its chance, and
        that times the excess."""
        lines, sets = open_sets(self.under, table, MOST_SUBSET_LINES, "a whole distribution")
        rows: list[tuple[float, Excess]] = [(float(p), np.zeros(1)) for p in sets]
        for at in lines:  # bit 0 first: pairs (mask, mask + 1) fold into one
            one = self._told(self.line(table, table.lines[at]))
            rows = [_folded(rows[i], rows[i + 1], one) for i in range(0, len(rows), 2)]
        return np.asarray(rows[0][1] + np.zeros(self.points.size))

    def _told(self, one: Function) -> Excess:
        return self.points.excess(one) if isinstance(one, Atoms) else one


def _folded(
    without: tuple[float, Excess], with_it: tuple[float, Excess], one: Excess
) -> tuple[float, Excess]:
    likely, excess = with_it
    return without[0] + likely, np.asarray(without[1] + excess + (likely + excess) * one)


def _repeated(law: AnyLaw, once: Excess) -> Excess:
    """Of so many independent tries; one by one where the values are few, with the digits of small ones."""
    values, chances = law.row(0)
    if values.size > _FEW_VALUES:
        return np.asarray(law.pgf(np.asarray(1.0 + once)) - 1.0)
    log = logarithm(once)
    found = np.zeros_like(once)
    for value, chance in zip(values.tolist(), chances.tolist(), strict=True):
        if value > 0:
            found += chance * np.expm1(value * log)
    return found
