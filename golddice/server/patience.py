"""Questions whose asker has gone are not worked out to the end. Plain ASGI, around what answers them."""

from __future__ import annotations

import asyncio
from contextlib import suppress

from starlette.types import ASGIApp, Message, Receive, Scope, Send

from golddice.core.stopping import Stop, stopped_by


class Patience:
    """While a request is answered its connection is listened to; when it closes, the work that the
    answer takes is told to stop."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or scope["path"].endswith("/events"):  # a stream listens for itself
            await self.app(scope, receive, send)
            return
        stop, read = Stop(), asyncio.Event()

        async def heard() -> Message:
            """The body as it comes; behind it nothing but the end of the connection, which the watch sees."""
            if read.is_set():
                await asyncio.Event().wait()
            message = await receive()
            if message["type"] == "http.disconnect" or not message.get("more_body", False):
                read.set()
            return message

        watch = asyncio.create_task(_watch(receive, read, stop))
        try:
            with stopped_by(stop):
                await self.app(scope, heard, send)
        finally:
            watch.cancel()
            with suppress(asyncio.CancelledError):
                await watch


async def _watch(receive: Receive, read: asyncio.Event, stop: Stop) -> None:
    await read.wait()
    while (await receive())["type"] != "http.disconnect":
        pass
    stop.set()
