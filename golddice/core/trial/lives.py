"""Players led through given events, place by place, each of them several times over: what such lives bring,
how far they differ, and how long they are without something.

A place is a source at one depth with the same flags. What players carry goes with them from one to the next.
"""

from __future__ import annotations

import os
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, fields
from functools import reduce

import numpy as np
from numba import njit

from golddice.core.arrays import FloatArray, IntArray
from golddice.core.game.views import View
from golddice.core.stopping import Cancelled, current_stop
from golddice.core.terms.conditions import Conditions
from golddice.core.trial.compiling import Compiled, compiled_along
from golddice.core.trial.fields import pointer_to
from golddice.core.trial.kernel import EVENT, one_event
from golddice.core.trial.program import AT_RECEIPTS, S_CLOCK, S_COUNTS, S_SEEN, S_STACK
from golddice.core.trial.rng import at_event, start_of

_MOST_BINS = 2_000
_MOST_CELLS = 400_000  # of all droughts that are counted by how long they are


@dataclass(frozen=True)
class Paths:
    """Where players have their events: runs of events at one place, in order, player by player.

    starts : shape (p + 1,), where a player's runs begin. places, times : of each run.
    """

    starts: IntArray
    places: IntArray
    times: IntArray

    @property
    def players(self) -> int:
        return self.starts.size - 1

    @property
    def events(self) -> int:
        return int(self.times.sum(dtype=np.int64))

    def most(self) -> int:
        """The most events that one player has."""
        return int(np.add.reduceat(self.times, self.starts[:-1], dtype=np.int64).max(initial=1))


@dataclass(frozen=True)
class Asked:
    """What is asked of each place and item; shape (places, items of the catalogue). Places that are pooled
    are asked together too, in rows that follow theirs.

    pools : shape (places,), the row in which each is pooled with others; -1 of none. together : the items
    whose events are looked at together, by a number from 0 on for each place; -1 of others. within : a number
    of events, 0 where it is not asked who had one by then.
    """

    together: IntArray
    within: IntArray
    pools: IntArray


@dataclass(frozen=True)
class _Sums:
    """What all players together bring at each place, and at those that are pooled. n of both, i items.

    units, hits (n, i) and any (n,) : units, events with any, events with anything at all; units_var,
    any_var : how far a player's lives are apart; both (n, m, m) : the same of two items at once, of the hits
    of those that are looked at together. droughts (n, i, b) : lives by the longest time without, in bins.
    had (n, i) : lives that had one within what was asked.
    """

    units: FloatArray
    units_var: FloatArray
    hits: FloatArray
    any: FloatArray
    any_var: FloatArray
    both: FloatArray
    droughts: FloatArray
    had: FloatArray

    @staticmethod
    def none(places: int, items: int, together: int, bins: int) -> _Sums:
        pair = (places, items)
        shapes = (pair, pair, pair, (places,), (places,), (places, together, together), (*pair, bins), pair)
        return _Sums(*(np.zeros(shape) for shape in shapes))

    def plus(self, other: _Sums) -> _Sums:
        return _Sums(*(one + more for one, more in zip(self.all(), other.all(), strict=True)))

    def all(self) -> tuple[FloatArray, ...]:
        return tuple(getattr(self, one.name) for one in fields(_Sums))


@dataclass(frozen=True)
class Lives(_Sums):
    """The same on average of all lives of everybody, with variances and covariances of one such total;
    droughts and had stay counts of lives. `items` : their places in the catalogue, rising; `width` : events
    in a bin."""

    items: IntArray
    replicas: int
    width: int


