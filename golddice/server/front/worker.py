"""A worker: a process that answers one request at a time, with the whole application behind it."""

from __future__ import annotations

import asyncio
import ctypes
import logging
import os
import resource
import signal
import socket
from collections.abc import MutableMapping
from pathlib import Path
from typing import Any

from starlette.types import ASGIApp

from golddice.server.front.frames import read_frame, write_frame

_WHOLE = 2**20  # bytes of a body that are handed on at a time
_DIE_WITH_PARENT = 1  # PR_SET_PDEATHSIG
WORK = f"{__name__}:work"


def work(link: socket.socket, url: str) -> None:
    """Answer what comes over the socket until it is closed. `url` is of the database."""
    die_with_parent()
    logging.basicConfig(level=logging.WARNING, format="%(levelname)s %(name)s: %(message)s")
    asyncio.run(_Worker(link, url).run())


def die_with_parent() -> None:
    """Ctrl+C is for whoever started us; a parent that is killed takes us along."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    signal.signal(signal.SIGTERM, signal.SIG_DFL)
    ctypes.CDLL(None).prctl(_DIE_WITH_PARENT, signal.SIGKILL)


class _Worker:
    def __init__(self, link: socket.socket, url: str) -> None:
        self._link, self._url = link, url
        self._gone = asyncio.Event()

    async def run(self) -> None:
        from golddice.server.app import make_app
        from golddice.server.serving_parts import bench_of_worker

        reader, writer = await asyncio.open_connection(sock=self._link)
        app = make_app(bench_of_worker(self._url))
        task: asyncio.Task[None] | None = None
        while (frame := await read_frame(reader)) is not None:
            head, body = frame
            if "stop" in head:
                self._gone.set()
                continue
            if task is not None:
                await task
            self._gone = asyncio.Event()
            _limit_memory(_held("VmData") + head["memory"])
            task = asyncio.create_task(self._answer(app, head["ask"], body, writer))
        os._exit(0)  # the front has gone; nobody waits for what is under way

    async def _answer(
        self, app: ASGIApp, asked: dict[str, Any], body: bytes, writer: asyncio.StreamWriter
    ) -> None:
        answer = _Collected()
        try:
            await app(_scope(asked), self._receiver(asked.get("file"), body), answer)
            head = {"status": answer.status, "headers": answer.headers, "held": _held("VmRSS")}
            write_frame(writer, head, bytes(answer.body))
            await writer.drain()
        except BaseException:  # not even an error could be told, for want of memory as a rule
            os._exit(1)  # which the front understands

    def _receiver(self, file: str | None, body: bytes) -> Any:
        """The body, from memory or from a file; then nothing until whoever asked has gone."""
        gone = self._gone
        opened = None if file is None else Path(file).open("rb")  # noqa: SIM115
        ended = False

        async def receive() -> dict[str, Any]:
            nonlocal ended
            if ended:
                await gone.wait()
                return {"type": "http.disconnect"}
            part = body if opened is None else await asyncio.to_thread(opened.read, _WHOLE)
            more = opened is not None and len(part) == _WHOLE
            ended = not more
            if ended and opened is not None:
                opened.close()
            return {"type": "http.request", "body": part, "more_body": more}

        return receive


class _Collected:
    """An answer that is put together before it is handed on."""

    def __init__(self) -> None:
        self.status, self.headers, self.body = 500, list[tuple[str, str]](), bytearray()

    async def __call__(self, message: MutableMapping[str, Any]) -> None:
        if message["type"] == "http.response.start":
            self.status = message["status"]
            self.headers = [
                (name.decode("latin-1"), value.decode("latin-1")) for name, value in message["headers"]
            ]
        else:
            self.body += message.get("body", b"")


def _scope(asked: dict[str, Any]) -> dict[str, Any]:
    return {
        "type": "http",
        "asgi": {"version": "3.0", "spec_version": "2.3"},
        "http_version": "1.1",
        "scheme": "http",
        "method": asked["method"],
        "path": asked["path"],
        "raw_path": asked["path"].encode(),
        "root_path": "",
        "query_string": asked["query"].encode("latin-1"),
        "headers": [(name.encode("latin-1"), value.encode("latin-1")) for name, value in asked["headers"]],
        "client": ("127.0.0.1", 0),
        "server": ("127.0.0.1", 0),
        "state": {},
        "golddice.file": asked.get("file"),
    }


def _limit_memory(most: int) -> None:
    """What is asked beyond it raises MemoryError; nothing else on the machine feels it."""
    _, hard = resource.getrlimit(resource.RLIMIT_DATA)
    resource.setrlimit(resource.RLIMIT_DATA, (most, hard))


def _held(what: str) -> int:
    """Bytes of this process, by a name in /proc."""
    for line in Path("/proc/self/status").read_text(encoding="ascii", errors="replace").splitlines():
        if line.startswith(f"{what}:"):
            return 1024 * int(line.split()[1])
    return 0
