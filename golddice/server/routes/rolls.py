"""Events rolled one by one, beside what was expected."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter

from golddice.core.errors import QueryError
from golddice.core.game.models import Game
from golddice.core.sheets.tray import Expected, so_far
from golddice.core.trial.kernel import KERNEL_VERSION
from golddice.core.trial.trace import EventTrace, Rolled, rolled
from golddice.server.bench import Bench, view_of
from golddice.server.schemas.rolls import HeldOut, RolledEvent, RollIn, RollOut, TierCount

router = APIRouter(prefix="/api/games/{game_id}", tags=["rolls"])
MOST_TRACED = 100


@router.post("/rolls")
def roll(game_id: str, asked: RollIn, bench: Bench) -> RollOut:
    """Roll some events of one player; the count runs from the player's first event."""
    if asked.kernel is not None and asked.kernel != KERNEL_VERSION:
        raise QueryError(
            f"that trial was played by version {asked.kernel} of the simulator, this is {KERNEL_VERSION}: "
            "the same seed is another player now. Run the trial again"
        )
    loaded, game = bench.asked_of(game_id, asked)
    last = asked.first + asked.count - 1
    found = rolled(
        game,
        view_of(asked.view),
        depth=asked.depth,
        seed=asked.seed,
        player=asked.player,
        first=max(asked.first, last - MOST_TRACED + 1),
        count=min(asked.count, MOST_TRACED),
        flags=tuple(asked.flags),
    )
    expected = so_far(game, view_of(asked.view), asked.depth, asked.flags, last)
    return RollOut(
        revision=loaded.revision,
        events=[_event(event) for event in found.events],
        rolled=last,
        tiers=_tier_counts(game, found, expected),
        held=[HeldOut.model_validate(vars(one)) for one in found.held],
        value=found.value,
        value_expected=expected.value.mean if expected else None,
        value_sd=expected.value.sd if expected else None,
    )


def _event(event: EventTrace) -> RolledEvent:
    received: list[dict[str, Any]] = [{"item": item, "count": count} for item, count in event.received]
    return RolledEvent.model_validate({**vars(event), "received": received})


def _tier_counts(game: Game, found: Rolled, expected: Expected | None) -> list[TierCount]:
    fell = dict.fromkeys((tier.id for tier in game.tiers), 0)
    for item in game.items:
        fell[item.tier] += found.counts.get(item.id, 0)
    return [
        TierCount(
            tier=tier.id,
            fell=fell[tier.id],
            expected=expected.tiers[at].mean if expected else None,
            sd=expected.tiers[at].sd if expected else None,
        )
        for at, tier in enumerate(game.tiers)
    ]
