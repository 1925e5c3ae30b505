"""A guard that is by itself: misses in a row are a chain in one dimension, however long.

A try in a state of m misses hits with chance c_m, after which m is 0 again, or misses, after which it is
m + 1. So the long run is a renewal process: one hit in as many tries as the chances to come so far without
one add up to; and who has none of a column yet follows from products of such chances (Feller, vol. 1, XIII).
A try comes in every event, or with a chance of its own that rests on nothing.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from propcache.api import cached_property

from golddice.core.arrays import FloatArray
from golddice.core.errors import TooLarge
from golddice.core.odds.event.outcome import Outcome
from golddice.core.stopping import go_on

MOST_STATES = 1 << 21
_MOST_TRIES = 1 << 20  # of a series that is worked out term by term
_NEVER = 1e-13  # so little is left of a series that is as good as told
_WIDE = 12.0  # standard deviations of how many tries there are
_STEADY = 1e-12


@dataclass(frozen=True)
class Renewal:
    """chances : of a hit by misses in a row, (n,), of more of them like the last. tried : the chance that an
    event tries at all. hit, miss : what a try gives then, carrying nothing."""

    chances: FloatArray
    tried: float
    hit: Outcome
    miss: Outcome

    @cached_property
    def _coming(self) -> FloatArray:
        """Chance to come to each state from a hit on, before the next: products of (1 - c)."""
        with np.errstate(divide="ignore"):
            log = np.log1p(-self.chances)
        return np.asarray(np.exp(np.concatenate([[0.0], np.cumsum(log[:-1])])))

    @cached_property
    def hits(self) -> float:
        """Of an event, in the long run."""
        coming, last = self._coming, float(self.chances[-1])
        if last == 0.0 and coming[-1] > 0.0:
            return 0.0
        rest = float(coming[-1]) / last if last > 0 else 0.0
        return self.tried / (math.fsum(coming[:-1].tolist()) + rest)

    def long_run_mean(self, column: int) -> float:
        """How many of a column per event, in the long run."""
        hit, miss = (one.figure(one.mean, column) for one in (self.hit, self.miss))
        return self.hits * hit + (self.tried - self.hits) * miss

    def first(self, column: int) -> First:
        """Of a fresh player's wait for a first one of a column."""
        some_hit, some_miss = (one.figure(one.hit, column) for one in (self.hit, self.miss))
        return First(
            (1.0 - self.chances) * (1.0 - some_miss),
            self.chances * (1.0 - some_hit),
            self.chances * some_hit + (1.0 - self.chances) * some_miss,
            self.tried,
        )


