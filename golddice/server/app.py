"""The application: a constructor fed with what it works on."""

from __future__ import annotations

from pathlib import Path

from fastapi import FastAPI

from golddice.server import errors
from golddice.server.bench import Workbench
from golddice.server.bounds import Bounded
from golddice.server.documented import document
from golddice.server.pages import Pages
from golddice.server.patience import Patience
from golddice.server.routes import (
    changes,
    depth,
    exchange,
    games,
    kept,
    odds,
    overview,
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
        overview,
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
    app.add_middleware(Bounded)
    app.add_middleware(Patience)
    app.add_middleware(Gate)
    return app


def _health() -> dict[str, str]:
    return {"status": "up"}
