"""Down the depths: what an hour is worth as it is met, by tier, and what is met."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from golddice.core.arrays import FloatArray
from golddice.core.sheets.meeting import Met
from golddice.core.terms.pace import HOUR


@dataclass(frozen=True)
class Hours:
    """Of an hour as it is met, by depth; 0 where nothing is. items (i, d): how many of each; visits (d,)."""

    met: Met
    items: FloatArray
    visits: FloatArray

    @staticmethod
    def of(met: Met) -> Hours:
        visits = np.divide(HOUR, met.seconds, out=np.zeros_like(met.seconds), where=met.seconds > 0)
        return Hours(met, met.items * visits, visits)

    def told(self) -> dict[str, Any]:
        """`worth` an hour by tier and depth; of each source that is met, its events an hour by depth."""
        under = self.met.under
        worth = np.zeros((len(under.game.tiers), under.depths.size))
        np.add.at(worth, under.item_tiers, under.item_values[:, None] * self.items)
        return {
            "depths": under.depths.tolist(),
            "worth": {tier.id: worth[at].tolist() for at, tier in enumerate(under.game.tiers)},
            "met": {
                name: (events * self.visits).tolist()
                for name, events in self.met.events.items()
                if bool((events * self.visits).any())
            },
        }
