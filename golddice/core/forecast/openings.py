"""First openings of a container by fresh players: how often everything fits, and what is lost."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import numpy as np

from golddice.core.arrays import FloatArray
from golddice.core.errors import TooLarge
from golddice.core.game.views import View
from golddice.core.terms.conditions import Conditions
from golddice.core.trial.compiling import compiled
from golddice.core.trial.keeps import BARE
from golddice.core.trial.playing import Unit, played

OPENINGS = 10_000
SEED = 20_417
_MOST_ROLLS = 20_000_000
_FEWEST = 100


@dataclass(frozen=True)
class Openings:
    """Of so many players: the share for whom everything fitted, units and worth lost (p,), cells in use (p,),
    units lost by item id, worth received on average."""

    players: int
    fits: float
    lost_units: FloatArray
    lost_worth: FloatArray
    used: FloatArray
    lost: dict[str, float]
    received: float

    @property
    def fits_error(self) -> float:
        return math.sqrt(self.fits * (1.0 - self.fits) / self.players)


def openings_of(under: Conditions, source: str, most: int = OPENINGS) -> Openings:
    """At the one depth of `under`; the same players whatever is asked. Raises TooLarge of a source without
    cells, and where an opening rolls too much."""
    if under.source(source).cells is None:
        raise TooLarge(f"“{source}” has no cells, so that everything fits")
    program = compiled(under, View("source", source), BARE)
    players = min(most, int(_MOST_ROLLS / program.work))
    if players < _FEWEST:
        raise TooLarge(f"an opening of “{source}” rolls some {program.work:,.0f} times")
    bags = played(Unit.of(program, SEED, 0, players, 1))
    kept: dict[str, Any] = dict(bags.kept)
    items = under.game.items
    return Openings(
        players=players,
        fits=1.0 - float((kept["lost_units"] > 0).mean()),
        lost_units=kept["lost_units"].astype(np.float64),
        lost_worth=kept["lost_worth"],
        used=np.sort(kept["inside"]).astype(np.float64),
        lost={
            items[at].id: float(lost) / players
            for at, lost in zip(program.items.tolist(), kept["lost_sum"], strict=True)
            if lost
        },
        received=float(bags.value.mean()),
    )
