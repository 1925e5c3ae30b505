"""Compiles what Numba compiles ahead of time, so that the first click does not wait for it."""

from __future__ import annotations

from typing import Any

from golddice.core.game.reading import read_game
from golddice.core.game.views import View
from golddice.core.odds.depths.depth_odds import depth_odds
from golddice.core.odds.route.expectation import Expectation
from golddice.core.sheets.sheet import SheetOdds, spread
from golddice.core.trial.route import course_of
from golddice.core.trial.trace import replayed, rolled
from golddice.core.trial.trial import RouteTrial, Trial, local_executor, run_trial

_SMALLEST = {
    "format": "golddice-game",
    "version": 1,
    "name": "Warm",
    "tiers": [{"id": "t", "name": "T"}],
    "items": [{"id": "i", "name": "I", "tier": "t", "value": 1}],
    "tables": [
        {
            "id": "t",
            "name": "T",
            "rule": "pick",
            "lines": [{"id": "a", "weight": 1, "yields": [{"item": "i"}]}],
        }
    ],
    "sources": [{"id": "s", "name": "S", "kind": "enemy", "drops": [{"id": "a", "table": "t"}]}],
    "routes": [{"id": "r", "name": "R", "legs": [{"id": "a", "from": 1, "to": 1, "source": "s"}]}],
}


def warm() -> None:
    """Run the smallest trials, traces and questions; Numba keeps what it compiled on disk."""
    for data in (_SMALLEST, _kept()):
        game = read_game(data)
        with local_executor(1) as executor:
            run_trial(game, Trial(View("source", "s"), 1, 1, 1, 0), executor)
            run_trial(game, RouteTrial("r", 1, 0), executor)
        replayed(course_of(game, game.routes[0]), game, seed=0, player=0, first=1, count=1)
        rolled(game, View("source", "s"), depth=1, seed=0)
    _SMALLEST["tables"][0]["rolls"] = {"min": 1, "max": 2}  # type: ignore[index]
    entered_as = {"pick": "weight", "each": "chance", "first": "chance", "retry": "chance"}
    for rule, entered in entered_as.items():
        lines = [
            {"id": "a", entered: 1, "guard": {"after": 1, "sure_at": 3}, "yields": [{"item": "i"}]},
            {"id": "b", entered: 1, "yields": [{"pool": {"tiers": ["t"]}}]},
        ]
        _SMALLEST["tables"][0] |= {"rule": rule, "lines": lines}  # type: ignore[index]
        game = read_game(_SMALLEST)
        depth_odds(game, View("source", "s"), [1])
        SheetOdds(game, View("source", "s"), 1).sheet()
        spread(game, View("source", "s"), depth=1, events=2)
        Expectation(game, game.routes[0]).told()


def _kept() -> dict[str, Any]:
    """The same where something is kept: a bag, a purse, a slot."""
    items = [
        {**_SMALLEST["items"][0], "slot": "hand"},  # type: ignore[index]
        {"id": "m", "name": "M", "tier": "t", "currency": True},
    ]
    routes = [{**_SMALLEST["routes"][0], "bag": [2, 2], "purse": {"m": 1}}]  # type: ignore[index]
    return {**_SMALLEST, "items": items, "routes": routes}


if __name__ == "__main__":
    warm()
