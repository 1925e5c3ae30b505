"""Questions about places and stalls."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter, Request, Response
from starlette.concurrency import run_in_threadpool

from golddice.core.sheets.place_report import place_report
from golddice.core.sheets.stall_report import stall_report
from golddice.core.terms.places.spots import place_of
from golddice.files.pictures import checked_png
from golddice.server.bench import Bench
from golddice.server.schemas.places import PlaceIn, PlaceOut, StallIn, StallOut

_PNG: dict[str, Any] = {"image/png": {"schema": {"type": "string", "format": "binary"}}}
_PICTURES = {"type": "pictures"}  # told to open pages: which there are is another
_SENT: dict[str, Any] = {"requestBody": {"required": True, "content": _PNG}}

router = APIRouter(prefix="/api/games/{game_id}", tags=["places"])


@router.post("/place")
def place(game_id: str, asked: PlaceIn, bench: Bench) -> PlaceOut:
    """What lies where, and what is there for whoever comes back."""
    loaded, game = bench.asked_of(game_id, asked)
    found = place_report(
        game, asked.place, depth=asked.depth, flags=asked.flags, every=asked.every, seed=asked.seed
    )
    return PlaceOut.model_validate({"revision": loaded.revision, **found})


@router.get("/pictures")
def pictures(game_id: str, bench: Bench) -> dict[str, str]:
    """Places with a picture under their plan, each with its digest."""
    return bench.pictures.of_game(game_id)


@router.get("/pictures/{place}", response_class=Response, responses={200: {"content": _PNG}})
def picture(game_id: str, place: str, bench: Bench) -> Response:
    data = bench.pictures.get(game_id, place)
    # The address carries the digest: the same address is always the same picture.
    return Response(data, media_type="image/png", headers={"Cache-Control": "private, max-age=31536000"})


@router.put("/pictures/{place}", openapi_extra=_SENT)
async def lay_picture(game_id: str, place: str, request: Request, bench: Bench) -> dict[str, str]:
    """Lay a PNG of up to 4 MB under the plan of a place. It is shown, and part of nothing else."""
    content = await request.body()

    def laid() -> dict[str, str]:
        place_of(bench.games.load(game_id).entities.game(), place)
        bench.pictures.put(game_id, place, checked_png(content))
        bench.broadcast.tell(game_id, _PICTURES)
        return bench.pictures.of_game(game_id)

    return await run_in_threadpool(laid)


@router.delete("/pictures/{place}", status_code=204)
def take_picture(game_id: str, place: str, bench: Bench) -> None:
    bench.pictures.remove(game_id, place)
    bench.broadcast.tell(game_id, _PICTURES)


@router.post("/stall")
def stall(game_id: str, asked: StallIn, bench: Bench) -> StallOut:
    """The calendar of a stall from a moment on."""
    loaded, game = bench.asked_of(game_id, asked)
    found = stall_report(
        game, asked.stall, asked.at, asked.count, look_every=asked.look_every, looks=asked.looks
    )
    return StallOut.model_validate({"revision": loaded.revision, **found})
