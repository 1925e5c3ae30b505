"""Kit of a source or table at one depth, slot by slot; and along a route."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from propcache.api import cached_property

from golddice.core.arrays import FloatArray
from golddice.core.game.models import Game
from golddice.core.game.views import View
from golddice.core.odds.event.waits import events_to_first
from golddice.core.odds.kit.scores import Score, score_of
from golddice.core.odds.kit.thinned import Thinned
from golddice.core.odds.kit.worn import Above, Worn, grid, refined
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
    def items(self) -> list[tuple[int, Score]]:
        items = self.under.game.items
        return [(at, score_of(self.under, item)) for at, item in enumerate(items) if item.slot == self.name]

    @cached_property
    def knots(self) -> FloatArray:
        """Scores above 0 at which the chances change their piece, rising."""
        every = np.concatenate([score.knots for _, score in self.items] or [np.zeros(0)])
        return np.unique(every[every > 0])

    @cached_property
    def _above(self) -> Above:
        return _told_together(self.under, self.view, [self])[0]

    def after(self, events: int) -> tuple[Worn, float]:
        """What is worn after so many events, and how many of them were upgrades."""
        return self._above.worn(events), self._above.upgrades(events)

    def upgrade_at(self, event: int) -> float:
        """Chance that an event, counted from 1, is an upgrade."""
        return self._above.upgrade_at(event)

    def first(self, sure: float) -> int | None:
        """By which event so many players have their first upgrade."""
        return events_to_first(self._above.any, sure)


@dataclass(frozen=True)
class _Asked:
    """The scores at which a slot is looked at in its pieces: at their ends, before their ends, and inside, or
    not inside; and the chance of a unit of each of its items to score more."""

    edges: FloatArray
    nodes: FloatArray
    counts: dict[int, FloatArray]

    @staticmethod
    def of(items: Sequence[tuple[int, Score]], knots: FloatArray, inside: bool) -> _Asked:
        edges, nodes = grid(knots)
        if not inside:
            nodes = nodes[:, :0]
        points = np.concatenate([edges, nodes.ravel()])
        counts = {
            at: np.concatenate([score.more_than(points), score.more_than(edges, below=True)])
            for at, score in items
        }
        return _Asked(edges, nodes, counts)

    @property
    def size(self) -> int:
        return self.nodes.size + 2 * self.edges.size

    def told(self, found: FloatArray) -> _Chances:
        ends = self.edges.size
        at, inside, before = np.split(found, [ends, ends + self.nodes.size])
        return _Chances(self.edges, at, before, inside.reshape(self.nodes.shape))


class _Chances(NamedTuple):
    """That any unit of an event scores more: at the ends of pieces, before them, and inside."""

    edges: FloatArray
    at: FloatArray
    before: FloatArray
    inside: FloatArray


def slots_at(under: Conditions, view: View, names: Sequence[str]) -> list[Slot]:
    """Several slots in the same event, worked out in one go: what the event gives is gone through for all of
    them at once."""
    slots = [Slot(under, view, name) for name in names]
    for slot, above in zip(slots, _told_together(under, view, slots), strict=True):
        slot.__dict__["_above"] = above
    return slots


def _told_together(under: Conditions, view: View, slots: Sequence[Slot]) -> list[Above]:
    """First at the ends of their pieces, to see which have to be cut; then everywhere."""
    ends = _chances(under, view, slots, [slot.knots for slot in slots], inside=False)
    knots = [refined(slot.knots, one.at, one.before) for slot, one in zip(slots, ends, strict=True)]
    return [Above.of(*one) for one in _chances(under, view, slots, knots, inside=True)]


def _chances(
    under: Conditions, view: View, slots: Sequence[Slot], knots: Sequence[FloatArray], inside: bool
) -> list[_Chances]:
    asked = [_Asked.of(slot.items, one, inside) for slot, one in zip(slots, knots, strict=True)]
    ends = np.cumsum([0, *(one.size for one in asked)])
    counts: dict[int, FloatArray] = {}
    for one, start in zip(asked, ends, strict=False):
        for at, chances in one.counts.items():
            counts[at] = np.zeros(int(ends[-1]))
            counts[at][start : start + one.size] = chances
    found = Thinned(under, counts).some(view, int(ends[-1]))
    return [one.told(part) for one, part in zip(asked, np.split(found, ends[1:-1]), strict=True)]


@dataclass(frozen=True)
class SlotAlong:
    """One slot along a route on which nothing is carried."""

    game: Game
    stops: Sequence[Stop]
    name: str

    def along(self) -> list[Worn]:
        """What is worn after each stop, of all stops so far together."""
        done = self._at
        slots = list({id(slot): slot for slot, _ in done.values()}.values())
        knots = self._knots(slots)
        once = {id(slot): Above.of(*_at_knots(slot, knots, inside=True)) for slot in slots}
        edges, nodes = grid(knots)
        so_far = Above(edges, np.zeros(edges.size), np.zeros(edges.size), np.zeros(nodes.shape))
        found, worn = [], Worn(0.0, 0.0, 0.0, 0.0)
        for at in range(len(self.stops)):
            if at in done:
                slot, count = done[at]
                so_far = so_far.times(once[id(slot)].mixed(count.values.astype(np.float64), count.chances))
                worn = so_far.worn()
            found.append(worn)
        return found

    @staticmethod
    def _knots(slots: Sequence[Slot]) -> FloatArray:
        """Those of all, with those that any of them needs besides."""
        knots = np.unique(np.concatenate([slot.knots for slot in slots] or [np.zeros(0)]))
        ends = (_at_knots(slot, knots, inside=False) for slot in slots)
        return np.unique(np.concatenate([knots, *(refined(knots, one.at, one.before) for one in ends)]))

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


def _at_knots(slot: Slot, knots: FloatArray, inside: bool) -> _Chances:
    return _chances(slot.under, slot.view, [slot], [knots], inside)[0]
