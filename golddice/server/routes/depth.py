"""Questions about all depths: of a source or table, of an item, of what a player meets."""

from __future__ import annotations

from fastapi import APIRouter

from golddice.core.sheets.depth_sheet import depth_sheet
from golddice.core.sheets.item_view import item_view, tier_view
from golddice.core.sheets.meeting import meets, meets_profile
from golddice.server.bench import Bench, view_of
from golddice.server.schemas.depth import (
    DepthSheetOut,
    DepthsIn,
    FlaggedIn,
    ItemViewOut,
    MeetsIn,
    MeetsOut,
    TierViewOut,
    WhereIn,
)
from golddice.server.schemas.odds import ProfileOut

router = APIRouter(prefix="/api/games/{game_id}", tags=["depth"])


@router.post("/depths")
def along_depths(game_id: str, asked: DepthsIn, bench: Bench) -> DepthSheetOut:
    """What is in view at every depth of the game."""
    loaded, game = bench.asked_of(game_id, asked)
    found = depth_sheet(game, view_of(asked.view), asked.flags, asked.swings)
    return DepthSheetOut.model_validate({"revision": loaded.revision, **found})


@router.post("/items/{item}")
def one_item(game_id: str, item: str, asked: WhereIn, bench: Bench) -> ItemViewOut:
    """Every way to get an item, by depth."""
    loaded, game = bench.asked_of(game_id, asked)
    found = item_view(game, item, asked.flags, asked.swings)
    return ItemViewOut.model_validate({"revision": loaded.revision, **found})


@router.post("/tiers/{tier}")
def one_tier(game_id: str, tier: str, asked: WhereIn, bench: Bench) -> TierViewOut:
    """Where anything of a tier is found, by depth."""
    loaded, game = bench.asked_of(game_id, asked)
    found = tier_view(game, tier, asked.flags, asked.swings)
    return TierViewOut.model_validate({"revision": loaded.revision, **found})


@router.post("/meets")
def what_is_met(game_id: str, asked: MeetsIn, bench: Bench) -> MeetsOut:
    """What a visit to one depth comes to."""
    loaded, game = bench.asked_of(game_id, asked)
    found = meets(game, asked.depth, asked.flags, asked.points)
    return MeetsOut.model_validate({"revision": loaded.revision, **found})


@router.post("/meets/profile")
def met_profile(game_id: str, asked: FlaggedIn, bench: Bench) -> ProfileOut:
    """Tier shares of what a visit brings, at every depth."""
    loaded, game = bench.asked_of(game_id, asked)
    found = meets_profile(game, asked.flags)
    return ProfileOut.model_validate({"revision": loaded.revision, **found})
