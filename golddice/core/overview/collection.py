"""Along a route, repeated: how much of the catalogue players come to own, and which item is the last."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import numpy as np

from golddice.core.arrays import FloatArray
from golddice.core.errors import QueryError, TooLarge
from golddice.core.game.models import Game, Route
from golddice.core.odds.route.expectation import Expectation
from golddice.core.terms.stops import route_of
from golddice.core.trial.trial import RouteTrial, local_executor, run_trial

RUNS = (1, 5, 20)
MOST_RUNS = 100
_PLAYERS = 400
_FEWEST = 50
_EVENTS = 400_000  # that are played where it is not told exactly
_SEED = 1


def collection(game: Game, name: str, runs: Sequence[int] = RUNS) -> dict[str, Any]:
    """After so many runs of a route, one after another: the chance of each item to be owned by then, how many
    different ones a player has on average, how many of them at least half of all players have; and the
    `last`, the one that the fewest have of those that come.

    Played (`method` simulated, with so many `players`, and the error of each chance) where it is not told
    exactly. Raises UnknownThing, QueryError, TooLarge.
    """
    route, every = route_of(game, name), sorted(set(runs))
    if not every or every[0] < 1 or every[-1] > MOST_RUNS:
        raise QueryError(f"runs must be 1 to {MOST_RUNS}, got {', '.join(map(str, runs)) or 'none'}")
    try:
        had, players = 1.0 - Expectation(game, route).none_after(every), None
    except TooLarge:
        had, players = played(game, route, every)
    return {
        "route": name,
        "method": "exact" if players is None else "simulated",
        "players": players,
        "runs": [_told(game, count, share) for count, share in zip(every, had, strict=True)],
        "items": {item.id: had[:, at].tolist() for at, item in enumerate(game.items)},
        "error": 0.0 if players is None else 0.5 / math.sqrt(players),
        "last": _last(game, had),
    }


def _told(game: Game, runs: int, share: FloatArray) -> dict[str, Any]:
    return {"runs": runs, "owned": float(share.sum()), "by_half": int((share >= 0.5).sum())}


def _last(game: Game, had: FloatArray) -> str | None:
    """Of what comes at all along the route; by the first count of runs at which it is told apart."""
    comes = np.flatnonzero(had[-1] > 0)
    return game.items[min(comes.tolist(), key=lambda at: tuple(had[::-1, at]))].id if comes.size else None


def played(game: Game, route: Route, runs: Sequence[int]) -> tuple[FloatArray, int]:
    """Shares of players, by playing the route as often; all counts of runs by players of their own."""
    with local_executor(1) as executor:
        first = run_trial(game, RouteTrial(route.id, _FEWEST, _SEED), executor)
        an_event = max(1.0, first["events"] / _FEWEST)
        players = int(min(_PLAYERS, max(_FEWEST, _EVENTS / (an_event * sum(runs)))))
        rows = []
        for count in runs:
            found = run_trial(_repeated(game, route, count), RouteTrial(route.id, players, _SEED), executor)
            told = found["items"]
            rows.append([1.0 - told[one.id]["none_share"] if one.id in told else 0.0 for one in game.items])
    return np.array(rows), players


def _repeated(game: Game, route: Route, runs: int) -> Game:
    legs = [leg.model_copy(update={"id": f"{leg.id}-{run}"}) for run in range(runs) for leg in route.legs]
    longer = route.model_copy(update={"legs": legs})
    return game.model_copy(update={"routes": [longer if one.id == route.id else one for one in game.routes]})
