"""Questions about places and stalls."""

from __future__ import annotations

from fastapi import APIRouter

from golddice.core.sheets.place_report import place_report
from golddice.core.sheets.stall_report import stall_report
from golddice.server.bench import Bench
from golddice.server.schemas.places import PlaceIn, PlaceOut, StallIn, StallOut

router = APIRouter(prefix="/api/games/{game_id}", tags=["places"])


@router.post("/place")
def place(game_id: str, asked: PlaceIn, bench: Bench) -> PlaceOut:
    """What lies where, and what is there for whoever comes back."""
    loaded, game = bench.asked_of(game_id, asked)
    with bench.in_turn():
        found = place_report(
            game, asked.place, depth=asked.depth, flags=asked.flags, every=asked.every, seed=asked.seed
        )
    return PlaceOut.model_validate({"revision": loaded.revision, **found})


@router.post("/stall")
def stall(game_id: str, asked: StallIn, bench: Bench) -> StallOut:
    """The calendar of a stall from a moment on."""
    loaded, game = bench.asked_of(game_id, asked)
    with bench.in_turn():
        found = stall_report(
            game, asked.stall, asked.at, asked.count, look_every=asked.look_every, looks=asked.looks
        )
    return StallOut.model_validate({"revision": loaded.revision, **found})
