"""Start everything, say where, and stop everything."""

from __future__ import annotations

import asyncio
import fcntl
import logging
import secrets
import signal
import socket
import sys
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

import uvicorn

from golddice.core.errors import GoldDiceError
from golddice.server.broadcast import Broadcast
from golddice.server.connections import IDLE_PATIENCE, Protocol
from golddice.server.front.app import Front
from golddice.server.front.kinds import kind_of
from golddice.server.front.link import Forks, Link
from golddice.server.front.news import pass_on
from golddice.server.front.player import Player
from golddice.server.front.pool import Answer, Pool
from golddice.server.front.worker import WORK
from golddice.server.pages import Pages
from golddice.server.security import Gate
from golddice.server.settings import ROOT, Settings
from golddice.store.cluster import Cluster
from golddice.store.database import Database

PAGES = ROOT / "web" / "dist"
_PATIENCE = 3  # seconds for what is under way when the server is stopped


class CannotServe(GoldDiceError):
    """The server cannot start; the message says why and what to do."""


def serve_until_stopped(*, demo: bool) -> None:
    """Serve until Ctrl+C or SIGTERM; then stop PostgreSQL too."""
    signal.signal(signal.SIGTERM, signal.default_int_handler)
    settings = Settings.from_environment()
    logging.basicConfig(level=logging.WARNING, format="%(levelname)s %(name)s: %(message)s")
    with suppress(KeyboardInterrupt):
        with alone_in(settings) as server, listening(settings.port) as listener:
            forks = Forks()  # it loads what workers need beside what follows
            try:
                with _database(settings) as url:
                    asyncio.run(_serve(url, forks, settings, server, listener, demo))
            finally:
                forks.close()
    print("Stopped; everything is saved.", flush=True)


async def _serve(
    url: str, forks: Forks, settings: Settings, server: str, listener: socket.socket, demo: bool
) -> None:
    pages = PAGES if (PAGES / "index.html").exists() else None
    if pages is None:
        print("The pages are not built; `make start` builds them. Serving the API only.", file=sys.stderr)
    async with Fronted(url, forks, server, settings.dask, pages) as front:
        if demo:
            await front.show_demo()
        http = _Uvicorn(front)
        loop = asyncio.get_running_loop()
        for number in (signal.SIGINT, signal.SIGTERM):
            loop.add_signal_handler(number, http.stop)
        print(f"Gold Dice is at http://127.0.0.1:{settings.port}  (Ctrl+C stops it)", flush=True)
        await http.serve([listener])


class Fronted:
    """The front with its processes on a migrated database; ended in order. Raises CannotPlay."""

    def __init__(
        self, url: str, forks: Forks, server: str, dask: str | None = None, pages: Path | None = None
    ) -> None:
        self.broadcast = Broadcast()
        self.pool = Pool(lambda: Link.to(forks, WORK, url))
        self.player = Player(forks, url, dask, server)
        shown = None if pages is None else Pages(directory=pages, html=True)
        self.app = Gate(Front(self.pool, self.broadcast, shown, self.player.wake))
        self._url = url
        self._news: asyncio.Task[None] | None = None

    async def __aenter__(self) -> Fronted:
        self._news = asyncio.create_task(pass_on(self._url, self.broadcast))
        try:
            await asyncio.gather(self.pool.start(), self.player.start())
        except BaseException:
            await self.__aexit__()
            raise
        return self

    async def __aexit__(self, *_: object) -> None:
        if self._news is not None:
            self._news.cancel()
        self.broadcast.close()
        await asyncio.gather(self.pool.close(_PATIENCE), self.player.close())

    async def show_demo(self) -> None:
        """The demo game, where there is none yet."""
        games = await self._asked("GET", "/api/games")
        if games.body == b"[]":
            await self._asked("POST", "/api/games/demo", "trials=true")
            self.player.wake()

    async def _asked(self, method: str, path: str, query: str = "") -> Answer:
        head = {"method": method, "path": path, "query": query, "headers": [("host", "localhost")]}
        answer = await self.pool.answer(kind_of(method, path, 0), "", head)
        if answer.status >= 400:
            raise CannotServe(f"the demo game could not be opened: {answer.body.decode()[:300]}")
        return answer


class _Uvicorn(uvicorn.Server):
    """On a socket that is bound already, so that a taken port is known at once. Ends open event streams and
    long questions first, or a stop would wait for them."""

    def __init__(self, front: Fronted) -> None:
        super().__init__(
            uvicorn.Config(
                front.app,
                lifespan="off",
                log_level="warning",
                access_log=False,
                timeout_graceful_shutdown=_PATIENCE,
                server_header=False,
                http=Protocol,
                timeout_keep_alive=IDLE_PATIENCE,
            )
        )
        self._front = front

    @contextmanager
    def capture_signals(self) -> Iterator[None]:
        yield  # they are ours

    def stop(self) -> None:
        self.should_exit = True

    async def shutdown(self, sockets: list[socket.socket] | None = None) -> None:
        self._front.broadcast.close()
        await self._front.pool.close(_PATIENCE)
        await super().shutdown(sockets)


@contextmanager
def alone_in(settings: Settings) -> Iterator[str]:
    """Only one server has a data folder; its name, under which it leases trials. The lock goes with the
    process. Raises CannotServe."""
    settings.folder.mkdir(parents=True, exist_ok=True)
    with (settings.folder / "served").open("a+", encoding="ascii") as held:
        try:
            fcntl.flock(held, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            raise CannotServe(
                f"Gold Dice is running on {settings.folder} already. Stop it, or give this one a folder "
                "of its own with GOLDDICE_VAR=/some/folder"
            ) from None
        held.seek(0)
        name = held.read().strip()
        if not name:
            name = secrets.token_hex(6)
            held.write(name)
            held.flush()
        yield name


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
def _database(settings: Settings) -> Iterator[str]:
    """The address of a migrated database: an outside one where it is named, else of our own cluster, started
    and stopped."""
    if settings.database_url is not None:
        _migrate(settings.database_url)
        yield settings.database_url
        return
    cluster = Cluster(Path(settings.folder))
    try:
        cluster.start(watch=True)
        _migrate(cluster.url)
        yield cluster.url
    finally:
        cluster.stop()


def _migrate(url: str) -> None:
    database = Database(url)
    try:
        database.migrate()
    finally:
        database.close()
