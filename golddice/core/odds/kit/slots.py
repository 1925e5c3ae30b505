"""Kit of a source or table at one depth, slot by slot; and along a route."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from golddice.core.arrays import FloatArray
from golddice.core.game.models import Game
from golddice.core.game.views import View
from golddice.core.odds.event.waits import events_to_first
from golddice.core.odds.kit.scores import Score, score_of
from golddice.core.odds.kit.thinned import Thinned
from golddice.core.odds.kit.worn import NoneAbove, Worn, grid
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
        items = self.under.game.items
        return [(at, score_of(self.under, item)) for at, item in enumerate(items) if item.slot == self.name]

    @cached_property
    def knots(self) -> FloatArray:
        """Scores above 0 at which the chances change their piece, rising."""
        every = np.concatenate([score.knots for _, score in self._items] or [np.zeros(0)])
        return np.unique(every[every > 0])

    @cached_property
    def _none_above(self) -> NoneAbove:
        return self.none_above(self.knots)

    def none_above(self, knots: FloatArray) -> NoneAbove:
        """Chance that no unit of the slot in one event scores more, in these pieces."""
        edges, nodes = grid(knots)
        points = np.concatenate([edges, nodes.ravel()])
        kept = {
            at: np.concatenate([score.at_most(points), score.at_most(edges, below=True)])
            for at, score in self._items
        }
        found = Thinned(self.under, kept).none(self.view, points.size + edges.size)
        at, inside, before = np.split(found, [edges.size, points.size])
        return NoneAbove(edges, at, before, inside.reshape(nodes.shape))

    def after(self, events: int) -> tuple[Worn, float]:
        """What is worn after so many events, and how many of them were upgrades."""
        return self._none_above.worn(events), self._none_above.upgrades(events)

    def upgrade_at(self, event: int) -> float:
        """Chance that an event, counted from 1, is an upgrade."""
        return self._none_above.upgrade_at(event)

    def first(self, sure: float) -> int | None:
        """By which event so many players have their first upgrade."""
        return events_to_first(1.0 - float(self._none_above.at[0]), sure)


@dataclass(frozen=True)
class SlotAlong:
    """One slot along a route on which nothing is carried."""

    game: Game
    stops: Sequence[Stop]
    name: str

    def along(self) -> list[Worn]:
        """What is worn after each stop, of all stops so far together."""
        done = self._at
        knots = np.unique(np.concatenate([slot.knots for slot, _ in done.values()] or [np.zeros(0)]))
        once = {id(slot): slot.none_above(knots) for slot, _ in done.values()}
        edges, nodes = grid(knots)
        so_far = NoneAbove(edges, np.ones(edges.size), np.ones(edges.size), np.ones(nodes.shape))
        found, worn = [], Worn(0.0, 0.0, 0.0, 0.0)
        for at in range(len(self.stops)):
            if at in done:
                slot, count = done[at]
                so_far = so_far.times(once[id(slot)].mixed(count.values.astype(np.float64), count.chances))
                worn = so_far.worn()
            found.append(worn)
        return found

    @cached_property
    def _at(self) -> dict[int, tuple[Slot, Count]]:
        """The slot of each stop at which something is done, and how often its event comes; alike stops share
        one."""
        known: dict[tuple[int, frozenset[str], View], Slot] = {}
        found: dict[int, tuple[Slot, Count]] = {}
        for at, stop in enumerate(self.stops):
            if stop.view is None:
                continue
            key = stop.depth, stop.flags, stop.view
            if key not in known:
                under = Conditions(self.game, [stop.depth], stop.flags)
                known[key] = Slot(under, stop.view, self.name)
            found[at] = known[key], count_at(known[key].under, stop)
        return found
