"""Depths worked out one by one, where what a player carries matters within one event."""

from __future__ import annotations

import numpy as np

from golddice.core.arrays import BoolArray, IntArray
from golddice.core.game.views import View
from golddice.core.odds.carried.prospect import Prospect
from golddice.core.odds.depths.alike import depth_keys
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.odds.event.outcome import Outcome
from golddice.core.stopping import go_on
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.size import most_rolls


def outcomes_apart(
    under: Conditions, view: View, where: BoolArray | None = None
) -> tuple[list[Outcome], IntArray]:
    """The next event of a fresh player at each depth, or where it is asked, but of depths at which every
    chance is the same only one: those outcomes, each of one depth, and which of them stands for each depth,
    shape (d,); -1 where it is not asked."""
    places: dict[bytes, int] = {}
    found: list[Outcome] = []
    keys = depth_keys(under, most_rolls(under, view))
    which = np.full(under.depths.size, -1, dtype=np.int64)
    for row in range(which.size) if where is None else np.flatnonzero(where).tolist():
        key = keys[row]
        if key not in places:
            go_on()
            places[key] = len(found)
            found.append(Prospect(Evaluator(under.alone(row), detail=False), view).outcome)
        which[row] = places[key]
    return found, which
