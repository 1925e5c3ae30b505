"""What can be asked of an event in which players carry something: how to begin at its end, how to fold in
what is given on the way there, and how to put together what a roll can do.

A chance of any, a mean add up; a generating function multiplies by another. Bundles are arrays with one row
a state.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Any, Protocol

import numpy as np
import numpy.typing as npt

from golddice.core.arrays import BoolArray, ComplexArray, FloatArray, IntArray
from golddice.core.game.models import Drop, Line, Table, Yield
from golddice.core.odds.carried.loops import gather_from_into, gather_into, gather_spread_into
from golddice.core.odds.event.outcome import Outcome

Bundle = tuple[npt.NDArray[Any], ...]


@dataclass(frozen=True)
class Way:
    """One thing that a roll can do: its chance by state, what is yet to come after it, and in which row
    of that each state goes on."""

    chance: FloatArray
    bundle: Bundle
    after: IntArray


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
    """What is asked. `width` is how many numbers it has a state."""

    @property
    def width(self) -> int: ...

    def end(self, states: int) -> Bundle: ...

    def fold(self, bundle: Bundle, given: Given) -> Bundle: ...

    def mix(self, ways: Sequence[Way]) -> Bundle: ...

    def taken(self, bundle: Bundle, states: IntArray) -> Bundle:
        """The rows of some states."""
        ...


def marking(column: int) -> Given:
    one, none = np.ones((1, 1)), np.zeros((1, 1))
    outcome = Outcome(np.array([column]), one, one, none, none, np.zeros(1), np.zeros(1))
    return Given(outcome, None)


def with_flows(given: Given, flows: tuple[int, ...]) -> Given:
    """The same, with its value noted as carried by some lines and drops. An outcome of one depth."""
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


def added(ways: Sequence[Way]) -> Bundle:
    """sum over ways of chance(s) * bundle(after(s)): for whatever is linear in what is yet to come."""
    arrays = []
    for n, like in enumerate(ways[0].bundle):
        result = np.zeros((ways[0].chance.size, like.shape[1]), dtype=like.dtype)
        for way in ways:
            gather_into(result, way.chance, way.after, np.ascontiguousarray(way.bundle[n]))
        arrays.append(result)
    return tuple(arrays)


class _Linear:
    """Questions whose answers add up over what a roll can do."""

    def mix(self, ways: Sequence[Way]) -> Bundle:
        return added(ways)

    def taken(self, bundle: Bundle, states: IntArray) -> Bundle:
        return tuple(array[states] for array in bundle)


class _OnColumns:
    """A question about some columns. What is given comes again and again, so its figures are laid out
    on the columns once."""

    def __init__(self, columns: IntArray) -> None:
        self.columns = columns
        self._known: dict[tuple[str, int], tuple[Given, FloatArray]] = {}

    @property
    def width(self) -> int:
        return int(self.columns.size)

    def _row(self, given: Given, figures: str) -> FloatArray:
        """`hit`, `mean`, `var` or `cov` of what is given, by wanted column; shape (1, k)."""
        key = (figures, id(given))
        if key not in self._known:
            row = _spread(getattr(given.outcome, figures), given.outcome.columns, self.columns)
            self._known[key] = (given, row)
        return self._known[key][1]


class AnyOf(_Linear, _OnColumns):
    """Chance of at least one, by column: h becomes a + (1 - a) h. All terms are positive, so the digits
    of small chances are kept however many events it runs through."""

    def end(self, states: int) -> Bundle:
        return (np.zeros((states, self.columns.size)),)

    def fold(self, bundle: Bundle, given: Given) -> Bundle:
        some = self._row(given, "hit")
        return (some + (1.0 - some) * bundle[0],)


class NoneOf(_Linear, _OnColumns):
    """Whatever the bundle began with, and none in this event, by column."""

    def end(self, states: int) -> Bundle:
        return (np.ones((states, self.columns.size)),)

    def fold(self, bundle: Bundle, given: Given) -> Bundle:
        return ((1.0 - self._row(given, "hit")) * bundle[0],)


class Means(_Linear, _OnColumns):
    """How many of all that is yet to come, by column."""

    def end(self, states: int) -> Bundle:
        return (np.zeros((states, self.columns.size)),)

    def fold(self, bundle: Bundle, given: Given) -> Bundle:
        return (bundle[0] + self._row(given, "mean"),)


class Moments(_OnColumns):
    """(mean, variance, covariance with value) by column; (mean, variance) of value; of all that is yet to
    come from each state.

    About the means, not about 0: where nearly all is certain, a second moment less a square would
    have no digits left. The variance of a mixture is sum p (v + (m - mean)^2). And means are told from
    what each state's likeliest way brings (the last two arrays), or how far they lie apart would drown in
    what they have in common.
    """

    @property
    def width(self) -> int:
        return 4 * int(self.columns.size) + 3

    def end(self, states: int) -> Bundle:
        wide, one = np.zeros((states, self.columns.size)), np.zeros((states, 1))
        return wide, wide, wide, one, one, wide, one

    def fold(self, bundle: Bundle, given: Given) -> Bundle:
        mean, var, cov, worth, worth_var, base, worth_base = bundle
        outcome = given.outcome
        return (
            mean,
            var + self._row(given, "var"),
            cov + self._row(given, "cov"),
            worth,
            worth_var + float(outcome.value_var[0]),
            base + self._row(given, "mean"),
            worth_base + float(outcome.value_mean[0]),
        )

    def mix(self, ways: Sequence[Way]) -> Bundle:
        base, worth_base = _likeliest(ways)
        spread = added([Way(way.chance, (*way.bundle[1:3], way.bundle[4]), way.after) for way in ways])
        var, cov, worth_var = spread
        mean, worth = np.zeros_like(base), np.zeros_like(worth_base)
        parts = [tuple(map(np.ascontiguousarray, way.bundle)) for way in ways]
        for way, part in zip(ways, parts, strict=True):
            gather_from_into(mean, way.chance, way.after, part[0], part[5], base)
            gather_from_into(worth, way.chance, way.after, part[3], part[6], worth_base)
        for way, part in zip(ways, parts, strict=True):
            means, worths = (part[0], part[5], base, mean), (part[3], part[6], worth_base, worth)
            gather_spread_into(var, cov, worth_var, way.chance, way.after, means, worths)
        return mean, var, cov, worth, worth_var, base, worth_base

    def taken(self, bundle: Bundle, states: IntArray) -> Bundle:
        return tuple(array[states] for array in bundle)

    @staticmethod
    def told(bundle: Bundle) -> Bundle:
        """(mean, var, cov, worth, worth_var) as they are."""
        mean, var, cov, worth, worth_var, base, worth_base = bundle
        return mean + base, var, cov, worth + worth_base, worth_var


def _likeliest(ways: Sequence[Way]) -> tuple[FloatArray, FloatArray]:
    """From what each state's likeliest way tells its means."""
    best = np.argmax(np.stack([way.chance for way in ways]), axis=0)
    base = np.empty((best.size, ways[0].bundle[5].shape[1]))
    worth_base = np.empty((best.size, 1))
    for at, way in enumerate(ways):
        here = np.flatnonzero(best == at)
        base[here], worth_base[here] = way.bundle[5][way.after[here]], way.bundle[6][way.after[here]]
    return base, worth_base


