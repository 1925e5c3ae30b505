"""Units played by a cluster: a scheduler and two worker processes on loopback, of which one is killed."""

from __future__ import annotations

import os
import signal
import socket
import subprocess
import sys
import threading
import time
import unittest
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager, suppress
from typing import Any
from unittest.mock import patch

from golddice.core.game.views import View
from golddice.core.stopping import Cancelled, Stop
from golddice.core.trial import cluster as cluster_module
from golddice.core.trial.cluster import OtherVersion, versions
from golddice.core.trial.executors import NoCluster, cluster_executor, local_executor
from golddice.core.trial.trial import RouteTrial, Trial, plan_of, reported, run_plan, run_trial
from tests.games import demo
from tests.support import free_port

EEL = Trial(View("source", "lantern-eel"), 14, 20_000, 1_000, 7)


@contextmanager
def cluster(workers: int, port: int | None = None) -> Iterator[tuple[str, list[subprocess.Popen[bytes]]]]:
    """A scheduler's address, and its workers; all are gone at the end."""
    port = port or free_port()
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
        _listened_to(port)
        one = ("--nthreads", "1", "--no-nanny", "--no-dashboard", "--host", "127.0.0.1")
        yield address, [start("dask_worker", address, *one) for _ in range(workers)]
    finally:
        for process in started:
            process.kill()
            process.wait()


def _listened_to(port: int) -> None:
    """A busy machine takes its time to begin a scheduler."""
    end = time.monotonic() + 90
    while time.monotonic() < end:
        with suppress(OSError), socket.create_connection(("127.0.0.1", port), 5):
            return
        time.sleep(0.1)
    raise TimeoutError("the scheduler never began")


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

    def test_a_trial_of_many_units_ends_though_a_worker_is_killed_in_its_midst(self) -> None:
        trial = Trial(EEL.view, 14, 10_000, 2_000, 7)
        plan = plan_of(demo(), trial)
        with local_executor(2) as executor:
            whole = run_trial(demo(), trial, executor)
        with cluster(2) as (address, workers), cluster_executor(address) as executor:
            executor._client.wait_for_workers(2, timeout=60)  # type: ignore[attr-defined]
            killed = threading.Timer(0.7, lambda: os.kill(workers[1].pid, signal.SIGKILL))
            killed.start()
            _, told = reported(plan, executor, lambda *_: None, Stop())
            killed.join()
            self.assertEqual(told, whole)

    def test_a_cluster_that_is_wholly_restarted_goes_on(self) -> None:
        port, plan = free_port(), plan_of(demo(), EEL)
        with local_executor(2) as executor:
            whole = run_trial(demo(), EEL, executor)
        with ExitStack() as first:
            address, _ = first.enter_context(cluster(1, port))
            with cluster_executor(address) as executor:
                restarted: list[int] = []

                def on_unit(number: int, *_: Any) -> None:
                    if number == 1:
                        first.close()
                        self.enterContext(cluster(1, port))
                        restarted.append(number)

                _, told = reported(plan, executor, on_unit, Stop())
        self.assertEqual((told, restarted), (whole, [1]))

    def test_a_scheduler_that_does_not_come_back_and_one_without_workers_are_a_sentence(self) -> None:
        plan = plan_of(demo(), EEL)
        with cluster(0) as (address, _), patch.object(cluster_module, "WITHOUT_WORKERS", 1.0):
            with cluster_executor(address) as executor:
                with self.assertRaisesRegex(NoCluster, "has no workers; start some: dask worker"):
                    run_plan(plan, executor, lambda *_: None, Stop())
        with ExitStack() as gone, patch.object(cluster_module, "RETURNS", 1.0):
            address, _ = gone.enter_context(cluster(1))
            with cluster_executor(address) as executor:
                with self.assertRaisesRegex(NoCluster, "went away and did not come back"):
                    run_plan(plan, executor, lambda number, *_: gone.close(), Stop())

    def test_a_worker_of_another_version_is_refused(self) -> None:
        package, kernel, digest = versions()
        others = (("0.0.1", kernel, digest), (package, kernel + 1, digest), (package, kernel, "0" * 64))
        with cluster_executor(self.address) as executor:
            executor._client.wait_for_workers(1, timeout=60)  # type: ignore[attr-defined]
            for other in others:
                with patch.object(cluster_module, "versions", lambda other=other: other):
                    with self.assertRaisesRegex(OtherVersion, "would play otherwise"):
                        run_plan(plan_of(demo(), EEL), executor, lambda *_: None, Stop())

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
        with self.assertRaisesRegex(NoCluster, "asks for certificates; say where"):
            cluster_executor(f"tls://127.0.0.1:{free_port()}")


if __name__ == "__main__":
    unittest.main()
