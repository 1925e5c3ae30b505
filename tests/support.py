"""What tests of the store, the server and the browser stand on: a throw-away cluster and server."""

from __future__ import annotations

import asyncio
import atexit
import os
import secrets
import shutil
import signal
import socket
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from functools import cache
from pathlib import Path
from typing import IO, Any

import httpx
import sqlalchemy
import uvicorn

from golddice.core.trial.trial import local_executor
from golddice.server.app import make_app
from golddice.server.bench import Workbench
from golddice.server.broadcast import Broadcast
from golddice.server.connections import IDLE_PATIENCE, Protocol
from golddice.server.front.kinds import Urgency, kind_of
from golddice.server.front.link import Forks
from golddice.server.runner import Runner
from golddice.server.serving import PAGES, Fronted, listening
from golddice.store.cluster import Cluster
from golddice.store.database import Database
from golddice.store.games import Games
from golddice.store.line import Line
from golddice.store.trials import Trials

POSTGRES = "GOLDDICE_TESTS_POSTGRES"
"""Where the PostgreSQL of a whole run is, for its processes; one alone has its own."""
_TEMPLATE = "template_of_tests"


@cache
def postgres() -> str:
    """The address of a PostgreSQL with a migrated template; it is gone when its process ends."""
    return os.environ.get(POSTGRES) or _started()


def _started() -> str:
    folder = Path(tempfile.mkdtemp(prefix="golddice-tests-"))
    folder.chmod(0o755)  # PostgreSQL's own user has to reach into it
    made = Cluster(folder)
    made.start()
    _in_no_haste_to_the_disk(made.url)
    atexit.register(_end, made, folder)
    template = Database(_made(made.url, _TEMPLATE))
    template.migrate()
    template.close()
    return made.url


def _in_no_haste_to_the_disk(server: str) -> None:
    """What is thrown away need not outlive the machine; a killed PostgreSQL loses nothing by it."""
    engine = sqlalchemy.create_engine(server, isolation_level="AUTOCOMMIT")
    with engine.connect() as there:
        for name in ("fsync", "synchronous_commit", "full_page_writes"):
            there.exec_driver_sql(f"ALTER SYSTEM SET {name} = off")
        there.exec_driver_sql("SELECT pg_reload_conf()")
    engine.dispose()


def _end(made: Cluster, folder: Path) -> None:
    made.stop()
    shutil.rmtree(folder, ignore_errors=True)


def empty_database() -> Database:
    """A database with nothing in it, not even our tables."""
    return _opened("template0")


@cache
def database(module: str = "") -> Database:
    """A database of our own, and of this module's where one process runs several."""
    return _opened(_TEMPLATE)


def _opened(template: str) -> Database:
    found = Database(_made(postgres(), f"test_{secrets.token_hex(6)}", template))
    atexit.register(found.close)
    return found


def _made(server: str, name: str, template: str = "template0") -> str:
    engine = sqlalchemy.create_engine(server, isolation_level="AUTOCOMMIT")
    with engine.connect() as there:
        there.exec_driver_sql(f"CREATE DATABASE {name} TEMPLATE {template}")
    engine.dispose()
    return f"{server.rsplit('/', 1)[0]}/{name}"


@contextmanager
def running_server(pages: bool = True, module: str = "") -> Iterator[tuple[str, Workbench]]:
    """The whole application in this process, on a free port: its address, and the workbench behind it."""
    with _workbench(database(module)) as bench:
        app = _OneQuestionAtATime(make_app(bench, PAGES if pages else None))
        with _listened_to(uvicorn.Config(app)) as address:
            yield address, bench


@contextmanager
def fronted_server(pages: bool = False, module: str = "", name: str = "tests") -> Iterator[str]:
    """The application as it is served, its processes and all: its address. `name` is the server's own."""

    class Served:
        """Begins and ends with the loop that it is served in."""

        front: Fronted

        async def __call__(self, scope: Any, receive: Any, send: Any) -> None:
            if scope["type"] != "lifespan":
                await self.front.app(scope, receive, send)
                return
            await receive()
            forks = Forks()
            self.front = Fronted(database(module).url, forks, name, pages=PAGES if pages else None)
            async with self.front:
                await send({"type": "lifespan.startup.complete"})
                await receive()
            forks.close()
            await send({"type": "lifespan.shutdown.complete"})

    with _listened_to(uvicorn.Config(Served(), lifespan="on", timeout_graceful_shutdown=1)) as address:
        yield address


