"""What tests of the store, the server and the browser stand on: a throw-away cluster and server."""

from __future__ import annotations

import atexit
import os
import shutil
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

import httpx
import uvicorn

from golddice.server.app import make_app
from golddice.server.bench import Workbench
from golddice.server.serving import PAGES, listening, workbench
from golddice.store.cluster import Cluster
from golddice.store.database import Database


@cache
def cluster() -> Cluster:
    """One PostgreSQL for the whole run, in a folder of its own, gone at the end."""
    folder = Path(tempfile.mkdtemp(prefix="golddice-tests-"))
    folder.chmod(0o755)  # PostgreSQL's own user has to reach into it
    made = Cluster(folder)
    made.start()
    atexit.register(_end, made, folder)
    return made


def _end(made: Cluster, folder: Path) -> None:
    made.stop()
    shutil.rmtree(folder, ignore_errors=True)


@cache
def database() -> Database:
    found = Database(cluster().url)
    atexit.register(found.close)
    found.migrate()
    return found


@contextmanager
def running_server(pages: bool = True) -> Iterator[tuple[str, Workbench]]:
    """The whole application on a free port: its address, and the workbench behind it."""
    with workbench(database()) as bench, listening(0) as listener:
        app = make_app(bench, PAGES if pages else None)
        server = uvicorn.Server(uvicorn.Config(app, log_level="warning", access_log=False))
        thread = threading.Thread(target=server.run, kwargs={"sockets": [listener]}, daemon=True)
        thread.start()
        while not server.started:
            time.sleep(0.01)
        try:
            yield f"http://127.0.0.1:{listener.getsockname()[1]}", bench
        finally:
            bench.broadcast.close()
            server.should_exit = True
            thread.join(10)


def free_port() -> int:
    with socket.socket() as held:
        held.bind(("127.0.0.1", 0))
        return int(held.getsockname()[1])


@contextmanager
def served(
    folder: Path, *, port: int | None = None, command: list[str] | None = None
) -> Iterator[tuple[subprocess.Popen[bytes], httpx.Client]]:
    """The application as a process of its own on the demo game, once it answers; killed at the end."""
    port = port or free_port()
    command = command or [
        sys.executable,
        "-c",
        "from golddice.cli import main; main()",
        "serve",
        "--demo",
    ]
    environment = {**os.environ, "GOLDDICE_VAR": str(folder), "GOLDDICE_PORT": str(port)}
    process = subprocess.Popen(command, env=environment, stdout=subprocess.DEVNULL, start_new_session=True)
    with process, httpx.Client(base_url=f"http://127.0.0.1:{port}", timeout=30) as client:
        try:
            _answered(process, client)
            yield process, client
        finally:
            if process.poll() is None:
                process.kill()


def _answered(process: subprocess.Popen[bytes], client: httpx.Client) -> None:
    end = time.monotonic() + 60
    while time.monotonic() < end:
        with suppress(httpx.HTTPError):
            if client.get("/api/games").json():
                return
        if process.poll() is not None:
            raise RuntimeError(f"it ended with {process.returncode}")
        time.sleep(0.05)
    raise TimeoutError("it never answered")
