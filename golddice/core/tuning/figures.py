"""The figures that targets are about, each at many depths."""

from __future__ import annotations

from collections.abc import Callable
from functools import cached_property

import numpy as np

from golddice.core.arrays import BoolArray, FloatArray
from golddice.core.game.models import Game, Target
from golddice.core.odds.carried.prospect import Prospect
from golddice.core.odds.depths.alike import depth_signs
from golddice.core.odds.depths.along import all_depths
from golddice.core.odds.depths.depth_odds import DepthOdds
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.odds.event.waits import events_to_first
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.pace import events_per_hour
from golddice.core.terms.resting import carries
from golddice.core.terms.size import check_size, most_rolls

NEVER = float("inf")


class Figures:
    """The figures of a game with a set of flags; what several targets share is worked out once."""

    def __init__(self, game: Game, flags: frozenset[str], pause: Callable[[], None]) -> None:
        """`pause` is called between depths that are followed one by one."""
        self.under, self._pause = all_depths(game, flags), pause

    def of(self, target: Target, where: BoolArray) -> FloatArray:
        """A target's figure at the depths `where`, shape (d,): infinite for never, NaN where there is
        no such figure (the swing of an event that gives nothing, a share of nothing).

        Raises TooLarge where what a player carries cannot be followed.
        """
        check_size(self.under, target.view)
        if target.figure in ("chance", "one-in"):
            chances = self._chances(target)[where]
            return _one_in(chances) if target.figure == "one-in" else np.asarray(chances)
        if target.figure == "wait":
            return self._waits(target, where)
        if target.figure == "cv":
            lean = self._items.of(target.view)
            return _share(np.sqrt(np.maximum(lean.value_var, 0.0)), lean.value_mean)[where]
        return self._of_units(target, self._units(target, where))

    # --- one at a time ---------------------------------------------------------------------------------

    def _of_units(self, target: Target, units: FloatArray) -> FloatArray:
        """From how many of each item one event gives, shape (items, d)."""
        worths = units * self.under.item_values[:, None]
        mine = self._belongs(target)
        if target.figure == "share":
            return _share(units[mine].sum(axis=0), units.sum(axis=0))
        if target.figure == "worth":
            return _share(worths[mine].sum(axis=0), worths.sum(axis=0))
        found = worths if target.figure.startswith("value") else units[mine]
        kind, name = target.view
        by_hour = kind == "source" and target.figure.endswith("per-hour")
        rate = events_per_hour(self.under.source(name)) if by_hour else 1.0
        return np.asarray(rate * found.sum(axis=0))

    def _belongs(self, target: Target) -> BoolArray:
        """Which items the target is about."""
        places = np.arange(len(self.under.game.items))
        if target.item is not None:
            return np.asarray(places == self.under.item_index[target.item])
        if target.tier is not None:
            return np.asarray(self.under.item_tiers == self.under.tier_index[target.tier])
        return np.ones(places.size, dtype=bool)

    def _chances(self, target: Target) -> FloatArray:
        """Chance of at least one in a fresh player's next event, at every depth of the game."""
        lean = (self._items if target.item is not None else self._tiers).of(target.view)
        row = np.flatnonzero(lean.places == self._place(target))
        return np.asarray(lean.hit[row[0]]) if row.size else np.zeros(self.under.depths.size)

    def _place(self, target: Target) -> int:
        if target.item is not None:
            return self.under.item_index[target.item]
        return self.under.tier_index[str(target.tier)]

    def _waits(self, target: Target, where: BoolArray) -> FloatArray:
        sure = target.sure / 100
        if not self._carries(target):
            waits = (events_to_first(float(p), sure) for p in self._chances(target)[where])
            return np.array([NEVER if events is None else events for events in waits], dtype=np.float64)

        def wait(prospect: Prospect) -> FloatArray:
            columns, place = prospect.columns, self._place(target)
            column = columns.item(place) if target.item is not None else columns.tier(place)
            events = prospect.wait_of(column)[f"first_{target.sure}"]
            return np.array([NEVER if events is None else events], dtype=np.float64)

        return np.asarray(self._by_depth(target, where, wait)[0])

    def had_by(self, target: Target, where: BoolArray, events: int) -> FloatArray:
        """Share of fresh players that have one of a target's items by an event, at the depths `where`."""

        def had(prospect: Prospect) -> FloatArray:
            columns, place = prospect.columns, self._place(target)
            column = columns.item(place) if target.item is not None else columns.tier(place)
            return 1.0 - prospect.none_at(column, np.array([events]))

        return np.asarray(self._by_depth(target, where, had)[0])

    def _units(self, target: Target, where: BoolArray) -> FloatArray:
        if not target.long_run or not self._carries(target):
            return self._items.means(target.view)[:, where]
        every = range(len(self.under.game.items))

        def means(prospect: Prospect) -> FloatArray:
            return np.array([prospect.long_run_mean(at) if prospect.reaches(at) else 0.0 for at in every])

        return self._by_depth(target, where, means)

    # --- shared ----------------------------------------------------------------------------------------

    @cached_property
    def _items(self) -> DepthOdds:
        return DepthOdds(self.under)

    @cached_property
    def _tiers(self) -> DepthOdds:
        return DepthOdds(self.under, by_tier=True)

    def _carries(self, target: Target) -> bool:
        return carries(self.under, most_rolls(self.under, target.view))

    def _by_depth(
        self, target: Target, where: BoolArray, figure: Callable[[Prospect], FloatArray]
    ) -> FloatArray:
        """A fresh player's figures followed depth by depth, shape (k, d); alike depths only once."""
        signs = depth_signs(self.under, most_rolls(self.under, target.view))
        known: dict[bytes, FloatArray] = {}
        found = []
        for row in np.flatnonzero(where).tolist():
            if signs[row] not in known:
                alone = Conditions(self.under.game, [int(self.under.depths[row])], self.under.flags)
                known[signs[row]] = figure(Prospect(Evaluator(alone, detail=False), target.view))
                self._pause()
            found.append(known[signs[row]])
        return np.stack(found, axis=1)


def _one_in(chances: FloatArray) -> FloatArray:
    return np.asarray(np.divide(1.0, chances, out=np.full_like(chances, NEVER), where=chances > 0))


def _share(part: FloatArray, whole: FloatArray) -> FloatArray:
    return np.asarray(np.divide(part, whole, out=np.full_like(whole, np.nan), where=whole > 0))
