"""Drops, or a table, that share what a player carries, followed in a space of states of their own."""

from __future__ import annotations

from functools import cached_property

import numpy as np

from golddice.core.arrays import ComplexArray, FloatArray, IntArray
from golddice.core.errors import TooLarge
from golddice.core.game.models import Drop, Line, Source, Table
from golddice.core.odds.carried.folds import (
    AnyOf,
    Bundle,
    FirstMatrix,
    Fold,
    Generating,
    Moments,
    NoneMatrix,
    NoneOf,
    Together,
    Transform,
    Transitions,
    remembering,
)
from golddice.core.odds.carried.longrun import long_run_weights
from golddice.core.odds.carried.states import Space, near_space
from golddice.core.odds.carried.streak import Leaping, Stepping, Streak
from golddice.core.odds.carried.walk import Walk
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.odds.event.outcome import Outcome, total
from golddice.core.odds.terms.axis import Axis
from golddice.core.odds.terms.resting import rests_on_state
from golddice.core.odds.terms.size import most_rolls

MOST_DENSE = 4_000
MOST_MATRIX = 4_000_000
MOST_TOGETHER = 1_000_000  # cells of a matrix that may not be asked for after all
MOST_CELLS = 60_000_000
MOST_STATE_EVENTS = 20_000
_BLOCK_CELLS = 1 << 15
_LOOK_EVERY = 8
_MOST_LEAPING = 600  # states of which a matrix is raised to powers
_NO_COLUMNS: IntArray = np.zeros(0, dtype=np.int64)
_LOST = 1e-17  # of a generating function, which begins at 1


