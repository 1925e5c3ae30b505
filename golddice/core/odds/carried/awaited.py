"""The wait for a first one where what a player carries matters to it.

The chance of none is followed event by event. Once it falls alike from every state the rest is a
logarithm; where it takes long to come to that, the event's matrix is squared again and again, and the
event is found by halving. Both are exact; what can be neither is not told.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import cached_property

import numpy as np

from golddice.core.arrays import FloatArray, IntArray
from golddice.core.errors import TooLarge
from golddice.core.odds.carried.streak import AHEAD, Leaping, Stepping, Streak, Tail
from golddice.core.odds.carried.waits import CONFIDENCES

_TIE = 1e-11
_NEVER = 1e-13  # a rate that is nothing but rounding
_PATIENT = 8 * AHEAD  # events that are followed before matrices are squared
_MOST_SQUARED = 44  # times: some 10^13 events


class Awaited:
    """One column's first hit.

    miss : the chance that an event of what carries nothing misses.
    streaks : of what carries something, group by group; they are independent.
    patience : how many events are followed where there are no matrices.
    """

    def __init__(self, miss: float, streaks: list[Streak], patience: int) -> None:
        self._miss, self._streaks, self._patience = miss, streaks, patience
        self._leaping = [streak for streak in streaks if isinstance(streak, Leaping)]
        self._can_square = len(self._leaping) == len(streaks)
        self._powers: list[list[FloatArray]] = []

    def none_by(self, events: int) -> FloatArray:
        """Chance of none after 0, 1 ... so many events."""
        none = self._miss ** np.arange(events + 1)
        for streak in self._streaks:
            none = none * streak.upto(events)
        return np.asarray(none)

    def none_at(self, events: IntArray) -> FloatArray:
        """The same after these numbers of events, rising; far ones without all that lie between."""
        last = int(events.max(initial=0))
        near = min(last, 4 * _PATIENT)
        found = self.none_by(near)
        none = found[np.minimum(events, near)]
        far = events > near
        if far.any():
            none[far] = self._far(events[far])
        return none

    @cached_property
    def waits(self) -> dict[str, int | None]:
        """The first event by which it is as sure as each of CONFIDENCES, None for never.

        Raises TooLarge where it is not come to within the patience.
        """
        found: dict[str, int | None] = {}
        followed = 0
        while followed < self._patience:
            none = self.none_by(followed + AHEAD)[followed + 1 :]
            for name, q in CONFIDENCES.items():
                enough = np.flatnonzero(1.0 - none >= q - _TIE)
                if enough.size:
                    found.setdefault(name, followed + int(enough[0]) + 1)
            followed += AHEAD
            if len(found) == len(CONFIDENCES):
                return found
            rest = self._rest(followed)
            if rest is not None:
                return {name: found[name] if name in found else rest(q) for name, q in CONFIDENCES.items()}
        if not all(name in found or self._is_never(q) for name, q in CONFIDENCES.items()):
            raise TooLarge(f"a wait of more than {followed:,} events")
        return {name: found.get(name) for name in CONFIDENCES}

    def _rest(self, followed: int) -> Callable[[float], int | None] | None:
        """How what is not come to yet can be told; None where it has to be followed on."""
        tails = self._tails
        if tails is not None:
            return lambda q: self._by_tail(tails, q)
        return self._by_halves if followed >= _PATIENT and self._can_square else None

    @property
    def _tails(self) -> list[Tail] | None:
        found = [streak.tail for streak in self._streaks]
        return None if None in found else [tail for tail in found if tail is not None]

    def _by_tail(self, tails: list[Tail], q: float) -> int | None:
        """From log none(k) = a + k b."""
        a, b = self._line(tails)
        return None if -b < _NEVER else max(1, math.ceil((math.log1p(-q) - a) / b - 1e-9))

    def _line(self, tails: list[Tail]) -> tuple[float, float]:
        b = (math.log(self._miss) if self._miss > 0 else -math.inf) + sum(tail.step_log for tail in tails)
        return sum(tail.start_log - tail.start * tail.step_log for tail in tails), b

    def _far(self, events: IntArray) -> FloatArray:
        tails = self._tails
        if tails is not None:
            a, b = self._line(tails)
            return np.asarray(np.exp(a + events * b))
        if not self._can_square:
            raise TooLarge(f"chances after more than {events[0] - 1:,} events")
        return np.array([self._after(int(count)) for count in events])

    def _is_never(self, q: float) -> bool:
        """Whether so many players never have one that it is never so sure."""
        if self._miss < 1.0 or not all(isinstance(streak, Stepping) for streak in self._streaks):
            return False
        for_ever = [streak.for_ever for streak in self._streaks if isinstance(streak, Stepping)]
        return math.prod(for_ever) > 1.0 - q + _TIE

    # --- by squaring -----------------------------------------------------------------------------------

    def _squared(self, times: int) -> list[FloatArray]:
        """Each group's matrix of 2^times events."""
        while len(self._powers) <= times:
            last = self._powers[-1] if self._powers else None
            self._powers.append(
                [streak.matrix for streak in self._leaping]
                if last is None
                else [power @ power for power in last]
            )
        return self._powers[times]

    def _after(self, events: int) -> float:
        """Chance of none after so many events: one product for each binary digit."""
        rows = self._first_rows
        for digit in range(events.bit_length()):
            if events >> digit & 1:
                rows = [row @ power for row, power in zip(rows, self._squared(digit), strict=True)]
        return self._chance(rows, events)

    @property
    def _first_rows(self) -> list[FloatArray]:
        return [np.eye(1, streak.matrix.shape[0])[0] for streak in self._leaping]

    def _chance(self, rows: list[FloatArray], events: int) -> float:
        return float(self._miss**events * np.prod([row.sum() for row in rows]))

    def _by_halves(self, q: float) -> int | None:
        """The most events after which it is not so sure yet, digit by digit from the highest; and one."""
        if self._is_never(q):
            return None
        high = 0
        while self._after(1 << high) > 1.0 - q + _TIE:
            high += 1
            if high > _MOST_SQUARED:
                raise TooLarge(f"a wait of more than {1 << _MOST_SQUARED:,} events")
        rows, events = self._first_rows, 0
        for digit in reversed(range(high)):
            more = [row @ power for row, power in zip(rows, self._squared(digit), strict=True)]
            if self._chance(more, events + (1 << digit)) > 1.0 - q + _TIE:
                rows, events = more, events + (1 << digit)
        return events + 1
