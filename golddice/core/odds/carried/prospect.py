"""What lies ahead of a fresh player at one source or table: the next event, the wait, the long run.

The drops of a source fall into groups that share nothing a player carries. Groups are independent,
event after event, so each is followed in a small space of its own and the results are put together.
"""

from __future__ import annotations

from contextlib import suppress
from functools import cached_property

import numpy as np

from golddice.core.arrays import ComplexArray, FloatArray, IntArray
from golddice.core.errors import TooLarge
from golddice.core.game.models import Drop, Source
from golddice.core.odds.carried.awaited import Awaited
from golddice.core.odds.carried.folds import Given, Transform
from golddice.core.odds.carried.group import MOST_STATE_EVENTS, Group
from golddice.core.odds.carried.states import drop_axes
from golddice.core.odds.carried.waits import waits
from golddice.core.odds.carried.walk import axes_of
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.odds.event.outcome import Outcome, total
from golddice.core.odds.terms.axis import Axis
from golddice.core.odds.terms.columns import Columns

_WAIT_WORK = 2_000_000_000


class Prospect:
    """A fresh player before one event of a source, or one execution of a table, at one depth."""

    def __init__(self, evaluator: Evaluator, kind: str, name: str) -> None:
        self.evaluator, self.under = evaluator, evaluator.under
        self.columns: Columns = evaluator.columns
        self._plain, self._groups = _grouped(evaluator, kind, name)
        self._waiting: dict[int, Awaited] = {}

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
        return self._plain_mean(column) + sum(group.long_run_means.get(column, 0.0) for group in self._groups)

    def _plain_mean(self, column: int) -> float:
        return sum(means.get(column, 0.0) for means in self._plain_means)

    @cached_property
    def _plain_means(self) -> list[dict[int, float]]:
        outcomes = [given.outcome for given in self._plain]
        return [dict(zip(one.columns.tolist(), one.mean[0].tolist(), strict=True)) for one in outcomes]

    @cached_property
    def beyond(self) -> str | None:
        """Why the long run and the waits cannot be told, where the states are too many."""
        try:
            for group in self._groups:
                _ = group.weights
        except TooLarge as error:
            return str(error)
        return None

    def prepare(self, column: int) -> None:
        """Work out together what a screen asks of a column, where states can be followed."""
        for group in self._groups:
            with suppress(TooLarge):
                group.prepare(column)

    def is_steady(self, column: int) -> bool:
        """Whether what a player carries does not matter to the chance of the column."""
        return all(group.is_steady(column) for group in self._groups)

    def wait_of(self, column: int) -> dict[str, int | None]:
        """Events to the first one at 50, 90 and 99 %."""
        if self.is_steady(column):
            return waits(self.hit(column))
        return self._awaited(column).waits

    def none_by(self, column: int, events: int) -> FloatArray:
        """Chance of having none after 0, 1 ... `events` events."""
        return self._awaited(column).none_by(events)

    def none_at(self, column: int, events: IntArray) -> FloatArray:
        """The same after these numbers of events, rising."""
        return self._awaited(column).none_at(events)

    def _awaited(self, column: int) -> Awaited:
        if column not in self._waiting:
            held = [group for group in self._groups if column in group.columns]
            miss = 1.0
            for given in self._plain:
                at = np.flatnonzero(given.outcome.columns == column)
                miss *= 1.0 - float(given.outcome.hit[0, at[0]]) if at.size else 1.0
            cells = sum(group.space.size**2 for group in held)
            patience = int(np.clip(_WAIT_WORK // max(cells, 1), 512, MOST_STATE_EVENTS))
            self._waiting[column] = Awaited(miss, [group.streak(column) for group in held], patience)
        return self._waiting[column]

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
