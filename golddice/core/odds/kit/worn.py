"""The best score so far in a slot, and how often it rises: exactly, where nothing is carried.

With A(x) the chance that any unit of the slot in one event scores above x, what is worn after N events is at
most x with chance (1 - A(x))^N, for x from 0 on. A is smooth between the scores at which the scores of its
items change their piece, so it is told by its values at the nodes of a quadrature in each piece; everything
else is read from these. A is kept and not 1 - A: so a slot that is filled once in a million million events
has all its digits.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from golddice.core.arrays import FloatArray

NODES, WEIGHTS = np.polynomial.legendre.leggauss(40)
_ROUNDS = 80
_NARROW = 1e-13
_TIE = 1e-12
_PANEL, _PANEL_WEIGHTS = np.polynomial.legendre.leggauss(20)
_NOTHING = 1e-18
QUANTILES = (0.05, 0.5, 0.95)


def _barycentric() -> FloatArray:
    """Weights by which a polynomial is told from its values at the nodes (Berrut and Trefethen 2004): of
    Gauss's nodes (-1)^k sqrt((1 - x^2) w)."""
    signs = np.where(np.arange(NODES.size) % 2, -1.0, 1.0)
    return np.asarray(signs * np.sqrt((1 - NODES**2) * WEIGHTS))


_TOLD_BY, _ONES = _barycentric(), np.ones(NODES.size)


def grid(knots: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Of the scores above 0 at which A may change its piece, rising: the ends of the pieces (k + 1,), and the
    nodes inside (k, 40)."""
    edges = np.concatenate([[0.0], knots])
    half = np.diff(edges) / 2
    return edges, (edges[:-1] + half)[:, None] + half[:, None] * NODES


@dataclass(frozen=True)
class Worn:
    """mean, p05, p50, p95 of the score that is worn; nothing is 0."""

    mean: float
    p05: float
    p50: float
    p95: float


@dataclass(frozen=True)
class Above:
    """A at the ends of its pieces (k + 1,), its limits from the left there, and its values inside (k, 40)."""

    edges: FloatArray
    at: FloatArray
    before: FloatArray
    inside: FloatArray

    def mixed(self, counts: FloatArray, chances: FloatArray) -> Above:
        """Of so many events, whose number has these chances."""
        parts = (self.at, self.before, self.inside)
        return Above(self.edges, *(_any_of(part[..., None], counts) @ chances for part in parts))

    def times(self, other: Above) -> Above:
        """Of both, one after the other; their pieces are the same."""
        pairs = ((self.at, other.at), (self.before, other.before), (self.inside, other.inside))
        return Above(self.edges, *(one + another * (1.0 - one) for one, another in pairs))

    def worn(self, power: int = 1) -> Worn:
        """After so many events."""
        if self.edges.size == 1:
            return Worn(0.0, 0.0, 0.0, 0.0)
        mean = float(np.diff(self.edges) / 2 @ (_any_of(self.inside, power) @ WEIGHTS))
        return Worn(mean, *(self._quantile(power, q) for q in QUANTILES))

    def _quantile(self, power: int, q: float) -> float:
        """The least score x from 0 on with (1 - A(x))^N >= q."""
        wanted = -float(np.expm1(np.log(q) / power)) * (1.0 + _TIE)
        if self.at[0] <= wanted:
            return 0.0
        row = int(np.argmax(self.at <= wanted))
        if self.before[row] > wanted:
            return float(self.edges[row])  # it is reached by a step
        return self._where(row - 1, wanted)

    def _where(self, piece: int, wanted: float) -> float:
        """Where A comes down to so much inside a piece: between two nodes, by the rule of false position, the
        end that stays taken for half of its height (Dowell and Jarratt 1971)."""
        values = self.inside[piece]
        first = int(np.searchsorted(-values, -wanted))
        low = -1.0 if first == 0 else float(NODES[first - 1])
        high = 1.0 if first == NODES.size else float(NODES[first])
        below, above = wanted - _told(values, low), wanted - _told(values, high)
        side = 0
        for _ in range(_ROUNDS):
            if above <= 0 or high - low <= _NARROW:
                break
            middle = min(max(high - above * (high - low) / (above - below), low), high)
            over = wanted - _told(values, middle)
            if over == 0:
                high = middle
                break
            if over > 0:
                high, above = middle, over
                below *= 0.5 if side == 1 else 1.0
                side = 1
            else:
                low, below = middle, over
                above *= 0.5 if side == -1 else 1.0
                side = -1
        begin, end = float(self.edges[piece]), float(self.edges[piece + 1])
        return begin + (high + 1) / 2 * (end - begin)

    def upgrades(self, events: int) -> float:
        """How many of the first events leave a better score worn than before.

        The k-th does where its best is above 0 and above all before: the integral of (1 - A(x-))^(k-1) over
        -dA(x), summed over k up to N: that of (1 - (1 - A)^N) / A. Where A falls by a step, times its height.
        """
        total = 0.0
        for high, low, after in self._falls():
            total += _integral(low, high, events)
            if low > after:
                total += (low - after) * float(_any_of(np.array(low), events)) / low
        return total

    def upgrade_at(self, event: int) -> float:
        """Chance that an event, counted from 1, leaves a better score worn than before."""
        total = 0.0
        for high, low, after in self._falls():
            if high > low and low < 1.0:  # ((1 - low)^k - (1 - high)^k) / k
                fewer = float(_any_of(np.array((high - low) / (1.0 - low)), event))
                total += float(np.exp(event * np.log1p(-low))) * fewer / event
            if low > after:
                total += (low - after) * (1.0 - low) ** (event - 1)
        return total

    def _falls(self) -> list[tuple[float, float, float]]:
        """Of each piece A at its start, before its end and at its end."""
        found = zip(self.at[:-1].tolist(), self.before[1:].tolist(), self.at[1:].tolist(), strict=True)
        return list(found)


def _any_of(chance: FloatArray, tries: FloatArray | int) -> FloatArray:
    """Chance of any in so many independent tries."""
    with np.errstate(divide="ignore", invalid="ignore"):
        found = -np.expm1(tries * np.log1p(-chance))
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
        total += float((half * scale * (_any_of(y, events) * _PANEL_WEIGHTS)).sum())
    return total


def _told(values: FloatArray, at: float) -> float:
    """The polynomial with these values at the nodes."""
    apart = at - NODES
    if not apart.all():
        return float(values[apart == 0][0])
    shares = _TOLD_BY / apart
    return float(shares @ values) / float(shares @ _ONES)
