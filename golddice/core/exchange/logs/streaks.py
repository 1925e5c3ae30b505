"""Waits and droughts in a log beside what is due: what players feel, and no rate shows."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any, Protocol

import numpy as np

from golddice.core.arrays import BoolArray, FloatArray, IntArray
from golddice.core.exchange.logs.events import Events
from golddice.core.exchange.logs.judging import FEW, binomial, two_sided
from golddice.core.odds.carried.prospect import Prospect
from golddice.core.quantiles import of_function

_MOST_BLOCKS = 5_000
_SIDES = 0.05  # of the droughts that are due on either side


@dataclass(frozen=True)
class Followed:
    """The events of one place as each player lived through them, player by player.

    events : which, shape (n,). starts : where a player's begin, shape (p,); counts : how many they are.
    """

    events: IntArray
    starts: IntArray
    counts: IntArray

    def having(self, has: BoolArray) -> IntArray:
        """Places among them of those of which it is true, rising. `has` : of every event of the log."""
        return np.flatnonzero(has[self.events]).astype(np.int32)


def followed(events: Events, mine: IntArray) -> Followed | None:
    """None where the log does not tell when they were. `mine` : some events, rising."""
    found, is_timed = in_turn(events, mine)
    return found if is_timed else None


def in_turn(events: Events, mine: IntArray) -> tuple[Followed, bool]:
    """Some events, rising, in the order in which they were, and whether the log tells it; else in its own."""
    time = events.time[mine]
    is_timed = not np.isnan(time).any()
    # Most logs are in the order of time, and then only players are put together.
    is_sorted = not is_timed or (time[1:] >= time[:-1]).all()
    keys = (events.player[mine],) if is_sorted else (time, events.player[mine])
    order: Any = mine[np.lexsort(keys)]
    player = events.player[order]
    is_first = np.ones(order.size, dtype=bool)
    is_first[1:] = player[1:] != player[:-1]
    starts: Any = np.flatnonzero(is_first).astype(np.int32)
    return Followed(order, starts, np.diff(starts, append=np.int32(order.size))), bool(is_timed)


# --- the first one -----------------------------------------------------------------------------------------


def first_waits(
    prospect: Prospect, column: int, known: Followed, hits: IntArray
) -> tuple[dict[str, Any], float] | None:
    """How many players had their first one within the wait that half of them are due, and the p of that; None
    where they are too few."""
    within = prospect.wait_of(column)["first_50"]
    if within is None:
        return None
    players, had = had_within(within, known, hits)
    due = 1.0 - float(prospect.none_at(column, np.array([within]))[0])
    if players * min(due, 1.0 - due) < FEW:
        return None
    told = {"within": within, "players": players, "had": had, "due": due}
    return told, binomial(had, players, due)


def had_within(within: int, known: Followed, hits: IntArray) -> tuple[int, int]:
    """How many players had so many events, and how many of these had one by then."""
    able = known.counts >= within
    at = np.searchsorted(hits, known.starts[able])
    first = hits[np.minimum(at, hits.size - 1)] if hits.size else at
    waits = np.where(at < hits.size, first - known.starts[able], within)
    return int(able.sum()), int((waits < within).sum())


# --- the longest time without ------------------------------------------------------------------------------


def longest_drought(known: Followed, hits: IntArray) -> int:
    """Events without in a row, of one player: before the first, between two, or after the last."""
    bounds = np.append(known.starts, np.int32(known.events.size))
    ends = np.concatenate([2 * hits + 1, 2 * bounds])
    ends.sort()
    none = (ends[1:] | ends[:-1]) % 2 == 0  # two bounds of a player who had none
    return int(((np.diff(ends) - 1) // 2 + none).max(initial=0))


def drought(chance: float, known: Followed, hits: IntArray) -> tuple[dict[str, Any], float]:
    """The longest drought of all players where every event has the same chance, how long nine in ten logs
    like this one have it, and the p of that."""
    return told_of(_Droughts(chance, known.counts), longest_drought(known, hits))


class Droughts(Protocol):
    """The law of the longest drought among players, told to `width` events."""

    width: int

    def at_most(self, length: int) -> float: ...

    def quantile(self, share: float) -> int: ...


def told_of(due: Droughts, seen: int) -> tuple[dict[str, Any], float]:
    p = two_sided(due.at_most(seen), 1.0 - due.at_most(seen - due.width))
    return {"longest": seen, "due": [due.quantile(_SIDES), due.quantile(1.0 - _SIDES)]}, p


class _Droughts:
    """The longest run of misses among players with so many events each."""

    width = 1

    def __init__(self, chance: float, counts: IntArray) -> None:
        self._hit, self._miss = chance, 1.0 - chance
        self._counts, self._times = np.unique(counts, return_counts=True)

    def at_most(self, length: int) -> float:
        """The chance that no player has a run of more misses than that."""
        if length < 0:
            return 0.0
        run = length + 1
        able = self._counts >= run
        counts, times = self._counts[able], self._times[able]
        if not counts.size:
            return 1.0
        begins = self._miss**run * (1.0 + (counts - run) * self._hit)  # that are due
        # Where runs are rare, and their numbers those of Poisson, or where there are many for certain.
        if int(counts[-1]) > _MOST_BLOCKS * run or float(times @ begins) > 100.0:
            return math.exp(-float(times @ begins))
        none = none_so_long(self._hit, run, int(counts[-1]))[counts]
        with np.errstate(divide="ignore"):
            return math.exp(float(times @ np.log(np.maximum(none, 0.0))))

    def quantile(self, share: float) -> int:
        return of_function(self.at_most, share, int(self._counts[-1]))


def none_so_long(hit: float, run: int, most: int) -> FloatArray:
    """The chance of no run of so many misses in 0 .. `most` tries, shape (most + 1,): one begins after a hit
    that no such run came before (Feller, vol. 1, ch. XIII.7). A block as long as a run at a time."""
    none = np.ones(most + 1)
    whole = (1.0 - hit) ** run
    if run <= most:
        none[run] = 1.0 - whole
    for first in range(run + 1, most + 1, run + 1):
        last = min(first + run + 1, most + 1)
        before = none[first - run - 1 : last - run - 1]
        none[first:last] = none[first - 1] - hit * whole * np.cumsum(before)
    return none
