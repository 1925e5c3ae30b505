"""Units played by a cluster: a scheduler and two worker processes on loopback, of which one is killed."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import unittest
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from golddice.core.game.views import View
from golddice.core.stopping import Cancelled, Stop
from golddice.core.trial.executors import NoCluster, cluster_executor, local_executor
from golddice.core.trial.trial import RouteTrial, Trial, plan_of, reported, run_plan, run_trial
from tests.games import demo
from tests.support import free_port

EEL = Trial(View("source", "lantern-eel"), 14, 40_000, 1_000, 7)


@contextmanager
def cluster(workers: int) -> Iterator[tuple[str, list[subprocess.Popen[bytes]]]]:
    """A scheduler's address, and its workers; all are gone at the end."""
    port = free_port()
    address = f"tcp://127.0.0.1:{port}"
    started: list[subprocess.Popen[bytes]] = []

    def start(*command: str) -> subprocess.Popen[bytes]:
        quiet = {"stdout": subprocess.DEVNULL, "stderr": subprocess.DEVNULL}
        process = subprocess.Popen(
            [sys.executable, "-m", "distributed.cli." + command[0], *command[1:]], **quiet
        )  # type: ignore[call-overload]
        started.append(process)
        return process  # type: ignore[no-any-return]

    try:
        start("dask_scheduler", "--host", "127.0.0.1", "--port", str(port), "--no-dashboard")
        one = ("--nthreads", "1", "--no-nanny", "--no-dashboard", "--host", "127.0.0.1")
        yield address, [start("dask_worker", address, *one) for _ in range(workers)]
    finally:
        for process in started:
            process.kill()
            process.wait()


class Cluster(unittest.TestCase):
    """One cluster for all: the test that comes first by name leaves both workers alive."""

    @classmethod
    def setUpClass(cls) -> None:
        cls.address, cls.workers = cls.enterClassContext(cluster(2))

    def test_the_digest_is_that_of_one_process_though_a_worker_dies(self) -> None:
        with local_executor(2) as executor:
            whole = run_trial(demo(), EEL, executor)
        with cluster_executor(self.address) as executor:
            executor._client.wait_for_workers(2, timeout=60)  # type: ignore[attr-defined]
            seen: list[int] = []

            def on_unit(number: int, *_: Any) -> None:
                seen.append(number)
                if number == 1:
                    os.kill(self.workers[0].pid, signal.SIGKILL)

            plan = plan_of(demo(), EEL)
            _, told = reported(plan, executor, on_unit, Stop())
            self.assertGreater(len(seen), 8)
            self.assertEqual(told, whole)

    def test_a_route_and_a_stop(self) -> None:
        with local_executor(2) as executor:
            whole = run_trial(demo(), RouteTrial("first-dive", 2_000, 3), executor)
        with cluster_executor(self.address) as executor:
            self.assertEqual(run_trial(demo(), RouteTrial("first-dive", 2_000, 3), executor), whole)
            plan, stop = plan_of(demo(), Trial(EEL.view, 14, 1_000_000, 2_000, 7)), Stop()
            seen: list[int] = []

            def on_unit(number: int, *_: Any) -> None:
                seen.append(number)
                stop.set()

            with self.assertRaises(Cancelled):
                run_plan(plan, executor, on_unit, stop)
            self.assertLess(len(seen), sum(1 for _ in plan.units()) / 10)

    def test_nobody_there(self) -> None:
        with self.assertRaisesRegex(NoCluster, "no Dask scheduler answers"):
            cluster_executor(f"tcp://127.0.0.1:{free_port()}")


if __name__ == "__main__":
    unittest.main()