def lived(
    places: Sequence[tuple[Conditions, View]], paths: Paths, asked: Asked, replicas: int, seed: int
) -> Lives:
    """Play everybody `replicas` times, at least twice. Raises TooLarge, Cancelled."""
    programs = compiled_along(places)
    items, count = programs[0].items, asked.within.shape[0]
    bins = max(16, min(_MOST_BINS, _MOST_CELLS // max(1, count * items.size)))
    width = paths.most() // bins + 1
    work = _Work(programs, paths, asked, replicas, seed, (bins, width))
    cores = max(1, min(os.cpu_count() or 1, paths.players))
    ends = [paths.players * at // cores for at in range(cores + 1)]
    with ThreadPoolExecutor(cores) as executor:
        parts = list(executor.map(work.done, ends[:-1], ends[1:]))
    sums = reduce(_Sums.plus, parts)
    if work.stop.is_set():
        raise Cancelled("what was asked is not wanted any more")
    return _averages(sums, replicas, width, items)


class _Work:
    def __init__(
        self,
        programs: list[Compiled],
        paths: Paths,
        asked: Asked,
        replicas: int,
        seed: int,
        bins: tuple[int, int],
    ) -> None:
        self.stop = current_stop()  # which threads of their own would not see
        self._paths, self._bins, self._seed, self._replicas = paths, bins, seed, replicas
        size = max(one.program.code.size for one in programs)
        self._codes = np.zeros((len(programs), size), dtype=np.int64)
        self._reals = np.zeros((len(programs), max(one.program.real.size for one in programs)))
        for at, one in enumerate(programs):
            self._codes[at, : one.program.code.size] = one.program.code
            self._reals[at, : one.program.real.size] = one.program.real
        self._roots = np.array([one.root for one in programs], dtype=np.int64)
        self._state_size = max(one.program.state_size for one in programs)
        self._together = _whole(asked.together[:, programs[0].items])
        self._within = _whole(asked.within[:, programs[0].items])
        self._pools = _whole(asked.pools)

    def done(self, first: int, end: int) -> _Sums:
        rows, items = self._within.shape
        sums = _Sums.none(rows, items, int(self._together.max(initial=-1)) + 1, self._bins[0])
        paths = self._paths
        _play_lives(
            (self._codes, self._reals, self._roots),
            (np.zeros(self._state_size, dtype=np.int64), np.zeros(1, dtype=np.uint64), np.zeros(1)),
            (_whole(paths.starts), _whole(paths.places), _whole(paths.times)),
            (first, end, self._replicas, self._seed),
            (self._together, self._within, self._bins[1], self._pools),
            self.stop.flag,
            sums.all(),
        )
        return sums


def _whole(numbers: IntArray) -> IntArray:
    """In the one layout that the loops are compiled for."""
    return np.ascontiguousarray(numbers, dtype=np.int64)


def _averages(sums: _Sums, replicas: int, width: int, items: IntArray) -> Lives:
    return Lives(
        items=items,
        replicas=replicas,
        width=width,
        units=sums.units / replicas,
        units_var=sums.units_var / (replicas - 1),
        hits=sums.hits / replicas,
        any=sums.any / replicas,
        any_var=sums.any_var / (replicas - 1),
        both=sums.both / (replicas - 1),
        droughts=sums.droughts,
        had=sums.had,
    )


@njit(cache=True, nogil=True)
def _play_lives(programs, work, paths, players, asked, halt, sums):  # type: ignore[no-untyped-def]
    """Play players `first` to `end` - 1 so many times each, and add to the sums.

    `programs` is (codes, reals, rows of the sources), by place; `work` is (a state, room for the generator
    and for seconds); `paths` as in `Paths`; `players` is (first, end, times, seed); `asked` is (together,
    within, events in a bin, pools).
    """
    starts, places, times = paths
    within, pools = asked[1], asked[3]
    count, slots = within.shape
    # Of a life: units, hits, the longest time without, the last one and the first one; and of a player: sums.
    life = np.zeros((5, count, slots))
    anything, lived = np.zeros(count), np.zeros(count)
    before = np.zeros(slots)
    of_player = np.zeros((3, count, slots))
    any_of_player = np.zeros((2, count))
    for player in range(players[0], players[1]):
        low, end = starts[player], starts[player + 1]
        for replica in range(players[2]):
            for run in range(low, end):
                _begin(places[run], life, anything, lived)
                if pools[places[run]] >= 0:
                    _begin(pools[places[run]], life, anything, lived)
            work[0][:] = 0
            before[:] = 0.0
            start = start_of(players[3], player * players[2] + replica)
            event = np.int64(0)
            for run in range(low, end):
                rows = (places[run], pools[places[run]])
                event = _one_run(
                    programs, work, start, rows, times[run], event, life, anything, lived, before, halt
                )
                if halt[0] != 0:
                    return
            for run in range(low, end):
                for row in (places[run], pools[places[run]]):
                    if row >= 0 and lived[row] > 0.0:
                        _add_life(row, life, anything, lived, of_player, any_of_player, asked, sums)
                        lived[row] = 0.0
        for run in range(low, end):
            for row in (places[run], pools[places[run]]):
                if row >= 0:
                    _add_player(row, players[2], of_player, any_of_player, asked, sums)


@njit(cache=True, nogil=True)
def _begin(row, life, anything, lived):  # type: ignore[no-untyped-def]
    life[:, row] = 0.0
    anything[row] = lived[row] = 0.0


@njit(cache=True, nogil=True)
def _one_run(programs, work, start, rows, times, event, life, anything, lived, before, halt):  # type: ignore[no-untyped-def]
    """Events of a life at one place, of which `rows` are its own and the pool's, -1 for none. Gives the
    number of the last."""
    place, pool = rows
    code, real = pointer_to(programs[0][place]), pointer_to(programs[1][place])
    state, random, nobody = pointer_to(work[0]), pointer_to(work[1]), pointer_to(work[2])
    sign = pointer_to(halt)
    slots, receipts = before.size, code[S_CLOCK] + AT_RECEIPTS
    seen = code[S_SEEN]
    for _ in range(times):
        event += 1
        lived[place] += 1.0
        if pool >= 0:
            lived[pool] += 1.0
        random[0] = at_event(start, event)
        stack = code[S_STACK]
        state[stack], state[stack + 1], state[stack + 2], state[stack + 3] = EVENT, programs[2][place], 1, 0
        was = state[receipts]
        one_event(code, real, state, random, event, sign, None, None, start, nobody)
        if halt[0] != 0:
            return event
        if state[receipts] == was:
            continue
        anything[place] += 1.0
        if pool >= 0:
            anything[pool] += 1.0
        for slot in range(slots):
            if state[seen + slot] == event:
                _hit(life, lived[place], place, slot)
                if pool >= 0:
                    _hit(life, lived[pool], pool, slot)
    counts = code[S_COUNTS]
    for slot in range(slots):
        came = state[counts + slot] - before[slot]
        life[0, place, slot] += came
        if pool >= 0:
            life[0, pool, slot] += came
        before[slot] = state[counts + slot]
    return event


@njit(cache=True, nogil=True)
def _hit(life, here, row, slot):  # type: ignore[no-untyped-def]
    life[1, row, slot] += 1.0
    life[2, row, slot] = max(life[2, row, slot], here - life[3, row, slot] - 1.0)
    life[3, row, slot] = here
    if life[4, row, slot] == 0.0:
        life[4, row, slot] = here


@njit(cache=True, nogil=True)
def _add_life(place, life, anything, lived, of_player, any_of_player, asked, sums):  # type: ignore[no-untyped-def]
    together, within, width, _ = asked
    both, droughts, had = sums[5][place], sums[6][place], sums[7][place]
    slots = within.shape[1]
    here = lived[place]
    any_of_player[0, place] += anything[place]
    any_of_player[1, place] += anything[place] ** 2
    for slot in range(slots):
        units, hits = life[0, place, slot], life[1, place, slot]
        of_player[0, place, slot] += units
        of_player[1, place, slot] += units * units
        of_player[2, place, slot] += hits
        longest = max(life[2, place, slot], here - life[3, place, slot])
        droughts[slot, min(droughts.shape[1] - 1, int(longest) // width)] += 1.0
        asked_by = within[place, slot]
        if 0 < asked_by <= here and 0.0 < life[4, place, slot] <= asked_by:
            had[slot] += 1.0
        mine = together[place, slot]
        if mine < 0 or hits == 0.0:
            continue
        for other in range(slots):
            if together[place, other] >= 0 and life[1, place, other] > 0.0:
                both[mine, together[place, other]] += hits * life[1, place, other]


@njit(cache=True, nogil=True)
def _add_player(place, replicas, of_player, any_of_player, asked, sums):  # type: ignore[no-untyped-def]
    """Once for each place: what was added is empty then."""
    together, both = asked[0], sums[5][place]
    slots = together.shape[1]
    sums[3][place] += any_of_player[0, place]
    sums[4][place] += any_of_player[1, place] - any_of_player[0, place] ** 2 / replicas
    any_of_player[:, place] = 0.0
    for slot in range(slots):
        units, squares = of_player[0, place, slot], of_player[1, place, slot]
        sums[0][place, slot] += units
        sums[1][place, slot] += squares - units * units / replicas
        hits = of_player[2, place, slot]
        sums[2][place, slot] += hits
        mine = together[place, slot]
        if mine < 0 or hits == 0.0:
            continue
        for other in range(slots):
            if together[place, other] >= 0 and of_player[2, place, other] > 0.0:
                both[mine, together[place, other]] -= hits * of_player[2, place, other] / replicas
    of_player[:, place] = 0.0
