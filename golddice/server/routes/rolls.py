"""Events rolled one by one, beside what was expected."""

from __future__ import annotations

import math
from typing import Any

from fastapi import APIRouter

from golddice.core.odds.carried.prospect import Prospect
from golddice.core.sheets.sheet import SheetOdds
from golddice.core.trial.trace import EventTrace, rolled
from golddice.server.bench import Bench, view_of
from golddice.server.schemas.common import ProblemDetails
from golddice.server.schemas.rolls import HeldOut, RolledEvent, RollIn, RollOut, TierCount

router = APIRouter(prefix="/api/games/{game_id}", tags=["rolls"], responses={422: {"model": ProblemDetails}})
MOST_TRACED = 100


@router.post("/rolls")
def roll(game_id: str, asked: RollIn, bench: Bench) -> RollOut:
    """Roll some events of one player; the count runs from the player's first event."""
    loaded, game = bench.asked_of(game_id, asked)
    last = asked.first + asked.count - 1
    found = rolled(
        game,
        asked.view.kind,
        asked.view.id,
        depth=asked.depth,
        seed=asked.seed,
        player=asked.player,
        count=last,
        flags=tuple(asked.flags),
    )
    events = found.events
    prospect = SheetOdds(game, view_of(asked), asked.depth, asked.flags).prospect
    value_mean, value_var = prospect.value_after(last)
    return RollOut(
        revision=loaded.revision,
        events=[_event(event) for event in events[asked.first - 1 :][-MOST_TRACED:]],
        rolled=last,
        tiers=_tier_counts(prospect, events),
        held=[HeldOut.model_validate(vars(one)) for one in found.held],
        value=sum(event.value for event in events),
        value_expected=value_mean,
        value_sd=math.sqrt(value_var),
    )


def _event(event: EventTrace) -> RolledEvent:
    received: list[dict[str, Any]] = [{"item": item, "count": count} for item, count in event.received]
    return RolledEvent.model_validate({**vars(event), "received": received})


def _tier_counts(prospect: Prospect, events: list[EventTrace]) -> list[TierCount]:
    tiers = prospect.under.game.tiers
    fell = dict.fromkeys((tier.id for tier in tiers), 0)
    expected = [prospect.count_after(prospect.columns.tier(at), len(events)) for at in range(len(tiers))]
    tier_of = {item.id: item.tier for item in prospect.under.game.items}
    for event in events:
        for item, count in event.received:
            fell[tier_of[item]] += count
    return [
        TierCount(
            tier=tier.id,
            fell=fell[tier.id],
            expected=expected[at][0],
            sd=math.sqrt(expected[at][1]),
        )
        for at, tier in enumerate(tiers)
    ]
