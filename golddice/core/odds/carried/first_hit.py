"""The wait for a first one where what a player carries matters to it.

What is followed is the chance of having one, and of the first one at the very next event: both are sums of
positive terms, so the digits of tiny chances are kept through any number of events. Once it comes alike
from every state the rest is a logarithm; where it takes long to come to that, the event is doubled again and
again, and the answer found by halving.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import NamedTuple

import numpy as np
from propcache.api import cached_property

from golddice.core.arrays import BoolArray, FloatArray, IntArray
from golddice.core.errors import TooLarge
from golddice.core.odds.carried.chain import ending_in, long_run_weights
from golddice.core.odds.carried.loops import classes_from_start
from golddice.core.odds.carried.renewal import First
from golddice.core.odds.event.waits import CONFIDENCES, rounded_up
from golddice.core.stopping import go_on

AHEAD = 64  # events that are followed at a time
_MOST_LEAPING = 600  # states of which a matrix is raised to powers
_SAME = 1e-12  # of a rate
_ROUNDING = 1e-13
_TIE = 1e-11  # of a logarithm
_LITTLE = 1e-20  # that adds nothing to a mean
_FAR = 62  # times that an event is doubled: some 4 * 10^18 events


class Tail(NamedTuple):
    """From the event `start` on the chance of none is exp(`start_log` + (k - start) * `step_log`)."""

    start: int
    start_log: float
    step_log: float


class Stretch(NamedTuple):
    """AHEAD events of players who had none before.

    had : chance that a fresh player has one after each of them.
    tail : how it goes on after the last of them, where that is known.
    """

    had: FloatArray
    tail: Tail | None


class Followed(NamedTuple):
    """How far players have been followed, never changed: what goes further is another one. So threads that
    ask at once, and questions that are cancelled, leave nothing half-way.

    coming, none : by state at the beginning, the chance that the first one comes in the very next event
        after all these, and that there is none by then.
    """

    stretches: tuple[Stretch, ...]
    coming: FloatArray
    none: FloatArray


class Streak:
    """Players who have none yet, by state, followed as far as it is asked for."""

    can_double = False

    def __init__(self, step: Callable[[FloatArray], FloatArray], hit: FloatArray) -> None:
        """`step` gives the same figure an event earlier, where none may come in it; `hit` is the chance
        that one comes, by state."""
        self._step, self.hit = step, hit
        self._followed = Followed((), hit, np.ones(hit.size))

    def had(self, events: int) -> FloatArray:
        """Chance that a fresh player has one after 0, 1 ... so many events, shape (events + 1,)."""
        parts = [stretch.had for stretch in self._stretches(events)]
        return np.concatenate([[0.0], *parts])[: events + 1]

    def log_none(self, events: int) -> FloatArray:
        """Logarithm of the chance of none, likewise; -inf where one is certain."""
        with np.errstate(divide="ignore"):
            return np.log1p(-self.had(events))

    def tail(self, events: int) -> Tail | None:
        """How it goes on after these events or a few more, where one comes alike in every state: then the
        states have sorted themselves out, and it goes on so for ever."""
        return self._stretches(events)[-1].tail

    @property
    def met(self) -> BoolArray:
        """The states that a player without any can be in."""
        return np.ones(self.hit.size, dtype=bool)

    def _stretches(self, events: int) -> tuple[Stretch, ...]:
        wanted, at = -(-events // AHEAD), self._followed
        while len(at.stretches) < wanted:
            had, coming, none = self._ahead_of(at)
            tail = self._tail(AHEAD * (len(at.stretches) + 1), float(had[-1]), coming, none)
            self._followed = at = Followed((*at.stretches, Stretch(had, tail)), coming, none)
        return at.stretches[:wanted]

    def _ahead_of(self, at: Followed) -> tuple[FloatArray, FloatArray, FloatArray]:
        """AHEAD events more: who has one after each of them, and the figures by state."""
        coming, none, first = at.coming, at.none, np.empty(AHEAD)
        for event in range(AHEAD):
            first[event] = coming[0]
            coming, none = self._step(coming), self._step(none)
        return self._with(at, first), coming, none

    def _with(self, at: Followed, first: FloatArray) -> FloatArray:
        """Who has one, where so many have their first one in each event."""
        before = at.stretches[-1].had[-1] if at.stretches else 0.0
        return np.minimum(before + np.cumsum(first), 1.0)

    def _tail(self, events: int, had: float, coming: FloatArray, none: FloatArray) -> Tail | None:
        met_none, met_coming = none[self.met], coming[self.met]
        if not bool((met_none > 0).all()):
            return None
        rates = met_coming / met_none
        if np.ptp(rates) > _SAME * float(rates.max()) or rates[0] >= 1.0 - _ROUNDING:
            return None
        start_log = math.log1p(-had) if had < 0.5 else math.log(none[0])
        return Tail(events, start_log, math.log1p(-float(rates[0])))


class Misses(NamedTuple):
    """One event without the first one, as a matrix of moves between states; all that is made of it.

    hit : chance that one comes, by state. rows, leap : of all powers of an event below AHEAD the first row,
        and that power; of none where states are many. classes, closed : as `classes_from_start` tells them.
    """

    moves: FloatArray
    hit: FloatArray
    rows: FloatArray
    leap: FloatArray
    classes: IntArray
    closed: BoolArray

    @staticmethod
    def of(moves: FloatArray, hit: FloatArray) -> Misses:
        moves = with_rows(moves, hit)
        rows, power = np.zeros((1, hit.size)), moves
        rows[0, 0] = 1.0
        while rows.shape[0] < AHEAD and hit.size <= _MOST_LEAPING:
            rows = np.vstack([rows, rows @ power])
            power = power @ power
        return Misses(moves, hit, rows, power, *classes_from_start(np.ascontiguousarray(moves)))


class MatrixStreak(Streak):
    """The same with one event as a matrix of moves without one; several events at a time where the states
    are few."""

    def __init__(self, event: Misses) -> None:
        self.event, self.moves = event, event.moves
        super().__init__(lambda figure: np.asarray(event.moves @ figure), event.hit)
        self.can_double = event.hit.size <= _MOST_LEAPING
        self._doubled: tuple[tuple[FloatArray, FloatArray], ...] = ((event.moves, event.hit),)

    def _ahead_of(self, at: Followed) -> tuple[FloatArray, FloatArray, FloatArray]:
        if not self.can_double:
            return super()._ahead_of(at)
        rows, leap = self.event.rows, self.event.leap
        return self._with(at, rows @ at.coming), leap @ at.coming, leap @ at.none

    @property
    def met(self) -> BoolArray:
        return np.asarray(self.event.classes >= 0)

    @cached_property
    def for_ever(self) -> float:
        """The chance never to have one: to come to where none can come any more."""
        classes, closed = self.event.classes, self.event.closed
        empty = [at for at in np.flatnonzero(closed) if not bool((self.hit[classes == at] > 0).any())]
        if not empty:
            return 0.0
        return float(ending_in(self.moves, classes, [np.isin(classes, empty)], self.hit)[0])

    # --- doubled ---------------------------------------------------------------------------------------

    def doubled(self, times: int) -> tuple[FloatArray, FloatArray]:
        """2^times events: the moves without one, and the chance of any, by state."""
        known = self._doubled
        while len(known) <= times:
            moves, hit = known[-1]
            some = np.minimum(hit + moves @ hit, 1.0)
            self._doubled = known = (*known, (with_rows(moves @ moves, some), some))
        return known[times]


def with_rows(moves: FloatArray, hit: FloatArray) -> FloatArray:
    """The moves scaled so that each row adds up to what is left by the hits, where those are few: they
    keep their digits, and one less a sum of moves would not."""
    rows = moves.sum(axis=1)
    few = (hit < 0.5) & (rows > 0)
    return np.where(few[:, None], moves * ((1.0 - hit) / np.where(rows > 0, rows, 1.0))[:, None], moves)


class FirstHit:
    """One column's first hit.

    log_miss : of the chance that an event of what carries nothing misses.
    streaks : of what carries something, group by group; they are independent.
    patience : how many events are followed where they cannot be doubled.
    until : the last event of which the streaks tell.
    """

    def __init__(
        self, log_miss: float, streaks: Sequence[Streak | First], patience: int, until: float = math.inf
    ) -> None:
        self._log_miss, self._patience, self._until = log_miss, patience, until
        self._firsts = [one for one in streaks if isinstance(one, First)]
        self._streaks = [one for one in streaks if isinstance(one, Streak)]
        self._matrices = [one for one in self._streaks if isinstance(one, MatrixStreak)]
        self._can_double = all(one.can_double for one in self._streaks)

    def log_none(self, events: int) -> FloatArray:
        """Logarithm of the chance of none after 0, 1 ... so many events."""
        with np.errstate(invalid="ignore"):
            total = np.arange(events + 1) * self._log_miss
        total[0] = 0.0
        for streak in self._streaks:
            total = total + streak.log_none(events)
        for first in self._firsts:
            total = total + np.array([first.log_none_at(event) for event in range(events + 1)])
        return np.asarray(total)

    def none_by(self, events: int) -> FloatArray:
        return np.exp(self.log_none(events))

    def none_at(self, events: IntArray) -> FloatArray:
        """Chance of none after these numbers of events, rising; far ones without all that lie between.
        Raises TooLarge."""
        self._check(int(events.max(initial=0)))
        if self._firsts:
            return np.exp([self._log_none_at(int(event)) for event in events])
        near = min(int(events.max(initial=0)), 32 * AHEAD)
        none = self.none_by(near)[np.minimum(events, near)]
        far = events > near
        if far.any():
            none[far] = np.exp(self._far(events[far], near))
        return none

    @cached_property
    def waits(self) -> dict[str, int | None]:
        """The first event by which it is as sure as each of CONFIDENCES, None for never.

        Raises TooLarge where it is not come to within the patience.
        """
        found = self._by_search() if self._firsts else self._followed_waits()
        for wait in found.values():
            self._check(math.inf if wait is None else wait)
        return found

    def _check(self, events: float) -> None:
        if events > self._until:
            raise TooLarge(f"a wait of more than {self._until:,} events, when limits can have been reached")

    def _log_none_at(self, events: int) -> float:
        """Logarithm of the chance of none after so many events, where all of them need not be followed."""
        if len(self._matrices) < len(self._streaks) or not self._can_double:
            raise TooLarge("a wait for what is carried by many states and by long streaks")
        found = sum(first.log_none_at(events) for first in self._firsts)
        return found + self._after(events)

    def _by_search(self) -> dict[str, int | None]:
        found: dict[str, int | None] = {}
        for name, q in CONFIDENCES.items():
            enough = math.log1p(-q) + _TIE
            if self._is_never(q):
                found[name] = None
                continue
            high = 1
            while self._log_none_at(high) > enough:
                go_on()
                high *= 2
                if high >> _FAR:
                    raise TooLarge(f"a wait of more than {1 << _FAR:,} events")
            low = high // 2
            while high - low > 1:
                middle = (low + high) // 2
                low, high = (low, middle) if self._log_none_at(middle) <= enough else (middle, high)
            found[name] = high
        return found

    def _followed_waits(self) -> dict[str, int | None]:
        found: dict[str, int | None] = {}
        followed = 0
        while followed < self._patience:
            more = self.log_none(followed + AHEAD)
            for name, q in CONFIDENCES.items():
                at = None if name in found else _reached(more, followed, math.log1p(-q))
                if at is not None:
                    found[name] = at
            followed += AHEAD
            if len(found) == len(CONFIDENCES):
                return found
            rest = self._rest(followed)
            if rest is not None:
                return {name: found[name] if name in found else rest(q) for name, q in CONFIDENCES.items()}
        if not all(name in found or self._is_never(q) for name, q in CONFIDENCES.items()):
            raise TooLarge(f"a wait of more than {followed:,} events")
        return {name: found.get(name) for name in CONFIDENCES}

    @cached_property
    def mean(self) -> float:
        """Events to the first one on average; infinite where some never have one.

        Of one group a hit is taken to begin anew: the long run's rate of hits is then one over the mean (the
        renewal theorem). Else followed until it goes on alike. Raises TooLarge where that takes too long.
        """
        if self._until < math.inf and float(self.none_at(np.array([int(self._until)]))[0]) > _LITTLE:
            raise TooLarge(f"a mean wait when limits can have been reached, after {self._until:,} events")
        miss = math.exp(self._log_miss)
        if self._firsts:
            if miss == 0.0:
                return 1.0
            if len(self._firsts) + len(self._streaks) > 1:
                raise TooLarge("a mean wait for what is carried by several long streaks")
            return self._firsts[0].mean(self._log_miss)
        if not self._streaks:
            return 1.0 / -math.expm1(self._log_miss) if miss < 1.0 else math.inf
        if self._is_ever_left():
            return math.inf
        if len(self._matrices) == len(self._streaks) == 1:
            moves, hit = self._matrices[0].moves, self._matrices[0].hit
            hits = hit + -math.expm1(self._log_miss) * (1.0 - hit)
            renewed = miss * moves
            renewed[:, 0] += hits
            return 1.0 / float(long_run_weights(renewed) @ hits)
        return self._mean_followed()

    def _is_ever_left(self) -> bool:
        """Whether some players never have one, as far as all are told by matrices."""
        if self._log_miss < 0.0 or len(self._matrices) < len(self._streaks):
            return False
        return all(streak.for_ever > 0.0 for streak in self._matrices)

    def _mean_followed(self) -> float:
        followed = AHEAD
        while followed < self._patience:
            none, tails = self.none_by(followed), self._tails(followed)
            if none[-1] == 0.0:
                return float(none.sum())
            if tails is not None:
                step = self._line(tails)[1]
                rest = float(none[-1]) / -math.expm1(step) if step < 0 else math.inf
                return float(none[:-1].sum()) + rest
            followed *= 2
        raise TooLarge(f"a mean wait that is not told by {self._patience:,} events")

    def _rest(self, followed: int) -> Callable[[float], int | None] | None:
        """How what is not come to yet can be told; None where it has to be followed on."""
        tails = self._tails(followed)
        if tails is not None:
            return lambda q: self._by_tail(tails, q)
        return self._by_halves if followed >= 8 * AHEAD and self._can_double else None

    def _tails(self, followed: int) -> list[Tail] | None:
        found = [streak.tail(followed) for streak in self._streaks]
        return None if None in found else [tail for tail in found if tail is not None]

    def _by_tail(self, tails: list[Tail], q: float) -> int | None:
        """From log none(k) = a + k b."""
        a, b = self._line(tails)
        return None if b == 0.0 else max(1, rounded_up((math.log1p(-q) - a) / b))

    def _line(self, tails: list[Tail]) -> tuple[float, float]:
        b = self._log_miss + sum(tail.step_log for tail in tails)
        return sum(tail.start_log - tail.start * tail.step_log for tail in tails), b

    def _far(self, events: IntArray, near: int) -> FloatArray:
        tails = self._tails(near)
        if tails is not None:
            a, b = self._line(tails)
            return np.asarray(a + events * b)
        if not self._can_double:
            raise TooLarge(f"chances after more than {events[0] - 1:,} events")
        return np.array([self._after(int(count)) for count in events])

    def _is_never(self, q: float) -> bool:
        """Whether so many players never have one that it is never so sure."""
        if self._log_miss < 0.0 or len(self._matrices) < len(self._streaks):
            return False
        each = [streak.for_ever for streak in self._matrices] + [first.for_ever for first in self._firsts]
        for_ever = math.prod(each)
        # What is come to at no event, though closer and closer, is never there.
        return for_ever >= (1.0 - q) * (1.0 - _TIE)

    # --- by doubling -----------------------------------------------------------------------------------

    def _after(self, events: int) -> float:
        """Log of the chance of none after so many events: one product for each binary digit."""
        walker = _Walker(self._log_miss, self._matrices)
        for digit in range(events.bit_length()):
            if events >> digit & 1:
                walker = walker.on(digit)
        return walker.log_none

    def _by_halves(self, q: float) -> int | None:
        """The most events after which it is not so sure yet, digit by digit from the highest; and one."""
        if self._is_never(q):
            return None
        enough = math.log1p(-q) + _TIE
        fresh, high = _Walker(self._log_miss, self._matrices), 0
        while fresh.on(high).log_none > enough:
            high += 1
            if high > _FAR:
                raise TooLarge(f"a wait of more than {1 << _FAR:,} events")
        walker = fresh
        for digit in reversed(range(high)):
            more = walker.on(digit)
            walker = more if more.log_none > enough else walker
        return walker.events + 1


class _Walker:
    """A player some events on, who has none yet: where they may be, and the chance to have had one."""

    def __init__(self, log_miss: float, streaks: list[MatrixStreak]) -> None:
        self._log_miss, self._streaks, self.events = log_miss, streaks, 0
        self._rows = [np.eye(1, streak.hit.size)[0] for streak in streaks]
        self._had = [0.0 for _ in streaks]

    @property
    def log_none(self) -> float:
        found = self.events * self._log_miss if self.events else 0.0
        for had, row in zip(self._had, self._rows, strict=True):
            left = float(row.sum())
            found += math.log1p(-had) if had < 0.5 else math.log(left) if left > 0 else -math.inf
        return found

    def on(self, digit: int) -> _Walker:
        """2^digit events further."""
        result = _Walker(self._log_miss, self._streaks)
        result.events = self.events + (1 << digit)
        for at, streak in enumerate(self._streaks):
            moves, hit = streak.doubled(digit)
            row = self._rows[at] @ moves
            had = min(self._had[at] + float(self._rows[at] @ hit), 1.0)
            left = float(row.sum())
            result._rows[at] = row * ((1.0 - had) / left) if had < 0.5 and left > 0 else row
            result._had[at] = had
        return result


def _reached(log_none: FloatArray, followed: int, enough: float) -> int | None:
    """The first event beyond those followed at which none is as unlikely as it should be.

    What misses by rounding alone counts (a tie); but not what is come ever closer to and never reached,
    of which every step is as small as what is missing.
    """
    now = log_none[followed + 1 :] - enough
    with np.errstate(invalid="ignore"):
        step = log_none[followed:-1] - log_none[followed + 1 :]
    ties = (np.abs(now) <= _TIE) & (step > _TIE) & (np.abs(now) < 1e-3 * step)
    there = np.flatnonzero((now < -_TIE) | ties)
    return followed + int(there[0]) + 1 if there.size else None
