"""Kit of a source or table at one depth, slot by slot."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from golddice.core.arrays import FloatArray
from golddice.core.game.models import Game, Item
from golddice.core.game.views import View
from golddice.core.odds.event.waits import events_to_first
from golddice.core.odds.kit.scores import Score, score_of
from golddice.core.odds.kit.thinned import Thinned
from golddice.core.odds.kit.worn import None_above, Worn, upgrades, worn
from golddice.core.odds.route.counts import Count, count_at
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.stops import Stop


def slots_of(game: Game) -> list[str]:
    """Every slot of the catalogue, in file order."""
    return list(dict.fromkeys(item.slot for item in game.items if item.slot is not None))


@dataclass(frozen=True)
class Slot:
    """One slot in one event of a view at the one depth of `under`."""

    under: Conditions
    view: View
    name: str

    @cached_property
    def _items(self) -> list[tuple[int, Score]]:
        items: list[Item] = self.under.game.items
        return [(at, score_of(self.under, item)) for at, item in enumerate(items) if item.slot == self.name]

    @cached_property
    def knots(self) -> FloatArray:
        """Scores above 0 at which the chances change their piece, rising."""
        every = np.concatenate([score.knots for _, score in self._items] or [np.zeros(0)])
        return np.unique(every[every > 0])

    def none_above(self, scores: FloatArray, below: bool = False) -> FloatArray:
        """Chance that no unit of the slot in one event scores more; for `below`, so much or more."""
        points = scores if scores.size > 1 else np.repeat(scores, 2)
        kept = np.ones((len(self.under.game.items), points.size))
        for at, score in self._items:
            kept[at] = score.at_most(points, below)
        found = Thinned(self.under, kept).view(self.view).real
        return np.clip(found[: scores.size], 0.0, 1.0)

    def after(self, events: int) -> tuple[Worn, float]:
        """What is worn after so many events, and how many of them were upgrades."""
        of: None_above = self.none_above
        return worn(of, self.knots, events), upgrades(of, self.knots, events)

    def first(self, sure: float) -> int | None:
        """By which event so many players have their first upgrade."""
        return events_to_first(1.0 - float(self.none_above(np.zeros(1))[0]), sure)


@dataclass(frozen=True)
class SlotAlong:
    """One slot along a route on which nothing is carried: of all its stops so far together."""

    game: Game
    stops: list[Stop]
    name: str

    @cached_property
    def _at(self) -> list[tuple[Slot, Count] | None]:
        """Each stop's slot, and how often its event comes; alike stops share one."""
        known: dict[tuple[int, frozenset[str], View], Slot] = {}
        found: list[tuple[Slot, Count] | None] = []
        for stop in self.stops:
            if stop.view is None:
                found.append(None)
                continue
            key = stop.depth, stop.flags, stop.view
            if key not in known:
                under = Conditions(self.game, [stop.depth], stop.flags)
                known[key] = Slot(under, stop.view, self.name)
            found.append((known[key], count_at(known[key].under, stop)))
        return found

    def after(self, stops: int) -> Worn:
        """What is worn after so many stops."""
        done = [one for one in self._at[:stops] if one is not None]
        knots = np.unique(np.concatenate([slot.knots for slot, _ in done] or [np.zeros(0)]))

        def none_above(scores: FloatArray, below: bool) -> FloatArray:
            result = np.ones(scores.size)
            once = {id(slot): slot.none_above(scores, below) for slot, _ in done}
            for slot, count in done:
                chances = once[id(slot)][:, None] ** count.values[None, :]
                result = result * (chances @ count.chances)
            return result

        return worn(none_above, knots)
