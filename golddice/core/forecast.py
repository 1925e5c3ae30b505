"""What players have after N events: exactly where that can be, else by simulating some thousands.

The one place where the exact odds and the trials meet; a result says which of them it is.
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

import numpy as np

from golddice.core.arrays import FloatArray
from golddice.core.errors import TooLarge
from golddice.core.game.models import Game
from golddice.core.odds.conditions import Conditions
from golddice.core.odds.evaluator import Evaluator
from golddice.core.odds.prospect import Prospect
from golddice.core.odds.totals import LARGEST_GRID, value_after
from golddice.core.trial.compiling import compiled
from golddice.core.trial.playing import Unit, played

PLAYERS = 20_000
MOST_PLAYED = 20_000_000
SEED = 20_417


@dataclass(frozen=True)
class Forecast:
    """Value after N events.

    `mean` and `sd` are exact unless `mean_error` (a standard error) is above 0. `quantiles` answer
    the asked q; where `method` is simulated they come from `players` players.
    """

    method: Literal["exact", "simulated"]
    mean: float
    sd: float
    quantiles: FloatArray
    grid_error: float = 0.0
    players: int = 0
    mean_error: float = 0.0


def value_forecast(
    game: Game,
    kind: str,
    name: str,
    *,
    depth: int,
    events: int,
    qs: FloatArray,
    flags: Iterable[str] = (),
    largest: int = LARGEST_GRID,
) -> Forecast:
    """Value of a fresh player's first events. Raises TooLarge where even simulating is too much."""
    under = Conditions(game, [depth], flags)
    prospect = Prospect(Evaluator(under, detail=False), kind, name)
    try:
        law = value_after(under, kind, name, events, largest)
        mean, var = prospect.value_after(events)
        return Forecast("exact", mean, math.sqrt(var), law.quantiles(qs), law.grid_error)
    except TooLarge:
        return _simulated(under, prospect, kind, name, events, qs)


def _simulated(
    under: Conditions, prospect: Prospect, kind: str, name: str, events: int, qs: FloatArray
) -> Forecast:
    players = min(PLAYERS, MOST_PLAYED // events)
    if players < 100:
        raise TooLarge(f"{events:,} events are too many to forecast; run a trial")
    program = compiled(under, kind, name)
    values = played(Unit(program, SEED, 0, players, events, np.zeros(0, dtype=np.int64))).value
    quantiles = np.quantile(values, qs, method="inverted_cdf")
    try:
        mean, var = prospect.value_after(events)
        return Forecast("simulated", mean, math.sqrt(var), quantiles, players=players)
    except TooLarge:
        sd = float(values.std())
        error = sd / math.sqrt(players)
        return Forecast("simulated", float(values.mean()), sd, quantiles, 0.0, players, error)
