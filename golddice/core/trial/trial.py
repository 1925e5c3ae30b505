"""Run a trial: split it into units, play them on an executor, set the result beside the odds."""

from __future__ import annotations

import math
import os
from collections import deque
from collections.abc import Callable, Iterator
from concurrent.futures import Executor, Future, ThreadPoolExecutor
from dataclasses import dataclass
from typing import Any

import numpy as np

from golddice.core.arrays import IntArray
from golddice.core.errors import QueryError, TooLarge
from golddice.core.game.models import Game
from golddice.core.game.views import View
from golddice.core.odds.carried.prospect import Prospect
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.stopping import Stop, go_on, stopped_by
from golddice.core.terms.conditions import Conditions
from golddice.core.trial.compiling import Compiled, compiled
from golddice.core.trial.kernel import KERNEL_VERSION
from golddice.core.trial.playing import Bags, Unit, played
from golddice.core.trial.summary import Summary

MOST_PLAYERS = 1_000_000
MOST_EVENTS = 1_000_000
MOST_TOTAL = 10_000_000_000
LARGEST_SEED = 2**63 - 1
CHECKPOINTS = 60
_UNIT_ROLLS = 2_000_000  # a unit is a fraction of a second, whatever an event costs
_UNIT_CELLS = 1_000_000


@dataclass(frozen=True)
class Trial:
    """What is simulated: so many players, each doing so many events of one source (or table)."""

    view: View
    depth: int
    players: int
    events: int
    seed: int
    flags: tuple[str, ...] = ()

    def check(self) -> None:
        """Raise QueryError or TooLarge for a trial that cannot be run."""
        bounds = (
            ("players", self.players, 1, MOST_PLAYERS),
            ("events", self.events, 1, MOST_EVENTS),
            ("seed", self.seed, 0, LARGEST_SEED),
        )
        for name, value, low, high in bounds:
            if not low <= value <= high:
                raise QueryError(f"{name} must be {low} to {high:,}, got {value:,}")
        if self.players * self.events > MOST_TOTAL:
            raise TooLarge(
                f"{self.players:,} players x {self.events:,} events are more than the limit of "
                f"{MOST_TOTAL:,}; take fewer of either"
            )


Progress = Callable[[int], None]


def local_executor(workers: int | None = None) -> Executor:
    """Threads on this machine: the kernel runs without Python's lock, so they share no time."""
    return ThreadPoolExecutor(workers or os.cpu_count() or 1, thread_name_prefix="trial")


def run_trial(
    game: Game,
    trial: Trial,
    executor: Executor,
    *,
    on_progress: Progress = lambda players: None,
    stop: Stop | None = None,
) -> dict[str, Any]:
    """Play a trial and report it beside the exact expectation.

    `on_progress` hears how many players are done; once `stop` is set the trial ends within an event. The
    result does not depend on the executor. Raises QueryError, TooLarge and Cancelled.
    """
    trial.check()
    stop = stop or Stop()
    under = Conditions(game, [trial.depth], trial.flags)
    program = compiled(under, trial.view)
    marks = checkpoints(trial.events)
    summary = Summary(program.items, len(game.items), trial.events)
    for bags in _in_order(executor, list(_units(program, trial, marks)), stop):
        summary.add(bags)
        on_progress(summary.players)
    with stopped_by(stop):
        return _report(under, trial, program, summary, marks)


def checkpoints(events: int) -> IntArray:
    """The events at which the value so far is noted: at most CHECKPOINTS, the last one included."""
    return np.unique(np.linspace(0, events, CHECKPOINTS + 1).round().astype(np.int64)[1:])


def _units(program: Compiled, trial: Trial, marks: IntArray) -> Iterator[Unit]:
    """Ranges of players of about the same work, by a rule that rests on the trial alone."""
    by_work = int(_UNIT_ROLLS / (trial.events * program.work))
    by_cells = _UNIT_CELLS // (2 * program.items.size + marks.size + program.program.state_size)
    size = max(1, min(by_work, by_cells, -(-trial.players // 8)))
    for first in range(0, trial.players, size):
        players = min(size, trial.players - first)
        yield Unit.of(program, trial.seed, first, players, trial.events, marks)


def _in_order(executor: Executor, units: list[Unit], stop: Stop) -> Iterator[Bags]:
    """Results in the order of the units, with only a few under way at a time."""
    pending: deque[Future[Bags]] = deque()
    ahead = 2 * (os.cpu_count() or 1) + 2
    try:
        for unit in units:
            pending.append(executor.submit(played, unit, stop))
            if len(pending) >= ahead:
                yield pending.popleft().result()
        while pending:
            yield pending.popleft().result()
    finally:
        for future in pending:
            future.cancel()


def _report(
    under: Conditions, trial: Trial, program: Compiled, summary: Summary, marks: IntArray
) -> dict[str, Any]:
    prospect = Prospect(Evaluator(under, detail=False), trial.view)
    items = {}
    for slot, at in enumerate(program.items):
        go_on()
        figures = summary.item(slot)
        expected = _expected(prospect, trial, prospect.columns.item(int(at)))
        figures["expected_mean"] = None if expected is None else expected[0]
        figures["z"] = _z(figures["mean"], expected, trial.players)
        figures["histogram"] = summary.by_slot[slot].counts.bins()
        items[under.game.items[at].id] = figures
    return {
        "items": items,
        "value": _value(prospect, trial, summary),
        "events": trial.players * trial.events,
        "kernel": KERNEL_VERSION,
        "digest": summary.digest,
        "histogram": summary.value_bins(),
        "fan": {"events": marks.tolist(), "quantiles": summary.fan()},
        "players": _players(program, trial, summary, marks, under.game),
    }


def _expected(prospect: Prospect, trial: Trial, column: int) -> tuple[float, float] | None:
    """Exact mean and variance of how many one player has at the end; None where too large."""
    try:
        return prospect.count_after(column, trial.events)
    except TooLarge:
        return None


def _value(prospect: Prospect, trial: Trial, summary: Summary) -> dict[str, Any]:
    """Value per player beside its exact mean and sd."""
    found = summary.value()
    try:
        expected = prospect.value_after(trial.events)
    except TooLarge:
        return {**found, "expected_mean": None, "expected_sd": None, "z": None}
    return {
        **found,
        "expected_mean": expected[0],
        "expected_sd": math.sqrt(expected[1]),
        "z": _z(found["mean"], expected, trial.players),
    }


def _z(mean: float, expected: tuple[float, float] | None, players: int) -> float | None:
    """(observed mean - exact mean) / its standard error; None where a constant is not met."""
    if expected is None:
        return None
    exact, var = expected
    if var <= 1e-18 * exact * exact:
        return 0.0 if abs(mean - exact) <= 1e-9 * max(1.0, exact) else None
    return (mean - exact) / math.sqrt(var / players)


def _players(
    program: Compiled, trial: Trial, summary: Summary, marks: IntArray, game: Game
) -> dict[str, Any]:
    """The luckiest, median and unluckiest player, replayed alone."""
    result = {}
    for name, number in summary.extremes().items():
        bags = played(Unit.of(program, trial.seed, number, 1, trial.events, marks))
        counts = {game.items[at].id: int(bags.counts[0, slot]) for slot, at in enumerate(program.items)}
        result[name] = {
            "player": number,
            "value": float(bags.value[0]),
            "items": {item: count for item, count in counts.items() if count},
            "path": bags.fan[0].tolist(),
        }
    return result
