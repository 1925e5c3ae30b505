"""One source at one depth in a log: every figure of it beside what is due."""

from __future__ import annotations

import math
from contextlib import suppress
from dataclasses import dataclass
from typing import Any

import numpy as np
from scipy.special import ndtr

from golddice.core.arrays import BoolArray, FloatArray, IntArray, distinct
from golddice.core.errors import TooLarge
from golddice.core.exchange.logs.events import Events, Place
from golddice.core.exchange.logs.judging import FEW, Tests, binomial, steps
from golddice.core.exchange.logs.played import PlaceLives
from golddice.core.exchange.logs.reading import Log
from golddice.core.exchange.logs.streaks import Followed, drought, first_waits, followed
from golddice.core.exchange.logs.together import MOST, chi_square
from golddice.core.game.views import View
from golddice.core.odds.carried.prospect import Prospect
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.resting import carries

_LEAST = 1e-9
_MOST_COUNTS = 40  # different numbers of events of a player that are followed exactly
NORMAL = 30.0  # events with an item that are due, from where on its units are taken to be normal
_EITHER_WAY = 1.959963984540054  # of a normal figure, 95 %
_FOUR_IN_FIVE = 0.8416212335729143


@dataclass(frozen=True)
class Seen:
    """What came at one place. Of i items: units and events with any, shape (i,); of those that came, in which
    events; and events with anything."""

    units: IntArray
    hits: IntArray
    which: dict[int, IntArray]
    any: int


def seen_at(log: Log, events: Events, place: Place, items: int, has: BoolArray) -> Seen:
    """`has` : room for what is true of events of the log, empty before and after."""
    given = place.rows[(log.item[place.rows] >= 0) & (log.quantity[place.rows] > 0)]
    item, quantity, owner = log.item[given], log.quantity[given], events.of_row[given]
    units, hits, which = np.zeros(items, dtype=np.int64), np.zeros(items, dtype=np.int64), {}
    for at in distinct(item).tolist():
        mine = item == at
        units[at] = quantity[mine].sum(dtype=np.int64)
        which[at] = _once(owner[mine])
        hits[at] = which[at].size
    has[owner] = True
    some = int(np.count_nonzero(has))
    has[owner] = False
    return Seen(units, hits, which, some)


def _once(events: IntArray) -> IntArray:
    """Each of them once, rising."""
    return events if (events[1:] > events[:-1]).all() else distinct(events)


