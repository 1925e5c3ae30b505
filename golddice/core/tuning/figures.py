"""The figures that targets are about, each at many depths."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Sequence

import numpy as np
from propcache.api import cached_property

from golddice.core.arrays import BoolArray, FloatArray
from golddice.core.errors import TooLarge
from golddice.core.forecast.openings import openings_of
from golddice.core.game.finding import found_one
from golddice.core.game.models import Game
from golddice.core.game.target import SwingOf, Target
from golddice.core.game.views import View
from golddice.core.odds.carried.prospect import Prospect
from golddice.core.odds.carried.totals import TotalLaw, value_after
from golddice.core.odds.depths.alike import depth_keys
from golddice.core.odds.depths.along import all_depths
from golddice.core.odds.depths.depth_odds import DepthOdds
from golddice.core.odds.depths.group_means import UNITS, WORTH, GroupMeans
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.odds.event.waits import events_to_first
from golddice.core.odds.kit.sets import Completion, is_told
from golddice.core.odds.kit.slots import Slot
from golddice.core.stopping import go_on
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.pace import events_per_hour
from golddice.core.terms.resting import carried_to_first, carries, rests_on_state
from golddice.core.terms.size import check_size, most_rolls
from golddice.core.tuning.along_routes import at_the_end
from golddice.core.tuning.elsewhere import figures_elsewhere
from golddice.core.tuning.promises import Path, Reach, reach

NEVER = float("inf")
_GRID = 1 << 19  # the finest grid that the whole distribution of a value is laid on
_ENDS = np.array([0.05, 0.95])
OPENINGS_OF_A_TARGET = 4_000  # the same players whatever the numbers are


class Figures:
    """The figures of a game with a set of flags, and what has a tag counted as one more tier; what several
    targets share is worked out once."""

    def __init__(self, game: Game, flags: frozenset[str], tag: str | None = None) -> None:
        self.under = all_depths(game, flags, tag)
        self.played: set[str] = set()  # targets whose figures are of players, settings-out or periods alone
        self._last: tuple[View, FloatArray] | None = None
        self._asked: View | None = None
        self._prospects: dict[tuple[int, bool], Prospect] = {}

    def of(self, target: Target, where: BoolArray) -> FloatArray:
        """A target's figure at the depths `where`, shape (d,): infinite for never, NaN where there is
        no such figure (the swing of an event that gives nothing, a share of nothing). Of a route one, at its
        end.

        Raises TooLarge where it cannot be told exactly: what a player carries cannot be followed, or amounts
        lie too fine for the whole distribution.
        """
        if target.is_elsewhere:
            found, is_played = figures_elsewhere(self.under, target, where, self._counts(target))
            if is_played:
                self.played.add(target.id)
            return found
        if target.route is not None:
            return at_the_end(self.under, target, self._counts(target))
        check_size(self.under, target.view)
        match target.figure:
            case "chance" | "one-in":
                chances = self._chances(target, where)
                return _one_in(chances) if target.figure == "one-in" else np.asarray(chances)
            case "wait":
                return self._waits(target, where)
            case "none":
                return 1.0 - self.had_by(target, where, target.events)
            case "cv":
                lean = self._tiers.tried(target.view, where)
                return _cv(lean.value_mean, lean.value_var)[where]
            case "spread":
                return self._spreads(target, where)
            case "less":
                return self._less(target, where)
            case "swing-of":
                return self._shares_of_swing(target, where)
            case "least" | "most" | "below":
                return self._promises(target, where)
            case "cost":
                return self.price(target) * self._mean_waits(target, where)
            case "fits" | "complete" | "upgrades":
                return self._kept(target, where)
        if target.item is None and not (target.long_run and self._carries(target)):
            return self._of_groups(target, self._groups.at(target.view, where)[:, :, where])
        return self._of_units(target, self._units(target, where))

    def way(self, target: Target, row: int) -> Path:
        """How an event comes to a promise's figure, at the depth of a row. Raises TooLarge."""
        found = self._reach(target, self.under.alone(row))
        return found.fewest if target.figure == "least" else found.most_of

    # --- one at a time ---------------------------------------------------------------------------------

    def _of_units(self, target: Target, units: FloatArray) -> FloatArray:
        """From how many of each item one event gives, shape (items, d)."""
        worths = units * self.under.item_values[:, None]
        return self._told(target, units, worths, self._counts(target) > 0)

    def _of_groups(self, target: Target, means: FloatArray) -> FloatArray:
        """From how many of each group, and what they are worth, shape (2, groups, d)."""
        mine = np.zeros(means.shape[1], dtype=bool)
        mine[slice(None) if target.tier is None and target.tag is None else self._place(target)] = True
        return self._told(target, means[UNITS], means[WORTH], mine)

    def _told(self, target: Target, units: FloatArray, worths: FloatArray, mine: BoolArray) -> FloatArray:
        if target.figure == "share":
            return _share(units[mine].sum(axis=0), units.sum(axis=0))
        if target.figure == "worth":
            return _share(worths[mine].sum(axis=0), worths.sum(axis=0))
        found = worths if target.figure.startswith("value") else units[mine]
        kind, name = target.view
        by_hour = kind == "source" and target.figure.endswith("per-hour")
        rate = events_per_hour(self.under.source(name)) if by_hour else 1.0
        return np.asarray(rate * found.sum(axis=0))

    def _counts(self, target: Target) -> FloatArray:
        return counted(self.under, target)

    def _chances(self, target: Target, where: BoolArray) -> FloatArray:
        """Chance of at least one in a fresh player's next event, at the depths `where`."""
        lean = (self._items if target.item is not None else self._tiers).tried(target.view, where)
        row = np.flatnonzero(lean.places == self._place(target))
        return np.asarray(lean.hit[row[0]][where]) if row.size else np.zeros(int(where.sum()))

    def _place(self, target: Target) -> int:
        """Among the items, or the groups that items are counted in."""
        if target.item is not None:
            return self.under.item_index[target.item]
        return len(self.under.game.tiers) if target.tier is None else self.under.tier_index[target.tier]

    def _column(self, target: Target, prospect: Prospect) -> int:
        columns, place = prospect.columns, self._place(target)
        return columns.item(place) if target.item is not None else columns.tier(place)

    def _waits(self, target: Target, where: BoolArray) -> FloatArray:
        sure = target.sure / 100
        if not self.carries_to_first(target):
            waits = (events_to_first(float(p), sure) for p in self._chances(target, where))
            return np.array([NEVER if events is None else events for events in waits], dtype=np.float64)

        def wait(prospect: Prospect) -> FloatArray:
            events = prospect.wait_of(self._column(target, prospect))[f"first_{target.sure}"]
            return np.array([NEVER if events is None else events], dtype=np.float64)

        return np.asarray(self._by_depth(target, where, wait)[0])

    def _mean_waits(self, target: Target, where: BoolArray) -> FloatArray:
        if not self.carries_to_first(target):
            return _one_in(self._chances(target, where))

        def wait(prospect: Prospect) -> FloatArray:
            return np.array([prospect.mean_wait(self._column(target, prospect))])

        return np.asarray(self._by_depth(target, where, wait)[0])

    def had_by(self, target: Target, where: BoolArray, events: int) -> FloatArray:
        """Share of fresh players that have one of a target's things by an event, at the depths `where`."""
        if not self.carries_to_first(target):
            with np.errstate(divide="ignore"):
                return np.asarray(-np.expm1(events * np.log1p(-self._chances(target, where))))

        def had(prospect: Prospect) -> FloatArray:
            return 1.0 - prospect.none_at(self._column(target, prospect), np.array([events]))

        return np.asarray(self._by_depth(target, where, had)[0])

    def _spreads(self, target: Target, where: BoolArray) -> FloatArray:
        """Of the value of so many events."""
        events = target.events
        if target.spread == "p95/p5":
            return self._by_law(target, where, lambda prospect: _ratio(_law(prospect, events)))
        if self._carries(target):
            pairs = self._by_depth(target, where, lambda one: np.array(one.value_after(events)))
            mean, var = pairs[0], pairs[1]
        else:
            lean = self._tiers.tried(target.view, where)
            mean, var = events * lean.value_mean[where], events * lean.value_var[where]
        return _cv(mean, var) if target.spread == "cv" else np.sqrt(np.maximum(var, 0.0))

    def leaning_ratio(self, target: Target, where: BoolArray) -> FloatArray:
        """The same ratio without its steps, so that it can be seen where it goes: its quantiles between
        values, and no nearer to what is wanted than the true one."""

        def ratio(prospect: Prospect) -> float:
            law = _law(prospect, target.events)
            low, high = law.between(_ENDS).tolist()
            high += law.unit * (target.side in ("at-most", "never-rises"))
            low += law.unit * (target.side in ("at-least", "never-falls"))
            return float(high / low) if low > 0 else NEVER

        return self._by_law(target, where, ratio)

    def _less(self, target: Target, where: BoolArray) -> FloatArray:
        """Chance of less than so much value by so many events."""

        def less(prospect: Prospect) -> float:
            return _law(prospect, target.events).less_than(target.less_than)

        return self._by_law(target, where, less)

    def _by_law(self, target: Target, where: BoolArray, of: Callable[[Prospect], float]) -> FloatArray:
        return np.asarray(self._by_depth(target, where, lambda one: np.array([of(one)]))[0])

    def _shares_of_swing(self, target: Target, where: BoolArray) -> FloatArray:
        """Share of the variance of an event's value that comes through a line or drop; NaN of none."""
        part: SwingOf = target.swing_of  # type: ignore[assignment]

        def share(prospect: Prospect) -> FloatArray:
            columns, of = prospect.columns, part.table
            hits = (
                columns.line_hits(of, part.part)
                if of is not None
                else columns.drop_hits(target.view.id, part.part)
            )
            whole = float(prospect.outcome.value_var[0])
            return np.array([prospect.cov(hits + 1) / whole if whole > 0 else np.nan])

        self._check_part(target, part)
        return np.asarray(self._by_depth(target, where, share, detail=True)[0])

    def _check_part(self, target: Target, part: SwingOf) -> None:
        if part.table is not None:
            known = [line.id for line in self.under.table(part.table).lines]
        elif target.source is not None:
            known = [drop.id for drop in self.under.source(target.source).drops]
        else:
            known = []
        if part.part not in known:
            raise TooLarge(f"there is no “{part.part}” in “{part.table or target.view.id}” any more")

    def _promises(self, target: Target, where: BoolArray) -> FloatArray:
        def extreme(prospect: Prospect) -> FloatArray:
            found = self._reach(target, prospect.under)
            if target.figure == "least":
                return np.array([found.least])
            if found.is_loose:
                raise TooLarge("a line with a limit is rolled in several places; the most cannot be decided")
            return np.array([found.most])

        return np.asarray(self._by_depth(target, where, extreme)[0])

    def price(self, target: Target) -> float:
        """What an event of its source costs. Raises TooLarge where that is nothing."""
        found = self.under.source(target.view.id).price
        if found is None:
            raise TooLarge(f"“{target.view.id}” has no price any more")
        return float(found.amount)

    def _kept(self, target: Target, where: BoolArray) -> FloatArray:
        """Of what is kept; of kit and sets only where nothing is carried."""
        if target.figure != "fits" and self._carries(target):
            raise TooLarge("something is carried from event to event: a trial tells it")
        one = found_one(self.under.game.sets, target.set)
        if one is not None and not is_told(one):
            raise TooLarge("a set with more than one of a piece, or many pieces, is told by a trial")

        def figure(prospect: Prospect) -> FloatArray:
            alone = prospect.under
            if target.figure == "fits":
                self.played.add(target.id)
                return np.array([openings_of(alone, target.view.id, OPENINGS_OF_A_TARGET).fits])
            if one is not None:
                return np.array([Completion(alone, target.view, one).after(target.events)])
            return np.array([Slot(alone, target.view, str(target.slot)).after(target.events)[1]])

        worn = self._stat_curves(target.slot) if target.figure == "upgrades" else ()
        return np.asarray(self._by_depth(target, where, figure, also=worn)[0])

    def _stat_curves(self, slot: str | None) -> list[FloatArray]:
        """What depth changes of the scores in a slot, curve by curve, each (d,)."""
        items = [item for item in self.under.game.items if item.slot == slot]
        names = {stat.curve for item in items for stat in item.stats.values()} - {None}
        return [self.under.curve(name) for name in sorted(map(str, names))]

    def _reach(self, target: Target, alone: Conditions) -> Reach:
        return reach(alone, target.view, self._counts(target))

    def _units(self, target: Target, where: BoolArray) -> FloatArray:
        if not target.long_run or not self._carries(target):
            return self._means(target.view, where)

        def means(prospect: Prospect) -> FloatArray:
            found = prospect.long_run_means
            return np.array([found.get(at, 0.0) for at in range(len(self.under.game.items))])

        return self._by_depth(target, where, means)

    # --- shared ----------------------------------------------------------------------------------------

    def _means(self, view: View, where: BoolArray) -> FloatArray:
        """How many of each item; of the view that was asked about last they are kept, unless each depth has
        to be worked out by itself."""
        if rests_on_state(self.under, view):
            return self._items.means(view, where)[:, where]
        if self._last is None or self._last[0] != view:
            self._last = view, self._items.means(view)
        return self._last[1][:, where]

    @cached_property
    def _items(self) -> DepthOdds:
        return DepthOdds(self.under)

    @cached_property
    def _groups(self) -> GroupMeans:
        return GroupMeans(self.under, self._items)

    @cached_property
    def _tiers(self) -> DepthOdds:
        return DepthOdds(self.under, by_tier=True)

    def carries_to_first(self, target: Target) -> bool:
        """Whether a wait, or having none by some event, is followed rather than told by a first event."""
        if not carries(self.under, target.view):
            return False
        items = self.under.game.items
        wanted = {items[at].id for at in np.flatnonzero(self._counts(target))}
        return carried_to_first(self.under, target.view, wanted)

    def _carries(self, target: Target) -> bool:
        return carries(self.under, target.view)

    def _by_depth(
        self,
        target: Target,
        where: BoolArray,
        figure: Callable[[Prospect], FloatArray],
        detail: bool = False,
        also: Sequence[FloatArray] = (),
    ) -> FloatArray:
        """A fresh player's figures followed depth by depth, shape (k, d); alike depths only once. `also` is
        what a figure rests on at each depth besides the chances of the view, each (d,)."""
        rows = np.flatnonzero(where).tolist()
        keys: Sequence[Hashable] = rows
        if len(rows) > 1:
            every = depth_keys(self.under, most_rolls(self.under, target.view))
            keys = [(every[row], *(float(one[row]) for one in also)) for row in rows]
        known: dict[Hashable, FloatArray] = {}
        for row, key in zip(rows, keys, strict=True):
            if key not in known:
                known[key] = figure(self._prospect(target.view, row, detail))
                go_on()
        return np.stack([known[key] for key in keys], axis=1)

    def _prospect(self, view: View, row: int, detail: bool) -> Prospect:
        """One for all targets of the view that is asked about: they walk the same states."""
        if self._asked != view:
            self._asked, self._prospects = view, {}
        key = row, detail
        if key not in self._prospects:
            self._prospects[key] = Prospect(Evaluator(self.under.alone(row), detail), view)
        return self._prospects[key]


