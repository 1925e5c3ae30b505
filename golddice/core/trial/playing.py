"""Units of work: ranges of players, each played from start to end by the kernel."""

from __future__ import annotations

import os
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, fields, replace
from itertools import pairwise

import numpy as np

from golddice.core.arrays import FloatArray, IntArray
from golddice.core.trial.compiling import Compiled
from golddice.core.trial.kernel import play
from golddice.core.trial.notes import new_trace


@dataclass(frozen=True)
class Unit:
    """Players `first` to `first + players - 1`, to be played through `events` events each."""

    compiled: Compiled
    seed: int
    first: int
    players: int
    events: int
    checkpoints: IntArray


@dataclass(frozen=True)
class Bags:
    """What the players of a unit received. p players, k items (the compiled game's slots).

    counts (p, k) units; first (p, k) event of the first one, 0 for never; drought (p, k) longest
    run of events without one; value (p,) in currency; fan (p, f) value at the checkpoints.
    """

    counts: IntArray
    first: IntArray
    drought: IntArray
    value: FloatArray
    fan: FloatArray


def played(unit: Unit) -> Bags:
    """Play a unit. Depends on its fields alone, wherever and whenever it runs."""
    return _played(unit, _new_state(unit), None)


def played_side_by_side(unit: Unit) -> Bags:
    """The same players, shared out among threads: the kernel runs without Python's lock, and each player
    has random numbers of their own, whoever plays them."""
    threads = max(1, min(os.cpu_count() or 1, unit.players))
    ends = [unit.players * at // threads for at in range(threads + 1)]
    units = [replace(unit, first=unit.first + low, players=high - low) for low, high in pairwise(ends)]
    with ThreadPoolExecutor(threads) as executor:
        parts = list(executor.map(played, units))
    return Bags(*(np.concatenate([getattr(part, one.name) for part in parts]) for one in fields(Bags)))


def played_with_trace(unit: Unit, room: int = 200_000) -> tuple[Bags, FloatArray, IntArray]:
    """Play a unit and note every decision; for a few players and events.

    Also gives the last player's state as it was left.
    """
    trace, state = new_trace(room), _new_state(unit)
    return _played(unit, state, trace), trace, state


def _new_state(unit: Unit) -> IntArray:
    return np.zeros(unit.compiled.program.state_size, dtype=np.int64)


def _played(unit: Unit, state: IntArray, trace: FloatArray | None) -> Bags:
    shape = (unit.players, unit.compiled.items.size)
    bags = Bags(
        counts=np.zeros(shape, dtype=np.int64),
        first=np.zeros(shape, dtype=np.int32),
        drought=np.zeros(shape, dtype=np.int32),
        value=np.zeros(unit.players),
        fan=np.zeros((unit.players, unit.checkpoints.size)),
    )
    program = unit.compiled.program
    play(
        (program.code, program.real),
        (state, np.zeros(4, dtype=np.uint64)),
        (bags.counts, bags.first, bags.drought, bags.value, bags.fan),
        (unit.compiled.root_kind, unit.compiled.root),
        unit.seed,
        unit.first,
        unit.events,
        unit.checkpoints,
        trace,
    )
    return bags
