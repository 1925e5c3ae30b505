"""Drops, or a table, that share what a player carries, followed in a space of states of their own.

What is asked of them (`folds`) is bounded in work and memory: what would take more raises TooLarge, and
whoever asks simulates.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Hashable
from typing import TypeVar

import numpy as np
from propcache.api import cached_property

from golddice.core.arrays import ComplexArray, FloatArray, IntArray
from golddice.core.errors import TooLarge
from golddice.core.game.models import Source
from golddice.core.game.views import View
from golddice.core.odds.carried.axes import Key, Reach
from golddice.core.odds.carried.chain import Moves, long_run_weights, most_at_edges
from golddice.core.odds.carried.columns import drop_columns, line_columns, view_columns
from golddice.core.odds.carried.effort import Carried, Effort
from golddice.core.odds.carried.first_hit import MatrixStreak, Misses, Streak
from golddice.core.odds.carried.folds import (
    AnyOf,
    Bundle,
    Fold,
    Generating,
    Given,
    Means,
    Moments,
    NoneMatrix,
    NoneOf,
    Together,
    Transform,
    Transitions,
    remembering,
    with_flows,
)
from golddice.core.odds.carried.parts import LineOf, Part, What
from golddice.core.odds.carried.pockets import pocket_of
from golddice.core.odds.carried.space import Space, near_space, space_of
from golddice.core.odds.carried.walk import Walk
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.odds.event.outcome import Outcome, Parts, independent, total
from golddice.core.results import RESULTS
from golddice.core.stopping import go_on
from golddice.core.terms.resting import rests_on_state
from golddice.core.terms.size import most_rolls

MOST_DENSE = 2_000  # states of which an event is written as a matrix
MOST_RISING = 800  # states, where how far they go has to be found out
MOST_TOGETHER = 1_000_000  # cells of a matrix that may not be asked for after all
MOST_CELLS = 60_000_000
MOST_FOLLOWED = 6_000_000_000  # steps of about a nanosecond; most chains settle long before
MOST_STATE_EVENTS = 20_000
_CHUNK = 2_000_000  # cells of matrices that are held at a time
_WALKED = 24  # events that are walked one by one, about the means throughout
_BLOCK_CELLS = 1 << 15
_LOOK_EVERY = 8
_WAIT_STEPS = 300_000_000  # for one wait, where an event is no matrix
_LEAST_PATIENCE = 200
_NO_COLUMNS: IntArray = np.zeros(0, dtype=np.int64)
_LOST = 1e-17  # of a generating function, which begins at 1
_BEYOND = 1e-10  # of the rarest figure may lie beyond the last state
_EDGE_EVENTS = 2_000
Made = TypeVar("Made")
_EDGE_WORK = 200_000_000


class Group:
    """Drops (or a table) that share what a player carries, followed in a space of their own."""

    def __init__(
        self,
        evaluator: Evaluator,
        carried: Carried,
        keys: list[Key],
        what: What,
        rests_on: tuple[Hashable, ...],
        reach: Reach | None = None,
    ) -> None:
        """`rests_on` is the cache key of all that its figures rest on. `reach` says how far what is carried
        is followed, where that is not all there is; `until`, up to which event that makes no difference."""
        self.evaluator, self.carried, self.keys, self.what = evaluator, carried, keys, what
        self._rests_on, self._reach = rests_on, reach
        self.rests_on = ("group", *rests_on, tuple(keys), reach and reach.told)
        self.until: float = math.inf

    def narrowed(self, keys: list[Key], reach: Reach | None = None) -> Group:
        """With less of what is carried followed: for what does not rest on the rest."""
        return Group(self.evaluator, self.carried, keys, self.what, self._rests_on, reach)

    def _kept(self, what: str, make: Callable[[], Made], *more: Hashable) -> Made:
        return RESULTS.get((*self.rests_on, what, *more), make)

    # --- states ----------------------------------------------------------------------------------------

    @property
    def space(self) -> Space:
        """All that the player can come to; so far along what has no end that nothing told lies beyond.
        Raises TooLarge."""
        if self._space is None and self._reach is not None:
            self._space = Space(pocket_of(key, self.evaluator.under, self._reach) for key in self.keys)
        if self._space is None:
            stretch = self._kept("stretch", self._stretched)
            if self._space is None:  # somebody else has found how far
                self._space = space_of(self.keys, self.evaluator.under, dict(stretch))
        return self._space

    _space: Space | None = None

    @cached_property
    def size(self) -> int:
        """How many states there are."""
        return self._kept("states", lambda: self.space.size)

    @cached_property
    def is_dense(self) -> bool:
        """Whether its states are so few that an event is a matrix."""
        try:
            return self.size <= MOST_DENSE
        except TooLarge:
            return False

    def _stretched(self) -> tuple[tuple[tuple[Key, int], int], ...]:
        """How far along each axis that has no end, where that is further than at first."""
        stretch: dict[tuple[Key, int], int] = {}
        while True:
            space = space_of(self.keys, self.evaluator.under, stretch)
            too_likely = self._too_likely(space) if space.edges() else []
            if not too_likely:
                self._space = space
                return tuple(stretch.items())
            for edge in too_likely:
                stretch[edge] = 2 * stretch.get(edge, 1)

    def _too_likely(self, space: Space) -> list[tuple[Key, int]]:
        """The cut axes at whose last value a player is too often for what is told to be exact."""
        if space.size > MOST_RISING:
            raise TooLarge(f"{space.size:,} states with weights that rise without end")
        walk = Walk(self.evaluator, self.carried, space)
        folds = Together(Transitions(space.size), Means(self.columns))
        after, means = self._walked(walk, folds, folds.end(space.size))
        figures = long_run_weights(after) @ means
        room = _BEYOND * min(float(figures[figures > 0].min(initial=1.0)), 1.0)
        likely = most_at_edges(after, space.edges(), min(_EDGE_EVENTS, _EDGE_WORK // space.size**2))
        return [edge for edge in space.edges() if likely[edge] > room]

    @cached_property
    def _near(self) -> Space:
        """All that a fresh player can come to within one event: small, whatever comes later."""
        under = self.evaluator.under
        return near_space(self.keys, under, most_rolls(under, self.view))

    @cached_property
    def _effort(self) -> Effort:
        return self.carried.effort(self.what)

    @cached_property
    def _walk(self) -> Walk:
        return Walk(self.evaluator, self.carried, self.space)

    def _check(self, fold: Fold, events: int = 1, states: int | None = None) -> None:
        self.carried.check(self._effort, states or self.size, fold.width, events)

    def _event(self, fold: Fold, bundle: Bundle | None = None) -> Bundle:
        if bundle is None:
            self._check(fold)
            bundle = fold.end(self.size)
        return self._walked(self._walk, fold, bundle)

    def _walked(self, walk: Walk, fold: Fold, bundle: Bundle) -> Bundle:
        go_on()
        if isinstance(self.what, tuple):
            return walk.parts(self.what[0], self.what[1], fold, bundle)
        return walk.table(self.what, fold, bundle)

    @cached_property
    def columns(self) -> IntArray:
        """All columns that an event can touch, now or after any number of events."""
        return self._kept("columns", self._touched)

    def _touched(self) -> IntArray:
        found: set[int] = set()
        if isinstance(self.what, tuple):
            source, parts = self.what
            for part in parts:
                if isinstance(part, LineOf):
                    found |= line_columns(self.evaluator, part, source)
                elif source is not None:
                    found |= drop_columns(self.evaluator, source, part)
        else:
            found = view_columns(self.evaluator, View("table", self.what.id))
        return np.array(sorted(found), dtype=np.int64)

    @property
    def view(self) -> View:
        """What its parts are of, which may do more."""
        what = self.what
        if not isinstance(what, tuple):
            return View("table", what.id)
        source, parts = what
        return View("table", parts[0].table.id) if source is None else View("source", source.id)  # type: ignore[union-attr]

    # --- the next event --------------------------------------------------------------------------------

    @cached_property
    def outcome(self) -> Outcome:
        """The next event of a fresh player."""
        under = self.evaluator.under
        if rests_on_state(under, self.view):
            return self._kept("next event", self._walked_outcome)
        if not isinstance(self.what, tuple):
            return self.evaluator.table(self.view.id)
        return total([self._plain_outcome(self.what[0], part) for part in self.what[1]], 1)

    def _plain_outcome(self, source: Source | None, part: Part) -> Outcome:
        """Of a part in which nothing that is carried changes within an event."""
        if isinstance(part, LineOf):
            line = self.evaluator.line(part.table, part.table.lines[part.at])
            chances = self.evaluator.under.chances(part.table)[[part.at]]
            given = Given(independent(chances, Parts.of([line], 1)), None)
            if part.drop is not None and source is not None and self.evaluator.detail:
                given = with_flows(given, (self.evaluator.columns.drop_hits(source.id, part.drop.id) + 1,))
            return given.outcome
        assert source is not None
        return self.evaluator.drop(source, part)

    def _walked_outcome(self) -> Outcome:
        near, columns = self._near, self.columns
        at_a_time = self.carried.at_a_time(self._effort, near.size, each=6)
        chunks = np.array_split(columns, max(1, -(-columns.size // at_a_time)))
        self.carried.check(Effort(self._effort.changes * len(chunks), 0, 1), near.size, 5 * chunks[0].size)
        walk = Walk(self.evaluator, self.carried, near)
        parts = [self._of_columns(walk, near.size, chunk) for chunk in chunks]
        mean, var, cov, some = (np.concatenate([part[at] for part in parts], axis=1) for at in (0, 1, 2, 5))
        worth, worth_var = parts[0][3][:, 0], parts[0][4][:, 0]
        return Outcome(columns, np.minimum(some, 1.0), mean, var, cov, worth, worth_var)

    def _of_columns(self, walk: Walk, states: int, columns: IntArray) -> Bundle:
        """Moments and chance of any of some columns, for a fresh player."""
        moments = Moments(columns)
        fold = Together(moments, AnyOf(columns))
        self._check(fold, states=states)
        *found, some = self._walked(walk, fold, fold.end(states))
        return tuple(part[:1] for part in (*moments.told(tuple(found)), some))

    # --- the long run ----------------------------------------------------------------------------------

    @cached_property
    def _lasting(self) -> Bundle:
        """By the state before an event: the chance of each state after it, and how many it brings."""
        if self.size > MOST_DENSE:
            raise TooLarge(f"the long run of {self.size:,} states; exact up to {MOST_DENSE:,}")
        moves = Together(Transitions(self.size), Means(self.columns))
        return self._kept("moves", lambda: self._event(moves))

    @cached_property
    def weights(self) -> FloatArray:
        return self._kept("weights", lambda: long_run_weights(self._lasting[0]))

    @cached_property
    def long_run_means(self) -> dict[int, float]:
        """How many per event over very many events, by column."""
        return dict(zip(self.columns.tolist(), (self.weights @ self._lasting[1]).tolist(), strict=True))

    # --- waits -----------------------------------------------------------------------------------------

    def prepare(self, column: int) -> None:
        """Walk once for all that a screen asks of a column: whether it is steady, its wait, and the long
        run of everything. Each would be walked by itself when it is asked for, to the same figures."""
        is_known = RESULTS.peek((*self.rests_on, "some", column)) is not None
        if is_known or column not in self.columns or self.size**2 > MOST_TOGETHER:
            return
        size, one = self.size, np.array([column])
        together = Together(Transitions(size), Means(self.columns), AnyOf(one), NoneMatrix(column, size))
        after, means, some, none = self._event(together)
        self._kept("moves", lambda: (after, means))
        self._kept("some", lambda: np.minimum(some[:, 0], 1.0), column)
        self._kept("none", lambda: none, column)

    def is_steady(self, column: int) -> bool:
        """Whether the chance of the column is the same in every state."""
        return self._kept("steady", lambda: self._comes_alike(column), column)

    def _comes_alike(self, column: int) -> bool:
        if self.size > MOST_DENSE and self.patience < _LEAST_PATIENCE:
            raise TooLarge(f"waits among {self.size:,} states")
        if column not in self.columns:
            return True
        some = self._some(column)
        return bool(np.ptp(some) <= 1e-15 * some[0])

    def _some(self, column: int) -> FloatArray:
        """Chance of at least one in the next event, by state."""

        def make() -> FloatArray:
            return np.minimum(self._event(AnyOf(np.array([column])))[0][:, 0], 1.0)

        return self._kept("some", make, column)

    def streak(self, column: int) -> Streak:
        """Follows who has none of a column yet, event after event; a new one for whoever asks."""
        size, hit = self.size, self._some(column)
        if size > MOST_DENSE:
            none = NoneOf(np.array([column]))
            return Streak(lambda figure: np.asarray(self._event(none, (figure[:, None],))[0][:, 0]), hit)
        return MatrixStreak(self._kept("misses", lambda: Misses.of(self._none(column), hit), column))

    def _none(self, column: int) -> FloatArray:
        return self._kept("none", lambda: self._event(NoneMatrix(column, self.size))[0], column)

    @property
    def patience(self) -> int:
        """How many events may be followed one by one."""
        size = self.size
        if size > MOST_DENSE:
            return int(min(_WAIT_STEPS // self._effort.steps(size, 2), MOST_STATE_EVENTS))
        return int(np.clip(2_000_000_000 // (size * size), 64, MOST_STATE_EVENTS))

    # --- after some events -------------------------------------------------------------------------------

    def value_after(self, events: int) -> tuple[float, float]:
        """Mean and variance of value over a fresh player's first events."""
        mean, var = self._after(events, _NO_COLUMNS)
        return float(mean[-1]), float(var[-1])

    def counts_after(self, events: int) -> tuple[FloatArray, FloatArray]:
        """Mean and variance of how many, by column, over a fresh player's first events."""
        mean, var = self._after(events, self.columns)
        return mean[:-1], var[:-1]

    def _after(self, events: int, columns: IntArray) -> tuple[FloatArray, FloatArray]:
        """Of these columns, and of value last. Few events are walked one by one, many by their moves."""
        known = self._by_walking if events <= _WALKED else self._by_moves
        # All columns or none.
        return self._kept("totals", lambda: known(events, columns), events, columns.size)

    def _by_walking(self, events: int, columns: IntArray) -> tuple[FloatArray, FloatArray]:
        fold = Moments(columns)
        self._check(fold, events)
        bundle = fold.end(self.size)
        for _ in range(events):
            bundle = self._event(fold, bundle)
        mean, var, _, worth, worth_var = (part[0] for part in fold.told(bundle))
        return np.append(mean, worth), np.append(var, worth_var)

    def _by_moves(self, events: int, columns: IntArray) -> tuple[FloatArray, FloatArray]:
        """With some columns at a time, so that no more is held than a few matrices."""
        size = self.size
        if size > MOST_DENSE:
            return self._by_walking(events, columns)
        _check_events(events)
        means, variances, worth = [], [], (np.zeros(0), np.zeros(0))
        room = self.carried.at_a_time(self._effort, size, size) - 2  # beside transitions and value
        at_a_time = max(1, min(_CHUNK // (size * size), room))
        for chunk in np.array_split(columns, max(1, -(-columns.size // at_a_time))):
            go_on()
            moves = self._moves(chunk)
            if 3 * events * moves.count * columns.size > MOST_FOLLOWED:
                raise TooLarge(f"{events:,} events with {moves.count:,} ways to go on")
            mean, var = moves.after(events)
            means.append(mean[:-1])
            variances.append(var[:-1])
            worth = (mean[-1:], var[-1:])
        return np.concatenate([*means, worth[0]]), np.concatenate([*variances, worth[1]])

    def _moves(self, columns: IntArray) -> Moves:
        return Moves.walked(self._event, columns, self.size)

    def generating_after(self, events: int, of: Transform, others: ComplexArray) -> ComplexArray:
        """`others` times the generating function of this group's total after so many events.

        Where the others' is next to nothing the product is too, and is not followed. The rest is cut
        in blocks that fit a processor's cache.
        """
        if self.size == 1:  # nothing changes from event to event
            fold = Generating(remembering(of), np.arange(others.size))
            return np.asarray(others * self._event(fold)[0][0] ** events)
        _check_events(events)
        result = np.zeros_like(others)
        live = np.flatnonzero(np.abs(others) > _LOST)
        if self.size * live.size * events > MOST_CELLS:
            raise TooLarge("the whole distribution over so many states and events")
        blocks = max(1, live.size * self.size // _BLOCK_CELLS)
        self._check(Generating(of, live[: -(-live.size // blocks)]), events * blocks)
        whole = remembering(of)
        for block in np.array_split(live, blocks):
            result[block] = others[block] * self._generated(events, Generating(whole, block), block.size)
        return result

    def _generated(self, events: int, fold: Generating, width: int) -> ComplexArray:
        """No event makes a generating function larger, so those that have shrunk to nothing are left."""
        result = np.zeros(width, dtype=np.complex128)
        kept = np.arange(width)
        bundle = fold.end(self.size)
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


def _check_events(events: int) -> None:
    if events > MOST_STATE_EVENTS:
        raise TooLarge(f"{events:,} events with what players carry; exact up to {MOST_STATE_EVENTS:,}")
