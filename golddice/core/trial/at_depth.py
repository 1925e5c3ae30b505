"""What a program is compiled from: the parts of a game that are reached, and what depth and flags decide of
them.

Weights, chances, pools at depth are worked out here once more, from the models and their curves alone: the
simulator and the exact odds are each other's proof, so they share as little as can be.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
from propcache.api import cached_property

from golddice.core.arrays import FloatArray, IntArray
from golddice.core.game.curves import multiplier
from golddice.core.game.links import links_of, reached
from golddice.core.game.models import Game, Gated, ItemNamed, Line, Pool, Source, Table
from golddice.core.game.views import View


class Index:
    """The parts of a game by id."""

    def __init__(self, game: Game) -> None:
        self.game = game
        self.tables = {table.id: table for table in game.tables}
        self.sources = {source.id: source for source in game.sources}
        self.items = {item.id: at for at, item in enumerate(game.items)}
        self.curves = {curve.id: curve for curve in game.curves}
        self.tier_curves = {tier.id: tier.curve for tier in game.tiers}
        self._pools: dict[tuple[tuple[str, ...], tuple[str, ...]], list[int]] = {}

    def part(self, view: View) -> Table | Source:
        return self.sources[view.id] if view.kind == "source" else self.tables[view.id]

    def of_pool(self, pool: Pool) -> list[int]:
        """The items of any of its tiers that have any of its tags; an empty list means any."""
        key = tuple(pool.tiers), tuple(pool.tags)
        if key not in self._pools:
            tiers, tags = set(pool.tiers), set(pool.tags)
            self._pools[key] = [
                at
                for at, item in enumerate(self.game.items)
                if (not tiers or item.tier in tiers) and (not tags or not tags.isdisjoint(item.tags))
            ]
        return self._pools[key]


@dataclass(frozen=True)
class Reach:
    """Tables and sources that can be reached, in order of discovery, and items by index."""

    views: list[View]
    items: IntArray

    @staticmethod
    def of(index: Index, starts: Iterable[View]) -> Reach:
        views = reached(starts, lambda view: links_of(index.part(view)))
        items: set[int] = set()
        for view in views:
            if view.kind == "table":
                for line in index.tables[view.id].lines:
                    for given in line.yields:
                        if isinstance(given.what, ItemNamed):
                            items.add(index.items[given.what.id])
                        elif isinstance(given.what, Pool):
                            items.update(index.of_pool(given.what))
        return Reach(views, np.array(sorted(items), dtype=np.int64))

    @cached_property
    def tables(self) -> list[str]:
        return [view.id for view in self.views if view.kind == "table"]

    @cached_property
    def sources(self) -> list[str]:
        return [view.id for view in self.views if view.kind == "source"]


class TermsAt:
    """What depth and flags decide, in plain numbers."""

    def __init__(self, index: Index, depth: int, flags: frozenset[str]) -> None:
        self._index, self._depth, self._flags = index, depth, flags
        self._curves: dict[str | None, float] = {None: 1.0}

    def curve(self, name: str | None) -> float:
        if name not in self._curves:
            at = multiplier(self._index.curves[str(name)], np.array([self._depth]))
            self._curves[name] = float(at[0])
        return self._curves[name]

    def gate(self, part: Gated) -> bool:
        low, high = part.depths or (self._depth, self._depth)
        return (
            low <= self._depth <= high
            and self._flags.issuperset(part.needs)
            and self._flags.isdisjoint(part.unless)
        )

    def factor(self, line: Line) -> float:
        """The line's curve times that of its one tier, where all its items and pools share one."""
        tiers: set[str | None] = set()
        for given in line.yields:
            if isinstance(given.what, ItemNamed):
                tiers.add(self._index.game.items[self._index.items[given.what.id]].tier)
            elif isinstance(given.what, Pool):
                tiers.add(given.what.tiers[0] if len(set(given.what.tiers)) == 1 else None)
        tier = tiers.pop() if len(tiers) == 1 else None
        return self.curve(line.curve) * (1.0 if tier is None else self.curve(self._index.tier_curves[tier]))

    def pool_chances(self, members: list[int]) -> FloatArray:
        """Of each item by abundance and its tier's curve; all 0 where nothing has weight."""
        items = self._index.game.items
        weights = np.array(
            [items[at].abundance * self.curve(self._index.tier_curves[items[at].tier]) for at in members]
        )
        total = weights.sum()
        return weights / total if total > 0 else np.zeros(weights.size)
