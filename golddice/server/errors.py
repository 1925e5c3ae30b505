"""Errors meet HTTP in one table."""

from __future__ import annotations

import json
import logging
from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import Response
from starlette.exceptions import HTTPException

from golddice.core.errors import GameError, GoldDiceError, QueryError, TooLarge, UnknownThing
from golddice.core.game.editing import EditError
from golddice.core.game.reading import full, json_path
from golddice.core.trial.trial import Cancelled
from golddice.server.security import BodyTooLarge
from golddice.store.errors import Conflict, NotFound, NothingToUndo, Unavailable, Unstorable

# The most particular class decides.
STATUS: dict[type[GoldDiceError], int] = {
    GameError: 422,
    EditError: 422,
    QueryError: 422,
    UnknownThing: 404,
    TooLarge: 422,
    Cancelled: 409,
    NotFound: 404,
    Conflict: 409,
    NothingToUndo: 409,
    Unstorable: 422,
    Unavailable: 503,
}
_log = logging.getLogger("golddice")


def status_of(error: GoldDiceError) -> int:
    for kind in type(error).__mro__:
        if kind in STATUS:
            return STATUS[kind]
    return 500


def install(app: FastAPI) -> None:
    """Render every error as problem details; never show internals."""
    app.add_exception_handler(GoldDiceError, _ours)  # type: ignore[arg-type]
    app.add_exception_handler(RequestValidationError, _bad_request)  # type: ignore[arg-type]
    app.add_exception_handler(HTTPException, _http)  # type: ignore[arg-type]
    app.add_exception_handler(BodyTooLarge, _too_large)
    app.add_exception_handler(Exception, _unexpected)


def problem(status: int, title: str, detail: str, **more: Any) -> Response:
    body = {"type": "about:blank", "title": title, "status": status, "detail": detail, **more}
    # What was refused may be quoted, also half a character: in ASCII it can be sent all the same.
    return Response(json.dumps(body), status, media_type="application/problem+json")


async def _ours(_: Request, error: GoldDiceError) -> Response:
    more: dict[str, Any] = {}
    if isinstance(error, EditError):
        more["places"] = [vars(place) for place in error.places]
    elif isinstance(error, GameError):
        more["places"] = [{"path": p.path, "message": p.message} for p in error.problems]
    elif isinstance(error, Conflict):
        more = {"theirs": [_full(entry) for entry in error.theirs], "revision": error.revision}
    return problem(status_of(error), type(error).__name__, str(error), **more)


def _full(entry: dict[str, Any]) -> dict[str, Any]:
    body = entry["body"]
    return {**entry, "body": body and full(entry["kind"], body)}


async def _bad_request(_: Request, error: RequestValidationError) -> Response:
    places = [
        {"path": json_path(tuple(entry["loc"][1:])), "message": entry["msg"]} for entry in error.errors()
    ]
    detail = "; ".join(f"{place['path']}: {place['message']}" for place in places)
    return problem(422, "BadRequest", detail, places=places)


async def _http(_: Request, error: HTTPException) -> Response:
    return problem(error.status_code, "HTTP", str(error.detail))


async def _too_large(_: Request, __: Exception) -> Response:
    return problem(413, "TooLarge", "over 20 MB")


async def _unexpected(request: Request, error: Exception) -> Response:
    _log.exception("unexpected error at %s", request.url.path, exc_info=error)
    return problem(500, "Unexpected", "something went wrong here; nothing was changed")
