"""The best score so far in a slot, and how often it rises: exactly, where nothing is carried.

With H(x) the chance that no unit of the slot in one event scores above x, what is worn after N events is at
most x with chance H(x)^N, for x from 0 on.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from scipy.special import digamma

from golddice.core.arrays import FloatArray

# H at scores; or, for True, the chance that none scores so much or more: its limit from the left.
None_above = Callable[[FloatArray, bool], FloatArray]

_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(40)
_FAN = 64  # points by which a place is narrowed at once
_ROUNDS = 10
_TIE = 1e-12
_AT_A_TIME = 1_000_000
_NOTHING = 1e-20
QUANTILES = np.array([0.05, 0.5, 0.95])


@dataclass(frozen=True)
class Worn:
    """mean, p05, p50, p95 of the score that is worn; nothing is 0."""

    mean: float
    p05: float
    p50: float
    p95: float


def worn(none_above: None_above, knots: FloatArray, power: int = 1) -> Worn:
    """After so many events. `knots` are those scores above 0 at which H may change its piece, rising."""
    if knots.size == 0:
        return Worn(0.0, 0.0, 0.0, 0.0)
    edges = np.concatenate([[0.0], knots])
    low, high = edges[:-1], edges[1:]
    half = (high - low) / 2
    points = (low + half)[:, None] + half[:, None] * _NODES
    chances = none_above(points.ravel(), False).reshape(points.shape)
    lost = -np.expm1(power * np.log(np.maximum(chances, 1e-300)))
    mean = float(half @ (lost @ _WEIGHTS))
    return Worn(mean, *(_quantile(none_above, edges, power, float(q)) for q in QUANTILES))


def _quantile(none_above: None_above, edges: FloatArray, power: int, q: float) -> float:
    """The least score x from 0 on with H(x)^N >= q."""
    wanted = np.exp(np.log(q) / power) - _TIE
    at = none_above(edges, False)
    if at[0] >= wanted:
        return 0.0
    row = int(np.argmax(at >= wanted))
    if none_above(edges[row : row + 1], True)[0] < wanted:
        return float(edges[row])  # it is reached by a step
    low, high = float(edges[row - 1]), float(edges[row])
    for _ in range(_ROUNDS):
        points = np.linspace(low, high, _FAN)
        first = int(np.argmax(none_above(points, False) >= wanted))
        low, high = float(points[max(first - 1, 0)]), float(points[first])
    return high


def upgrades(none_above: None_above, knots: FloatArray, events: int) -> float:
    """How many of the first events leave a better score worn than before.

    The k-th does where its best is above 0 and above all before: the integral of H(x-)^(k-1) dH(x). Where H
    has no step it is (b^k - a^k) / k from a to b; summed over k.
    """
    if knots.size == 0:
        return 0.0
    starts = np.concatenate([none_above(np.zeros(1), False), none_above(knots, False)])
    before = none_above(knots, True)
    total = 0.0
    for a, b, after in zip(starts[:-1].tolist(), before.tolist(), starts[1:].tolist(), strict=True):
        if b > a:
            total += _by_k(b, events) - _by_k(a, events)
        if after > b:
            # b^0 + ... + b^(N - 1), where b is below 1
            total += (after - b) * float(-np.expm1(events * np.log(max(b, 1e-300)))) / (1.0 - b)
    return total


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
