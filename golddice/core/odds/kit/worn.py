"""The best score so far in a slot, and how often it rises: exactly, where nothing is carried.

With A(x) the chance that any unit of the slot in one event scores above x, what is worn after N events is
at most x with chance (1 - A(x))^N = e^(-N R(x)), R = -log(1 - A), for x from 0 on. R is smooth between the
scores at which the scores of its items change their piece, so it is told by its values at the nodes of a
quadrature in each piece; along a route those of its stops are added. So a slot that is filled once in a
million million events has all its digits, and what is all but certain after thousands of events has them too.

Pieces in which R or A changes by powers of ten are cut towards the end where they are small (`refined`): a
polynomial cannot follow them.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from propcache.api import cached_property

from golddice.core.arrays import FloatArray, IntArray

NODES, WEIGHTS = np.polynomial.legendre.leggauss(40)
_HALVINGS = 54
_TIE = 1e-12
_PANEL, _PANEL_WEIGHTS = np.polynomial.legendre.leggauss(20)
_NOTHING = 1e-18
_RATIO = 8.0  # by which a piece shrinks from cut to cut
_MOST_CUTS = 12
_STEEP = 8.0  # so many times as likely at one end of a piece: it is cut
# Between these R times N is integrated piece by piece: beyond the first nothing less is worn.
_LEVELS = np.array([45.0, 20.0, 8.0, 3.0, 1.0])
QUANTILES = (0.05, 0.5, 0.95)


def _barycentric() -> FloatArray:
    """Weights by which a polynomial is told from its values at the nodes (Berrut and Trefethen 2004): of
    Gauss's nodes (-1)^k sqrt((1 - x^2) w)."""
    signs = np.where(np.arange(NODES.size) % 2, -1.0, 1.0)
    return np.asarray(signs * np.sqrt((1 - NODES**2) * WEIGHTS))


_TOLD_BY = _barycentric()


