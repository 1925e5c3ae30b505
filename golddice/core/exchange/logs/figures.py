"""One source at one depth in a log: every figure of it beside what is due."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import numpy as np
from scipy.special import ndtr

from golddice.core.arrays import BoolArray, FloatArray, IntArray, distinct
from golddice.core.errors import TooLarge
from golddice.core.exchange.logs.events import Events, Place
from golddice.core.exchange.logs.judging import FEW, Tests, binomial
from golddice.core.exchange.logs.reading import Log
from golddice.core.exchange.logs.streaks import Followed, drought, first_waits, followed
from golddice.core.exchange.logs.together import MOST, chi_square
from golddice.core.game.views import View
from golddice.core.odds.carried.prospect import Prospect
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.resting import carries
from golddice.core.terms.size import most_rolls

_LEAST = 1e-9
_MOST_COUNTS = 40  # different numbers of events of a player that are followed exactly
_NORMAL = 30.0  # events with an item that are due, from where on its units are taken to be normal
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
    """A place of a log against the odds. Raises TooLarge."""

    def __init__(self, under: Conditions, view: View, place: Place, seen: Seen, tests: Tests) -> None:
        self.under, self.view, self.place, self.seen, self.tests = under, view, place, seen, tests
        self.count = int(place.events.size)
        self.prospect = Prospect(Evaluator(under, detail=False), view)
        self.columns = self.prospect.columns
        self.carries = carries(under, most_rolls(under, view))

    def told(self, events: Events, alone: bool, has: BoolArray) -> dict[str, Any]:
        """The items, anything at all, and all items at once. `alone` : whether all events of the source are
        here, so that what players carry comes from here alone. `has` : as for `seen_at`."""
        mean, var = self._units(events)
        every = [at for at in range(mean.size) if mean[at] > 0 or self.seen.units[at]]
        known = followed(events, self.place.events) if alone or not self.carries else None
        items = [self._item(at, float(mean[at]), float(var[at])) for at in every]
        for at, item in zip(every, items, strict=True):
            item |= self._streaks(at, known, has)
        plain = not self.carries
        return {
            "items": items,
            "any": self._anything() if plain else None,
            "together": self._together(every) if plain else None,
        }

    def _units(self, events: Events) -> tuple[FloatArray, FloatArray]:
        """Mean and variance of each item's units in all events. What players carry is followed from their
        first event in the log on."""
        columns = [self.columns.item(at) for at in range(len(self.under.game.items))]
        if not self.carries:
            mean = np.array([self.prospect.mean(column) for column in columns])
            return self.count * mean, self.count * np.array([self.prospect.var(column) for column in columns])
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
            p, likely = of_units, mean
        else:
            p, likely = binomial(hits, self.count, chance), self.count * chance
            if likely > _NORMAL and z is not None:
                p = 2 * min(p, of_units)  # of two tests the better one
        item = {
            "item": self.under.game.items[at].id,
            "expected": mean,
            "observed": units,
            "z": z,
            "with_any": hits,
            "chance": chance,
            "interval": None if chance is None else _interval(hits, self.count),
            "power": _power(self.count, chance),
            "needed": _needed(chance),
        }
        return self.tests.add(item, p, few=likely < FEW and units <= FEW)

    def _streaks(self, at: int, known: Followed | None, has: BoolArray) -> dict[str, Any]:
        """How long players waited for the first of an item; and were without, where each event has the same
        chance."""
        chance = self.prospect.hit(self.columns.item(at))
        found: dict[str, Any] = {"wait": None, "drought": None}
        due = chance * self.count >= FEW and (1 - chance) * self.count >= FEW
        if known is None or not (due or self.carries):
            return found
        which = self.seen.which.get(at, np.zeros(0, dtype=np.int32))
        has[which] = True
        hits = known.having(has)
        has[which] = False
        wait = first_waits(self.prospect, self.columns.item(at), known, hits)
        if wait is not None:
            found["wait"] = self.tests.add(*wait)
        if not self.carries:
            found["drought"] = self.tests.add(*drought(chance, known, hits))
        return found

    def _anything(self) -> dict[str, Any]:
        """Events that gave something at all: rules look alike thing by thing, and differ in that."""
        chance = self.prospect.hit(self.columns.units)
        p, due = binomial(self.seen.any, self.count, chance), self.count * chance
        said = {"expected": due, "observed": self.seen.any, "chance": chance}
        return self.tests.add(said, p, few=due < FEW and self.seen.any <= FEW)

    def _together(self, every: list[int]) -> dict[str, Any] | None:
        due = {at: self.count * self.prospect.hit(self.columns.item(at)) for at in every}
        most = sorted((at for at in every if due[at] >= FEW), key=lambda at: -due[at])[:MOST]
        items = np.array(sorted(most), dtype=np.int64)
        found = chi_square(self.under, self.view, items, self.seen.hits[items], self.count)
        return None if found is None else self.tests.add(*found)


def _interval(hits: int, events: int) -> list[float]:
    """Of the true rate, 95 %, by Wilson (1927)."""
    z, share = _EITHER_WAY, hits / events
    middle = (share + z * z / (2 * events)) / (1 + z * z / events)
    half = z / (1 + z * z / events) * math.sqrt(share * (1 - share) / events + z * z / (4 * events * events))
    return [max(0.0, middle - half), min(1.0, middle + half)]


def _power(events: int, chance: float | None) -> float | None:
    """The chance with which a rate 20 % off would be seen at 5 %."""
    if chance is None or not 0 < chance < 1:
        return None
    error = math.sqrt(chance * (1 - chance) / events)
    return float(ndtr(0.2 * chance / error - _EITHER_WAY))


def _needed(chance: float | None) -> int | None:
    """Events in which a rate 20 % off would be seen at 5 % four times in five."""
    if chance is None or not 0 < chance < 1:
        return None
    return math.ceil((_EITHER_WAY + _FOUR_IN_FIVE) ** 2 * (1 - chance) / (0.04 * chance))
