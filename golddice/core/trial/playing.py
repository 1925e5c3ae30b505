"""Units of work: ranges of players, each taken through one or more legs by the kernel."""

from __future__ import annotations

import os
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field, fields, replace
from itertools import pairwise
from typing import Any

import numpy as np

from golddice.core.arrays import FloatArray, IntArray
from golddice.core.stopping import Cancelled, Stop, current_stop
from golddice.core.trial.compiling import Compiled
from golddice.core.trial.kept import Arrays, Keeping, kept_marks, room_to_keep
from golddice.core.trial.kernel import collect, play
from golddice.core.trial.notes import new_trace
from golddice.core.trial.program import AT_RECEIPTS, AT_SAME, S_CLOCK, S_COUNTS


@dataclass(frozen=True)
class Leg:
    """So many events of one compiled view. The legs of a player are compiled together (`compiled_along`)."""

    compiled: Compiled
    events: int


@dataclass(frozen=True)
class Unit:
    """Players `first` to `first + players - 1`, to be taken through the legs. `checkpoints` are the events,
    counted through all legs, at which the value so far is noted."""

    legs: Sequence[Leg]
    seed: int
    first: int
    players: int
    checkpoints: IntArray = field(default_factory=lambda: np.zeros(0, dtype=np.int64))

    @staticmethod
    def of(
        compiled: Compiled,
        seed: int,
        first: int,
        players: int,
        events: int,
        checkpoints: IntArray | None = None,
    ) -> Unit:
        """All events of one view."""
        marks = np.zeros(0, dtype=np.int64) if checkpoints is None else checkpoints
        return Unit([Leg(compiled, events)], seed, first, players, marks)

    @property
    def events(self) -> int:
        return sum(leg.events for leg in self.legs)


@dataclass(frozen=True)
class Bags:
    """What the players of a unit received. p players, k items (the compiled game's).

    counts (p, k) units; first (p, k) event of the first one, 0 for never; drought (p, k) longest
    run of events without one; value (p,) in currency; fan (p, f) value at the checkpoints. receipts (p,) how
    often something was received, same (p,) how often it was what had been received before. kept : what
    `kept.Keeping.collected` tells, where something is kept.
    """

    counts: IntArray
    first: IntArray
    drought: IntArray
    value: FloatArray
    fan: FloatArray
    receipts: IntArray
    same: IntArray
    kept: Arrays = field(default_factory=dict)


def played(unit: Unit, stop: Stop | None = None) -> Bags:
    """Play a unit. Depends on its fields alone, wherever and whenever it runs. Raises Cancelled where the
    sign is given meanwhile."""
    return _played(unit, _fresh(unit), stop or current_stop(), None)


def played_side_by_side(unit: Unit, stop: Stop | None = None) -> Bags:
    """The same players, shared out among threads: the kernel runs without Python's lock, and each player
    has random numbers of their own, whoever plays them."""
    stop = stop or current_stop()  # which threads of their own would not see
    threads = max(1, min(os.cpu_count() or 1, unit.players))
    ends = [unit.players * at // threads for at in range(threads + 1)]
    units = [replace(unit, first=unit.first + low, players=high - low) for low, high in pairwise(ends)]
    with ThreadPoolExecutor(threads) as executor:
        parts = list(executor.map(lambda part: played(part, stop), units))
    names = [one.name for one in fields(Bags) if one.name != "kept"]
    received: dict[str, Any] = {
        name: np.concatenate([getattr(part, name) for part in parts]) for name in names
    }
    return Bags(**received)


def played_with_trace(
    unit: Unit, first_event: int = 1, room: int = 200_000, stop: Stop | None = None
) -> tuple[Bags, FloatArray, IntArray]:
    """Play a unit and note every decision from an event on, while there is room; for a few players.

    Also gives the last player's state as it was left.
    """
    trace, states = new_trace(room, first_event), _fresh(unit)
    return _played(unit, states, stop or current_stop(), trace), trace, states[-1]


def _fresh(unit: Unit) -> IntArray:
    """A state for each player, shape (p, s)."""
    size = max(leg.compiled.program.state_size for leg in unit.legs)
    return np.zeros((unit.players, size), dtype=np.int64)


def _played(unit: Unit, states: IntArray, stop: Stop, trace: FloatArray | None) -> Bags:
    shape = (unit.players, unit.legs[0].compiled.items.size)
    bags = Bags(
        counts=np.zeros(shape, dtype=np.int64),
        first=np.zeros(shape, dtype=np.int32),
        drought=np.zeros(shape, dtype=np.int32),
        value=np.zeros(unit.players),
        fan=np.zeros((unit.players, unit.checkpoints.size)),
        receipts=np.zeros(unit.players, dtype=np.int64),
        same=np.zeros(unit.players, dtype=np.int64),
    )
    ends = kept_marks(unit.checkpoints[unit.checkpoints > 0])
    keeping = Keeping.of(unit.legs[0].compiled, states, ends.size)
    done = 0
    for leg in unit.legs:
        last = done + leg.events
        marks = np.flatnonzero((unit.checkpoints > done) & (unit.checkpoints <= last))
        path = np.zeros((unit.players, marks.size))
        fan = unit.checkpoints[marks], path, bags.value
        _play_leg(unit, leg, done, states, fan, stop, keeping, ends[(ends > done) & (ends <= last)], trace)
        bags.fan[:, marks] = path
        done = last
    code = unit.legs[0].compiled.program.code
    counts_at, clock = int(code[S_COUNTS]), int(code[S_CLOCK])
    bags.receipts[:], bags.same[:] = states[:, clock + AT_RECEIPTS], states[:, clock + AT_SAME]
    collect(states, counts_at, np.full(unit.players, done), bags.counts, bags.first, bags.drought)
    return bags if keeping is None else replace(bags, kept=keeping.collected())


def _play_leg(
    unit: Unit,
    leg: Leg,
    done: int,
    states: IntArray,
    fan: tuple[IntArray, FloatArray, FloatArray],
    stop: Stop,
    keeping: Keeping | None,
    ends: IntArray,
    trace: FloatArray | None,
) -> None:
    """`ends` are the events of it after which it is noted what is kept."""
    program = leg.compiled.program
    play(
        (program.code, program.real),
        (states, np.zeros(1, dtype=np.uint64)),
        (unit.first, unit.players),
        (leg.compiled.root_kind, leg.compiled.root),
        unit.seed,
        (done + 1, leg.events),
        fan,
        stop.flag,
        room_to_keep(keeping, unit.players, trace, ends),
        trace,
    )
    if keeping is not None:
        keeping.passed(ends.size)
    if stop.is_set():
        raise Cancelled("the trial was cancelled")
