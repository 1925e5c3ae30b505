"""Questions about what is kept: kit, sets, properties, bag and purse; a container's cells; a parcel's
price."""

from __future__ import annotations

from fastapi import APIRouter

from golddice.core.errors import QueryError
from golddice.core.sheets.kept.bag import bag
from golddice.core.sheets.kept.container import container
from golddice.core.sheets.kept.keeping import kept_along, kept_of, kit_by_depth
from golddice.core.sheets.kept.parcel import parcel
from golddice.server.bench import Bench
from golddice.server.schemas.kept import (
    BagIn,
    BagOut,
    CellsIn,
    CellsOut,
    KeptIn,
    KeptOut,
    KitIn,
    KitOut,
    PriceIn,
    PriceOut,
)

router = APIRouter(prefix="/api/games/{game_id}", tags=["kept"])


@router.post("/kept")
def kept(game_id: str, asked: KeptIn, bench: Bench) -> KeptOut:
    """What players keep in so many events of a source, or along a route."""
    loaded, game = bench.asked_of(game_id, asked)
    if asked.route is not None:
        found = kept_along(game, asked.route)
    elif asked.source is not None and asked.depth is not None:
        found = kept_of(game, asked.source, depth=asked.depth, events=asked.events, flags=asked.flags)
    else:
        raise QueryError("name a route, or a source and a depth")
    return KeptOut.model_validate({"revision": loaded.revision, **found})


@router.post("/kit")
def kit(game_id: str, asked: KitIn, bench: Bench) -> KitOut:
    """What is worn after so many events of a source, at every depth."""
    loaded, game = bench.asked_of(game_id, asked)
    depths = kit_by_depth(game, asked.source, events=asked.events, flags=asked.flags)
    return KitOut.model_validate({"revision": loaded.revision, "depths": depths})


@router.post("/cells")
def cells(game_id: str, asked: CellsIn, bench: Bench) -> CellsOut:
    """Whether what a container rolls fits into it, and one packing."""
    loaded, game = bench.asked_of(game_id, asked)
    found = container(game, asked.source, depth=asked.depth, flags=asked.flags, opening=asked.opening)
    return CellsOut.model_validate({"revision": loaded.revision, **found})


@router.post("/bag")
def packed_bag(game_id: str, asked: BagIn, bench: Bench) -> BagOut:
    """One player's bag on a route, packed."""
    loaded, game = bench.asked_of(game_id, asked)
    found = bag(game, asked.route, asked.player)
    return BagOut.model_validate({"revision": loaded.revision, **found})


@router.post("/price")
def price(game_id: str, asked: PriceIn, bench: Bench) -> PriceOut:
    """What things cost that a parcel gives."""
    loaded, game = bench.asked_of(game_id, asked)
    found = parcel(game, asked.source, depth=asked.depth, flags=asked.flags)
    return PriceOut.model_validate({"revision": loaded.revision, **found})
