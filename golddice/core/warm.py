"""Compiles what Numba compiles ahead of time, so that the first click does not wait for it."""

from __future__ import annotations

import copy
import multiprocessing
import os
from concurrent.futures import ProcessPoolExecutor
from typing import Any

import numpy as np
import pyarrow as pa

from golddice.core.exchange.logs.hashing import numbered
from golddice.core.game.reading import read_game
from golddice.core.game.views import View
from golddice.core.odds.depths.depth_odds import depth_odds
from golddice.core.odds.kit.scores import Score
from golddice.core.odds.route.expectation import Expectation
from golddice.core.sheets.sheet import SheetOdds, spread
from golddice.core.terms.conditions import Conditions
from golddice.core.trial.lives import Asked, Paths, lived
from golddice.core.trial.route import course_of
from golddice.core.trial.trace import replayed, rolled
from golddice.core.trial.trial import RouteTrial, Trial, local_executor, run_trial

_SMALLEST: dict[str, Any] = {
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
# The same where something is kept: a bag, a purse, a slot.
_KEEPING = {
    **_SMALLEST,
    "items": [
        {**_SMALLEST["items"][0], "slot": "hand"},
        {"id": "m", "name": "M", "tier": "t", "currency": True},
    ],
    "routes": [{**_SMALLEST["routes"][0], "bag": [2, 2], "purse": {"m": 1}}],
}


def _scores() -> None:
    Score(0.0, np.ones(2)).at_most(np.ones(1))


def warm() -> None:
    """Run the smallest trials, traces and questions; Numba keeps what it compiled on disk."""
    for part in _PARTS:
        part()


def warm_side_by_side() -> None:
    """The same on all cores where there are more than two, since each part is compiled by itself; but what
    they have in common is compiled as often, so that two cores gain nothing. What two of them compile of the
    same function can push one another out of what is kept, so at last all of it is asked for once more."""
    cores = os.cpu_count() or 1
    if cores > 2:
        with ProcessPoolExecutor(cores, multiprocessing.get_context("spawn")) as pool:
            for done in [pool.submit(part) for part in _PARTS]:
                done.result()
    warm()


def _bare() -> None:
    _played(_SMALLEST)


def _keeping() -> None:
    _played(_KEEPING)


def _keeping_replayed() -> None:
    _again(_KEEPING)


def _played(data: dict[str, Any]) -> None:
    game = read_game(data)
    with local_executor(1) as executor:
        run_trial(game, Trial(View("source", "s"), 1, 1, 1, 0), executor)
        run_trial(game, RouteTrial("r", 1, 0), executor)


def _again(data: dict[str, Any]) -> None:
    game = read_game(data)
    replayed(course_of(game, game.routes[0]), game, seed=0, player=0, first=1, count=1)
    rolled(game, View("source", "s"), depth=1, seed=0)


def _lived() -> None:
    under, items = Conditions(read_game(_SMALLEST), [1], frozenset()), np.zeros((1, 1), dtype=np.int64)
    paths = Paths(np.array([0, 1]), np.array([0]), np.array([1]))
    lived([(under, View("source", "s"))], paths, Asked(items, items, np.array([-1])), replicas=2, seed=0)


def _different() -> None:
    """A pick of different lines, of too many for all sets of them to be gone through."""
    lines = [{"id": f"l{at}", "weight": 1, "yields": [{"item": "i"}]} for at in range(12)]
    table = {**_SMALLEST["tables"][0], "distinct": True, "rolls": {"min": 3, "max": 3}, "lines": lines}
    depth_odds(read_game({**_SMALLEST, "tables": [table]}), View("source", "s"), [1])


def _named() -> None:
    numbered(pa.array(["one"]))


def _asked() -> None:
    data = copy.deepcopy(_SMALLEST)
    table: dict[str, Any] = data["tables"][0]
    table["rolls"] = {"min": 1, "max": 2}
    entered_as = {"pick": "weight", "each": "chance", "first": "chance", "retry": "chance"}
    for rule, entered in entered_as.items():
        lines = [
            {"id": "a", entered: 1, "guard": {"after": 1, "sure_at": 3}, "yields": [{"item": "i"}]},
            {"id": "b", entered: 1, "yields": [{"pool": {"tiers": ["t"]}}]},
        ]
        table |= {"rule": rule, "lines": lines}
        game = read_game(data)
        depth_odds(game, View("source", "s"), [1])
        SheetOdds(game, View("source", "s"), 1).sheet()
        spread(game, View("source", "s"), depth=1, events=2)
        Expectation(game, game.routes[0]).told()


_PARTS = (_keeping, _keeping_replayed, _bare, _lived, _asked, _different, _named, _scores)

if __name__ == "__main__":
    warm_side_by_side()
