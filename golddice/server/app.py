"""The application: a constructor fed with what it works on."""

from __future__ import annotations

from pathlib import Path

from fastapi import FastAPI
from starlette.exceptions import HTTPException
from starlette.responses import Response
from starlette.staticfiles import StaticFiles
from starlette.types import Scope

from golddice.server import errors
from golddice.server.bench import Workbench
from golddice.server.documented import document
from golddice.server.patience import Patience
from golddice.server.routes import (
    changes,
    depth,
    exchange,
    games,
    kept,
    odds,
    places,
    presence,
    rolls,
    targets,
    trials,
    tuning,
)
from golddice.server.security import Gate


def make_app(bench: Workbench, pages: Path | None = None) -> FastAPI:
    """The API under /api, and the built pages (if given) under everything else."""
    app = FastAPI(
        title="Gold Dice",
        version="1",
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
    )
    app.openapi = lambda: document(app)  # type: ignore[method-assign]
    app.state.bench = bench
    errors.install(app)
    for routes in (
        games,
        changes,
        odds,
        depth,
        kept,
        places,
        rolls,
        targets,
        trials,
        tuning,
        exchange,
        presence,
    ):
        app.include_router(routes.router)
    app.get("/api/health", include_in_schema=False)(_health)
    if pages is not None:
        app.mount("/", Pages(directory=pages, html=True))
    # Outermost last: the gate sees every request first.
    app.add_middleware(Patience)
    app.add_middleware(Gate)
    return app


def _health() -> dict[str, str]:
    return {"status": "up"}


class Pages(StaticFiles):
    """Built files, kept by the browser where their name holds a hash; else the one page."""

    async def get_response(self, path: str, scope: Scope) -> Response:
        try:
            response = await super().get_response(path, scope)
        except HTTPException as error:
            if error.status_code != 404 or path.startswith(("api/", "assets/")):
                raise
            response = await super().get_response("index.html", scope)
        forever = path.startswith("assets/")
        response.headers["Cache-Control"] = "public, max-age=31536000, immutable" if forever else "no-cache"
        return response
