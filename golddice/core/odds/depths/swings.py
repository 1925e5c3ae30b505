"""How far the number of each item swings from event to event, at many depths.

A depth sheet does without: variances of everything would cost it about as much again. They are worked
out where somebody asks for them.
"""

from __future__ import annotations

import numpy as np

from golddice.core.arrays import BoolArray, FloatArray, IntArray
from golddice.core.game.views import View
from golddice.core.odds.depths.apart import outcomes_apart
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.odds.event.outcome import Outcome
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.resting import rests_on_state

Variances = dict[int, FloatArray]


class Swings:
    """Variances under conditions of whatever is asked about; tables are worked out once for all that
    roll them. Of items, or of tiers."""

    def __init__(self, under: Conditions, by_tier: bool = False) -> None:
        self._under = under
        self._first = len(under.game.items) if by_tier else 0  # tiers stand behind the items
        self._count = len(under.game.tiers if by_tier else under.game.items)
        self._evaluator = Evaluator(under, detail=False)

    def of(self, view: View) -> Variances:
        """Variance of how many of each item (or tier), by its index, shape (d,): in the next event of a
        source, or execution of a table, of a fresh player. What is left out is never given."""
        if rests_on_state(self._under, view):
            return self._spread_out(*outcomes_apart(self._under, view))
        whole = self._evaluator.of(view)
        return {place: whole.var[:, at] for at, place in self._places(whole)}

    def _spread_out(self, outcomes: list[Outcome], which: IntArray) -> Variances:
        """From outcomes of one depth each, and which of them stands for each depth."""
        found: Variances = {}
        for number, outcome in enumerate(outcomes):
            here = which == number
            for at, place in self._places(outcome):
                found.setdefault(place, np.zeros(which.size))[here] = outcome.var[0, at]
        return found

    def _places(self, outcome: Outcome) -> list[tuple[int, int]]:
        """Where the outcome has its items (or tiers), and which they are."""
        places = outcome.columns - self._first
        return [(at, int(place)) for at, place in enumerate(places) if 0 <= place < self._count]


def pooled(mean: FloatArray, var: FloatArray, here: BoolArray) -> tuple[float, float]:
    """Mean and variance of an event at any of some depths, each of them alike: the variance is the
    mean of the depths' variances and the variance of their means (the law of total variance)."""
    means = mean[here]
    return float(means.mean()), float(var[here].mean() + means.var())
