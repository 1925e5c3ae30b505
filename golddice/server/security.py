"""Who may ask: this machine's own pages only. Plain ASGI, so that streams pass untouched."""

from __future__ import annotations

from starlette.datastructures import Headers, MutableHeaders
from starlette.responses import JSONResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send

LARGEST_BODY = 20 * 1024 * 1024
_SAFE = {"GET", "HEAD", "OPTIONS"}
_HOSTS = {"127.0.0.1", "localhost", "[::1]"}
_POLICY = (
    "default-src 'self'; img-src 'self' data:; style-src 'self' 'unsafe-inline'; "
    "object-src 'none'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'"
)


class Gate:
    """Checks Host, Origin and the size of bodies; sets the security headers of answers."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        refusal = _refusal(scope["method"], Headers(scope=scope))
        if refusal is not None:
            await refusal(scope, receive, send)
            return
        await self.app(scope, _limited(receive), _with_headers(send))


def _refusal(method: str, headers: Headers) -> JSONResponse | None:
    host = headers.get("host", "")
    name = host.rsplit(":", 1)[0] if not host.endswith("]") else host
    if name not in _HOSTS:
        return _refused(421, "asked under a name that is not this machine's")
    if method not in _SAFE:
        origin = headers.get("origin")
        if origin is not None and origin != f"http://{host}":
            return _refused(403, "a change must come from our own page")
        if origin is None and headers.get("sec-fetch-site") not in (None, "same-origin"):
            return _refused(403, "a change must come from our own page")
    length = headers.get("content-length", "0")
    if not length.isdigit() or int(length) > LARGEST_BODY:
        return _refused(413, f"over {LARGEST_BODY // 2**20} MB")
    return None


def _refused(status: int, detail: str) -> JSONResponse:
    body = {"type": "about:blank", "title": "refused", "status": status, "detail": detail}
    return JSONResponse(body, status, media_type="application/problem+json")


class BodyTooLarge(Exception):
    """More bytes came than were announced or are allowed."""


def _limited(receive: Receive) -> Receive:
    seen = 0

    async def limited() -> Message:
        nonlocal seen
        message = await receive()
        if message["type"] == "http.request":
            seen += len(message.get("body", b""))
            if seen > LARGEST_BODY:
                raise BodyTooLarge
        return message

    return limited


def _with_headers(send: Send) -> Send:
    async def headed(message: Message) -> None:
        if message["type"] == "http.response.start":
            headers = MutableHeaders(scope=message)
            headers["Content-Security-Policy"] = _POLICY
            headers["X-Content-Type-Options"] = "nosniff"
            headers["Referrer-Policy"] = "no-referrer"
            headers.setdefault("Cache-Control", "no-store")
        await send(message)

    return headed
