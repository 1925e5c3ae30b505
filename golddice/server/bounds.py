"""Answers that a page can take in: no longer than a limit, and compressed on their way."""

from __future__ import annotations

from starlette.middleware.gzip import GZipMiddleware
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from golddice.server.problems import problem

MOST_TOLD = 10 * 2**20  # bytes


class Bounded:
    """Refuses an answer over the limit; files and whole games, which are as long as they are, pass."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = GZipMiddleware(_Short(app), minimum_size=1_000, compresslevel=5)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        await self.app(scope, receive, send)


class _Short:
    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        started: Message | None = None
        refused = False

        async def told(message: Message) -> None:
            nonlocal started, refused
            if refused:
                return
            if message["type"] == "http.response.start" and _is_told(message):
                started = message
                return
            if started is not None:
                length = len(message.get("body", b""))
                if length > MOST_TOLD:
                    refused = True
                    detail = f"the answer would have {length / 2**20:.0f} MB; ask of fewer depths or items"
                    await problem(422, "TooLarge", detail)(scope, receive, send)
                    return
                await send(started)
                started = None
            await send(message)

        await self.app(scope, receive, told)


def _is_told(start: Message) -> bool:
    """Whether it is an answer in JSON, not a file nor a whole game."""
    headers = {name.lower(): value for name, value in start["headers"]}
    is_json = headers.get(b"content-type", b"").startswith(b"application/json")
    return is_json and b"content-disposition" not in headers and b"x-whole-game" not in headers