@contextmanager
def _listened_to(config: uvicorn.Config) -> Iterator[str]:
    config.http_protocol_class, config.timeout_keep_alive = Protocol, IDLE_PATIENCE
    config.http, config.access_log, config.log_level = Protocol, False, "warning"
    config.configure_logging()
    with listening(0) as listener:
        server = uvicorn.Server(config)
        thread = threading.Thread(target=server.run, kwargs={"sockets": [listener]}, daemon=True)
        thread.start()
        while not server.started:
            if not thread.is_alive():
                raise RuntimeError("the server ended as it began")
            time.sleep(0.01)
        try:
            yield f"http://127.0.0.1:{listener.getsockname()[1]}"
        finally:
            server.should_exit = True
            thread.join(10)


@contextmanager
def _workbench(database: Database) -> Iterator[Workbench]:
    broadcast = Broadcast()
    stores = Games(database), Trials(database), Line(database)
    runner = Runner(*stores, broadcast, local_executor(), f"tests-{secrets.token_hex(4)}")
    try:
        yield Workbench.on(database, broadcast, runner.wake)
    finally:
        broadcast.close()
        runner.close()


class _OneQuestionAtATime:
    """As in a worker process; edits do not wait, nor does what takes long, as with several."""

    def __init__(self, app: Any) -> None:
        self.app, self._turn = app, asyncio.Lock()

    async def __call__(self, scope: Any, receive: Any, send: Any) -> None:
        is_question = scope["type"] == "http" and scope["method"] == "POST"
        if is_question and kind_of("POST", scope["path"], 0).urgency is Urgency.LIGHT:
            async with self._turn:
                await self.app(scope, receive, send)
        else:
            await self.app(scope, receive, send)


def free_port() -> int:
    with socket.socket() as held:
        held.bind(("127.0.0.1", 0))
        return int(held.getsockname()[1])


@contextmanager
def served(
    folder: Path, *, port: int | None = None, command: list[str] | None = None, demo: bool = True
) -> Iterator[tuple[subprocess.Popen[bytes], httpx.Client]]:
    """The application as a process of its own, once it answers; killed at the end. On the demo game, with its
    trials, or where that is not wanted without any, in half of the time."""
    port = port or free_port()
    ours = [sys.executable, "-c", "from golddice.cli import main; main()", "serve"]
    command = command or [*ours, *(["--demo"] if demo else [])]
    environment = {**os.environ, "GOLDDICE_VAR": str(folder), "GOLDDICE_PORT": str(port)}
    environment["PYTHONFAULTHANDLER"] = "1"
    with (
        tempfile.TemporaryFile() as said,
        subprocess.Popen(
            command, env=environment, stdout=subprocess.DEVNULL, stderr=said, start_new_session=True
        ) as process,
        httpx.Client(base_url=f"http://127.0.0.1:{port}", timeout=90) as client,
    ):
        try:
            _answered(process, client, said)
            yield process, client
        finally:
            if process.poll() is None:
                process.kill()


def _answered(process: subprocess.Popen[bytes], client: httpx.Client, said: IO[bytes]) -> None:
    """Wait until it answers; a slow machine may take its time, one that hangs tells where."""
    end, pause = time.monotonic() + 180, 0.05
    while time.monotonic() < end:
        with suppress(httpx.HTTPError):
            if client.get("/api/games", timeout=10).is_success:
                return
        if process.poll() is not None:
            raise RuntimeError(f"it ended with {process.returncode}: {_told(said)}")
        time.sleep(pause)
        pause = min(1.5 * pause, 0.5)
    process.send_signal(signal.SIGABRT)  # every thread's stack is written
    process.wait(10)
    raise TimeoutError(f"it never answered: {_told(said)}")


def _told(said: IO[bytes]) -> str:
    said.seek(0)
    return said.read().decode(errors="replace")[-6_000:]
