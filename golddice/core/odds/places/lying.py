"""What may lie at which spot, and what one of each line of the stock comes to."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from functools import cached_property

import numpy as np

from golddice.core.arrays import BoolArray, FloatArray
from golddice.core.game.finding import named
from golddice.core.game.models import Game, ItemNamed, PickTable, Pool, Yield
from golddice.core.game.places import Cover, Place, Spot
from golddice.core.game.stocks import kinds_of
from golddice.core.game.views import View
from golddice.core.odds.carried.prospect import Prospect
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.terms.conditions import Conditions


def place_of(game: Game, name: str) -> Place:
    """Raises UnknownThing."""
    return named(game.places, "place", name)


@dataclass(frozen=True)
class Lying:
    """A place at the one depth of `under`. s spots, l lines of the stock, k items of the game."""

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
        found = np.zeros((len(self.place.spots), len(self.stock.lines)), dtype=bool)
        game = self.under.game
        for at, line in enumerate(self.stock.lines):
            if not self.open[at]:
                continue
            kinds = kinds_of(game, line)
            covers = [cover for cover in self.place.covers if _names(cover, kinds, line.yields)]
            for row, spot in enumerate(self.place.spots):
                of_kind = not spot.kinds or not kinds.isdisjoint(spot.kinds)
                found[row, at] = of_kind and (not covers or any(_covers(one, spot) for one in covers))
        return found

    @cached_property
    def given(self) -> FloatArray:
        """How many of each item one of a line comes to on average, (l, k). A source stands, and gives nothing
        here."""
        return np.array([self._gives([*line.yields])[0] for line in self.stock.lines]).reshape(
            len(self.stock.lines), len(self.under.game.items)
        )

    @cached_property
    def none(self) -> FloatArray:
        """The chance that one of a line comes to none of an item, (l, k)."""
        return np.array([self._gives([*line.yields])[1] for line in self.stock.lines]).reshape(
            len(self.stock.lines), len(self.under.game.items)
        )

    def _gives(self, yields: list[Yield]) -> tuple[FloatArray, FloatArray]:
        items = len(self.under.game.items)
        mean, none = np.zeros(items), np.ones(items)
        for given in yields:
            one = self._one(given)
            if one is None:
                continue
            law = self.under.law(given.quantity)
            values, chances = law.row(0)
            mean += float(chances @ values) * one[0]
            none *= np.asarray(law.pgf((1.0 - one[1]).astype(np.complex128))).real
        return mean, np.clip(none, 0.0, 1.0)

    def _one(self, given: Yield) -> tuple[FloatArray, FloatArray] | None:
        """Mean of each item, and the chance of any, of one of what is given; None of a source."""
        items = len(self.under.game.items)
        match given.what:
            case ItemNamed(item):
                found = np.zeros(items)
                found[self.under.item_index[item]] = 1.0
                return found, found
            case Pool() as pool:
                found = np.zeros(items)
                found[self.under.pool_items(pool)] = self.under.pool_chances(pool)[:, 0]
                return found, found
            case View("table", _) as view:
                prospect = Prospect(Evaluator(self.under, detail=False), view)
                columns = [prospect.columns.item(at) for at in range(items)]
                return (
                    np.array([prospect.mean(one) for one in columns]),
                    np.array([prospect.hit(one) for one in columns]),
                )
        return None


def _names(cover: Cover, kinds: set[str], yields: list[Yield]) -> bool:
    """Whether a cover names a line: by a kind, an item or a source of it."""
    if not kinds.isdisjoint(cover.tags):
        return True
    return any(one.item in cover.items or one.source in cover.sources for one in yields)


def _covers(cover: Cover, spot: Spot) -> bool:
    return cover.rows[spot.y][spot.x] == "#"
