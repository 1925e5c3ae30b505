"""Start everything, say where, and stop everything."""

from __future__ import annotations

import fcntl
import logging
import signal
import socket
import sys
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

import uvicorn

from golddice.core.errors import GoldDiceError
from golddice.core.trial.executors import cluster_executor, local_executor
from golddice.files.game_file import read_game_file
from golddice.server.app import make_app
from golddice.server.bench import Workbench
from golddice.server.broadcast import Broadcast
from golddice.server.collector import settle_collector
from golddice.server.connections import IDLE_PATIENCE, Protocol
from golddice.server.demo import show_trials
from golddice.server.jobs import Jobs
from golddice.server.routes.trials import resume
from golddice.server.settings import ROOT, Settings
from golddice.store.cluster import Cluster
from golddice.store.database import Database
from golddice.store.games import Games
from golddice.store.logs import Logs
from golddice.store.marks import Marks
from golddice.store.pictures import Pictures
from golddice.store.trials import Trials

PAGES = ROOT / "web" / "dist"
DEMO = ROOT / "demo" / "saltglass-deep.golddice.json"


class CannotServe(GoldDiceError):
    """The server cannot start; the message says why and what to do."""


def serve_until_stopped(*, demo: bool) -> None:
    """Serve until Ctrl+C or SIGTERM; then stop PostgreSQL too."""
    # Uvicorn hands a SIGTERM on after it has stopped; left to itself that would end the process
    # before PostgreSQL is stopped.
    signal.signal(signal.SIGTERM, signal.default_int_handler)
    # A short question, or an answer on its way out, does not wait 5 ms for one that is worked out.
    sys.setswitchinterval(0.001)
    settings = Settings.from_environment()
    logging.basicConfig(level=logging.WARNING, format="%(levelname)s %(name)s: %(message)s")
    with alone_in(settings), listening(settings.port) as listener, _database(settings) as database:
        with workbench(database, settings.dask) as bench:
            if demo and not bench.games.every():
                row = bench.games.create(read_game_file(DEMO), label="opened the demo game")
                show_trials(bench, row.id)
            server = _Server(bench, listener)
            settle_collector()
            print(f"Gold Dice is at http://127.0.0.1:{settings.port}  (Ctrl+C stops it)", flush=True)
            server.run_until_stopped()
    print("Stopped; everything is saved.", flush=True)


@contextmanager
def alone_in(settings: Settings) -> Iterator[None]:
    """Only one server has a data folder: a second would take the first one's trials for left over. The
    lock goes with the process. Raises CannotServe."""
    settings.folder.mkdir(parents=True, exist_ok=True)
    with (settings.folder / "served").open("w", encoding="ascii") as held:
        try:
            fcntl.flock(held, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            raise CannotServe(
                f"Gold Dice is running on {settings.folder} already. Stop it, or give this one a folder "
                "of its own with GOLDDICE_VAR=/some/folder"
            ) from None
        yield


@contextmanager
def workbench(database: Database, dask: str | None = None) -> Iterator[Workbench]:
    """The store and the jobs on a migrated database; ended in order. `dask` is the address of a scheduler on
    whose workers trials are played. Raises NoCluster."""
    workers = cluster_executor(dask) if dask else local_executor()
    database.migrate()
    trials, broadcast = Trials(database), Broadcast()
    jobs = Jobs(trials, broadcast, workers)
    bench = Workbench(
        Games(database), trials, Pictures(database), Marks(database), Logs(database), jobs, broadcast
    )
    resume(bench)
    try:
        yield bench
    finally:
        broadcast.close()
        jobs.close()


class _Server:
    """Uvicorn on a socket that is bound already, so that a taken port is known at once."""

    def __init__(self, bench: Workbench, listener: socket.socket) -> None:
        self._listener = listener
        pages = PAGES if (PAGES / "index.html").exists() else None
        if pages is None:
            print("The pages are not built; `make start` builds them. Serving the API only.", file=sys.stderr)
        self._bench = bench
        config = uvicorn.Config(
            make_app(bench, pages),
            log_level="warning",
            access_log=False,
            timeout_graceful_shutdown=3,
            server_header=False,
            http=Protocol,
            timeout_keep_alive=IDLE_PATIENCE,
        )
        self._server = _Uvicorn(config, bench)

    def run_until_stopped(self) -> None:
        with suppress(KeyboardInterrupt):  # uvicorn hands the signal on after it has stopped
            self._server.run(sockets=[self._listener])


class _Uvicorn(uvicorn.Server):
    """Ends open event streams first, or a stop would wait for their pages to close."""

    def __init__(self, config: uvicorn.Config, bench: Workbench) -> None:
        super().__init__(config)
        self._bench = bench

    async def shutdown(self, sockets: list[socket.socket] | None = None) -> None:
        self._bench.broadcast.close()
        await super().shutdown(sockets)


@contextmanager
def listening(port: int) -> Iterator[socket.socket]:
    """A bound socket on loopback; port 0 is any that is free. Raises CannotServe.

    Without TCP_NODELAY the second half of an answer would wait 40 ms for the first to be acknowledged.
    """
    listener = socket.socket(socket.AF_INET, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    listener.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
    listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listener.bind(("127.0.0.1", port))
        listener.listen(128)
    except OSError as error:
        listener.close()
        raise CannotServe(
            f"port {port} is taken ({error.strerror}). Stop what runs there, "
            f"or choose another: GOLDDICE_PORT={port + 1} make start"
        ) from None
    with listener:
        yield listener


@contextmanager
def _database(settings: Settings) -> Iterator[Database]:
    """An outside database where one is named, else our own cluster, started and stopped."""
    if settings.database_url is not None:
        database = Database(settings.database_url)
        try:
            yield database
        finally:
            database.close()
        return
    cluster = Cluster(Path(settings.folder))
    try:
        cluster.start(watch=True)
        database = Database(cluster.url)
        try:
            yield database
        finally:
            database.close()
    finally:
        cluster.stop()
