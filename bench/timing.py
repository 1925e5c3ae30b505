"""How the benchmarks measure: several runs, the median, all shown."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable


def seconds(work: Callable[[], object], runs: int = 5) -> float:
    """Median seconds of some runs, after one to warm up."""
    work()
    times = []
    for _ in range(runs):
        start = time.perf_counter()
        work()
        times.append(time.perf_counter() - start)
    return statistics.median(times)