class PlaceCheck:
    """A place of a log against the odds. `played` : what was played of it, where not all is told exactly.
    Once it is told, `units` are the mean and variance of each item's units in all events. Raises TooLarge."""

    units: tuple[FloatArray, FloatArray]

    def __init__(
        self,
        under: Conditions,
        view: View,
        place: Place,
        seen: Seen,
        tests: Tests,
        played: PlaceLives | None = None,
    ) -> None:
        self.under, self.view, self.place, self.seen, self.tests = under, view, place, seen, tests
        self.count = int(place.events.size)
        self.prospect = Prospect(Evaluator(under, detail=False), view)
        self.columns = self.prospect.columns
        self.carries = carries(under, view)
        self.lives = played
        if self.carries and played is None:
            raise TooLarge("players carry more than can be followed or played")

    def told(self, events: Events, has: BoolArray) -> dict[str, Any]:
        """The items, anything at all, and all items at once. `has` : as for `seen_at`."""
        self.units = mean, var = self._units(events)
        every = [at for at in range(mean.size) if mean[at] > 0 or self.seen.units[at]]
        known = followed(events, self.place.events)
        items = [self._item(at, float(mean[at]), float(var[at])) for at in every]
        for at, item in zip(every, items, strict=True):
            item |= self._streaks(at, item["expected"], known, has)
        return {
            "items": items,
            "any": self._anything(),
            "together": self._together(every),
            "played": None if self.lives is None else self.lives.lives.replicas,
        }

    @property
    def chances(self) -> FloatArray | None:
        """Of an event with any of each item; None where players carry something."""
        if self.carries:
            return None
        items = range(len(self.under.game.items))
        return np.array([self.prospect.hit(self.columns.item(at)) for at in items])

    def _units(self, events: Events) -> tuple[FloatArray, FloatArray]:
        """Mean and variance of each item's units in all events. What players carry is followed from their
        first event in the log on."""
        columns = [self.columns.item(at) for at in range(len(self.under.game.items))]
        if not self.carries:
            mean = np.array([self.prospect.mean(column) for column in columns])
            var = np.array([self.prospect.var(column) for column in columns])
            return self.count * mean, self.count * var
        assert self.lives is not None
        if self.lives.is_alone:
            with suppress(TooLarge):
                return self._followed(events, columns)
        return self.lives.units

    def _followed(self, events: Events, columns: list[int]) -> tuple[FloatArray, FloatArray]:
        times = np.unique(events.player[self.place.events], return_counts=True)[1]
        counts, many = np.unique(times, return_counts=True)
        if counts.size > _MOST_COUNTS:
            raise TooLarge(f"players with {counts.size} different numbers of events")
        mean, var = np.zeros(len(columns)), np.zeros(len(columns))
        for count, players in zip(counts.tolist(), many.tolist(), strict=True):
            for at, column in enumerate(columns):
                if self.prospect.reaches(column):
                    one = self.prospect.count_after(column, count)
                    mean[at] += players * one[0]
                    var[at] += players * one[1]
        return mean, var

    def _item(self, at: int, mean: float, var: float) -> dict[str, Any]:
        chance = None if self.carries else self.prospect.hit(self.columns.item(at))
        units, hits = int(self.seen.units[at]), int(self.seen.hits[at])
        error = math.sqrt(var)
        z = (units - mean) / error if error > _LEAST * max(1.0, mean) else None
        of_units = 2 * float(ndtr(-abs(z))) if z is not None else float(units == round(mean))
        if chance is None:
            p, likely = steps(units - mean, var, self._step(at)), mean
        else:
            p, likely = binomial(hits, self.count, chance), self.count * chance
            if likely > NORMAL and z is not None:
                p = 2 * min(p, of_units)  # of two tests the better one
        of_event = mean / self.count, var / self.count
        spread = of_event if chance is None else (chance, chance * (1 - chance))
        item = {
            "item": self.under.game.items[at].id,
            "expected": mean,
            "observed": units,
            "z": z,
            "with_any": hits,
            "chance": chance,
            "interval": None if chance is None else _interval(hits, self.count),
            "power": power(self.count, *spread),
            "needed": needed(*spread),
        }
        return self.tests.add(item, p, few=likely < FEW and units <= FEW)

    def _step(self, at: int) -> float:
        """Units of an item that come with one event, at least one."""
        assert self.lives is not None
        units, hits = float(self.lives.units[0][at]), float(self.lives.hits[at])
        return max(1.0, units / hits) if hits > 0 else 1.0

    def _streaks(self, at: int, expected: float, known: Followed | None, has: BoolArray) -> dict[str, Any]:
        """How long players waited for the first of an item, and were without."""
        found: dict[str, Any] = {"wait": None, "drought": None}
        due = expected if self.carries else self.prospect.hit(self.columns.item(at)) * self.count
        if known is None or due < FEW or (not self.carries and self.count - due < FEW):
            return found
        which = self.seen.which.get(at, np.zeros(0, dtype=np.int32))
        has[which] = True
        hits = known.having(has)
        has[which] = False
        wait = self._wait(at, known, hits)
        if wait is not None:
            found["wait"] = self.tests.add(*wait)
        longest = self._drought(at, known, hits)
        if longest is not None:
            found["drought"] = self.tests.add(*longest)
        return found

    def _wait(self, at: int, known: Followed, hits: IntArray) -> tuple[dict[str, Any], float] | None:
        column = self.columns.item(at)
        if self.lives is None or not self.carries or self.lives.is_alone:
            with suppress(TooLarge):
                return first_waits(self.prospect, column, known, hits)
        return None if self.lives is None else self.lives.first_waits(at, known, hits)

    def _drought(self, at: int, known: Followed, hits: IntArray) -> tuple[dict[str, Any], float] | None:
        if not self.carries:
            return drought(self.prospect.hit(self.columns.item(at)), known, hits)
        return None if self.lives is None else self.lives.drought(at, known, hits)

    def _anything(self) -> dict[str, Any]:
        """Events that gave something at all: rules look alike thing by thing, and differ in that."""
        seen, chance = self.seen.any, None
        if self.carries and self.lives is not None:
            due, p = self.lives.anything(seen)
        else:
            chance = self.prospect.hit(self.columns.units)
            p, due = binomial(seen, self.count, chance), self.count * chance
        said = {"expected": due, "observed": seen, "chance": chance}
        return self.tests.add(said, p, few=due < FEW and seen <= FEW)

    def _together(self, every: list[int]) -> dict[str, Any] | None:
        found = self._all_at_once(every) if not self.carries else None
        if found is None and self.lives is not None:
            found = self.lives.together(self.seen.hits)
        return None if found is None else self.tests.add(*found)

    def _all_at_once(self, every: list[int]) -> tuple[dict[str, Any], float] | None:
        due = {at: self.count * self.prospect.hit(self.columns.item(at)) for at in every}
        most = sorted((at for at in every if due[at] >= FEW), key=lambda at: -due[at])[:MOST]
        items = np.array(sorted(most), dtype=np.int64)
        return chi_square(self.under, self.view, items, self.seen.hits[items], self.count)


def _interval(hits: int, events: int) -> list[float]:
    """Of the true rate, 95 %, by Wilson (1927)."""
    z, share = _EITHER_WAY, hits / events
    middle = (share + z * z / (2 * events)) / (1 + z * z / events)
    half = z / (1 + z * z / events) * math.sqrt(share * (1 - share) / events + z * z / (4 * events * events))
    return [max(0.0, middle - half), min(1.0, middle + half)]


def power(events: int, mean: float, var: float) -> float | None:
    """The chance with which a rate 20 % off would be seen at 5 %. `mean` and `var` : of one event."""
    if mean <= 0 or var <= 0:
        return None
    return float(ndtr(0.2 * mean / math.sqrt(var / events) - _EITHER_WAY))


def needed(mean: float, var: float) -> int | None:
    """Events in which a rate 20 % off would be seen at 5 % four times in five."""
    if mean <= 0 or var <= 0:
        return None
    return math.ceil((_EITHER_WAY + _FOUR_IN_FIVE) ** 2 * var / (0.04 * mean * mean))
