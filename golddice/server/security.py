"""Who may ask: this machine's own pages only. Plain ASGI, so that streams pass untouched."""

from __future__ import annotations

import asyncio
import logging
import re

from starlette.datastructures import Headers, MutableHeaders
from starlette.exceptions import HTTPException
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from golddice.server.problems import problem

LARGEST_BODY = 20 * 1024 * 1024
LARGEST_LOG = 2**30  # goes to a file, not into memory
BODY_PATIENCE = 30.0  # seconds for the next part of a body
_LOG = re.compile(r"/api/games/[^/]+/log")
_SAFE = {"GET", "HEAD", "OPTIONS"}
# The whole of it: the framework's own check takes what stands before the first colon.
_HOST = re.compile(r"(127\.0\.0\.1|localhost|\[::1\])(:[0-9]{1,5})?")
_POLICY = (
    "default-src 'self'; img-src 'self' data:; style-src 'self' 'unsafe-inline'; "
    "object-src 'none'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'"
)
_log = logging.getLogger("golddice")


class Gate:
    """Checks Host, Origin and the size of bodies; sets the security headers of all answers, also of what
    it refuses and of what went wrong."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        answer = _Answer(send)
        largest = LARGEST_LOG if _LOG.fullmatch(scope["path"]) else LARGEST_BODY
        refusal = _refusal(scope["method"], Headers(scope=scope), largest)
        if refusal is not None:
            await problem(refusal[0], "Refused", refusal[1])(scope, receive, answer)
            return
        try:
            await self.app(scope, _limited(receive, largest), answer)
        except Exception as error:
            _log.exception("unexpected error at %s", scope["path"], exc_info=error)
            if not answer.begun:
                detail = "something went wrong here"
                await problem(500, "Unexpected", detail)(scope, receive, answer)


def _refusal(method: str, headers: Headers, largest: int) -> tuple[int, str] | None:
    """Status and why."""
    host = headers.get("host", "")
    if _HOST.fullmatch(host) is None:
        return 421, "asked under a name that is not this machine's"
    if method not in _SAFE:
        origin = headers.get("origin")
        if origin is not None and origin != f"http://{host}":
            return 403, "a change must come from our own page"
        if origin is None and headers.get("sec-fetch-site") not in (None, "same-origin"):
            return 403, "a change must come from our own page"
    length = headers.get("content-length", "0")
    if not (length.isascii() and length.isdigit()) or len(length) > 12 or int(length) > largest:
        return 413, f"over {largest // 2**20} MB"
    return None


def _limited(receive: Receive, largest: int) -> Receive:
    """A body that is neither longer than allowed nor comes slower than anybody's."""
    seen, done = 0, False

    async def limited() -> Message:
        nonlocal seen, done
        if done:
            return await receive()
        try:
            message = await asyncio.wait_for(receive(), BODY_PATIENCE)
        except TimeoutError:
            raise HTTPException(408, "the rest of the request never came") from None
        done = message["type"] != "http.request" or not message.get("more_body", False)
        seen += len(message.get("body", b""))
        if seen > largest:
            raise HTTPException(413, f"over {largest // 2**20} MB")
        return message

    return limited


class _Answer:
    """Sends on, with our headers; knows whether anything was sent."""

    def __init__(self, send: Send) -> None:
        self._send, self.begun = send, False

    async def __call__(self, message: Message) -> None:
        if message["type"] == "http.response.start":
            self.begun = True
            headers = MutableHeaders(scope=message)
            headers["Content-Security-Policy"] = _POLICY
            headers["X-Content-Type-Options"] = "nosniff"
            headers["Referrer-Policy"] = "no-referrer"
            headers.setdefault("Cache-Control", "no-store")
        await self._send(message)
