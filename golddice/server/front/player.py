"""The process that plays trials, and the front's hold on it."""

from __future__ import annotations

import asyncio
import logging
import os
import socket
from contextlib import suppress

from golddice.core.errors import GoldDiceError
from golddice.server.front.frames import read_frame, write_frame
from golddice.server.front.link import Forks, Link
from golddice.server.front.worker import die_with_parent

_NICE = 5  # whoever asks a question goes first
_AGAIN = 1.0
_PLAY = f"{__name__}:play"
_log = logging.getLogger("golddice")


class CannotPlay(GoldDiceError):
    """Trials cannot be played; the message says why."""


def play(link: socket.socket, url: str, dask: str | None, server: str) -> None:
    """Take trials from the line until the socket is closed."""
    die_with_parent()
    os.nice(_NICE)
    logging.basicConfig(level=logging.WARNING, format="%(levelname)s %(name)s: %(message)s")
    asyncio.run(_play(link, url, dask, server))
    os._exit(0)


async def _play(link: socket.socket, url: str, dask: str | None, server: str) -> None:
    from golddice.core.trial.executors import NoCluster
    from golddice.server.serving_parts import runner_on

    reader, writer = await asyncio.open_connection(sock=link)
    try:
        runner = await asyncio.to_thread(runner_on, url, dask, server)
    except NoCluster as error:
        write_frame(writer, {"cannot": str(error)})
        await writer.drain()
        return
    write_frame(writer, {"ready": True})
    while (frame := await read_frame(reader)) is not None and "stop" not in frame[0]:
        runner.wake()
    await asyncio.to_thread(runner.close)


class Player:
    """Keeps one such process running."""

    def __init__(self, forks: Forks, url: str, dask: str | None, server: str) -> None:
        self._forks, self._told = forks, (url, dask, server)
        self._link: Link | None = None
        self._watch: asyncio.Task[None] | None = None

    async def start(self) -> None:
        """Raises CannotPlay."""
        await self._begin()
        self._watch = asyncio.create_task(self._keep())

    def wake(self) -> None:
        """The line is another."""
        if self._link is not None:
            self._link.send({"wake": True})

    async def close(self, patience: float = 10.0) -> None:
        """What is played is handed back to the line first."""
        if self._watch is not None:
            self._watch.cancel()
        if self._link is not None:
            self._link.send({"stop": True})
            await self._link.ended(patience)

    async def _begin(self) -> None:
        link = await Link.to(self._forks, _PLAY, *self._told)
        first = await link.next()
        if first is None or "cannot" in first[0]:
            link.kill()
            raise CannotPlay(first[0]["cannot"] if first else "the process that plays trials ended at once")
        self._link = link

    async def _keep(self) -> None:
        """Begin another where it ends; what it played goes on, since nobody else has its lease."""
        while True:
            assert self._link is not None
            while await self._link.next() is not None:
                pass
            _log.warning("the process that plays trials ended; another is started")
            await asyncio.sleep(_AGAIN)
            with suppress(CannotPlay, OSError):
                await self._begin()
