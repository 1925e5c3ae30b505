"""What cannot be told of a place exactly, from players who are played through the log's own events.

That is so where something is carried from event to event, and of picks of different lines. Places between
which something is carried are played together, each player's events in the order in which they were.
"""

from __future__ import annotations

import math
from contextlib import suppress
from dataclasses import dataclass
from typing import Any

import numpy as np

from golddice.core.arrays import FloatArray, IntArray, distinct
from golddice.core.errors import TooLarge
from golddice.core.exchange.logs.events import Events, PlaceKey, Places
from golddice.core.exchange.logs.judging import FEW, steps
from golddice.core.exchange.logs.reading import Log
from golddice.core.exchange.logs.streaks import Followed, had_within, in_turn, longest_drought, told_of
from golddice.core.exchange.logs.together import quadratic
from golddice.core.game.models import Game, Source
from golddice.core.game.views import View
from golddice.core.odds.carried.prospect import Prospect
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.quantiles import of_function
from golddice.core.sharing import sharing
from golddice.core.stopping import go_on
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.layout import Slot, slots_of
from golddice.core.terms.resting import is_distinct
from golddice.core.terms.size import in_order, part_of
from golddice.core.trial.lives import Asked, Lives, Paths, lived

_WORK = 3_000_000  # events that are played for one log, but everybody at least twice
_MOST_REPLICAS = 200
_MOST_TOGETHER = 60
_SEED = 1
_EXACT = 1e-6  # of what is due, within which a sum that never varies is taken to be right


@dataclass(frozen=True)
class PlaceLives:
    """One place of what was played. `players` : who were there; `is_alone` : nothing is carried to it from
    elsewhere."""

    lives: Lives
    at: int
    players: int
    is_alone: bool
    asked: Asked

    @property
    def units(self) -> tuple[FloatArray, FloatArray]:
        """Of each item of the catalogue the mean of its units in all events, and the variance of how far a
        log is off that mean."""
        return self._of_all(self.lives.units), self._of_all(self.lives.units_var) * self._more

    @property
    def hits(self) -> FloatArray:
        return self._of_all(self.lives.hits)

    def _of_all(self, figures: FloatArray) -> FloatArray:
        found = np.zeros(self.asked.within.shape[1])
        found[self.lives.items] = figures[self.at]
        return found

    @property
    def _more(self) -> float:
        """What is known from so many lives is as uncertain as they are few."""
        return 1.0 + 1.0 / self.lives.replicas

    def anything(self, seen: int) -> tuple[float, float]:
        """Events with anything that are due, and the p of those that came."""
        due, var = float(self.lives.any[self.at]), float(self.lives.any_var[self.at]) * self._more
        return due, steps(seen - due, var, 1.0)

    def together(self, hits: IntArray) -> tuple[dict[str, Any], float] | None:
        """The chi-square of all items at once, of which enough are due, and its p; None where nothing
        varies. `hits` : of each item."""
        together, due = self.asked.together[self.at], self.hits
        items = np.flatnonzero((together >= 0) & (due >= FEW))
        if not items.size:
            return None
        own = together[items]
        spread = self.lives.both[self.at][np.ix_(own, own)] * self._more
        return quadratic(hits[items] - due[items], spread, _EXACT * max(1.0, float(due.sum())))

    def first_waits(self, item: int, known: Followed, hits: IntArray) -> tuple[dict[str, Any], float] | None:
        """As `streaks.first_waits`."""
        within = int(self.asked.within[self.at, item])
        if within == 0 or item not in self.lives.items:
            return None
        players, had = had_within(within, known, hits)
        share = float(self.lives.had[self.at, self._slot(item)]) / (self.lives.replicas * max(1, players))
        if players * min(share, 1.0 - share) < FEW:
            return None
        told = {"within": within, "players": players, "had": had, "due": share}
        return told, steps(had - players * share, players * share * (1.0 - share) * self._more, 1.0)

    def drought(self, item: int, known: Followed, hits: IntArray) -> tuple[dict[str, Any], float] | None:
        """As `streaks.drought`; None where it cannot come."""
        if item not in self.lives.items:
            return None
        lives = self.lives.droughts[self.at, self._slot(item)]
        return told_of(PlayedDroughts(lives, self.lives.width, self.players), longest_drought(known, hits))

    def _slot(self, item: int) -> int:
        return int(np.searchsorted(self.lives.items, item))


class PlayedDroughts:
    """The longest time without among players, from lives like theirs. Beyond what was seen it is taken to
    fall as it does at its end: by the same share with each event."""

    _TAIL = 30.0  # lives by which the end is told

    def __init__(self, lives: FloatArray, width: int, players: int) -> None:
        self._longer = lives.sum() - np.cumsum(lives)  # lives longer than that many bins
        self._every, self.width, self._players = float(lives.sum()), width, players
        bins = np.flatnonzero(lives)
        self._last = int(bins[-1]) if bins.size else 0
        self._fall = self._falls(lives)

    def _falls(self, lives: FloatArray) -> float:
        """The share by which lives longer than that fall from bin to bin at the end; 0 where there is an end:
        many lives have the very longest, as a promise makes them."""
        if lives[self._last] > self._TAIL:
            return 0.0
        tail = np.flatnonzero(self._longer >= self._TAIL)
        if not tail.size:
            return 0.0
        first = int(tail[-1]) + 1
        bins = np.arange(first, self._last + 1)
        beyond = float(lives[bins] @ (bins - first + 0.5))
        return beyond / (beyond + float(lives[bins].sum()))

    def at_most(self, length: int) -> float:
        """The chance that nobody is without for more events in a row."""
        if length < 0:
            return 0.0
        at = length // self.width
        beyond = at - self._last + 1
        longer = float(self._longer[at]) if beyond <= 0 else 0.5 * self._fall**beyond
        share = min(1.0, longer / self._every) if self._every else 0.0
        return math.exp(self._players * math.log1p(-share)) if share < 1.0 else 0.0

    def quantile(self, share: float) -> int:
        return of_function(self.at_most, share, (self._last + 1) * self.width)


