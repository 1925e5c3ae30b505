"""What players have after N events: exactly where that can be, else by simulating some thousands."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
import numpy.typing as npt

from golddice.core.arrays import FloatArray
from golddice.core.errors import TooLarge
from golddice.core.game.models import Game
from golddice.core.game.views import View
from golddice.core.odds.carried.prospect import Prospect
from golddice.core.odds.carried.totals import LARGEST_GRID, value_after
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.quantiles import at_rank
from golddice.core.results import RESULTS
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.size import view_key
from golddice.core.trial.compiling import compiled
from golddice.core.trial.playing import Unit, played_side_by_side

PLAYERS = 20_000
MOST_PLAYED = 40_000_000
FEWEST_PLAYERS = 100
SEED = 20_417


@dataclass(frozen=True)
class Forecast:
    """Value after N events.

    `mean` and `sd` are exact unless `mean_error` (a standard error) is above 0. `quantiles` answer
    the asked q; where `method` is simulated they come from `players` players, and `errors` are standard
    errors. Where it is bounded values lie too fine for a grid, and `errors` are what quantiles may be off by.
    """

    method: Literal["exact", "bounded", "simulated"]
    mean: float
    sd: float
    quantiles: FloatArray
    errors: FloatArray
    grid_error: float = 0.0
    players: int = 0
    mean_error: float = 0.0


def value_forecast(
    game: Game,
    view: View,
    *,
    depth: int,
    events: int,
    qs: FloatArray,
    flags: Iterable[str] = (),
    largest: int = LARGEST_GRID,
    most_played: int = MOST_PLAYED,
) -> Forecast:
    """Value of a fresh player's first events. Raises TooLarge where even simulating is too much.

    `largest` is the finest grid that is tried, `most_played` how many rolls are simulated in all.
    """
    under = Conditions(game, [depth], flags)
    key = ("forecast", view_key(under, view), events, qs.tobytes(), largest, most_played)
    return RESULTS.get(key, lambda: _worked_out(under, view, events, qs, largest, most_played))


def _worked_out(
    under: Conditions, view: View, events: int, qs: FloatArray, largest: int, most_played: int
) -> Forecast:
    prospect = Prospect(Evaluator(under, detail=False), view)
    try:
        law = value_after(under, view, events, largest, prospect)
        mean, var = prospect.value_after(events)
        errors = law.errors(qs)
        method: Literal["exact", "bounded"] = "bounded" if errors.any() else "exact"
        return Forecast(method, mean, math.sqrt(var), law.quantiles(qs), errors, float(errors.max()))
    except TooLarge:
        return _simulated(prospect, view, events, qs, most_played)


def _simulated(prospect: Prospect, view: View, events: int, qs: FloatArray, most_played: int) -> Forecast:
    program = compiled(prospect.under, view)
    players = min(PLAYERS, int(most_played / (events * program.work)))
    if players < FEWEST_PLAYERS:
        raise TooLarge(f"{events:,} events are too many to forecast; run a trial")
    values = np.sort(played_side_by_side(Unit.of(program, SEED, 0, players, events)).value)
    quantiles, errors = np.array([quantile(values, q) for q in qs]).T
    try:
        mean, var = prospect.value_after(events)
        return Forecast("simulated", mean, math.sqrt(var), quantiles, errors, players=players)
    except TooLarge:
        sd = float(values.std())
        error = sd / math.sqrt(players)
        return Forecast("simulated", float(values.mean()), sd, quantiles, errors, 0.0, players, error)


def quantile(ordered: npt.NDArray[Any], q: float) -> tuple[float, float]:
    """A quantile of a rising sample, and its standard error."""
    low, at, high = quantile_bounds(ordered, q)
    return at, (high - low) / 2


def quantile_bounds(ordered: npt.NDArray[Any], q: float) -> tuple[float, float, float]:
    """A quantile of a rising sample between those a standard error of rank away: the number of values at or
    below a quantile is binomial (Wilks, Mathematical Statistics, 1962, ch. 11)."""
    off = math.sqrt(q * (1 - q) * ordered.size)
    low, at, high = (at_rank(ordered, q * ordered.size + by) for by in (-off, 0.0, off))
    return low, at, high
