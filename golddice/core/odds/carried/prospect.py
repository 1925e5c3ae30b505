"""What lies ahead of a fresh player at one source or table: the next event, the wait, the long run.

The drops of a source fall into groups that share nothing a player carries. Groups are independent,
event after event, so each is followed in a small space of its own and the results are put together.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from contextlib import suppress
from typing import TypeVar

import numpy as np
from propcache.api import cached_property

from golddice.core.arrays import ComplexArray, FloatArray, IntArray
from golddice.core.errors import TooLarge
from golddice.core.game.views import View
from golddice.core.odds.carried.axes import Key
from golddice.core.odds.carried.effort import carried_under
from golddice.core.odds.carried.first_hit import FirstHit
from golddice.core.odds.carried.folds import Given, Transform
from golddice.core.odds.carried.group import Group
from golddice.core.odds.carried.narrowing import for_wait, long_run_mean, within
from golddice.core.odds.carried.parting import parted
from golddice.core.odds.carried.renewal import Renewal
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.odds.event.outcome import Outcome, total
from golddice.core.odds.event.waits import waits
from golddice.core.results import RESULTS
from golddice.core.terms.columns import Columns
from golddice.core.terms.size import view_key

Made = TypeVar("Made")


class Prospect:
    """A fresh player before one event of a source, or one execution of a table, at one depth."""

    def __init__(self, evaluator: Evaluator, view: View) -> None:
        self.evaluator, self.under, self.view = evaluator, evaluator.under, view
        self.columns: Columns = evaluator.columns
        self._carried = carried_under(evaluator.under)
        self._first_hits: dict[int, FirstHit] = {}
        self._waits: dict[int, list[Group | Renewal]] = {}

    @property
    def is_plain(self) -> bool:
        """Nothing is carried: every event is like the first."""
        return not self._carried.has(self.view)

    @property
    def carried_keys(self) -> tuple[Key, ...]:
        """What is carried of all that an event reaches."""
        return self._carried.keys(self.view)

    @property
    def _plain(self) -> list[Given]:
        return self._parted[0]

    @property
    def _groups(self) -> list[Group]:
        return self._parted[1]

    @property
    def _parted(self) -> tuple[list[Given], list[Group]]:
        """What carries nothing, drop by drop, and the groups of what does. Raises TooLarge."""
        if isinstance(self._parts, TooLarge):
            raise self._parts
        return self._parts

    @cached_property
    def _parts(self) -> tuple[list[Given], list[Group]] | TooLarge:
        """Tried once, also if it is too large: every column asks."""
        try:
            return parted(self.evaluator, self._carried, self.view)
        except TooLarge as error:
            return error

    @cached_property
    def outcome(self) -> Outcome:
        """The next event. Raises TooLarge."""
        key = view_key(self.under, self.view)
        return RESULTS.get(("ahead", self.evaluator.detail, key), self._next)

    def _next(self) -> Outcome:
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
        """How many per event, averaged over very many events. Raises TooLarge."""
        if self.is_plain:
            return self.mean(column)
        plain = (given.outcome.figure(given.outcome.mean, column) for given in self._plain)
        return sum(plain) + sum(long_run_mean(group, column) for group in self._holding(column))

    @property
    def long_run_means(self) -> dict[int, float]:
        """The same of all columns that an event can touch. Raises TooLarge."""
        given = (given.outcome.columns.tolist() for given in self._plain)
        columns = {*self._by_column, *(column for columns in given for column in columns)}
        return {column: self.long_run_mean(column) for column in columns}

    def prepare(self, column: int) -> None:
        """Work out together what a screen asks of a column, where states can be followed."""
        with suppress(TooLarge):
            for group in self._holding(column):
                with suppress(TooLarge):
                    group.prepare(column)

    def is_steady(self, column: int) -> bool:
        """Whether what a player carries does not matter to the chance of the column."""

        def is_alike(one: Group | Renewal) -> bool:
            if isinstance(one, Renewal):
                return one.first(column).is_alike
            return one.until == math.inf and one.is_steady(column)

        return all(map(is_alike, self._waited_for(column)))

    def _waited_for(self, column: int) -> list[Group | Renewal]:
        if column not in self._waits:
            self._waits[column] = [for_wait(group, column) for group in self._holding(column)]
        return self._waits[column]

    def wait_of(self, column: int) -> dict[str, int | None]:
        """Events to the first one at 50, 90 and 99 %."""
        if self.is_steady(column):
            return waits(self.hit(column))
        return self._kept("waits", column, lambda first: first.waits)

    def mean_wait(self, column: int) -> float:
        """Events to the first one on average; infinite where some never have one."""
        if not self.is_steady(column):
            return self._kept("mean wait", column, lambda first: first.mean)
        hit = self.hit(column)
        return 1.0 / hit if hit > 0 else math.inf

    def _kept(self, what: str, column: int, of: Callable[[FirstHit], Made]) -> Made:
        """What rests on the groups that can give a column, and on its chance in what carries nothing."""
        groups = [group.rests_on for group in self._holding(column)]
        key = (what, column, self._log_miss(column), *groups)
        return RESULTS.get(key, lambda: of(self._first_hit(column)))

    def _holding(self, column: int) -> list[Group]:
        return self._by_column.get(column, [])

    @cached_property
    def _by_column(self) -> dict[int, list[Group]]:
        """The groups that can give each column."""
        found: dict[int, list[Group]] = {}
        for group in self._groups:
            for column in group.columns.tolist():
                found.setdefault(column, []).append(group)
        return found

    def _log_miss(self, column: int) -> float:
        """Of the chance that what carries nothing gives none in an event."""
        found = 0.0
        for given in self._plain:
            at = np.flatnonzero(given.outcome.columns == column)
            with np.errstate(divide="ignore"):
                found += float(np.log1p(-given.outcome.hit[0, at[0]])) if at.size else 0.0
        return found

    def none_by(self, column: int, events: int) -> FloatArray:
        """Chance of having none after 0, 1 ... `events` events."""
        return self._first_hit(column).none_by(events)

    def none_at(self, column: int, events: IntArray) -> FloatArray:
        """The same after these numbers of events, rising."""
        return self._first_hit(column).none_at(events)

    def _first_hit(self, column: int) -> FirstHit:
        if column not in self._first_hits:
            self._first_hits[column] = self._new_first_hit(column)
        return self._first_hits[column]

    def _new_first_hit(self, column: int) -> FirstHit:
        held = self._waited_for(column)
        groups = [one for one in held if isinstance(one, Group)]
        streaks = [one.first(column) if isinstance(one, Renewal) else one.streak(column) for one in held]
        patience = min([group.patience for group in groups], default=1)
        until = min([group.until for group in groups], default=math.inf)
        return FirstHit(self._log_miss(column), streaks, patience, until)

    def value_after(self, events: int) -> tuple[float, float]:
        """Mean and variance of the value of a fresh player's first events."""
        mean = events * sum(float(given.outcome.value_mean[0]) for given in self._plain)
        var = events * sum(float(given.outcome.value_var[0]) for given in self._plain)
        for group in self._groups:
            more = within(group, events).value_after(events)
            mean, var = mean + more[0], var + more[1]
        return mean, var

    def count_after(self, column: int, events: int) -> tuple[float, float]:
        """Mean and variance of how many of a column in a fresh player's first events."""
        mean = var = 0.0
        for given in self._plain:
            outcome = given.outcome
            mean += events * outcome.figure(outcome.mean, column)
            var += events * outcome.figure(outcome.var, column)
        for group in self._groups:
            more = within(group, events).counts_after(events)
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
            result = within(group, events).generating_after(events, of, result)
        return result
