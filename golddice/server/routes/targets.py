"""Where the targets of a game stand."""

from __future__ import annotations

from fastapi import APIRouter

from golddice.server.bench import Bench
from golddice.server.schemas.targets import TargetsIn, TargetsOut

router = APIRouter(prefix="/api/games/{game_id}", tags=["targets"])


@router.post("/targets")
def targets(game_id: str, asked: TargetsIn, bench: Bench) -> TargetsOut:
    """Targets of the game, at every depth that each asks about."""
    loaded, found = bench.standings(game_id, asked)
    told = [standing.plain() for standing in found]
    return TargetsOut.model_validate({"revision": loaded.revision, "targets": told})
