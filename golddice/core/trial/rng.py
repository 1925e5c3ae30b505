"""Random numbers by (seed, player, event): SplitMix64, counted rather than followed.

Each player has a start of their own in SplitMix64's cycle (Steele, Lea and Flood 2014; in the public domain
by Vigna), each event begins 2^32 numbers after the one before it, and a number is the mix of its place. So a
player can be replayed alone, an event alone, and an edit of one line changes nothing in events that it does
not touch: two revisions of a game are played with the same luck. A number that cannot matter is passed over,
which costs an addition.
"""

from __future__ import annotations

import numpy as np
from numba import njit

GOLDEN = np.uint64(0x9E3779B97F4A7C15)
EVENT = np.uint64((0x9E3779B97F4A7C15 << 32) % 2**64)  # 2^32 numbers further
_MIX_1 = np.uint64(0xBF58476D1CE4E5B9)
_MIX_2 = np.uint64(0x94D049BB133111EB)
_TO_UNIT = 2.0**-53


@njit(cache=True, inline="always")
def mixed(z):  # type: ignore[no-untyped-def]
    z = (z ^ (z >> np.uint64(30))) * _MIX_1
    z = (z ^ (z >> np.uint64(27))) * _MIX_2
    return z ^ (z >> np.uint64(31))


@njit(cache=True)
def start_of(seed, player):  # type: ignore[no-untyped-def]
    """Where a player's numbers begin."""
    return mixed(np.uint64(seed) + GOLDEN) ^ mixed(np.uint64(player) * GOLDEN + _MIX_1)


@njit(cache=True, inline="always")
def at_event(start, event):  # type: ignore[no-untyped-def]
    """Where the numbers of an event begin; events count from 1."""
    return np.uint64(start) + np.uint64(event) * EVENT


@njit(cache=True, inline="always")
def unit_at(place):  # type: ignore[no-untyped-def]
    """The number at a place, uniform on [0, 1) in steps of 2^-53."""
    return float(mixed(np.uint64(place)) >> np.uint64(11)) * _TO_UNIT


@njit(cache=True, inline="always")
def next_unit(random):  # type: ignore[no-untyped-def]
    """The next number; `random` holds the place of the last."""
    random[0] += GOLDEN
    return unit_at(random[0])


@njit(cache=True, inline="always")
def reserved(random, count):  # type: ignore[no-untyped-def]
    """Sets so many numbers aside; gives the place before the first of them, see `unit_of`."""
    place = random[0]
    random[0] = place + np.uint64(count) * GOLDEN
    return place


@njit(cache=True, inline="always")
def unit_of(place, at):  # type: ignore[no-untyped-def]
    """The number `at`, from 0, of those that were reserved."""
    return unit_at(np.uint64(place) + np.uint64(at + 1) * GOLDEN)
