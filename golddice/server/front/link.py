"""The front's hold on its processes: forked from one that has loaded everything, spoken to over a socket."""

from __future__ import annotations

import asyncio
import multiprocessing
import socket
from collections.abc import Callable
from contextlib import suppress
from multiprocessing.context import ForkServerContext
from multiprocessing.process import BaseProcess
from typing import Any

from golddice.server.front.frames import Frame, read_frame, write_frame

Work = Callable[..., None]


def forks() -> ForkServerContext:
    """Where processes are forked from; begins to load what they need as soon as the first is asked for."""
    context = multiprocessing.get_context("forkserver")
    context.set_forkserver_preload(["golddice.server.front.preloaded"])
    return context


class Link:
    """A process, and the two directions of its socket."""

    def __init__(
        self, process: BaseProcess, reader: asyncio.StreamReader, writer: asyncio.StreamWriter
    ) -> None:
        self.process, self._reader, self._writer = process, reader, writer

    @classmethod
    async def to(cls, context: ForkServerContext, work: Work, *told: Any) -> Link:
        """Start a process that does `work(socket, *told)`. Raises OSError."""
        ours, theirs = socket.socketpair()
        process = context.Process(target=work, args=(theirs, *told), daemon=True)
        try:
            await asyncio.to_thread(process.start)
        finally:
            theirs.close()
        reader, writer = await asyncio.open_connection(sock=ours)
        return cls(process, reader, writer)

    def send(self, head: dict[str, Any], body: bytes = b"") -> None:
        if not self._writer.is_closing():
            write_frame(self._writer, head, body)

    async def next(self) -> Frame | None:
        """The next frame; None once the process has ended."""
        return await read_frame(self._reader)

    def kill(self) -> None:
        """At once, whatever it is doing; nothing to do where it has ended."""
        with suppress(OSError, ValueError):
            self.process.kill()
        self._writer.close()

    async def ended(self, patience: float) -> None:
        """Once it has ended by itself, or been ended after so many seconds."""
        await asyncio.to_thread(self.process.join, patience)
        self.kill()