class Transitions(_Linear):
    """The chance of each state after: one column a state."""

    def __init__(self, states: int) -> None:
        self.width = states

    def end(self, states: int) -> Bundle:
        return (np.eye(states),)

    def fold(self, bundle: Bundle, given: Given) -> Bundle:
        return bundle


class NoneMatrix(_Linear, _OnColumns):
    """`NoneOf` as a matrix, of one column: the chance of (state after, and none on the way)."""

    def __init__(self, column: int, states: int) -> None:
        super().__init__(np.array([column]))
        self._states = states

    @property
    def width(self) -> int:
        return self._states

    def end(self, states: int) -> Bundle:
        return (np.eye(states),)

    def fold(self, bundle: Bundle, given: Given) -> Bundle:
        return ((1.0 - self._row(given, "hit")) * bundle[0],)


class FirstMatrix(_Linear, _OnColumns):
    """Means as matrices: with the transitions, E[how many; state after] by column, and of value last.

    How many beyond a `base`, by column and of value, shape (k + 1,): what each event brings in common is
    taken off before anything is weighed by its chance, or the digits of the rest would drown in it.
    """

    def __init__(self, columns: IntArray, states: int, base: FloatArray) -> None:
        super().__init__(columns)
        self._states, self._base = states, base

    @property
    def width(self) -> int:
        return self._states * (int(self.columns.size) + 2)

    def end(self, states: int) -> Bundle:
        start = np.eye(states)
        return start, np.kron(-self._base[None, :-1], start), -self._base[-1] * start

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

    @property
    def width(self) -> int:
        return sum(fold.width for fold in self._folds)

    def end(self, states: int) -> Bundle:
        return tuple(part for fold in self._folds for part in fold.end(states))

    def fold(self, bundle: Bundle, given: Given) -> Bundle:
        folded = (fold.fold(bundle[cut], given) for fold, cut in self.parts)
        return tuple(part for bundles in folded for part in bundles)

    def mix(self, ways: Sequence[Way]) -> Bundle:
        mixed = (
            fold.mix([Way(way.chance, way.bundle[cut], way.after) for way in ways])
            for fold, cut in self.parts
        )
        return tuple(part for bundles in mixed for part in bundles)

    def taken(self, bundle: Bundle, states: IntArray) -> Bundle:
        return tuple(part for fold, cut in self.parts for part in fold.taken(bundle[cut], states))

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


class Generating(_Linear):
    """Generating functions of a total at some roots of unity: those numbered `at` of all that
    `transform` knows the parts' functions at."""

    def __init__(self, transform: Transform, at: IntArray) -> None:
        self._transform, self._at = transform, at
        self._known: dict[int, tuple[Given, ComplexArray | None]] = {}
        self.width = 2 * int(at.size)

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
