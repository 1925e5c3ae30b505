"""The demo's thresholds, played by the plain interpreter of the tests, which has only the document.

Ten million events by default (`python -m bench thresholds`, minutes of plain Python on all cores), shared
evenly by the sources without state at their first and last depth; every item against the exact odds.
"""

from __future__ import annotations

import os
import time
from concurrent.futures import ProcessPoolExecutor

from scipy import stats

from golddice.core.exchange.thresholds import thresholds
from tests.core.handed_over import Drawn, drawn, static_sources
from tests.games import demo

EVENTS = 10_000_000


def main(events: int = EVENTS) -> None:
    made = demo()
    places = [
        (source, depth)
        for source, low, high in static_sources(made, thresholds(made))
        for depth in sorted({low, high})
    ]
    each = -(-events // len(places))
    began = time.perf_counter()
    with ProcessPoolExecutor(os.cpu_count()) as pool:
        played = list(pool.map(_played, [(*place, each, seed) for seed, place in enumerate(places)]))
    took = time.perf_counter() - began
    found = [one for ones in played for one in ones]
    scores = [one.z for one in found if one.z is not None]
    impossible = [one for one in found if one.impossible]
    print(
        f"{each * len(places):,} events of {len(places)} sources at their depths in {took:.0f} s, "
        f"{each * len(places) / took:,.0f} a second"
    )
    print(
        f"{len(scores)} items compared: largest |z| {max(map(abs, scores)):.2f}, "
        f"by chance at least that in {_as_large(scores):.0%} of such runs; "
        f"z squared is {sum(z * z for z in scores) / len(scores):.2f} on average (1 by chance)"
    )
    print(f"{len(impossible)} that could not be: {impossible}" if impossible else "none that could not be")


def _played(job: tuple[str, int, int, int]) -> list[Drawn]:
    source, depth, events, seed = job
    made = demo()
    return drawn(made, thresholds(made), source, depth, events=events, seed=seed)


def _as_large(scores: list[float]) -> float:
    return float(1 - (1 - 2 * stats.norm.sf(max(map(abs, scores)))) ** len(scores))


if __name__ == "__main__":
    main()
