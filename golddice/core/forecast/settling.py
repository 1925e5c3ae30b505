"""Whether players who are played have settled: what they carry has gone round many times."""

from __future__ import annotations

from golddice.core.errors import TooLarge
from golddice.core.game.views import View
from golddice.core.odds.carried.axes import Key
from golddice.core.odds.carried.narrowing import axes_of
from golddice.core.odds.carried.prospect import Prospect
from golddice.core.odds.depths.flows import flows
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.size import in_order

_ROUNDS = 10  # times round that are enough


def goes_round(prospect: Prospect, events: int) -> bool:
    """In so many events: every guard is rolled ten times as often as its longest streak, every deck ten times
    as often as it has cards. A limit never goes round: it is reached once, and who knows when."""
    under = prospect.under
    try:
        keys = prospect.carried_keys
        order = list(reversed(in_order(under, [prospect.view])))
        rolled = flows(under, order, prospect.view)
    except TooLarge:
        return False
    often = {view: events * float(many[0]) for view, many in rolled.items()}
    return all(_rounds(key, under) * _ROUNDS <= _rolls(key, often, under) for key in keys)


def _rounds(key: Key, under: Conditions) -> float:
    """The rolls of one round."""
    axes = axes_of(key, under)
    if any(axis.kind == "hits" for axis in axes):
        return float("inf")
    longest = max((axis.size for axis in axes if axis.kind == "misses"), default=1)
    return max(longest, sum(axis.size - 1 for axis in axes if axis.kind == "left"))


def _rolls(key: Key, often: dict[View, float], under: Conditions) -> float:
    if key[0] == "drop":
        return often.get(View("source", key[1]), 0.0)
    return often.get(View("table", key[1]), 0.0) * float(under.law(under.table(key[1]).rolls).mean[0])
