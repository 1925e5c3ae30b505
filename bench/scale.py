"""(g) A trial on a cluster's workers on this machine beside threads, and a reckoning of what many would do.

What is serial is adding units up, in order. It is measured, and from it how many workers can be kept busy.
"""

from __future__ import annotations

import time
from concurrent.futures import Executor

from golddice.core.game.views import View
from golddice.core.stopping import Stop
from golddice.core.trial.bytes_of import packed
from golddice.core.trial.executors import cluster_executor, local_executor
from golddice.core.trial.plans import play_unit
from golddice.core.trial.trial import Trial, plan_of, run_plan
from golddice.files.game_file import read_game_file
from golddice.server.settings import DEMO
from tests.core.test_cluster import cluster

ASKED = Trial(View("source", "lantern-eel"), 14, 100_000, 1_000, 7)


def main() -> None:
    game = read_game_file(DEMO)
    plan = plan_of(game, ASKED)
    events = ASKED.players * ASKED.events
    for threads in (1, 2):
        with local_executor(threads) as executor:
            took = _seconds(game, executor)
            print(f"{threads} threads          {events / took / 1e6:8.1f} million events a second")
    for workers in (1, 2):
        with cluster(workers) as (address, _), cluster_executor(address) as executor:
            executor._client.wait_for_workers(workers, timeout=60)  # type: ignore[attr-defined]
            _seconds(game, executor)  # the kernel is loaded once by each
            took = _seconds(game, executor)
            print(f"{workers} cluster workers  {events / took / 1e6:8.1f} million events a second")
    _reckoning(plan)


def _seconds(game, executor: Executor) -> float:  # type: ignore[no-untyped-def]
    start = time.perf_counter()
    run_plan(plan_of(game, ASKED), executor, lambda *_: None, Stop())
    return time.perf_counter() - start


def _reckoning(plan) -> None:  # type: ignore[no-untyped-def]
    units = list(plan.units())
    start = time.perf_counter()
    bags = play_unit(plan.unit(*units[0]))
    played = time.perf_counter() - start
    start = time.perf_counter()
    data = packed(bags)
    squeezed = time.perf_counter() - start
    summary = plan.new_summary()
    start = time.perf_counter()
    for _ in range(5):
        summary.add(bags)
    added = (time.perf_counter() - start) / 5
    program = plan.program.program.code.nbytes + plan.program.program.real.nbytes
    print(
        f"{len(units)} units of {units[0][1]} players; a program of {program / 1000:.0f} kB, once to a worker"
    )
    print(f"a unit: {1000 * played:.1f} ms to play, {1000 * squeezed:.1f} ms to squeeze,", end=" ")
    print(f"{len(data) / 1000:.1f} kB over the wire, {1000 * added:.2f} ms to add up here")
    busy = (played + squeezed) / added
    print(f"so {busy:.0f} workers keep this machine busy; 100 would do what {min(100, busy):.0f} do")


if __name__ == "__main__":
    main()
