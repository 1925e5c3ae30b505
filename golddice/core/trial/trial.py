"""Run a trial: play its units on an executor, in order, and set the result beside the odds."""

from __future__ import annotations

import os
from collections import deque
from collections.abc import Callable, Iterator
from concurrent.futures import Executor, Future
from contextlib import suppress
from typing import Any, Protocol

import numpy as np

from golddice.core.game.models import Game
from golddice.core.stopping import Cancelled, Stop, go_on, stopped_by
from golddice.core.trial.executors import cluster_executor, local_executor
from golddice.core.trial.expected import Expectations, beside_kept, expectations
from golddice.core.trial.kernel import KERNEL_VERSION
from golddice.core.trial.plans import (
    FEWEST_PLAYERS,
    LARGEST_SEED,
    MOST_EVENTS,
    MOST_PLAYERS,
    AnyTrial,
    Plan,
    RouteTrial,
    Trial,
    Until,
    beside,
    checkpoints,
    plan_of,
    play_unit,
    z_score,
)
from golddice.core.trial.playing import Bags
from golddice.core.trial.summary import Summary

__all__ = [
    "LARGEST_SEED",
    "MOST_EVENTS",
    "MOST_PLAYERS",
    "AnyTrial",
    "Plan",
    "RouteTrial",
    "Trial",
    "Until",
    "checkpoints",
    "cluster_executor",
    "local_executor",
    "plan_of",
    "precision_of",
    "report",
    "reported",
    "run_plan",
    "run_trial",
]

Progress = Callable[[int], None]
OnUnit = Callable[[int, Bags, Summary], None]


class Kept(Protocol):
    """Units that were played before, by number."""

    def get(self, number: int, /) -> Bags | None: ...


_LOOK = 0.25  # seconds between looks at the stop sign
_SURE = 1.959963984540054  # half of the 95 % interval, in standard errors


def run_trial(
    game: Game,
    trial: AnyTrial,
    executor: Executor,
    *,
    on_progress: Progress = lambda players: None,
    stop: Stop | None = None,
) -> dict[str, Any]:
    """Play a trial and report it beside the exact expectation.

    `on_progress` hears how many players are done; once `stop` is set the trial ends within an event. The
    result does not depend on the executor. Raises QueryError, TooLarge and Cancelled.
    """
    stop = stop or Stop()
    plan = plan_of(game, trial)
    return reported(plan, executor, lambda _, __, so_far: on_progress(so_far.players), stop)[1]


def reported(
    plan: Plan, executor: Executor, on_unit: OnUnit, stop: Stop, kept: Kept | None = None
) -> tuple[Summary, dict[str, Any]]:
    """A plan that is run, see `run_plan`, and what is told of it beside what is expected."""
    summary = run_plan(plan, executor, on_unit, stop, kept)
    with stopped_by(stop):
        return summary, report(plan, summary, expectations(plan))


def run_plan(
    plan: Plan,
    executor: Executor,
    on_unit: OnUnit,
    stop: Stop,
    kept: Kept | None = None,
) -> Summary:
    """Play the units of a plan that are not kept already, and add all of them up in order.

    `on_unit` hears of every unit in order: its number, what it brought (also of a kept one), and the summary
    with it. Ends where the trial's stop rule says so, which rests on the units in order alone.
    """
    summary = plan.new_summary()
    for number, bags in enumerate(_in_order(plan, executor, stop, kept or {})):
        summary.add(bags)
        on_unit(number, bags, summary)
        if is_known(plan, summary):
            break
    return summary


def is_known(plan: Plan, summary: Summary) -> bool:
    """Whether the trial's stop rule ends it here."""
    until = plan.trial.until
    if until is None or summary.players < FEWEST_PLAYERS:
        return False
    precision = precision_of(plan, summary)
    return precision is not None and precision <= until.within


def precision_of(plan: Plan, summary: Summary) -> float | None:
    """Half of the 95 % interval over the mean of what the stop rule is about, else of value; None at 0."""
    until = plan.trial.until
    item = until.item if until is not None else None
    mean, sd = summary.mean_of(None if item is None else _slot(plan, item))
    return _SURE * sd / (mean * summary.players**0.5) if mean > 0 else None