@dataclass(frozen=True)
class First:
    """Who has none yet: the chances to go on a state, and to begin anew, without one; and to have one; by
    state, (n,)."""

    on: FloatArray
    anew: FloatArray
    some: FloatArray
    tried: float

    can_double = False

    @property
    def for_ever(self) -> float:
        """The chance never to have one."""
        return 0.0 if bool((self.some > 0).any()) else 1.0

    @property
    def is_alike(self) -> bool:
        """Whether the chance of one is the same in every state."""
        return bool(np.ptp(self.some) <= 1e-15 * self.some[0])

    @property
    def first(self) -> float:
        """Of the next event."""
        return self.tried * float(self.some[0])

    # --- chances of none -----------------------------------------------------------------------------------

    def log_none_at(self, events: int) -> float:
        """Logarithm of the chance of none after so many events. Raises TooLarge."""
        if self.tried == 1.0:
            return self._log_none(events)
        mean, sd = events * self.tried, math.sqrt(events * self.tried * (1 - self.tried))
        low = max(0, math.floor(mean - _WIDE * sd - 40))
        high = min(events, math.ceil(mean + _WIDE * sd + 40))
        from scipy.stats import binom  # loaded when it is first needed

        far = self._far
        if far is not None and low > far[0]:  # a line from there on, whose mean is that of a power
            if far[2] == -math.inf:
                return -math.inf
            return far[1] - far[0] * far[2] + events * math.log1p(self.tried * math.expm1(far[2]))
        tries = np.arange(low, high + 1)
        logs = self._logs(high)[low:]
        chances = binom.pmf(tries, events, self.tried)
        had = float(chances @ -np.expm1(logs))
        if had < 0.5:
            return math.log1p(-had)
        left = float(chances @ np.exp(logs))
        return math.log(left) if left > 0 else -math.inf

    @cached_property
    def _far(self) -> tuple[int, float, float] | None:
        """From how many tries on each adds the same to the logarithm; what it is there, and what they add."""
        if not self._is_renewed:
            return self.on.size - 1, float(self._logs_on[-1]), float(self._log_on[-1])
        logs, step = self._series
        return None if step is None else (logs.size - 1, float(logs[-1]), step)

    def _log_none(self, tries: int) -> float:
        if not self._is_renewed:
            within = min(tries, self.on.size - 1)
            more = (tries - within) * float(self._log_on[-1]) if tries > within else 0.0
            return float(self._logs_on[within]) + more
        logs, step = self._series
        if tries < logs.size:
            return float(logs[tries])
        if step is None:
            raise TooLarge(f"chances after more than {logs.size - 1:,} tries")
        return float(logs[-1]) + (tries - logs.size + 1) * step

    def _logs(self, tries: int) -> FloatArray:
        """After 0, 1 ... so many tries."""
        if tries > MOST_STATES:
            raise TooLarge(f"chances after {tries:,} tries")
        if self._is_renewed:
            logs, step = self._series
            if tries < logs.size:
                return logs[: tries + 1]
            if step is None:
                raise TooLarge(f"chances after more than {logs.size - 1:,} tries")
            more = np.arange(1, tries - logs.size + 2) * step
            return np.concatenate([logs, logs[-1] + more])
        known = self._logs_on[: tries + 1]
        if tries < known.size:
            return known
        more = np.arange(1, tries - known.size + 2) * float(self._log_on[-1])
        return np.concatenate([known, known[-1] + more])

    @property
    def _is_renewed(self) -> bool:
        return bool((self.anew > 0).any())

    @cached_property
    def _log_on(self) -> FloatArray:
        with np.errstate(divide="ignore"):
            return np.log1p(-self.some) if not self._is_renewed else np.log(self.on)

    @cached_property
    def _logs_on(self) -> FloatArray:
        """Of having gone on all the time, after 0 ... n - 1 tries."""
        return np.concatenate([[0.0], np.cumsum(self._log_on[:-1])])

    @cached_property
    def _series(self) -> tuple[FloatArray, float | None]:
        """Logarithms of the chance of none try by try, until next to nothing is left or it goes on alike; and
        what every try more adds then.

        None(z) = A(z) / (1 - R(z)), A the chance to have gone on all the time and R to begin anew.
        """
        size = max(1 << 10, 1 << (2 * self.on.size).bit_length())  # all states can have been come to
        while True:
            go_on()
            none = self._none(size)
            rates = none[-size // 4 :][1:] / np.maximum(none[-size // 4 : -1], 1e-300)
            is_alike = none[-1] > 1e-9 and float(np.ptp(rates)) <= _STEADY
            if none[-1] < _NEVER or is_alike:
                kept = none[none > _NEVER] if not is_alike else none
                step = float(np.log(rates[-1])) if is_alike else None
                logs = np.log(kept)
                return (logs, step) if is_alike else (logs, float(logs[-1] - logs[-2]))
            if size >= _MOST_TRIES:
                return np.log(np.maximum(none, 1e-300)), None
            size *= 4

    def _none(self, size: int) -> FloatArray:
        steps = np.arange(size)
        within = np.minimum(steps, self.on.size - 1)
        with np.errstate(invalid="ignore"):
            more = np.where(steps > within, (steps - within) * float(self._log_on[-1]), 0.0)
        going = np.exp(self._logs_on[within] + more)
        again = np.concatenate([[0.0], going[:-1] * self.anew[within[:-1]]])
        inverse = np.ones(1)
        denominator = -again
        denominator[0] = 1.0
        while inverse.size < size:  # Newton's step for a reciprocal doubles its terms
            terms = 2 * inverse.size
            product = _product(denominator[:terms], inverse, terms)
            inverse = _product(inverse, np.concatenate([[2.0 - product[0]], -product[1:]]), terms)
        return np.clip(_product(going, inverse[:size], size), 0.0, 1.0)

    # --- the mean ------------------------------------------------------------------------------------------

    def mean(self, log_miss: float) -> float:
        """Events to a first one, where another part misses with this logarithm in every event: the sum of
        the chances of none."""
        miss = math.exp(log_miss)
        each = self.tried * miss / (1.0 - (1.0 - self.tried) * miss)
        going, again = self._sums(each)
        left = 1.0 - again if each < 1.0 or again < 0.5 else self._ended
        return going / left / (1.0 - (1.0 - self.tried) * miss) if left > 0 else math.inf

    @property
    def _ended(self) -> float:
        """Chance to have one before the chain begins anew: what is left without the loss of 1 - x."""
        going = np.exp(self._logs_on)
        total = float(going[:-1] @ self.some[:-1])
        last = float(self.some[-1] + self.anew[-1])
        return total + (float(going[-1]) * float(self.some[-1]) / last if last > 0 else 0.0)

    def _sums(self, each: float) -> tuple[float, float]:
        """A(z) and R(z) at z, which is next to 1."""
        steps = np.arange(self.on.size)
        going = np.exp(self._logs_on + steps * math.log(each))
        last = each * float(self.on[-1])
        if last >= 1.0 and going[-1] > 0:
            return math.inf, 0.0
        tail = float(going[-1]) / (1.0 - last)
        total = math.fsum(going[:-1].tolist()) + tail
        return total, each * (float(going[:-1] @ self.anew[:-1]) + tail * float(self.anew[-1]))


def _product(one: FloatArray, other: FloatArray, terms: int) -> FloatArray:
    from scipy.signal import fftconvolve  # loaded when it is first needed

    return np.asarray(fftconvolve(one[:terms], other[:terms])[:terms], dtype=np.float64)
