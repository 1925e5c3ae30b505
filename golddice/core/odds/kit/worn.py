"""The best score so far in a slot, and how often it rises: exactly, where nothing is carried.

With H(x) the chance that no unit of the slot in one event scores above x, what is worn after N events is at
most x with chance H(x)^N, for x from 0 on. H is smooth between the scores at which the scores of its items
change their piece, so it is told by its values at the nodes of a quadrature in each piece; everything else is
read from these.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.special import digamma

from golddice.core.arrays import FloatArray

NODES, WEIGHTS = np.polynomial.legendre.leggauss(40)
_ROUNDS = 80
_NARROW = 1e-13
_TIE = 1e-12
_AT_A_TIME = 1_000_000
_NOTHING = 1e-20
QUANTILES = (0.05, 0.5, 0.95)


def _barycentric() -> FloatArray:
    """Weights by which a polynomial is told from its values at the nodes (Berrut and Trefethen 2004): of
    Gauss's nodes (-1)^k sqrt((1 - x^2) w)."""
    signs = np.where(np.arange(NODES.size) % 2, -1.0, 1.0)
    return np.asarray(signs * np.sqrt((1 - NODES**2) * WEIGHTS))


_TOLD_BY, _ONES = _barycentric(), np.ones(NODES.size)


def grid(knots: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Of the scores above 0 at which H may change its piece, rising: the ends of the pieces (k + 1,), and the
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
class NoneAbove:
    """H at the ends of its pieces (k + 1,), its limits from the left there, and its values inside (k, 40)."""

    edges: FloatArray
    at: FloatArray
    before: FloatArray
    inside: FloatArray

    def mixed(self, counts: FloatArray, chances: FloatArray) -> NoneAbove:
        """Of so many events, whose number has these chances."""
        return NoneAbove(
            self.edges,
            *((part[..., None] ** counts @ chances) for part in (self.at, self.before, self.inside)),
        )

    def times(self, other: NoneAbove) -> NoneAbove:
        """Of both, one after the other; their pieces are the same."""
        return NoneAbove(
            self.edges, self.at * other.at, self.before * other.before, self.inside * other.inside
        )

    def worn(self, power: int = 1) -> Worn:
        """After so many events."""
        if self.edges.size == 1:
            return Worn(0.0, 0.0, 0.0, 0.0)
        lost = -np.expm1(power * np.log(np.maximum(self.inside, 1e-300)))
        mean = float(np.diff(self.edges) / 2 @ (lost @ WEIGHTS))
        return Worn(mean, *(self._quantile(power, q) for q in QUANTILES))

    def _quantile(self, power: int, q: float) -> float:
        """The least score x from 0 on with H(x)^N >= q."""
        wanted = float(np.exp(np.log(q) / power)) - _TIE
        if self.at[0] >= wanted:
            return 0.0
        row = int(np.argmax(self.at >= wanted))
        if self.before[row] < wanted:
            return float(self.edges[row])  # it is reached by a step
        return self._where(row - 1, wanted)

    def _where(self, piece: int, wanted: float) -> float:
        """Where H comes to so much inside a piece: between two nodes, by the rule of false position, the end
        that stays taken for half of its height (Dowell and Jarratt 1971)."""
        values = self.inside[piece]
        first = int(np.searchsorted(values, wanted))
        low = -1.0 if first == 0 else float(NODES[first - 1])
        high = 1.0 if first == NODES.size else float(NODES[first])
        below, above = _told(values, low) - wanted, _told(values, high) - wanted
        side = 0
        for _ in range(_ROUNDS):
            if above <= 0 or high - low <= _NARROW:
                break
            middle = min(max(high - above * (high - low) / (above - below), low), high)
            over = _told(values, middle) - wanted
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

        The k-th does where its best is above 0 and above all before: the integral of H(x-)^(k-1) dH(x). Where
        H has no step it is (b^k - a^k) / k from a to b; summed over k.
        """
        total = 0.0
        for a, b, after in self._rises():
            if b > a:
                total += _by_k(b, events) - _by_k(a, events)
            if after > b:
                # b^0 + ... + b^(N - 1), where b is below 1
                total += (after - b) * float(-np.expm1(events * np.log(max(b, 1e-300)))) / (1.0 - b)
        return total

    def upgrade_at(self, event: int) -> float:
        """Chance that an event, counted from 1, leaves a better score worn than before."""
        total = 0.0
        for a, b, after in self._rises():
            total += (b**event - a**event) / event + (after - b) * b ** (event - 1)
        return total

    def _rises(self) -> list[tuple[float, float, float]]:
        """Of each piece H at its start, before its end and at its end."""
        found = zip(self.at[:-1].tolist(), self.before[1:].tolist(), self.at[1:].tolist(), strict=True)
        return list(found)


def _told(values: FloatArray, at: float) -> float:
    """The polynomial with these values at the nodes."""
    apart = at - NODES
    if not apart.all():
        return float(values[apart == 0][0])
    shares = _TOLD_BY / apart
    return float(shares @ values) / float(shares @ _ONES)


def _by_k(x: float, events: int) -> float:
    """The sum of x^k / k for k from 1 to N, a million terms at a time, for as long as they count."""
    if x >= 1.0:
        return float(digamma(events + 1) + np.euler_gamma)
    total = 0.0
    for first in range(1, events + 1, _AT_A_TIME):
        k = np.arange(first, min(first + _AT_A_TIME, events + 1), dtype=np.float64)
        total += float((x**k / k).sum())
        if x ** float(k[-1]) < _NOTHING:
            break
    return total
