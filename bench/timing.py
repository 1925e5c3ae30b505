"""How the benchmarks measure: in turns, so that a machine that slows down slows all of them."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable

from golddice.core.results import RESULTS
from golddice.server.collector import settle_collector

Work = Callable[[], object]


def forget() -> None:
    """Leave nothing that was worked out before, so that what follows is from nothing."""
    RESULTS.clear()


def seconds(work: Work, runs: int = 5) -> float:
    """Median seconds of some runs, after one to warm up."""
    return in_turns(runs, work)[0]


settle_collector()  # as the server does


def in_turns(runs: int, *works: Work) -> list[float]:
    """Median seconds of each of several works, each round running all of them once."""
    for work in works:
        work()
    times: list[list[float]] = [[] for _ in works]
    for _ in range(runs):
        for work, taken in zip(works, times, strict=True):
            start = time.perf_counter()
            work()
            taken.append(time.perf_counter() - start)
    return [statistics.median(taken) for taken in times]
