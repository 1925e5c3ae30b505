"""What works behind the front, put together on a migrated database."""

from __future__ import annotations

from golddice.core.trial.executors import cluster_executor, local_executor
from golddice.server.bench import Workbench
from golddice.server.broadcast import News, Told
from golddice.server.runner import Runner
from golddice.store.database import Database
from golddice.store.games import Games
from golddice.store.line import Line
from golddice.store.trials import Trials

_CONNECTIONS = 2  # of a process that does one thing at a time


def bench_of_worker(url: str) -> Workbench:
    database = Database(url, _CONNECTIONS)
    return Workbench.on(database, Told(database))


def runner_on(url: str, dask: str | None, server: str, news: News | None = None) -> Runner:
    """What an earlier process of the same server played goes on. `dask` is the address of a scheduler on
    whose workers trials are played. Raises NoCluster."""
    workers = cluster_executor(dask) if dask else local_executor()
    database = Database(url, 2 * _CONNECTIONS)
    line = Line(database)
    line.release(f"{server}/%")
    return Runner(Games(database), Trials(database), line, news or Told(database), workers, server)
