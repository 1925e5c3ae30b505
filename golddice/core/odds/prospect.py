"""What lies ahead of a fresh player at one source or table: the next event, the wait, the long run.

The drops of a source fall into groups that share nothing a player carries. Groups are independent,
event after event, so each is followed in a small space of its own and the results are put together.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import cached_property

import numpy as np

from golddice.core.arrays import ComplexArray, FloatArray, IntArray
from golddice.core.errors import TooLarge
from golddice.core.game.models import Drop, Line, Source, Table
from golddice.core.odds.carried import (
    AnyOf,
    Bundle,
    FirstMatrix,
    Fold,
    Generating,
    Given,
    Moments,
    NoneMatrix,
    NoneOf,
    Transform,
    Transitions,
    Walk,
    axes_of,
)
from golddice.core.odds.columns import Columns
from golddice.core.odds.evaluator import Evaluator
from golddice.core.odds.longrun import Waiting, long_run_weights
from golddice.core.odds.outcome import Outcome, total
from golddice.core.odds.resting import rests_on_state
from golddice.core.odds.size import most_rolls
from golddice.core.odds.states import Axis, Space, drop_axes, near_space
from golddice.core.odds.waits import waits

MOST_DENSE = 4_000
MOST_MATRIX = 4_000_000
MOST_CELLS = 60_000_000
MOST_STATE_EVENTS = 20_000
_WAIT_WORK = 600_000_000
_AHEAD = 64  # events that waits are followed by at a time
_BLOCK_CELLS = 1 << 15
_LOOK_EVERY = 8
_MOST_LEAPING = 400  # states of which a matrix is raised to powers
_NO_COLUMNS: IntArray = np.zeros(0, dtype=np.int64)
_LOST = 1e-17  # of a generating function, which begins at 1


class Prospect:
    """A fresh player before one event of a source, or one execution of a table, at one depth."""

    def __init__(self, evaluator: Evaluator, kind: str, name: str) -> None:
        self.evaluator, self.under = evaluator, evaluator.under
        self.columns: Columns = evaluator.columns
        self._plain, self._groups = _grouped(evaluator, kind, name)

    @property
    def is_plain(self) -> bool:
        """Nothing is carried: every event is like the first."""
        return not self._groups

    @cached_property
    def outcome(self) -> Outcome:
        """The next event."""
        parts = [*(given.outcome for given in self._plain), *(group.outcome for group in self._groups)]
        return total(parts, 1)

    @cached_property
    def _places(self) -> dict[int, int]:
        return {int(column): at for at, column in enumerate(self.outcome.columns)}

    def hit(self, column: int) -> float:
        """Chance of at least one in the next event."""
        return self._figure(self.outcome.hit, column)

    def mean(self, column: int) -> float:
        return self._figure(self.outcome.mean, column)

    def var(self, column: int) -> float:
        return self._figure(self.outcome.var, column)

    def cov(self, column: int) -> float:
        """Covariance of how many with the value of the event."""
        return self._figure(self.outcome.cov, column)

    def reaches(self, column: int) -> bool:
        return column in self._places

    def _figure(self, figures: FloatArray, column: int) -> float:
        at = self._places.get(column)
        return 0.0 if at is None else float(figures[0, at])

    def long_run_mean(self, column: int) -> float:
        """How many per event, averaged over very many events."""
        if self.is_plain:
            return self.mean(column)
        return self._plain_mean(column) + sum(group.long_run_mean(column) for group in self._groups)

    def _plain_mean(self, column: int) -> float:
        found = 0.0
        for given in self._plain:
            at = np.flatnonzero(given.outcome.columns == column)
            found += float(given.outcome.mean[0, at[0]]) if at.size else 0.0
        return found

    @cached_property
    def beyond(self) -> str | None:
        """Why the long run and the waits cannot be told, where the states are too many."""
        try:
            for group in self._groups:
                _ = group.weights
        except TooLarge as error:
            return str(error)
        return None

    def is_steady(self, column: int) -> bool:
        """Whether what a player carries does not matter to the chance of the column."""
        return all(group.is_steady(column) for group in self._groups)

    def waits(self, column: int) -> dict[str, int | None]:
        """Events to the first one at 50, 90 and 99 %."""
        if self.is_steady(column):
            return waits(self.hit(column))
        return self._waits[column]

    def wait_of(self, column: int) -> dict[str, int | None]:
        """`waits` of one column alone, where those of all others are not asked for."""
        if self.is_steady(column):
            return waits(self.hit(column))
        return self._waits_of(np.array([column]))[column]

    @cached_property
    def _waits(self) -> dict[int, dict[str, int | None]]:
        """Of every column that a group's state matters to."""
        every = (int(column) for column in self.outcome.columns)
        held = [column for column in every if not all(group.is_steady(column) for group in self._groups)]
        return self._waits_of(np.array(held, dtype=np.int64))

    def _waits_of(self, columns: IntArray) -> dict[int, dict[str, int | None]]:
        waiting = Waiting(columns.size)
        limit = self._patience(columns.size)
        while not waiting.done and waiting.events < limit:
            ahead = waiting.events + _AHEAD
            waiting.feed(self._none_by(columns, ahead)[waiting.events + 1 :])
            waiting.steady()
        waiting.give_up()
        return dict(zip(columns.tolist(), waiting.waits, strict=True))

    def _patience(self, columns: int) -> int:
        cells = sum(group.space.size for group in self._groups) * max(columns, 1)
        return int(np.clip(_WAIT_WORK // max(cells, 1), 400, MOST_STATE_EVENTS))

    def none_by(self, column: int, events: int) -> FloatArray:
        """Chance of having none after 0, 1 ... `events` events."""
        return self._none_by(np.array([column]), events)[:, 0]

    def _none_by(self, columns: IntArray, events: int) -> FloatArray:
        """The same by column, shape (events + 1, k)."""
        plain = np.ones(columns.size)
        for given in self._plain:
            plain *= 1.0 - _laid_out(given.outcome.hit[0], given.outcome.columns, columns)
        none = plain ** np.arange(events + 1)[:, None]
        for group in self._groups:
            if np.isin(columns, group.columns).any():
                none = none * group.streak(columns).upto(events)
        return np.asarray(none)

    def value_after(self, events: int) -> tuple[float, float]:
        """Mean and variance of the value of a fresh player's first events."""
        mean = events * sum(float(given.outcome.value_mean[0]) for given in self._plain)
        var = events * sum(float(given.outcome.value_var[0]) for given in self._plain)
        for group in self._groups:
            more = group.value_after(events)
            mean, var = mean + more[0], var + more[1]
        return mean, var

    def count_after(self, column: int, events: int) -> tuple[float, float]:
        """Mean and variance of how many of a column in a fresh player's first events."""
        mean = var = 0.0
        for given in self._plain:
            at = np.flatnonzero(given.outcome.columns == column)
            if at.size:
                mean += events * float(given.outcome.mean[0, at[0]])
                var += events * float(given.outcome.var[0, at[0]])
        for group in self._groups:
            more = group.counts_after(events)
            at = np.flatnonzero(group.columns == column)
            if at.size:
                mean, var = mean + float(more[0][at[0]]), var + float(more[1][at[0]])
        return mean, var

    def generating_after(self, events: int, of: Transform, width: int) -> ComplexArray:
        """The generating function of a total after so many events, at `width` points."""
        result = np.ones(width, dtype=np.complex128)
        for given in self._plain:
            factor = of(given)
            if factor is not None:
                result = result * factor**events
        for group in self._groups:
            result = group.generating_after(events, of, result)
        return result


class Group:
    """Drops (or a table) that share what a player carries, followed in a space of their own."""

    def __init__(
        self, evaluator: Evaluator, axes: list[Axis], what: Table | tuple[Source, list[Drop]]
    ) -> None:
        self.evaluator, self._axes, self._what = evaluator, axes, what
        self._kept: dict[tuple[int, int], Bundle] = {}
        self._streaks: dict[tuple[int, ...], Streak] = {}

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
    def _some(self) -> FloatArray:
        """Chance of at least one, by state and column."""
        fold = AnyOf(self.columns)
        return self._event(fold, fold.end(self.space.size))[0]

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

    def is_steady(self, column: int) -> bool:
        """Whether the chance of the column is the same in every state."""
        at = np.flatnonzero(self.columns == column)
        if not at.size:
            return True
        some = self._some[:, at[0]]
        return bool(np.ptp(some) <= 1e-15 * some[0])

    @cached_property
    def weights(self) -> FloatArray:
        if self.space.size > MOST_DENSE:
            raise TooLarge(f"the long run of {self.space.size:,} states; exact up to {MOST_DENSE:,}")
        fold = Transitions()
        return long_run_weights(self._event(fold, fold.end(self.space.size))[0])

    def long_run_mean(self, column: int) -> float:
        at = np.flatnonzero(self.columns == column)
        if not at.size:
            return 0.0
        return float(self.weights @ self._moments[0][:, at[0]])

    def streak(self, columns: IntArray) -> Streak:
        """Follows the chance of none, event after event; kept for the next time it is asked."""
        key = tuple(columns.tolist())
        if key not in self._streaks:
            self._streaks[key] = self._new_streak(columns)
        return self._streaks[key]

    def _new_streak(self, columns: IntArray) -> Streak:
        size = self.space.size
        if size**2 * columns.size > MOST_MATRIX:
            return Streak(lambda none: self._event(NoneOf(columns), (none,))[0], size, columns.size)
        fold = NoneMatrix(columns)
        flat = self._event(fold, fold.end(size))[0]
        matrices = flat.reshape(size, columns.size, size).transpose(1, 0, 2)
        if columns.size == 1 and size <= _MOST_LEAPING:
            return Leaping(matrices[0])
        return Streak(
            lambda none: np.asarray(np.matmul(matrices, none.T[:, :, None])[:, :, 0].T), size, columns.size
        )

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
        for block in np.array_split(live, blocks):
            result[block] = others[block] * self._generated(events, Generating(of, block), block.size)
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


class Streak:
    """The chance of having none yet, by state and column, followed as far as it is asked for."""

    def __init__(self, step: Callable[[FloatArray], FloatArray], states: int, columns: int) -> None:
        self._step = step
        self._none = np.ones((states, columns))
        self._fresh = [self._none[0]]

    def upto(self, events: int) -> FloatArray:
        """For a fresh player after 0, 1 ... so many events, shape (events + 1, columns)."""
        while len(self._fresh) <= events:
            self._none = self._step(self._none)
            self._fresh.append(self._none[0])
        return np.array(self._fresh[: events + 1])


class Leaping(Streak):
    """The same for one column, _AHEAD events at a time: with the first rows of all powers of the
    event's matrix up to there, and the next power to go on from."""

    def __init__(self, matrix: FloatArray) -> None:
        self._rows = np.zeros((1, matrix.shape[0]))
        self._rows[0, 0] = 1.0
        power = matrix
        while self._rows.shape[0] < _AHEAD:
            self._rows = np.vstack([self._rows, self._rows @ power])
            power = power @ power
        self._leap = power
        self._now: FloatArray = np.ones(matrix.shape[0])
        self._known: FloatArray = np.zeros(0)

    def upto(self, events: int) -> FloatArray:
        while self._known.size <= events:
            self._known = np.concatenate([self._known, self._rows @ self._now])
            self._now = self._leap @ self._now
        return self._known[: events + 1, None]


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


def _check_events(events: int) -> None:
    if events > MOST_STATE_EVENTS:
        raise TooLarge(f"{events:,} events with what players carry; exact up to {MOST_STATE_EVENTS:,}")


def _grouped(evaluator: Evaluator, kind: str, name: str) -> tuple[list[Given], list[Group]]:
    """What carries nothing, drop by drop, and the groups of what does."""
    if kind == "table":
        axes = axes_of(evaluator, kind, name)
        table = evaluator.under.table(name)
        if not axes and table.rule != "deck":
            return [Given(evaluator.table(name), table)], []
        every = list(axes.values())
        group = evaluator.kept(("table", name), [], lambda: Group(evaluator, every, table))
        return [], [group]
    source = evaluator.under.source(name)
    plain: list[Given] = []
    held: list[tuple[dict[tuple[str, ...], Axis], list[Drop]]] = []
    for drop in source.drops:
        if not bool(evaluator.under.drop_open(drop)[0]):
            continue
        axes = {axis.key: axis for axis in drop_axes(name, drop, evaluator.under)}
        axes |= axes_of(evaluator, "table", drop.table)
        if not axes:
            plain.append(Given(evaluator.drop(source, drop), drop))
            continue
        meets = [other for other in held if set(other[0]) & set(axes)]
        drops = [drop for _, others in meets for drop in others]
        for more, _ in meets:
            axes |= more
        held = [other for other in held if other not in meets]
        order = source.drops.index
        held.append((axes, sorted([*drops, drop], key=order)))
    return plain, [_source_group(evaluator, source, axes, drops) for axes, drops in held]


def _source_group(
    evaluator: Evaluator, source: Source, axes: dict[tuple[str, ...], Axis], drops: list[Drop]
) -> Group:
    key = ("source", source.id, *(drop.id for drop in drops))
    return evaluator.kept(key, drops, lambda: Group(evaluator, list(axes.values()), (source, drops)))


def _laid_out(figures: FloatArray, columns: IntArray, wanted: IntArray) -> FloatArray:
    """Figures by column laid out on the wanted columns, 0 elsewhere."""
    by_column = dict(zip(columns.tolist(), figures.tolist(), strict=True))
    return np.array([by_column.get(int(column), 0.0) for column in wanted])
