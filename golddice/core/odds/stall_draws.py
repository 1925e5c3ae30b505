"""What a stall that draws has on sale in very many periods at once.

To the last bit the same goods as one period at a time (see stalls.py and docs/stalls.md)."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
from numpy.typing import NDArray

from golddice.core.arrays import BoolArray, FloatArray, IntArray
from golddice.core.stopping import go_on

MOST_CELLS = 1_000_000  # goods times periods that are drawn at once
_GOLDEN = np.uint64(0x9E3779B97F4A7C15)
_MIX_1 = np.uint64(0xBF58476D1CE4E5B9)
_MIX_2 = np.uint64(0x94D049BB133111EB)

Words = NDArray[np.uint64]


def counted_draws(
    seed: int, periods: int, weights: FloatArray, slots: int, fixed: Sequence[BoolArray]
) -> IntArray:
    """In how many of the periods from 0 on each of g goods is on sale.

    weights : float64[g], above 0. fixed : bool[g] each, the goods that fit a fixed slot, in their order. A
    fixed slot that nothing fits becomes an ordinary one.
    """
    counts = np.zeros(weights.size, dtype=np.int64)
    for on_sale in _parts(seed, 0, periods, weights, slots, fixed):
        counts += on_sale.sum(axis=1)
    return counts


def drawn_calendar(
    seed: int, first: int, periods: int, weights: FloatArray, slots: int, fixed: Sequence[BoolArray]
) -> BoolArray:
    """bool[g, periods]: whether each good is on sale in each of the periods from `first` on, from 0."""
    parts = list(_parts(seed, first, periods, weights, slots, fixed))
    return np.concatenate(parts, axis=1) if parts else np.zeros((weights.size, 0), dtype=bool)


def _parts(
    seed: int, first: int, periods: int, weights: FloatArray, slots: int, fixed: Sequence[BoolArray]
) -> Iterator[BoolArray]:
    """Not all periods at once: they are as many as the goods leave room for."""
    at_once = max(1, MOST_CELLS // weights.size)
    for low in range(first, first + periods, at_once):
        go_on()
        numbers = np.arange(low, min(low + at_once, first + periods), dtype=np.uint64)
        yield ~_left_over(seed, numbers, weights, slots, fixed)


def _left_over(
    seed: int, numbers: Words, weights: FloatArray, slots: int, fixed: Sequence[BoolArray]
) -> BoolArray:
    """bool[g, periods]: what is not on sale."""
    streams = _Streams(seed, numbers)
    left = np.ones((weights.size, numbers.size), dtype=bool)
    filled = np.zeros(numbers.size, dtype=np.int64)
    for fits in fixed:
        fitting = left & fits[:, None]
        able = np.asarray(fitting.any(axis=0))
        _pick(streams, left, fitting, weights, able)
        filled += able
    while (filled < slots).any():
        able = np.asarray(filled < slots)
        _pick(streams, left, left.copy(), weights, able)
        filled += able
    return left


def _pick(
    streams: _Streams, left: BoolArray, fitting: BoolArray, weights: FloatArray, able: BoolArray
) -> None:
    """Takes one of what fits out of what is left, in the periods that are able to. Sums run in the order of
    the goods, so that they are those of one period at a time."""
    running = np.cumsum(np.where(fitting, weights[:, None], 0.0), axis=0)
    with np.errstate(invalid="ignore"):
        hit = fitting & (streams.next(able) < running / running[-1])
    last = fitting.shape[0] - 1 - np.argmax(fitting[::-1], axis=0)
    chosen = np.where(hit.any(axis=0), np.argmax(hit, axis=0), last)
    left[chosen[able], np.flatnonzero(able)] = False


class _Streams:
    """A stream of numbers in [0, 1) for each period."""

    def __init__(self, seed: int, numbers: Words) -> None:
        seeds = np.full(numbers.size, seed, dtype=np.uint64)
        at = _mixed(seeds + _GOLDEN) ^ _mixed(numbers * _GOLDEN + _MIX_1)
        words = []
        for _ in range(4):
            at = at + _GOLDEN
            words.append(_mixed(at))
        self._words = np.array(words)

    def next(self, able: BoolArray) -> FloatArray:
        """The next number of each; only those that are able go on."""
        a, b, c, d = self._words
        result = _turned(a + d, 23) + a
        e, f = c ^ a, d ^ b
        now = np.array([a ^ f, b ^ e, e ^ (b << np.uint64(17)), _turned(f, 45)])
        self._words = np.where(able, now, self._words)
        return np.asarray((result >> np.uint64(11)).astype(np.float64) * 2.0**-53)


def _mixed(z: Words) -> Words:
    z = (z ^ (z >> np.uint64(30))) * _MIX_1
    z = (z ^ (z >> np.uint64(27))) * _MIX_2
    return np.asarray(z ^ (z >> np.uint64(31)))


def _turned(words: Words, by: int) -> Words:
    return np.asarray((words << np.uint64(by)) | (words >> np.uint64(64 - by)))