def grid(knots: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Of the scores above 0 at which A may change its piece, rising: the ends of the pieces (k + 1,), and the
    nodes inside (k, 40)."""
    edges = np.concatenate([[0.0], knots])
    half = np.diff(edges) / 2
    return edges, (edges[:-1] + half)[:, None] + half[:, None] * NODES


def refined(knots: FloatArray, at: FloatArray, before: FloatArray) -> FloatArray:
    """The knots with more of them where a piece is steep, from A at the ends of the pieces and before them,
    (k + 1,) each: towards its low end where hardly anything scores less there, towards its high end where
    hardly anything scores more."""
    edges = np.concatenate([[0.0], knots])
    found = [knots]
    for piece, (low, high) in enumerate(zip(edges[:-1].tolist(), edges[1:].tolist(), strict=True)):
        begin, end = float(at[piece]), float(before[piece + 1])
        shrinking = (high - low) * _RATIO ** -np.arange(1.0, _MOST_CUTS + 1)
        found.append(low + shrinking[: _cuts(1.0 - begin, 1.0 - end)])
        found.append(high - shrinking[: _cuts(end, begin)])
    every = np.unique(np.concatenate(found))
    # What rounding puts on an end, or next to one, is no piece of its own.
    apart = np.diff(every, prepend=0.0) > 1e-13 * every
    return np.asarray(every[apart | np.isin(every, knots)])


def _cuts(little: float, much: float) -> int:
    if much <= 0.0 or little * _STEEP >= much:
        return 0
    if little <= 0.0:
        return _MOST_CUTS
    return min(_MOST_CUTS, int(np.ceil(np.log(much / little) / np.log(_RATIO))))


@dataclass(frozen=True)
class Worn:
    """mean, p05, p50, p95 of the score that is worn; nothing is 0."""

    mean: float
    p05: float
    p50: float
    p95: float


@dataclass(frozen=True)
class Above:
    """R at the ends of its pieces (k + 1,), its limits from the left there, and its values inside (k, 40);
    infinite where it is certain that more is scored."""

    edges: FloatArray
    at: FloatArray
    before: FloatArray
    inside: FloatArray

    @staticmethod
    def of(edges: FloatArray, at: FloatArray, before: FloatArray, inside: FloatArray) -> Above:
        """From A at the same scores."""
        with np.errstate(divide="ignore"):
            rates = [-np.log1p(-np.minimum(part, 1.0)) for part in (at, before, inside)]
        return Above(edges, *rates)

    @property
    def any(self) -> float:
        """Chance of any score above 0."""
        return -math.expm1(-float(self.at[0]))

    def mixed(self, counts: FloatArray, chances: FloatArray) -> Above:
        """Of so many events, whose number has these chances."""
        if counts.size == 1:
            parts = (_times(part, float(counts[0])) for part in (self.at, self.before, self.inside))
            return Above(self.edges, *parts)
        some = (_any_of(part[..., None], counts) @ chances for part in (self.at, self.before, self.inside))
        at, before, inside = some
        return Above.of(self.edges, at, before, inside)

    def times(self, other: Above) -> Above:
        """Of both, one after the other; their pieces are the same."""
        pairs = ((self.at, other.at), (self.before, other.before), (self.inside, other.inside))
        return Above(self.edges, *(one + another for one, another in pairs))

    # --- what is worn ------------------------------------------------------------------------------------

    def worn(self, power: int = 1) -> Worn:
        """After so many events."""
        if self.edges.size == 1:
            return Worn(0.0, 0.0, 0.0, 0.0)
        wanted = -np.log(np.array(QUANTILES)) / power * (1.0 + _TIE)
        levels = _LEVELS / power
        places, where = self._first_at_most(np.concatenate([wanted, levels]))
        scores = self._scores(places, where)
        cuts = (places[wanted.size :], where[wanted.size :])
        return Worn(self._mean(power, *cuts), *scores[: wanted.size].tolist())

    def _mean(self, power: int, pieces: IntArray, where: FloatArray) -> float:
        """The integral of the chance that more is worn: by the nodes, but for pieces within which it goes
        from all to hardly any, which are cut at some levels."""
        half = np.diff(self.edges) / 2
        rate = _times(self.inside, float(power))
        sums = -np.expm1(-rate) @ WEIGHTS
        for piece in np.unique(pieces[(where > -1.0) & (where < 1.0)]).tolist():
            cuts = np.unique(np.clip(where[pieces == piece], -1.0, 1.0))
            ends = np.unique(np.concatenate([[-1.0], cuts, [1.0]]))
            wide = np.diff(ends)[:, None] / 2
            points = ends[:-1, None] + wide * (1.0 + NODES)
            told = _told(np.full(points.size, piece), points.ravel(), self.inside).reshape(points.shape)
            sums[piece] = float((wide * -np.expm1(-power * np.maximum(told, 0.0)) * WEIGHTS).sum())
        return float(half @ sums)

    def _first_at_most(self, wanted: FloatArray) -> tuple[IntArray, FloatArray]:
        """Of each the least score at which R is no more: its piece, and where in that from -1 to 1.

        Raises nothing: R is 0 at the last end. A score of 0 is at -1 of the first piece.
        """
        rows = np.argmax(self.at[:, None] <= wanted, axis=0)
        pieces = np.maximum(rows - 1, 0)
        is_step = self.before[rows] > wanted  # it is reached by a step at the piece's end
        where = np.where(rows == 0, -1.0, 1.0)
        inside = np.flatnonzero((rows > 0) & ~is_step)
        if inside.size:
            where[inside] = self._crossings(pieces[inside], wanted[inside])
        return pieces, where

    def _crossings(self, pieces: IntArray, wanted: FloatArray) -> FloatArray:
        """Where R comes down to so much, by halving."""
        low, high = np.full(wanted.size, -1.0), np.ones(wanted.size)
        for _ in range(_HALVINGS):
            middle = (low + high) / 2
            over = _told(pieces, middle, self.inside) > wanted
            low, high = np.where(over, middle, low), np.where(over, high, middle)
        return high

    def _scores(self, pieces: IntArray, where: FloatArray) -> FloatArray:
        begin, end = self.edges[pieces], self.edges[pieces + 1]
        found = begin + (where + 1) / 2 * (end - begin)
        return np.asarray(np.where(where >= 1.0, end, found))

    # --- how often it rises ------------------------------------------------------------------------------

    def upgrades(self, events: int) -> float:
        """How many of the first events leave a better score worn than before.

        The k-th does where its best is above 0 and above all before: the integral of (1 - A(x-))^(k-1) over
        -dA(x), summed over k up to N: that of (1 - (1 - A)^N) / A. Where A falls by a step, times its height.
        """
        total = 0.0
        for high, low, after in self._falls:
            total += _integral(low, high, events)
            if low > after:
                total += (low - after) * float(_any_of(_rate(low), events)) / low
        return total

    def upgrade_at(self, event: int) -> float:
        """Chance that an event, counted from 1, leaves a better score worn than before."""
        total = 0.0
        for high, low, after in self._falls:
            if high > low and low < 1.0:  # ((1 - low)^k - (1 - high)^k) / k
                fewer = float(_any_of(_rate((high - low) / (1.0 - low)), event))
                total += float(np.exp(event * np.log1p(-low))) * fewer / event
            if low > after:
                total += (low - after) * (1.0 - low) ** (event - 1)
        return total

    @cached_property
    def _falls(self) -> list[tuple[float, float, float]]:
        """Where A falls without a step, from how much to how much, and to how much by the step after that."""
        at, before = -np.expm1(-self.at), -np.expm1(-self.before)
        steps = np.flatnonzero(before[1:] > at[1:]) + 1
        ends = np.unique(np.append(steps, at.size - 1)) if at.size > 1 else np.zeros(0, dtype=np.int64)
        starts = np.concatenate([[0], ends[:-1]])
        found = zip(at[starts].tolist(), before[ends].tolist(), at[ends].tolist(), strict=True)
        return list(found) if ends.size else []


def _times(rates: FloatArray, count: float) -> FloatArray:
    """So many times as much; none of what is infinite is nothing."""
    return np.zeros_like(rates) if count == 0 else rates * count


def _rate(chance: float) -> FloatArray:
    with np.errstate(divide="ignore"):
        return np.asarray(-np.log1p(-np.float64(chance)))


def _any_of(rate: FloatArray, tries: FloatArray | int) -> FloatArray:
    """Chance of any in so many independent tries, from -log of the chance of none in one."""
    with np.errstate(invalid="ignore"):
        found = -np.expm1(-np.asarray(tries) * rate)
    return np.asarray(np.where(np.asarray(tries) == 0, 0.0, found))


def _integral(low: float, high: float, events: int) -> float:
    """Of (1 - (1 - y)^N) / y over y: by the logarithm of y, in panels of about a factor of e.

    Below 1e-18 / N it is N throughout.
    """
    start = max(low, min(high, _NOTHING / events))
    total = events * max(start - low, 0.0)
    if high > start:
        ends = np.linspace(np.log(start), np.log(high), 2 + int(np.log(high / start)))
        half = np.diff(ends)[:, None] / 2
        y = np.exp(ends[:-1, None] + half * (1.0 + _PANEL))
        # (high - start) / start by itself where that is small: its logarithm has lost what is between.
        scale = 1.0 if ends.size > 2 else np.log1p((high - start) / start) / max(2 * half[0, 0], 1e-300)
        with np.errstate(divide="ignore"):
            some = _any_of(-np.log1p(-np.minimum(y, 1.0)), events)
        total += float((half * scale * (some * _PANEL_WEIGHTS)).sum())
    return total


def _told(pieces: IntArray, where: FloatArray, values: FloatArray) -> FloatArray:
    """The polynomials with these values at the nodes of their pieces, each at one place from -1 to 1."""
    apart = where[:, None] - NODES
    hit = apart == 0.0
    shares = _TOLD_BY / np.where(hit, 1.0, apart)
    shares = np.where(hit.any(axis=1)[:, None], hit, shares)
    rates = values[pieces]
    finite = np.minimum(rates, 1e300)
    return np.asarray((shares * finite).sum(axis=1) / shares.sum(axis=1))
