"""Two trials beside one another: what changed for players, with its error, and whether it is more than noise.

With the same seed the luck of a player is the same in both, so differences are taken player by player: what
chance both share falls out, and far fewer players tell a small change.
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from typing import Any

import numpy as np

from golddice.core.arrays import FloatArray, IntArray
from golddice.core.game.models import Game
from golddice.core.trial.playing import Bags

NOISE = 2.0  # standard errors


class Cohort:
    """What the players of a trial have in the end, by item id, and in value. `units` in player order."""

    def __init__(self, game: Game, items: IntArray, units: Iterable[Bags]) -> None:
        bags = list(units)
        counts = [one.counts for one in bags]
        self.value: FloatArray = np.concatenate([one.value for one in bags]) if bags else np.zeros(0)
        every = np.concatenate(counts) if counts else np.zeros((0, items.size), dtype=np.int64)
        self.counts = {game.items[at].id: every[:, slot] for slot, at in enumerate(items.tolist())}
        self.players = int(self.value.size)

    def of(self, item: str) -> IntArray:
        found = self.counts.get(item)
        return np.zeros(self.players, dtype=np.int64) if found is None else found


def compared(before: Cohort, after: Cohort, paired: bool) -> dict[str, Any]:
    """Differences of `after` from `before`: of value, and of each item that either has.

    Each with its standard error, from the differences player by player where they are paired (over the
    players that both have), and as it would be if they were not; noise where it is within two of them.
    """
    items = list(dict.fromkeys([*before.counts, *after.counts]))
    return {
        "paired": paired,
        "players": min(before.players, after.players),
        "value": _difference(before.value, after.value, paired),
        "items": {item: _difference(before.of(item), after.of(item), paired) for item in items},
    }


def _difference(before: FloatArray | IntArray, after: FloatArray | IntArray, paired: bool) -> dict[str, Any]:
    count = min(before.size, after.size)
    if not count:
        return {
            "before": None,
            "after": None,
            "difference": 0.0,
            "error": 0.0,
            "unpaired_error": 0.0,
            "noise": True,
        }
    alone = math.sqrt(float(before.var()) / before.size + float(after.var()) / after.size)
    if paired:
        apart = after[:count].astype(np.float64) - before[:count]
        difference, error = float(apart.mean()), float(apart.std()) / math.sqrt(count)
    else:
        difference, error = float(after.mean()) - float(before.mean()), alone
    return {
        "before": float(before.mean()),
        "after": float(after.mean()),
        "difference": difference,
        "error": error,
        "unpaired_error": alone,
        "noise": abs(difference) <= NOISE * error,
    }
