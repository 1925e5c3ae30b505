"""Questions about the whole game: on one sheet, and along a route that is done again and again."""

from __future__ import annotations

from fastapi import APIRouter

from golddice.core.overview.collection import collection
from golddice.core.overview.report import overview
from golddice.server.bench import Bench
from golddice.server.schemas.depth import FlaggedIn
from golddice.server.schemas.overview import CollectionIn, CollectionOut, OverviewOut

router = APIRouter(prefix="/api/games/{game_id}", tags=["overview"])


@router.post("/overview")
def whole_game(game_id: str, asked: FlaggedIn, bench: Bench) -> OverviewOut:
    """An hour down the depths, every item, money."""
    loaded, game = bench.asked_of(game_id, asked)
    return OverviewOut.model_validate({"revision": loaded.revision, **overview(game, asked.flags)})


@router.post("/collection")
def owned(game_id: str, asked: CollectionIn, bench: Bench) -> CollectionOut:
    """What players own after so many runs of a route."""
    loaded, game = bench.asked_of(game_id, asked)
    found = collection(game, asked.route, asked.runs)
    return CollectionOut.model_validate({"revision": loaded.revision, **found})