def _slot(plan: Plan, item: str) -> int:
    """The column of an item's results; -1 where nothing can give it."""
    at = next(at for at, one in enumerate(plan.game.items) if one.id == item)
    found = np.flatnonzero(plan.items == at)
    return int(found[0]) if found.size else -1


def _in_order(plan: Plan, executor: Executor, stop: Stop, kept: Kept) -> Iterator[Bags]:
    """Results in the order of the units, with only a few under way at a time."""
    pending: deque[Future[Bags]] = deque()
    ahead = 2 * (os.cpu_count() or 1) + 2
    try:
        for number, (first, players) in enumerate(plan.units()):
            known = kept.get(number)
            pending.append(
                executor.submit(play_unit, plan.unit(first, players), stop)
                if known is None
                else _at_hand(known)
            )
            if len(pending) >= ahead:
                yield _awaited(pending.popleft(), stop)
        while pending:
            yield _awaited(pending.popleft(), stop)
    finally:
        for future in pending:
            future.cancel()


def _at_hand(bags: Bags) -> Future[Bags]:
    found: Future[Bags] = Future()
    found.set_result(bags)
    return found


def _awaited(one: Future[Bags], stop: Stop) -> Bags:
    """Raises Cancelled soon after the sign is given, also where whoever plays does not see it."""
    while not stop.is_set():
        with suppress(TimeoutError):
            return one.result(_LOOK)
    raise Cancelled("the trial was cancelled")


def report(plan: Plan, summary: Summary, expected: Expectations | None = None) -> dict[str, Any]:
    """All that is told of a trial, or of what has been played of it. It takes no longer than a look."""
    game = plan.game
    items = {}
    for slot, at in enumerate(plan.items.tolist()):
        go_on()
        figures = summary.item(slot)
        exact = expected.items[slot] if expected is not None else None
        figures["expected_mean"] = None if exact is None else exact[0]
        figures["z"] = z_score(figures["mean"], exact, summary.players)
        figures["histogram"] = summary.counts[slot].bins()
        items[game.items[at].id] = figures
    found = summary.value()
    value = expected.value if expected is not None else None
    result = {
        "items": items,
        "tiers": _tiers(plan, summary, expected),
        "value": {**found, **beside(found["mean"], value, summary.players)},
        "inequality": summary.inequality(),
        "repeats": summary.repeats,
        "events": summary.events_total,
        "players_done": summary.players,
        "kernel": KERNEL_VERSION,
        "program": plan.program_digest(),
        "digest": summary.digest,
        "histogram": summary.value_bins(),
        "fan": {"events": plan.marked(), "quantiles": summary.fan()},
        "players": _players(plan, summary),
        "untold": expected.untold if expected is not None else None,
    }
    if summary.kept is not None:
        told = summary.kept.told()
        result |= told if expected is None else beside_kept(told, expected, summary.players)
    if isinstance(plan.trial, RouteTrial) and expected is not None:
        result["stops"] = plan.stops(summary)
        result["seconds_mean"] = summary.seconds_total / summary.players
    return result


def _tiers(plan: Plan, summary: Summary, expected: Expectations | None) -> dict[str, Any]:
    """By tier how many units a player has, and its share of all that fell."""
    game = plan.game
    index = {tier.id: at for at, tier in enumerate(game.tiers)}
    of_slots = np.array([index[game.items[at].tier] for at in plan.items], dtype=np.int64)
    every = sum(summary.totals) or 1
    result = {}
    for at, tier in enumerate(game.tiers):
        slots = np.flatnonzero(of_slots == at)
        mean = sum(summary.totals[slot] for slot in slots) / summary.players
        exact = expected.tiers[at] if expected is not None else None
        result[tier.id] = {
            "mean": mean,
            "share": mean * summary.players / every,
            "expected_mean": None if exact is None else exact[0],
            "z": z_score(mean, exact, summary.players),
        }
    return result


def _players(plan: Plan, summary: Summary) -> dict[str, Any]:
    """The luckiest, median and unluckiest player, replayed alone."""
    result = {}
    for name, number in summary.extremes().items():
        bags = play_unit(plan.unit(number, 1))
        counts = {plan.game.items[at].id: int(bags.counts[0, slot]) for slot, at in enumerate(plan.items)}
        result[name] = {
            "player": number,
            "value": float(bags.value[0]),
            "items": {item: count for item, count in counts.items() if count},
            "path": bags.fan[0].tolist(),
        }
    return result
