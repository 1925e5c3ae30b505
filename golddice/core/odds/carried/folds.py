"""What can be asked of an event in which players carry something: how to begin at its end, and how to
fold in what is given on the way there.

A chance of none multiplies, a mean adds, a generating function multiplies by another. Bundles are
arrays with one row a state.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from itertools import pairwise
from typing import Any, Protocol

import numpy as np
import numpy.typing as npt

from golddice.core.arrays import BoolArray, ComplexArray, FloatArray, IntArray
from golddice.core.game.models import Drop, Line, Table, Yield
from golddice.core.odds.event.outcome import Outcome

Bundle = tuple[npt.NDArray[Any], ...]


@dataclass(frozen=True)
class OneOf:
    """One of the lines of a table, in these shares, shape (n,), or nothing."""

    table: Table
    shares: FloatArray
    blank: float


@dataclass(frozen=True)
class AllOf:
    """Each of the lines of a table on its own chance, shape (n,)."""

    table: Table
    chances: FloatArray


class Given:
    """Something that carries nothing: its outcome, and what it is, for generating functions."""

    def __init__(self, outcome: Outcome, what: Yield | Drop | Line | Table | OneOf | AllOf | None) -> None:
        self.outcome, self.what = outcome, what


Transform = Callable[[Given], "ComplexArray | None"]


class Fold(Protocol):
    """What is asked: how to begin, and how to fold something given in."""

    def end(self, states: int) -> Bundle: ...

    def fold(self, bundle: Bundle, given: Given) -> Bundle: ...


def marking(column: int) -> Given:
    one, none = np.ones((1, 1)), np.zeros((1, 1))
    outcome = Outcome(np.array([column]), one, one, none, none, np.zeros(1), np.zeros(1))
    return Given(outcome, None)


def with_flows(given: Given, flows: tuple[int, ...]) -> Given:
    old = given.outcome
    mean = np.repeat(old.value_mean[:, None], len(flows), axis=1)
    var = np.repeat(old.value_var[:, None], len(flows), axis=1)
    some = np.ones_like(mean)
    outcome = Outcome(
        np.concatenate([old.columns, flows]),
        np.hstack([old.hit, some]),
        np.hstack([old.mean, mean]),
        np.hstack([old.var, var]),
        np.hstack([old.cov, var]),
        old.value_mean,
        old.value_var,
    )
    return Given(outcome, given.what)


class _OnColumns:
    """A question about some columns. What is given comes again and again, so its figures are laid out
    on the columns once."""

    def __init__(self, columns: IntArray) -> None:
        self.columns = columns
        self._known: dict[tuple[str, int], tuple[Given, FloatArray]] = {}

    def _row(self, given: Given, figures: str) -> FloatArray:
        """`hit`, `mean`, `var` or `cov` of what is given, by wanted column; shape (1, k)."""
        key = (figures, id(given))
        if key not in self._known:
            row = _spread(getattr(given.outcome, figures), given.outcome.columns, self.columns)
            self._known[key] = (given, row)
        return self._known[key][1]


class AnyOf(_OnColumns):
    """Chance of at least one, by column: h becomes a + (1 - a) h. All terms positive."""

    def end(self, states: int) -> Bundle:
        return (np.zeros((states, self.columns.size)),)

    def fold(self, bundle: Bundle, given: Given) -> Bundle:
        some = self._row(given, "hit")
        return (some + (1.0 - some) * bundle[0],)


class NoneOf(_OnColumns):
    """Chance of none, by column, in this event and in all that the bundle began with."""

    def end(self, states: int) -> Bundle:
        return (np.ones((states, self.columns.size)),)

    def fold(self, bundle: Bundle, given: Given) -> Bundle:
        return ((1.0 - self._row(given, "hit")) * bundle[0],)


class Moments(_OnColumns):
    """(mean, second moment, product with value) by column; (mean, second moment) of value."""

    def end(self, states: int) -> Bundle:
        wide, one = np.zeros((states, self.columns.size)), np.zeros((states, 1))
        return wide, wide, wide, one, one

    def fold(self, bundle: Bundle, given: Given) -> Bundle:
        first, second, product, worth, worth_second = bundle
        mean, var, cov = (self._row(given, figures) for figures in ("mean", "var", "cov"))
        value, spread = float(given.outcome.value_mean[0]), float(given.outcome.value_var[0])
        return (
            first + mean,
            second + 2 * mean * first + var + mean**2,
            product + mean * worth + value * first + cov + mean * value,
            worth + value,
            worth_second + 2 * value * worth + spread + value**2,
        )


class Transitions:
    """The chance of each state after: one column a state."""

    def end(self, states: int) -> Bundle:
        return (np.eye(states),)

    def fold(self, bundle: Bundle, given: Given) -> Bundle:
        return bundle


class NoneMatrix(_OnColumns):
    """`NoneOf` as matrices: for each column, the chance of (state after, and none on the way)."""

    def end(self, states: int) -> Bundle:
        return (np.tile(np.eye(states), (1, self.columns.size)),)

    def fold(self, bundle: Bundle, given: Given) -> Bundle:
        states = bundle[0].shape[1] // self.columns.size
        return (np.repeat(1.0 - self._row(given, "hit"), states, axis=1) * bundle[0],)


class FirstMatrix(_OnColumns):
    """Means as matrices: E[how many; state after] by column, and of value; with the transitions."""

    def end(self, states: int) -> Bundle:
        none = np.zeros((states, states))
        return np.eye(states), np.tile(none, (1, self.columns.size)), none

    def fold(self, bundle: Bundle, given: Given) -> Bundle:
        after, counts, worth = bundle
        wide = np.repeat(self._row(given, "mean"), after.shape[1], axis=1)
        more = np.tile(after, (1, self.columns.size)) * wide
        return after, counts + more, worth + float(given.outcome.value_mean[0]) * after


class Together:
    """Several questions asked in one walk: their bundles one after another."""

    def __init__(self, *folds: Fold) -> None:
        self._folds = folds
        ends = np.cumsum([0, *(len(fold.end(1)) for fold in folds)]).tolist()
        self._cuts = [slice(start, end) for start, end in pairwise(ends)]

    def end(self, states: int) -> Bundle:
        return tuple(part for fold in self._folds for part in fold.end(states))

    def fold(self, bundle: Bundle, given: Given) -> Bundle:
        folded = (fold.fold(bundle[cut], given) for fold, cut in self.parts)
        return tuple(part for bundles in folded for part in bundles)

    @property
    def parts(self) -> list[tuple[Fold, slice]]:
        """Each question, and where its bundle lies."""
        return list(zip(self._folds, self._cuts, strict=True))


def remembering(transform: Transform) -> Transform:
    """The same, worked out once for each thing that is given."""
    known: dict[int, tuple[Given, ComplexArray | None]] = {}

    def of(given: Given) -> ComplexArray | None:
        if id(given) not in known:
            known[id(given)] = (given, transform(given))
        return known[id(given)][1]

    return of


class Generating:
    """Generating functions of a total at some roots of unity: those numbered `at` of all that
    `transform` knows the parts' functions at."""

    def __init__(self, transform: Transform, at: IntArray) -> None:
        self._transform, self._at = transform, at
        self._known: dict[int, tuple[Given, ComplexArray | None]] = {}

    def end(self, states: int) -> Bundle:
        return (np.ones((states, self._at.size), dtype=np.complex128),)

    def fold(self, bundle: Bundle, given: Given) -> Bundle:
        if id(given) not in self._known:
            whole = self._transform(given)
            self._known[id(given)] = (given, None if whole is None else whole[self._at])
        factor = self._known[id(given)][1]
        return bundle if factor is None else (bundle[0] * factor,)

    def narrowed(self, kept: BoolArray) -> Generating:
        """The same at fewer of the roots."""
        return Generating(self._transform, self._at[kept])


def _spread(figures: FloatArray, columns: IntArray, wanted: IntArray) -> FloatArray:
    """One row of figures laid out on the wanted columns, 0 elsewhere; shape (1, k)."""
    row = np.zeros((1, wanted.size))
    places = np.searchsorted(wanted, columns)
    places = np.minimum(places, max(wanted.size - 1, 0))
    found = wanted[places] == columns if wanted.size else np.zeros(columns.size, dtype=bool)
    row[0, places[found]] = figures[0, found]
    return row
