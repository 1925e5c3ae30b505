"""What may lie at which spot."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

import numpy as np
from propcache.api import cached_property

from golddice.core.arrays import BoolArray, FloatArray
from golddice.core.game.finding import named
from golddice.core.game.models import Game, PickTable, Yield
from golddice.core.game.places import Cover, Place, Spot
from golddice.core.game.stocks import Stocked
from golddice.core.terms.conditions import Conditions


def place_of(game: Game, name: str) -> Place:
    """Raises UnknownThing."""
    return named(game.places, "place", name)


@dataclass(frozen=True)
class Spots:
    """A place at the one depth of `under`. s spots, l lines of the stock."""

    under: Conditions
    place: Place

    @cached_property
    def stock(self) -> PickTable:
        table = self.under.table(self.place.stock)
        assert isinstance(table, PickTable)
        return table

    @property
    def lines(self) -> list[str]:
        return [line.id for line in self.stock.lines]

    @cached_property
    def weights(self) -> FloatArray:
        """At the depth, 0 where closed, (l,)."""
        return np.asarray(self.under.weights(self.stock)[:, 0])

    @cached_property
    def open(self) -> BoolArray:
        """Which lines take part, (l,): open at the depth and by flags, whatever they weigh."""
        return np.array([bool(self.under.line_open(line)[0]) for line in self.stock.lines], dtype=bool)

    @cached_property
    def exact_weights(self) -> list[Fraction]:
        """The same as the decimals that they are, so that ties are ties."""
        return [Fraction(repr(float(f"{weight:.15g}"))) for weight in self.weights.tolist()]

    @cached_property
    def nothing(self) -> float:
        return float(self.under.nothing(self.stock)[0])

    @cached_property
    def allowed(self) -> BoolArray:
        """Where each open line may lie, (s, l)."""
        return np.asarray(self.fitting & self.open)

    @cached_property
    def fitting(self) -> BoolArray:
        """Where each line may lie whenever it is open, (s, l)."""
        found = np.zeros((len(self.place.spots), len(self.stock.lines)), dtype=bool)
        stocked = Stocked(self.under.game)
        for at, line in enumerate(self.stock.lines):
            kinds = stocked.kinds_of(line)
            covers = [cover for cover in self.place.covers if _names(cover, kinds, line.yields)]
            for row, spot in enumerate(self.place.spots):
                of_kind = not spot.kinds or not kinds.isdisjoint(spot.kinds)
                found[row, at] = of_kind and (not covers or any(_covers(one, spot) for one in covers))
        return found


def _names(cover: Cover, kinds: set[str], yields: list[Yield]) -> bool:
    """Whether a cover names a line: by a kind, an item or a source of it."""
    if not kinds.isdisjoint(cover.tags):
        return True
    return any(one.item in cover.items or one.source in cover.sources for one in yields)


def _covers(cover: Cover, spot: Spot) -> bool:
    return cover.rows[spot.y][spot.x] == "#"