class Group:
    """Drops (or a table) that share what a player carries, followed in a space of their own."""

    def __init__(
        self, evaluator: Evaluator, axes: list[Axis], what: Table | tuple[Source, list[Drop]]
    ) -> None:
        self.evaluator, self._axes, self._what = evaluator, axes, what
        self._kept: dict[tuple[int, int], Bundle] = {}
        self._streaks: dict[int, Streak] = {}
        self._steady: dict[int, bool] = {}

    @cached_property
    def space(self) -> Space:
        """All that the player can come to. Raises TooLarge."""
        return Space(self._axes)

    @cached_property
    def _near(self) -> Space:
        """All that a fresh player can come to within one event: small, whatever comes later."""
        under = self.evaluator.under
        return near_space(self._axes, most_rolls(under, *self._view), under)

    @cached_property
    def _walk(self) -> Walk:
        return Walk(self.evaluator, self.space)

    def _event(self, fold: Fold, bundle: Bundle) -> Bundle:
        return self._walked(self._walk, fold, bundle)

    def _next_event(self, fold: Fold) -> Bundle:
        """A fresh player's next event."""
        near = self._near
        return self._walked(Walk(self.evaluator, near), fold, fold.end(near.size))

    def _walked(self, walk: Walk, fold: Fold, bundle: Bundle) -> Bundle:
        if isinstance(self._what, tuple):
            return walk.source(self._what[0], self._what[1], fold, bundle)
        return walk.table(self._what, fold, bundle)

    @cached_property
    def columns(self) -> IntArray:
        """All columns that an event can touch, now or after any number of events."""
        found: set[int] = set()
        if isinstance(self._what, tuple):
            for drop in self._what[1]:
                found |= _drop_columns(self.evaluator, self._what[0], drop)
        else:
            found = _table_columns(self.evaluator, self._what.id)
        return np.array(sorted(found), dtype=np.int64)

    @cached_property
    def _moments(self) -> Bundle:
        fold = Moments(self.columns)
        return self._event(fold, fold.end(self.space.size))

    @cached_property
    def outcome(self) -> Outcome:
        """The next event of a fresh player."""
        under, (kind, name) = self.evaluator.under, self._view
        if rests_on_state(under, most_rolls(under, kind, name)):
            return self._walked_outcome
        if not isinstance(self._what, tuple):
            return self.evaluator.table(name)
        source, drops = self._what
        return total([self.evaluator.drop(source, drop) for drop in drops], 1)

    @property
    def _view(self) -> tuple[str, str]:
        what = self._what
        return ("source", what[0].id) if isinstance(what, tuple) else ("table", what.id)

    @cached_property
    def _walked_outcome(self) -> Outcome:
        first, second, product, worth, worth_second = (
            part[0] for part in self._next_event(Moments(self.columns))
        )
        mean, value = first[None, :], float(worth[0])
        return Outcome(
            self.columns,
            self._next_event(AnyOf(self.columns))[0][:1],
            mean,
            np.maximum(second[None, :] - mean**2, 0.0),
            product[None, :] - mean * value,
            np.array([value]),
            np.array([max(float(worth_second[0]) - value**2, 0.0)]),
        )

    def prepare(self, column: int) -> None:
        """Walk once for all that a screen asks of a column: whether it is steady, its wait, and the long
        run of everything. Each would be walked by itself when it is asked for."""
        size, one = self.space.size, np.array([column])
        if column not in self.columns or column in self._streaks or size**2 > MOST_TOGETHER:
            return
        folds = (Transitions(), Moments(self.columns), AnyOf(one), NoneMatrix(one))
        together = Together(*folds)
        every = self._event(together, together.end(size))
        after, self._moments, (some,), (none,) = (every[cut] for _, cut in together.parts)
        self._transitions = after[0]
        self._steady[column] = _is_same(some[:, 0])
        self._streaks[column] = _by_matrix(none)

    def is_steady(self, column: int) -> bool:
        """Whether the chance of the column is the same in every state."""
        if column not in self._steady:
            fold = AnyOf(np.array([column]))
            reached = column in self.columns
            self._steady[column] = not reached or _is_same(
                self._event(fold, fold.end(self.space.size))[0][:, 0]
            )
        return self._steady[column]

    @cached_property
    def _transitions(self) -> FloatArray:
        fold = Transitions()
        return np.asarray(self._event(fold, fold.end(self.space.size))[0])

    @cached_property
    def weights(self) -> FloatArray:
        if self.space.size > MOST_DENSE:
            raise TooLarge(f"the long run of {self.space.size:,} states; exact up to {MOST_DENSE:,}")
        return long_run_weights(self._transitions)

    @cached_property
    def long_run_means(self) -> dict[int, float]:
        """How many per event over very many events, by column."""
        return dict(zip(self.columns.tolist(), (self.weights @ self._moments[0]).tolist(), strict=True))

    def streak(self, column: int) -> Streak:
        """Follows the chance of none of a column, event after event; kept for the next time."""
        if column not in self._streaks:
            self._streaks[column] = self._new_streak(np.array([column]))
        return self._streaks[column]

    def _new_streak(self, one: IntArray) -> Streak:
        size = self.space.size
        if size**2 > MOST_MATRIX:
            return Streak(lambda none: np.asarray(self._event(NoneOf(one), (none[:, None],))[0][:, 0]), size)
        fold = NoneMatrix(one)
        return _by_matrix(self._event(fold, fold.end(size))[0])

    def value_after(self, events: int) -> tuple[float, float]:
        """Mean and variance of value over a fresh player's first events."""
        bundle = self._moments_after(events, _NO_COLUMNS)
        mean, second = float(bundle[3][0, 0]), float(bundle[4][0, 0])
        return mean, max(second - mean**2, 0.0)

    def counts_after(self, events: int) -> tuple[FloatArray, FloatArray]:
        """Mean and variance of how many, by column, over a fresh player's first events."""
        first, second = (part[0] for part in self._moments_after(events, self.columns)[:2])
        return first, np.maximum(second - first**2, 0.0)

    def _moments_after(self, events: int, columns: IntArray) -> Bundle:
        """`Moments` of these columns (and of value) over so many events, by state."""
        _check_events(events)
        key = (events, columns.size)  # all columns or none
        if key not in self._kept:
            if self.space.size**2 * (columns.size + 1) <= MOST_MATRIX:
                self._kept[key] = self._moments_by_matrix(events, columns)
            else:
                fold = Moments(columns)
                bundle = fold.end(self.space.size)
                for _ in range(events):
                    bundle = self._event(fold, bundle)
                self._kept[key] = bundle
        return self._kept[key]

    def _moments_by_matrix(self, events: int, columns: IntArray) -> Bundle:
        """With one event as matrices, each event more is a few products.

        first' = r + T first; second' = q + 2 C first + T second, where C holds E[how many; state
        after]; the last column is value.
        """
        size, fold, once = self.space.size, FirstMatrix(columns), Moments(columns)
        after, counts, worth = self._event(fold, fold.end(size))
        moments = self._event(once, once.end(size))
        cross = np.concatenate([counts.reshape(size, -1, size).transpose(1, 0, 2), worth[None]])
        mean, square = np.hstack([moments[0], moments[3]]), np.hstack([moments[1], moments[4]])
        first, second = np.zeros_like(mean), np.zeros_like(square)
        for _ in range(events):
            mixed = np.matmul(cross, first.T[:, :, None])[:, :, 0].T
            second = square + 2 * mixed + after @ second
            first = mean + after @ first
        return first[:, :-1], second[:, :-1], first[:, :0], first[:, -1:], second[:, -1:]

    def generating_after(self, events: int, of: Transform, others: ComplexArray) -> ComplexArray:
        """`others` times the generating function of this group's total after so many events.

        Where the others' is next to nothing the product is too, and is not followed. The rest is cut
        in blocks that fit a processor's cache.
        """
        _check_events(events)
        result = np.zeros_like(others)
        live = np.flatnonzero(np.abs(others) > _LOST)
        if self.space.size * live.size * events > MOST_CELLS:
            raise TooLarge("the whole distribution over so many states and events")
        blocks = max(1, live.size * self.space.size // _BLOCK_CELLS)
        whole = remembering(of)
        for block in np.array_split(live, blocks):
            result[block] = others[block] * self._generated(events, Generating(whole, block), block.size)
        return result

    def _generated(self, events: int, fold: Generating, width: int) -> ComplexArray:
        """No event makes a generating function larger, so those that have shrunk to nothing are left."""
        result = np.zeros(width, dtype=np.complex128)
        kept = np.arange(width)
        bundle = fold.end(self.space.size)
        for event in range(events):
            bundle = self._event(fold, bundle)
            if event % _LOOK_EVERY == _LOOK_EVERY - 1:
                live = np.abs(bundle[0]).max(axis=0) > _LOST
                if not live.all():
                    kept, fold, bundle = kept[live], fold.narrowed(live), (bundle[0][:, live],)
                if not kept.size:
                    return result
        result[kept] = bundle[0][0]
        return result


def _by_matrix(matrix: FloatArray) -> Streak:
    size = matrix.shape[0]
    if size <= _MOST_LEAPING:
        return Leaping(matrix)
    return Stepping(matrix)


def _is_same(some: FloatArray) -> bool:
    return bool(np.ptp(some) <= 1e-15 * some[0])


def _check_events(events: int) -> None:
    if events > MOST_STATE_EVENTS:
        raise TooLarge(f"{events:,} events with what players carry; exact up to {MOST_STATE_EVENTS:,}")


def _drop_columns(evaluator: Evaluator, source: Source, drop: Drop) -> set[int]:
    if not bool(evaluator.under.drop_open(drop)[0]):
        return set()
    hits = evaluator.columns.drop_hits(source.id, drop.id) if evaluator.detail else None
    return _table_columns(evaluator, drop.table) | ({hits, hits + 1} if hits is not None else set())


def _table_columns(evaluator: Evaluator, name: str) -> set[int]:
    """Columns of all that open lines give, whatever their chance is now."""
    known = evaluator.reached_columns
    if name not in known:
        table = evaluator.under.table(name)
        found: set[int] = set()
        for line in table.lines:
            if bool(evaluator.under.line_open(line, table.rule != "deck")[0]):
                found |= _line_columns(evaluator, table, line)
        known[name] = found
    return known[name]


def _line_columns(evaluator: Evaluator, table: Table, line: Line) -> set[int]:
    found: set[int] = set()
    if evaluator.detail:
        hits = evaluator.columns.line_hits(table.id, line.id)
        found = {hits, hits + 1}
    for given in line.yields:
        if given.table is not None:
            found |= _table_columns(evaluator, given.table)
        elif given.source is not None:
            source = evaluator.under.source(given.source)
            found = found.union(*(_drop_columns(evaluator, source, drop) for drop in source.drops))
        else:
            found.update(int(column) for column in evaluator.given(given).columns)
    return found
