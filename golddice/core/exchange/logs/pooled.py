"""One source at all the depths of a log together: what is too little to say at each may be enough in all."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from scipy.special import chdtrc, ndtr

from golddice.core.arrays import BoolArray, FloatArray
from golddice.core.exchange.logs.events import Events, Place
from golddice.core.exchange.logs.figures import NORMAL, PlaceCheck, Seen, needed, power, seen_at
from golddice.core.exchange.logs.judging import FEW, Tests, steps
from golddice.core.exchange.logs.played import PlaceLives, Played
from golddice.core.exchange.logs.reading import Log
from golddice.core.exchange.logs.streaks import followed
from golddice.core.game.models import Game

_LEAST = 1e-9


@dataclass
class _Due:
    """What is due of a source at all its places, which are independent of one another or pooled already.

    units, hits and their variances, shape (i,); of events with anything `any` and its variance; `value` and
    `of` : the sum of the places' chi-squares, and its degrees of freedom. `is_whole` : nothing is missing.
    """

    units: FloatArray
    units_var: FloatArray
    hits: FloatArray
    hits_var: FloatArray
    any: float = 0.0
    any_var: float = 0.0
    value: float = 0.0
    of: int = 0
    is_whole: bool = True
    places: set[int] = field(default_factory=set)
    pools: list[PlaceLives] = field(default_factory=list)

    @staticmethod
    def nothing(items: int) -> _Due:
        return _Due(np.zeros(items), np.zeros(items), np.zeros(items), np.zeros(items))


class Pooled:
    """Gathers what is due at each place, one after another; sources that are at one place only are left."""

    def __init__(self, game: Game, keys: list[Any], played: Played) -> None:
        self._game, self._played = game, played
        counts = np.bincount([key.source for key in keys], minlength=len(game.sources)).tolist()
        self._due = {at: _Due.nothing(len(game.items)) for at, many in enumerate(counts) if many > 1}
        self._in_pools = set().union(*(pool.places for pool in played.pools))

    def missing(self, source: int) -> None:
        """A place of a source was not told."""
        if source in self._due:
            self._due[source].is_whole = False

    def add(self, at: int, source: int, check: PlaceCheck, told: dict[str, Any]) -> None:
        if source not in self._due:
            return
        due = self._due[source]
        due.places.add(at)
        if at in self._in_pools:
            return
        due.units += check.units[0]
        due.units_var += check.units[1]
        chances = check.chances
        if chances is None:
            due.is_whole = False  # of a place by itself that carries something: it is held alone
            return
        due.hits += check.count * chances
        due.hits_var += check.count * chances * (1.0 - chances)
        any_of = check.prospect.hit(check.columns.units)
        due.any += check.count * any_of
        due.any_var += check.count * any_of * (1.0 - any_of)
        if told["together"] and told["together"]["value"] is not None:
            due.value += told["together"]["value"]
            due.of += told["together"]["of"]

    def groups(self, log: Log, events: Events, has: BoolArray, tests: Tests) -> Iterator[dict[str, Any]]:
        for source, due in self._due.items():
            for pool in self._played.pools:
                if pool.source == source:
                    due.pools.append(pool.lives)
                    due.units += pool.lives.units[0]
                    due.units_var += pool.lives.units[1]
            if due.is_whole and due.places:
                yield self._group(source, due, log, events, has, tests)

    def _group(
        self, source: int, due: _Due, log: Log, events: Events, has: BoolArray, tests: Tests
    ) -> dict[str, Any]:
        mine: Any = np.flatnonzero(events.source == source).astype(np.int32)
        rows: Any = np.flatnonzero(events.source[events.of_row] == source).astype(np.int32)
        place = Place(source, -1, -1, mine, rows)
        seen = seen_at(log, events, place, len(self._game.items), has)
        alone = due.pools[0] if len(due.pools) == 1 and due.places == self._all_of(source) else None
        of = _Source(self._game, due, place, seen, tests, alone)
        values = np.array([item.value for item in self._game.items])
        return {
            "source": self._game.sources[source].id,
            "depth": None,
            "flags": [],
            "events": mine.size,
            "value": float(seen.units @ values) / mine.size,
            "told": True,
            "items": of.items(events, has),
            "any": of.anything(),
            "together": of.together(),
            "played": alone.lives.replicas if alone is not None else None,
            "better": [],
        }

    def _all_of(self, source: int) -> set[int]:
        """The places of a source, where one pool holds all of them; else none."""
        pools = [pool for pool in self._played.pools if pool.source == source]
        return set(pools[0].places) if len(pools) == 1 else set()


@dataclass(frozen=True)
class _Source:
    """`alone` : the one pool that holds all of the source's places."""

    game: Game
    due: _Due
    place: Place
    seen: Seen
    tests: Tests
    alone: PlaceLives | None

    def items(self, events: Events, has: BoolArray) -> list[dict[str, Any]]:
        known = followed(events, self.place.events) if self.alone is not None else None
        found = []
        for at in np.flatnonzero((self.due.units > 0) | (self.seen.units > 0)).tolist():
            item = self._item(at)
            if self.alone is not None and known is not None and item["expected"] >= FEW:
                has[self.seen.which.get(at, np.zeros(0, dtype=np.int32))] = True
                hits = known.having(has)
                has[self.place.events] = False
                drought = self.alone.drought(at, known, hits)
                item["drought"] = None if drought is None else self.tests.add(*drought)
            found.append(item)
        return found

    def _item(self, at: int) -> dict[str, Any]:
        mean, var = float(self.due.units[at]), float(self.due.units_var[at])
        units, hits = int(self.seen.units[at]), int(self.seen.hits[at])
        error = math.sqrt(var)
        z = (units - mean) / error if error > _LEAST * max(1.0, mean) else None
        likely = mean
        if self.due.pools:
            p = steps(units - mean, var, max(1.0, units / max(1, hits)))
        else:
            likely = float(self.due.hits[at])
            p = steps(hits - likely, float(self.due.hits_var[at]), 1.0)
            if likely > NORMAL and z is not None:
                p = 2 * min(p, 2 * float(ndtr(-abs(z))))  # of two tests the better one
        count = self.place.events.size
        item = {
            "item": self.game.items[at].id,
            "expected": mean,
            "observed": units,
            "z": z,
            "with_any": hits,
            "chance": None,
            "interval": None,
            "power": power(count, mean / count, var / count),
            "needed": needed(mean / count, var / count),
            "wait": None,
            "drought": None,
        }
        return self.tests.add(item, p, few=likely < FEW and units <= FEW)

    def anything(self) -> dict[str, Any] | None:
        due, seen = self.due, self.seen.any
        if self.alone is not None:
            expected, p = self.alone.anything(seen)
        elif due.pools:
            return None
        else:
            expected, p = due.any, steps(seen - due.any, due.any_var, 1.0)
        said = {"expected": expected, "observed": seen, "chance": None}
        return self.tests.add(said, p, few=expected < FEW and seen <= FEW)

    def together(self) -> dict[str, Any] | None:
        """All items of all places: where they are independent their chi-squares add up."""
        if self.alone is not None:
            found = self.alone.together(self.seen.hits)
            return None if found is None else self.tests.add(*found)
        if self.due.pools or not self.due.of:
            return None
        p = float(chdtrc(self.due.of, self.due.value))
        return self.tests.add({"value": self.due.value, "of": self.due.of}, p)
