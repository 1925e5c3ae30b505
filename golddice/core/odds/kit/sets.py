"""When a set is complete: exactly, where nothing is carried and one of each piece is enough."""

from __future__ import annotations

import math

import numpy as np
from propcache.api import cached_property

from golddice.core.arrays import FloatArray
from golddice.core.game.models import ItemSet
from golddice.core.game.views import View
from golddice.core.odds.kit.thinned import Thinned
from golddice.core.terms.conditions import Conditions

MOST_PIECES = 12
_MOST_EVENTS = 10**15


def is_told(one: ItemSet) -> bool:
    """Whether it is of those that are worked out: some pieces, not too many, each needed once."""
    names = [piece.item for piece in one.items]
    return 0 < len(names) <= MOST_PIECES and all(piece.count == 1 for piece in one.items)


class Completion:
    """Of one set in events of a view at the one depth of `under`.

    Notes
    -----
    Inclusion and exclusion: the chance to be complete by event N is the sum over subsets S of the pieces
    of (-1)^|S| times the chance that an event gives none of S, to the N-th. Terms cancel where it is small:
    it is then told to some 1e-12, not to so many digits.
    """

    def __init__(self, under: Conditions, view: View, one: ItemSet) -> None:
        self._under, self._view = under, view
        self._pieces = list(dict.fromkeys(under.item_index[piece.item] for piece in one.items))

    def after(self, events: int) -> float:
        """Chance to be complete after so many events."""
        logs, signs = self._none
        terms = signs * np.exp(events * logs)
        return min(max(math.fsum(terms.tolist()), 0.0), 1.0)

    def first(self, sure: float) -> int | None:
        """By which event so many players have it complete; None where that never comes."""
        if self._never:
            return None
        high = 1
        while self.after(high) < sure:
            high *= 2
            if high > _MOST_EVENTS:
                return None
        low = high // 2
        while high - low > 1:
            middle = (low + high) // 2
            low, high = (low, middle) if self.after(middle) >= sure else (middle, high)
        return high

    @property
    def _never(self) -> bool:
        """Whether some piece cannot come at all."""
        logs, _ = self._none
        return any(logs[1 << at] == 0.0 for at in range(len(self._pieces)))

    @cached_property
    def _none(self) -> tuple[FloatArray, FloatArray]:
        """For every subset of the pieces, by the bits of its number: the logarithm of the chance that an
        event gives none of it, and the sign with which it counts."""
        count = 1 << len(self._pieces)
        masks = np.arange(count)
        inside: dict[int, FloatArray] = {}
        sizes = np.zeros(count, dtype=np.int64)
        for at, item in enumerate(self._pieces):
            bit = (masks >> at) & 1
            inside[item] = bit.astype(np.float64)
            sizes += bit
        some = Thinned(self._under, inside).some(self._view, count)
        with np.errstate(divide="ignore"):
            return np.maximum(np.log1p(-some), -1e300), np.where(sizes % 2 == 0, 1.0, -1.0)