# --- who plays what ----------------------------------------------------------------------------------------


@dataclass(frozen=True)
class _Met:
    """A place that is to be played: its number, and what a player carries there."""

    at: int
    under: Conditions
    view: View
    carried: frozenset[Slot]

    @staticmethod
    def of(game: Game, flags: frozenset[str], at: int, key: PlaceKey) -> _Met | None:
        """None where all is told exactly."""
        under, view = Conditions(game, [key.depth], flags), View("source", game.sources[key.source].id)
        parts = [part_of(under, one) for one in in_order(under, [view])]
        carried = frozenset(slot for part in parts for slot in slots_of(part))
        differs = any(not isinstance(part, Source) and is_distinct(under, part) for part in parts)
        return _Met(at, under, view, carried) if carried or differs else None


@dataclass(frozen=True)
class Pool:
    """One source at several places that were played together. `places` : their numbers."""

    source: int
    places: frozenset[int]
    lives: PlaceLives


@dataclass(frozen=True)
class Played:
    """By the number of a place; and pools of places. Those that are too large are not among them."""

    places: dict[int, PlaceLives]
    pools: list[Pool]


def all_played(game: Game, log: Log, events: Events, places: Places) -> Played:
    met = [_Met.of(game, log.flag_sets[key.flags], at, key) for at, key in enumerate(places.keys)]
    # What shares anything that is carried is played together.
    groups = [group for _, group in sharing((one.carried, one) for one in met if one is not None)]
    played = Played({}, [])
    for group in groups:
        go_on()
        with suppress(TooLarge):
            found = _group_played(events, places, group, _WORK // len(groups))
            played.places.update(found.places)
            played.pools.extend(found.pools)
    return played


def _group_played(events: Events, places: Places, group: list[_Met], work: int) -> Played:
    numbers = np.array([one.at for one in group])
    own = np.full(len(places.keys), -1, dtype=np.int32)
    own[numbers] = np.arange(numbers.size)
    turns, _ = in_turn(events, np.flatnonzero(np.isin(places.of_event, numbers)).astype(np.int32))
    paths = _paths(turns, own[places.of_event[turns.events]])
    pooled = _pooled(places, group)
    asked = _all_asked(group, list(pooled.values()))
    replicas = int(np.clip(work // paths.events, 2, _MOST_REPLICAS))
    lives = lived([(one.under, one.view) for one in group], paths, asked, replicas, _SEED)
    player = np.repeat(np.arange(paths.players), np.diff(paths.starts))

    def of(row: int, own: list[int], is_alone: bool) -> PlaceLives:
        there = int(distinct(player[np.isin(paths.places, own)]).size)
        return PlaceLives(lives, row, there, is_alone, asked)

    pools = [
        Pool(source, frozenset(group[at].at for at in own), of(len(group) + row, own, False))
        for row, (source, own) in enumerate(pooled.items())
    ]
    return Played({one.at: of(at, [at], len(group) == 1) for at, one in enumerate(group)}, pools)


def _pooled(places: Places, group: list[_Met]) -> dict[int, list[int]]:
    """By source, those of a group that are of it, where they are several."""
    found: dict[int, list[int]] = {}
    for at, one in enumerate(group):
        found.setdefault(places.keys[one.at].source, []).append(at)
    return {source: own for source, own in found.items() if len(own) > 1}


def _all_asked(group: list[_Met], pools: list[list[int]]) -> Asked:
    """Of each place, and of each pool the items that are looked at together in any of its places."""
    each = [_asked(one, len(group)) for one in group]
    pool_of = np.full(len(group), -1)
    together, within = [one[0] for one in each], [one[1] for one in each]
    for row, own in enumerate(pools):
        pool_of[own] = len(group) + row
        some = np.flatnonzero(np.max([each[at][0] for at in own], axis=0) >= 0)[:_MOST_TOGETHER]
        numbers = np.full(together[0].size, -1)
        numbers[some] = np.arange(some.size)
        together.append(numbers)
        within.append(np.zeros_like(within[0]))
    return Asked(np.stack(together), np.stack(within), pool_of)


def _paths(turns: Followed, places: Any) -> Paths:
    """`places` : of each of the events in turn."""
    begins = np.zeros(places.size, dtype=bool)
    begins[turns.starts] = True
    begins[1:] |= places[1:] != places[:-1]
    first = np.flatnonzero(begins)
    starts = np.append(np.searchsorted(first, turns.starts), first.size)
    return Paths(starts, places[first], np.diff(first, append=places.size))


def _asked(one: _Met, sharing: int) -> tuple[IntArray, IntArray]:
    """Which items of a place are looked at together, and by when half have had their first: the latter where
    what is carried comes from elsewhere too."""
    items = len(one.under.game.items)
    together, within = np.full(items, -1), np.zeros(items, dtype=np.int64)
    prospect = Prospect(Evaluator(one.under, detail=False), one.view)
    with suppress(TooLarge):
        chances = np.array([prospect.hit(prospect.columns.item(at)) for at in range(items)])
        most = np.argsort(-chances, kind="stable")[:_MOST_TOGETHER]
        most = np.sort(most[chances[most] > 0])
        together[most] = np.arange(most.size)
        for at in np.flatnonzero(chances) if sharing > 1 else ():
            within[at] = prospect.wait_of(prospect.columns.item(int(at)))["first_50"] or 0
    return together, within
