"""What comes after the next event: the waits and the long run.

Exact while a player's states can be followed. Where they are too many, some hundreds of fresh players
are played, and every figure comes with its standard error. What they come to in the second half of their
events is the long run only where what they carry has gone round many times by then; else it is told as what
it is, the average over those events.
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import Literal

import numpy as np
from propcache.api import cached_property

from golddice.core.arrays import FloatArray, IntArray
from golddice.core.errors import TooLarge
from golddice.core.forecast.marking import Marks, Part, marked
from golddice.core.forecast.settling import goes_round
from golddice.core.forecast.value import quantile_bounds
from golddice.core.odds.carried.prospect import Prospect
from golddice.core.odds.event.waits import CONFIDENCES
from golddice.core.trial.compiling import compiled
from golddice.core.trial.playing import Bags, Unit, played_side_by_side

PLAYERS = 1_000
EVENTS = 2_000
SEED = 90_173
_MOST_ROLLS = 10_000_000
_FEWEST_PLAYERS = 100
_FEWEST_EVENTS = 100
_DRIFT = 3.5  # standard errors between two quarters that are not chance any more
Totals = FloatArray | IntArray
Method = Literal["exact", "simulated", "untold"]


@dataclass(frozen=True)
class Estimate:
    """A figure and its standard error, 0 where it is exact. None: it cannot be told.

    `over` : the first and the last event that it is the average over, where these are not the long run.
    """

    figure: float | None
    error: float = 0.0
    over: tuple[int, int] | None = None

    @property
    def settled(self) -> float | None:
        """The figure, if it is of the long run."""
        return self.figure if self.over is None else None


@dataclass(frozen=True)
class Wait:
    """Events to the first one at 50, 90 and 99 %: None for never, or where it is not told.

    Of a simulated wait `errors` are the standard errors, by the same names, and `more_than` says how long it
    takes at the least where it had not come in the events that were played.
    """

    method: Method
    events: dict[str, int | None]
    errors: dict[str, float] = field(default_factory=dict)
    more_than: dict[str, int] = field(default_factory=dict)


class Later:
    """The waits and the long run of a view's columns, each exact if it can be.

    `lines` and `drops` are those that may be asked for, by (table id, line id) and (source id, drop id);
    `most` is how many players are played at the most.
    """

    def __init__(
        self,
        prospect: Prospect,
        lines: Iterable[Part] = (),
        drops: Iterable[Part] = (),
        most: int = PLAYERS,
    ) -> None:
        self.prospect, self._most = prospect, most
        self._lines, self._drops = lines, drops
        self.why: str | None = None  # something had to be played
        self.over: tuple[int, int] | None = None  # something has not settled in what was played

    @cached_property
    def players(self) -> Players | None:
        """Those who are played where states are too many; None where that would take too long."""
        try:
            return Players(self.prospect, self._lines, self._drops, self._most)
        except TooLarge:
            return None

    @property
    def method(self) -> Method:
        """Of the worst of what is told, and was asked for until now."""
        if self.why is None:
            return "exact"
        return "untold" if self.players is None else "simulated"

    def long_run(self, column: int) -> Estimate:
        """How many per event, averaged over very many events."""
        try:
            return Estimate(self.prospect.long_run_mean(column))
        except TooLarge as error:
            players = self._counting(column, error)
            return self._noted(players.long_run(column)) if players else Estimate(None)

    def _noted(self, estimate: Estimate) -> Estimate:
        self.over = self.over or estimate.over
        return estimate

    def value(self) -> Estimate:
        """Value per event, averaged over very many events."""
        try:
            every = enumerate(self.prospect.under.game.items)
            return Estimate(
                sum(item.value * self.prospect.long_run_mean(at) for at, item in every if item.value)
            )
        except TooLarge as error:
            self.why = self.why or str(error)
            return self._noted(self.players.value()) if self.players else Estimate(None)

    def wait(self, column: int) -> Wait:
        try:
            return Wait("exact", self.prospect.wait_of(column))
        except TooLarge as error:
            players = self._counting(column, error)
            return players.wait(column) if players else Wait("untold", dict.fromkeys(CONFIDENCES))

    def mean_wait(self, column: int) -> Estimate:
        """Events to the first one on average: infinite where some never have one; None where somebody who is
        played has none in all their events."""
        try:
            return Estimate(self.prospect.mean_wait(column))
        except TooLarge as error:
            players = self._counting(column, error)
            return players.mean_wait(column) if players else Estimate(None)

    def none_at(self, column: int, events: IntArray) -> FloatArray:
        """Chance of none after these numbers of events, rising; of fewer, where they cannot all be told."""
        try:
            return self.prospect.none_at(column, events)
        except TooLarge as error:
            players = self._counting(column, error)
            if players is None:
                return np.zeros(0)
            none = players.none_by(column, int(events.max(initial=0)))
            return none[events[events < none.size]]

    def _counting(self, column: int, why: TooLarge) -> Players | None:
        """The players, if what the column stands for is counted: lines and drops not named are not."""
        self.why = self.why or str(why)
        return self.players if self.players and self.players.counts(column) else None


class Players:
    """Fresh players, each played through EVENTS events, or fewer where an event takes long; the long run
    is that of the second half, if they have settled by then."""

    def __init__(
        self,
        prospect: Prospect,
        lines: Iterable[Part] = (),
        drops: Iterable[Part] = (),
        most: int = PLAYERS,
    ) -> None:
        """Raises TooLarge where an event rolls so often that even this would take long."""
        self._prospect = prospect
        self._marks: Marks = marked(prospect.under, lines, drops)
        self._program = compiled(self._marks.under, prospect.view)
        affordable = int(_MOST_ROLLS / self._program.work)
        self.count = min(most, max(_FEWEST_PLAYERS, affordable // EVENTS))
        self.events = min(EVENTS, affordable // self.count)
        if self.events < _FEWEST_EVENTS:
            raise TooLarge("an event with so many rolls cannot be played often enough; run a trial")
        self._slots = {int(item): slot for slot, item in enumerate(self._program.items)}

    def counts(self, column: int) -> bool:
        """Whether it can be told how often the column came up."""
        return bool(self._marks.items_of(column))

    def long_run(self, column: int) -> Estimate:
        slots = self._slots_of(column)
        late, early, before = (bags.counts[:, slots].sum(axis=1) for bags in self._marks_of_time)
        return self._per_event(late, early, before, 1.0)

    def value(self) -> Estimate:
        late, early, before = (bags.value for bags in self._marks_of_time)
        worths = [item.value for item in self._prospect.under.game.items if item.value > 0]
        return self._per_event(late, early, before, min(worths, default=1.0))

    def wait(self, column: int) -> Wait:
        first = np.sort(self._first(column))
        wait = Wait("simulated", {})
        for name, q in CONFIDENCES.items():
            low, at, high = quantile_bounds(first, q)
            is_seen = high <= self.events
            wait.events[name] = int(at) if is_seen else None
            if is_seen:
                wait.errors[name] = (high - low) / 2
            else:
                wait.more_than[name] = int(min(low, self.events))
        return wait

    def mean_wait(self, column: int) -> Estimate:
        first = self._first(column)
        if int(first.max()) > self.events:
            return Estimate(None)
        return Estimate(float(first.mean()), float(first.std()) / math.sqrt(self.count))

    def none_by(self, column: int, events: int) -> FloatArray:
        """Share of the players that have none after 0, 1 ... `events` events."""
        first = np.sort(self._first(column))
        had = np.searchsorted(first, np.arange(min(events, self.events) + 1), side="right")
        return np.asarray(1.0 - had / self.count)

    @cached_property
    def _late(self) -> Bags:
        return self._played(self.events)

    @cached_property
    def _marks_of_time(self) -> tuple[Bags, Bags, Bags]:
        """The players at the end, half way and after three quarters: their random streams begin alike."""
        return self._late, self._played(self.events // 2), self._played(self._three_quarters)

    @property
    def _three_quarters(self) -> int:
        return self.events // 2 + (self.events - self.events // 2) // 2

    @cached_property
    def _goes_round(self) -> bool:
        """Whether all that a player carries has gone round many times in half of the events."""
        return goes_round(self._prospect, self.events // 2)

    def _played(self, events: int) -> Bags:
        return played_side_by_side(Unit.of(self._program, SEED, 0, self.count, events))

    def _slots_of(self, column: int) -> IntArray:
        slots = [self._slots[item] for item in self._marks.items_of(column) if item in self._slots]
        return np.array(slots, dtype=np.int64)

    def _first(self, column: int) -> IntArray:
        """Each player's event of the first one, EVENTS + 1 where there was none."""
        slots = self._slots_of(column)
        never = self.events + 1
        first = self._late.first[:, slots].astype(np.int64)
        return np.asarray(np.where(first == 0, never, first).min(axis=1, initial=never))

    def _per_event(self, late: Totals, early: Totals, three_quarters: Totals, least: float) -> Estimate:
        """From totals at the end, half way and after three quarters; `least` is the least that can come. Of
        what never came the error is that of what came once."""
        half, third = self.events // 2, self._three_quarters
        totals, events = late - early, self.events - half
        error = max(float(totals.std()), least / math.sqrt(self.count)) / events / math.sqrt(self.count)
        drift = (late - three_quarters) / (self.events - third) - (three_quarters - early) / (third - half)
        room = _DRIFT * float(drift.std()) / math.sqrt(self.count)
        is_settled = self._goes_round and abs(float(drift.mean())) <= room
        over = None if is_settled else (half + 1, self.events)
        return Estimate(float(totals.mean()) / events, error, over)
