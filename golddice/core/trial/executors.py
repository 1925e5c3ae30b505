"""Where the units of a trial are played: threads of this process, or the workers of a Dask cluster.

Whoever plays a unit brings the same; where it is done changes nothing in what comes of a trial.
"""

from __future__ import annotations

import os
from concurrent.futures import Executor, Future, ThreadPoolExecutor
from dataclasses import replace
from typing import Any

from golddice.core.errors import GoldDiceError
from golddice.core.trial.bytes_of import packed, unpacked
from golddice.core.trial.plans import play_unit
from golddice.core.trial.playing import Unit
from golddice.core.trial.route import RouteUnit

_PATIENCE = 5  # seconds to reach a scheduler
_RETRIES = 20  # workers that may die on one unit
_KEPT_PROGRAMS = 4

AnyUnit = Unit | RouteUnit


class NoCluster(GoldDiceError):
    """There is no cluster to be had; the message says why and what to do."""


def local_executor(workers: int | None = None) -> Executor:
    """Threads on this machine: the kernel runs without Python's lock, so they share no time."""
    return ThreadPoolExecutor(workers or os.cpu_count() or 1, thread_name_prefix="trial")


def cluster_executor(address: str) -> Executor:
    """The workers of the Dask scheduler at an address like `tcp://host:8786`. Raises NoCluster."""
    try:
        from distributed import Client
    except ImportError:
        raise NoCluster("Dask is not installed: pip install 'golddice[cluster]'") from None
    try:
        return _Cluster(Client(address, timeout=_PATIENCE, set_as_default=False))
    except (OSError, TimeoutError, ValueError) as error:
        raise NoCluster(f"no Dask scheduler answers at {address} ({error})") from None


class _Cluster(Executor):
    """Sends a program once to every worker, then ranges of players; takes back packed bags."""

    def __init__(self, client: Any) -> None:
        self._client = client
        self._programs: dict[int, tuple[object, Any]] = {}  # by identity; each entry holds what it is of

    def submit(self, play: Any, /, *args: Any, **kwargs: Any) -> Future[Any]:
        """Only units are played here; what is running is not stopped in its midst, but not waited for."""
        if play is not play_unit:
            raise TypeError("a cluster plays units of trials and nothing else")
        unit: AnyUnit = args[0]
        program = self._on_workers(unit)
        task = self._client.submit(
            _played_there, program, unit.first, unit.players, pure=False, retries=_RETRIES
        )
        return _Sent(task)

    def _on_workers(self, unit: AnyUnit) -> Any:
        """All of a unit but its players, which is the same for all units of a trial."""
        of = unit.course if isinstance(unit, RouteUnit) else unit.legs[0].compiled
        if id(of) not in self._programs:
            while len(self._programs) >= _KEPT_PROGRAMS:
                self._programs.pop(next(iter(self._programs)))
            bare = replace(unit, first=0, players=0)
            self._programs[id(of)] = (of, self._client.scatter(bare, broadcast=True, hash=False))
        return self._programs[id(of)][1]

    def shutdown(self, wait: bool = True, *, cancel_futures: bool = False) -> None:
        self._programs.clear()
        self._client.close()


def _played_there(bare: AnyUnit, first: int, players: int) -> bytes:
    return packed(play_unit(replace(bare, first=first, players=players)))


class _Sent(Future[Any]):
    """Dask's future as one of Python's. A unit that no worker has begun is taken back by `cancel`."""

    def __init__(self, task: Any) -> None:
        super().__init__()
        self._task = task  # held, or Dask would forget it
        self.set_running_or_notify_cancel()
        task.add_done_callback(self._finished)

    def cancel(self) -> bool:
        self._task.cancel()
        return False  # what a worker has begun it plays to its end

    def _finished(self, task: Any) -> None:
        if task.cancelled():
            self.set_exception(NoCluster("the cluster went away"))
        elif task.status == "error":
            self.set_exception(task.exception())
        else:
            try:
                self.set_result(unpacked(task.result()))
            except Exception as error:
                self.set_exception(error)
