"""What was to be expected of so many events, beside what fell."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass

from golddice.core.errors import TooLarge
from golddice.core.game.models import Game
from golddice.core.game.views import View
from golddice.core.odds.carried.prospect import Prospect
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.terms.conditions import Conditions


@dataclass(frozen=True)
class MeanSd:
    mean: float
    sd: float

    @staticmethod
    def of(moments: tuple[float, float]) -> MeanSd:
        return MeanSd(moments[0], math.sqrt(moments[1]))


@dataclass(frozen=True)
class Expected:
    """Of a fresh player's first events: units by tier, in file order, and value."""

    tiers: list[MeanSd]
    value: MeanSd


def so_far(game: Game, view: View, depth: int, flags: Iterable[str], events: int) -> Expected | None:
    """What so many events come to; None where that would take too long to say. Rolling does not
    depend on it."""
    prospect = Prospect(Evaluator(Conditions(game, [depth], flags), detail=False), view)
    columns = prospect.columns
    try:
        tiers = [MeanSd.of(prospect.count_after(columns.tier(at), events)) for at in range(len(game.tiers))]
        return Expected(tiers, MeanSd.of(prospect.value_after(events)))
    except TooLarge:
        return None
