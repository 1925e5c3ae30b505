"""The overview, in the shape that the command line and the server print."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from golddice.core.findings import findings
from golddice.core.game.models import Game
from golddice.core.odds.depths.along import all_depths
from golddice.core.odds.depths.depth_odds import DepthOdds
from golddice.core.overview.along import Hours
from golddice.core.overview.coverage import coverage
from golddice.core.overview.money import money
from golddice.core.sheets.meeting import Met
from golddice.core.tuning.targets import standings


def overview(game: Game, flags: Iterable[str] = ()) -> dict[str, Any]:
    """Down the depths, of every item, of money; exact, of a fresh player's next event and of waits."""
    under = all_depths(game, flags)
    under.check_cells(len(game.items), "items")
    odds = DepthOdds(under)
    hours = Hours.of(Met.along(under, odds))
    return {**hours.told(), "coverage": coverage(under, odds), "money": money(hours)}


def health(game: Game) -> dict[str, Any]:
    """Targets met and missed, and what is odd, by how much it weighs."""
    stand = [one.plain() for one in standings(game)]
    return {
        "targets": stand,
        "findings": [
            {"level": one.level, "kind": one.kind, "id": one.id, "message": one.message, "depths": one.depths}
            for one in findings(game)
        ],
    }
