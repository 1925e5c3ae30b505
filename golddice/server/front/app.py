"""The application as it listens: pages, news and health are answered here, all else by the workers."""

from __future__ import annotations

import asyncio
import json
import re
import tempfile
from collections.abc import AsyncIterator, Callable, Coroutine
from contextlib import asynccontextmanager, suppress
from pathlib import Path
from typing import Any

from starlette.datastructures import QueryParams
from starlette.responses import JSONResponse, Response, StreamingResponse
from starlette.types import ASGIApp, Receive, Scope, Send

from golddice.server.broadcast import Broadcast
from golddice.server.front.kinds import Kind, kind_of
from golddice.server.front.pool import Answer, Pool

_GAME = re.compile(r"/api/games/([^/]+)")
_NEWS = re.compile(r"/api/games/([^/]+)/events")
_TAKEN_ALONG = {"content-type", "accept-encoding", "accept", "host"}
_OF_THE_CONNECTION = {"content-length", "connection", "transfer-encoding"}


class Front:
    """Plain ASGI, so that it knows when whoever asks has gone."""

    def __init__(
        self, pool: Pool, broadcast: Broadcast, pages: ASGIApp | None, wake: Callable[[], None]
    ) -> None:
        """`wake` tells whoever plays trials that the line may be another."""
        self._pool, self._broadcast, self._pages, self._wake = pool, broadcast, pages, wake
        self._goodbyes: set[asyncio.Task[None]] = set()

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            return
        path: str = scope["path"]
        if path == "/api/health":
            await JSONResponse({"status": "up"})(scope, receive, send)
        elif path.startswith("/api/") or self._pages is None:
            with suppress(_Left):
                await self._handed_on(scope, receive, send)
        else:
            await self._pages(scope, receive, send)

    async def _handed_on(self, scope: Scope, receive: Receive, send: Send) -> None:
        headers = {name.decode("latin-1"): value.decode("latin-1") for name, value in scope["headers"]}
        length = headers.get("content-length", "")
        kind = kind_of(scope["method"], scope["path"], int(length) if length.isdigit() else 0)
        game = found.group(1) if (found := _GAME.match(scope["path"])) else ""
        head = {
            "method": scope["method"],
            "path": scope["path"],
            "query": scope["query_string"].decode("latin-1"),
            "headers": [(name, value) for name, value in headers.items() if name in _TAKEN_ALONG],
        }
        async with _body(kind, receive) as (body, file):
            asked = self._pool.answer(kind, game, head | ({"file": str(file)} if file else {}), body)
            answer = await _unless_left(asked, receive)
        if answer is None:
            return
        if kind.is_write and (scope["method"] == "DELETE" or "/trials" in scope["path"]):
            self._wake()
        if answer.status == 200 and _NEWS.fullmatch(scope["path"]):
            await self._told_news(game, scope, receive, send)
        else:
            await _response(answer)(scope, receive, send)

    async def _told_news(self, game: str, scope: Scope, receive: Receive, send: Send) -> None:
        """Until the page goes, which is news for the pages of other servers too."""
        page = QueryParams(scope["query_string"]).get("page")
        try:
            await _stream(self._broadcast.listen(game, page))(scope, receive, send)
        finally:
            if page is not None:
                task = asyncio.create_task(self._goodbye(game, page))
                self._goodbyes.add(task)
                task.add_done_callback(self._goodbyes.discard)

    async def _goodbye(self, game: str, page: str) -> None:
        path = f"/api/games/{game}/presence"
        headers = [("host", "localhost"), ("content-type", "application/json")]
        head = {"method": "POST", "path": path, "query": "", "headers": headers}
        body = json.dumps({"page": page, "leaves": True}).encode()
        await self._pool.answer(kind_of("POST", path, len(body)), game, head, body)


@asynccontextmanager
async def _body(kind: Kind, receive: Receive) -> AsyncIterator[tuple[bytes, Path | None]]:
    """The whole body: in memory, or in a file that is gone afterwards."""
    if kind.is_upload:
        with tempfile.TemporaryDirectory(prefix="golddice-upload-") as folder:
            path = Path(folder) / "body"
            with path.open("wb") as file:
                async for part in _parts(receive):
                    await asyncio.to_thread(file.write, part)
            yield b"", path
    else:
        whole = bytearray()
        async for part in _parts(receive):
            whole += part
        yield bytes(whole), None


class _Left(Exception):
    """Whoever asked went before the question was whole."""


async def _parts(receive: Receive) -> AsyncIterator[bytes]:
    while True:
        message = await receive()
        if message["type"] == "http.disconnect":
            raise _Left
        yield message.get("body", b"")
        if not message.get("more_body", False):
            return


async def _unless_left(asked: Coroutine[Any, Any, Answer], receive: Receive) -> Answer | None:
    """The answer; None where whoever asked goes first, and the work is given up."""
    work, gone = asyncio.ensure_future(asked), asyncio.ensure_future(receive())
    try:
        await asyncio.wait({work, gone}, return_when=asyncio.FIRST_COMPLETED)
        return work.result() if work.done() else None
    finally:
        gone.cancel()
        work.cancel()


def _response(answer: Answer) -> Response:
    found = Response(answer.body, answer.status)
    found.raw_headers = [
        *(
            (name.encode("latin-1"), value.encode("latin-1"))
            for name, value in answer.headers
            if name not in _OF_THE_CONNECTION
        ),
        (b"content-length", str(len(answer.body)).encode()),
    ]
    return found


def _stream(news: AsyncIterator[str]) -> StreamingResponse:
    headers = {"Cache-Control": "no-store", "X-Accel-Buffering": "no"}
    return StreamingResponse(news, media_type="text/event-stream", headers=headers)
