"""The front's hold on its processes: forked from one that has loaded everything, spoken to over a socket."""

from __future__ import annotations

import asyncio
import os
import select
import signal
import socket
import subprocess
import sys
import threading
from contextlib import suppress
from pathlib import Path
from typing import Any

from golddice.server.front import zygote
from golddice.server.front.frames import Frame, read_frame, write_frame


class Forks:
    """Where processes come from. What they need is loaded from the start, beside whatever else is begun."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._begin()

    def _begin(self) -> None:
        self._zygote, theirs = socket.socketpair(socket.AF_UNIX, socket.SOCK_SEQPACKET)
        command = [sys.executable, "-m", "golddice.server.front.zygote", str(theirs.fileno())]
        with theirs:
            self._process = subprocess.Popen(command, pass_fds=[theirs.fileno()], stdin=subprocess.DEVNULL)

    def fork(self, link: socket.socket, work: str, told: list[object]) -> int:
        """The number of a new process; forked from another zygote where the first has ended. Raises
        OSError."""
        with self._lock:
            try:
                return zygote.ask(self._zygote, link, work, told)
            except OSError:
                self.close()
                self._begin()
                return zygote.ask(self._zygote, link, work, told)

    def close(self) -> None:
        self._zygote.close()
        self._process.kill()
        self._process.wait()


class Link:
    """A process, and the two directions of its socket."""

    def __init__(self, process: int, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        self.pid, self._reader, self._writer = process, reader, writer
        self._handle = os.pidfd_open(process)  # a number may be another's once its process has ended

    @classmethod
    async def to(cls, forks: Forks, work: str, *told: object) -> Link:
        """Start a process that does `work` (`module:function`) with its socket and what it is told. Raises
        OSError."""
        ours, theirs = socket.socketpair()
        with theirs:
            number = await asyncio.to_thread(forks.fork, theirs, work, list(told))
        reader, writer = await asyncio.open_connection(sock=ours)
        return cls(number, reader, writer)

    def send(self, head: dict[str, Any], body: bytes = b"") -> None:
        if not self._writer.is_closing():
            write_frame(self._writer, head, body)

    async def next(self) -> Frame | None:
        """The next frame; None once the process has ended."""
        return await read_frame(self._reader)

    def kill(self) -> None:
        """At once, whatever it is doing; nothing to do where it has ended."""
        if self._handle < 0:
            return
        with suppress(OSError):
            signal.pidfd_send_signal(self._handle, signal.SIGKILL)
        os.close(self._handle)
        self._handle = -1
        self._writer.close()

    def worked(self) -> float:
        """Seconds of a processor so far; of a process that has ended, none."""
        try:
            told = Path(f"/proc/{self.pid}/stat").read_text(encoding="ascii", errors="replace")
        except OSError:
            return 0.0
        user, system = told.rpartition(")")[2].split()[11:13]
        return (int(user) + int(system)) / os.sysconf("SC_CLK_TCK")

    async def ended(self, patience: float) -> None:
        """Once it has ended by itself, or been ended after so many seconds."""
        if self._handle >= 0:
            await asyncio.to_thread(select.select, [self._handle], [], [], patience)
        self.kill()