def counted(under: Conditions, target: Target) -> FloatArray:
    """Which items a target is about, (items,) of 0 and 1; of the whole event all."""
    found = np.zeros(len(under.game.items))
    if target.item is not None:
        found[under.item_index[target.item]] = 1.0
    elif target.tag is not None:
        found[[target.tag in item.tags for item in under.game.items]] = 1.0
    elif target.tier is None:
        found[:] = 1.0
    elif target.figure == "below":
        found[under.item_tiers < under.tier_index[target.tier]] = 1.0
    else:
        found[under.item_tiers == under.tier_index[target.tier]] = 1.0
    return found


def _law(prospect: Prospect, events: int) -> TotalLaw:
    """The value of so many events, if it can be told exactly."""
    law = value_after(prospect.under, prospect.view, events, _GRID, prospect)
    if law.blur > 0:
        raise TooLarge("values lie too fine apart for their whole distribution to be told exactly")
    return law


def _ratio(law: TotalLaw) -> float:
    """A lucky player's value over an unlucky one's, the 95th over the 5th of a hundred."""
    low, high = law.quantiles(_ENDS).tolist()
    if low > 0:
        return float(high / low)
    return NEVER if high > 0 else float("nan")


def _one_in(chances: FloatArray) -> FloatArray:
    return np.asarray(np.divide(1.0, chances, out=np.full_like(chances, NEVER), where=chances > 0))


def _cv(mean: FloatArray, var: FloatArray) -> FloatArray:
    return _share(np.sqrt(np.maximum(var, 0.0)), mean)


def _share(part: FloatArray, whole: FloatArray) -> FloatArray:
    return np.asarray(np.divide(part, whole, out=np.full_like(whole, np.nan), where=whole > 0))
