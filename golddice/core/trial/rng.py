"""A random stream for each player: SplitMix64 seeds xoshiro256++ (Blackman and Vigna, 2019).

Both generators are in the public domain. The stream depends on (seed, player) alone, so any player
can be replayed alone, and results do not depend on how players are split among workers.
"""

from __future__ import annotations

import numpy as np
from numba import njit

from golddice.core.arrays import UintArray

_GOLDEN = np.uint64(0x9E3779B97F4A7C15)
_MIX_1 = np.uint64(0xBF58476D1CE4E5B9)
_MIX_2 = np.uint64(0x94D049BB133111EB)
_TO_UNIT = 2.0**-53


@njit(cache=True, inline="always")
def _mixed(z: np.uint64) -> np.uint64:
    z = (z ^ (z >> np.uint64(30))) * _MIX_1
    z = (z ^ (z >> np.uint64(27))) * _MIX_2
    return z ^ (z >> np.uint64(31))


@njit(cache=True)
def seed_player(state: UintArray, seed: int, player: int) -> None:
    """Put a player's stream at its start. `state` is uint64, shape (4,)."""
    x = _mixed(np.uint64(seed) + _GOLDEN) ^ _mixed(np.uint64(player) * _GOLDEN + _MIX_1)
    for at in range(4):
        x = x + _GOLDEN
        state[at] = _mixed(x)


@njit(cache=True, inline="always")
def next_unit(s: UintArray) -> float:
    """The next number of the stream, uniform on [0, 1) in steps of 2^-53."""
    total = s[0] + s[3]
    result = ((total << np.uint64(23)) | (total >> np.uint64(41))) + s[0]
    t = s[1] << np.uint64(17)
    s[2] ^= s[0]
    s[3] ^= s[1]
    s[1] ^= s[2]
    s[0] ^= s[3]
    s[2] ^= t
    s[3] = (s[3] << np.uint64(45)) | (s[3] >> np.uint64(19))
    return float(result >> np.uint64(11)) * _TO_UNIT


@njit(cache=True, inline="always")
def next_of(s0, s1, s2, s3):  # type: ignore[no-untyped-def]
    """`next_unit` with the state in local variables: the number, and the state after."""
    total = s0 + s3
    result = ((total << np.uint64(23)) | (total >> np.uint64(41))) + s0
    t = s1 << np.uint64(17)
    s2 ^= s0
    s3 ^= s1
    s1 ^= s2
    s0 ^= s3
    s2 ^= t
    s3 = (s3 << np.uint64(45)) | (s3 >> np.uint64(19))
    return float(result >> np.uint64(11)) * _TO_UNIT, s0, s1, s2, s3
