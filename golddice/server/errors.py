"""Errors meet HTTP in one table."""

from __future__ import annotations

from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import Response
from starlette.exceptions import HTTPException

from golddice.core.errors import GameError, GoldDiceError, QueryError, TooLarge, UnknownThing
from golddice.core.game.editing import EditError
from golddice.core.game.reading import full, json_path, shortened
from golddice.core.stopping import Cancelled
from golddice.core.trial.executors import NoCluster
from golddice.server.problems import problem
from golddice.store.errors import Conflict, FromLater, NotFound, NothingToUndo, Unavailable, Unstorable
from golddice.store.trials import LineFull

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
    FromLater: 409,
    LineFull: 429,
    NoCluster: 503,
}
MOST_PLACES = 1_000


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
    app.add_exception_handler(MemoryError, _too_large)  # type: ignore[arg-type]
    app.add_exception_handler(RecursionError, _too_deep)  # type: ignore[arg-type]


async def _ours(_: Request, error: GoldDiceError) -> Response:
    more: dict[str, Any] = {}
    if isinstance(error, EditError):
        more["places"] = [vars(place) for place in error.places[:MOST_PLACES]]
    elif isinstance(error, GameError):
        places = error.problems[:MOST_PLACES]
        more["places"] = [{"path": p.path, "message": p.message} for p in places]
    elif isinstance(error, Conflict):
        more = {"theirs": [_full(entry) for entry in error.theirs], "revision": error.revision}
    headers = {"Retry-After": "60"} if isinstance(error, LineFull) else None
    return problem(status_of(error), type(error).__name__, shortened(str(error), 4_000), headers, **more)


def _full(entry: dict[str, Any]) -> dict[str, Any]:
    body = entry["body"]
    return {**entry, "body": body and full(entry["kind"], body)}


async def _bad_request(_: Request, error: RequestValidationError) -> Response:
    places = [
        {"path": shortened(json_path(tuple(entry["loc"][1:])), 300), "message": shortened(entry["msg"], 300)}
        for entry in error.errors()[:MOST_PLACES]
    ]
    detail = "; ".join(f"{place['path']}: {place['message']}" for place in places)
    return problem(422, "BadRequest", shortened(detail, 4_000), places=places)


async def _http(_: Request, error: HTTPException) -> Response:
    headers = dict(error.headers) if error.headers else None
    return problem(error.status_code, "HTTP", str(error.detail), headers)


async def _too_large(_: Request, __: MemoryError) -> Response:
    detail = "this takes more memory than a question may have; ask of fewer depths, events or lines"
    return problem(422, "TooLarge", detail)


async def _too_deep(_: Request, __: RecursionError) -> Response:
    return problem(422, "TooLarge", "this is nested too deep to be worked out; take a level out")
