"""Fresh odds at many depths at once: chances of every item, how many, and the value of an event.

`Evaluator` carries every moment of everything; a sheet over a hundred depths wants less, and faster.
Here each table is worked out once for all depths and for all that roll it, in compiled loops over
items x depths.

What a player carries seldom matters within one event. Where it cannot, the fresh chances stand; where
it can (a guarded table rolled twice), those drops are worked out depth by depth, alike depths once.
"""

from __future__ import annotations

from collections.abc import Hashable, Iterable, Sequence
from dataclasses import dataclass

import numpy as np

from golddice.core.arrays import BoolArray, FloatArray, IntArray
from golddice.core.game.models import Drop, Game, PickTable, Source
from golddice.core.game.views import View
from golddice.core.odds.depths.apart import outcomes_apart
from golddice.core.odds.depths.flows import expected
from golddice.core.odds.depths.mixing import (
    mix_into,
    mix_items_into,
    or_into,
    or_items_into,
    ranked,
    worth_of_each,
    worth_of_one,
)
from golddice.core.odds.depths.twins import first_twins
from golddice.core.odds.event.algebra import Algebra, Roll
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.odds.event.outcome import Outcome
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.law import AnyLaw
from golddice.core.terms.lines import PlainLines, no_plain_lines
from golddice.core.terms.resting import rests_on_state
from golddice.core.terms.size import most_rolls

_NO_ITEMS: IntArray = np.zeros(0, dtype=np.int64)


@dataclass(frozen=True)
class Lean:
    """One event at d depths.

    places : ndarray of int, shape (k,), rising; indices of the items (or tiers) it can give.
    hit, mean : ndarray, shape (k, d); chance of at least one, and how many. Items first: one item's
        depths lie together.
    value_mean, value_var : ndarray, shape (d,)
    """

    places: IntArray
    hit: FloatArray
    mean: FloatArray
    value_mean: FloatArray
    value_var: FloatArray


@dataclass(frozen=True)
class Tried:
    """One try of a part: the same without how many, which comes from the top down (`flows`)."""

    places: IntArray
    hit: FloatArray
    value_mean: FloatArray
    value_var: FloatArray


class _Tries(Algebra[Tried]):
    """Tries of every part, each item counting at its `place` among `count` things, shape (items,); -1 for
    none."""

    takes_plain = True

    def __init__(self, under: Conditions, place: IntArray, count: int, of_tiers: bool, key: Hashable) -> None:
        super().__init__(under, key)
        self._place, self._count = place, count
        self._has = np.zeros(count, dtype=bool)
        self._has[place[place >= 0]] = True
        # Among the columns of an outcome tiers stand behind the items.
        self._first = len(under.game.items) if of_tiers else 0
        self._depths = int(under.depths.size)
        self._evaluator = Evaluator(under, detail=False)

    def tried(self, source: Source, drops: Sequence[Drop]) -> Tried:
        chances = [self.under.drop_chance(drop) for drop in drops]
        given = [self.dropped(source, drop) for drop in drops]
        return self._independent(np.array(chances).reshape(len(given), self._depths), given)

    def perhaps(self, chance: FloatArray, part: Tried) -> Tried:
        return self._independent(chance[None], [part])

    def all_of(self, parts: Iterable[Tried]) -> Tried:
        every = list(parts)
        return self._independent(np.ones((len(every), self._depths)), every)

    def distinct(self, table: PickTable) -> Tried:
        return self.of_outcome(self._evaluator.table(table.id))

    def together(self, roll: Roll, others: Iterable[Tried]) -> Tried:
        return self._together(roll, list(others))

    def _together(self, roll: Roll, others: list[Tried]) -> Tried:
        """The plain lines first, all at once, then the others one by one."""
        chances, blank, plain = roll.chances, roll.blank, roll.plain
        items_into, part_into = (or_items_into, or_into) if blank is None else (mix_items_into, mix_into)
        places, rows, hit = self.room(others, plain.items)
        items_into(hit, rows[self._place[plain.items]], chances[plain.at], plain.some)
        for at, part in zip(plain.others, others, strict=True):
            part_into(hit, rows[part.places], chances[at], part.hit)
        worth = self._worth(chances, blank, plain, others)
        return Tried(places, hit, *worth)

    def _worth(
        self, chances: FloatArray, blank: FloatArray | None, plain: PlainLines, others: list[Tried]
    ) -> tuple[FloatArray, FloatArray]:
        """Mean and variance of the value of the same."""
        values = self.under.item_values[plain.items]
        shape = (len(others), self._depths)
        means = np.array([part.value_mean for part in others]).reshape(shape)
        spreads = np.array([part.value_var for part in others]).reshape(shape)
        flat = (plain.at, values * plain.mean, values**2 * plain.var)
        rest = (np.array(plain.others, dtype=np.int64), means, spreads)
        mean, var = (
            worth_of_each(chances, *flat, *rest)
            if blank is None
            else worth_of_one(chances, blank, *flat, *rest)
        )
        return mean, var

    def _independent(self, chances: FloatArray, parts: list[Tried]) -> Tried:
        """Each part with its own chance, shape (n, d)."""
        return self._together(Roll(chances, None, no_plain_lines(len(parts))), parts)

    def room(self, parts: list[Tried], items: IntArray = _NO_ITEMS) -> tuple[IntArray, IntArray, FloatArray]:
        """All places of some parts and items, rising; the row of each place, -1 of none; zeros to add
        to."""
        reached = np.zeros(self._count + 1, dtype=bool)  # the last stands for items that do not count
        reached[self._place[items]] = True
        for part in parts:
            reached[part.places] = True
        reached[-1] = False
        places, rows = ranked(reached)
        self.under.check_cells(int(places.size), "items")
        return places, rows, np.zeros((places.size, self._depths))

    def one_item(self, items: IntArray, chances: FloatArray) -> Tried:
        places, rows, hit = self.room([], items)
        mix_items_into(hit, rows[self._place[items]], chances, np.ones(items.size))
        blank = np.maximum(1.0 - chances.sum(axis=0), 0.0)
        values = self.under.item_values[items]
        flat = (np.arange(items.size), values, np.zeros(items.size))
        worth = worth_of_one(chances, blank, *flat, _NO_ITEMS, *np.zeros((2, 0, self._depths)))
        return Tried(places, np.minimum(hit, 1.0, out=hit), *worth)

    def item(self, at: int, law: AnyLaw) -> Tried:
        """So many of one item, where it is not a plain line: its figures by depth."""
        ones, value = self.under.ones, self.under.game.items[at].value
        places = self._place[at : at + 1]
        places = places[places >= 0]
        some = np.repeat((law.some * ones)[None], places.size, axis=0)
        return Tried(places, some, value * (law.mean * ones), value**2 * law.var * ones)

    def repeated(self, law: AnyLaw, once: Tried) -> Tried:
        """A compound sum; the chance of any through the law of how often."""
        if law.is_one:
            return once
        hit = law.any_of(once.hit.T).T if law.varies or not law.is_short else law.any_of(once.hit)
        return Tried(once.places, np.ascontiguousarray(hit), *_compound(law, once))

    def rolled(self, law: AnyLaw, once: Tried) -> Tried:
        """The same for what nobody else holds, in its own place: fresh pages cost more than the sums."""
        if law.is_one:
            return once
        if law.varies or not law.is_short:
            return self.repeated(law, once)
        law.any_in_place(once.hit)
        return Tried(once.places, once.hit, *_compound(law, once))

    def of_outcome(self, outcome: Outcome) -> Tried:
        places, here = self.counted(outcome)
        hit = np.ascontiguousarray(outcome.hit[:, here].T)
        return Tried(places, hit, outcome.value_mean, outcome.value_var)

    def counted(self, outcome: Outcome) -> tuple[IntArray, IntArray]:
        """Of what counts: its places, and where an outcome of all has them."""
        places = outcome.columns - self._first
        here = np.flatnonzero((places >= 0) & (places < self._count))
        here = here[self._has[places[here]]]
        return places[here], here


class DepthOdds:
    """The fresh odds at many depths of all that a game holds; tables are worked out once for all that
    roll them. Of items; or of tiers: then every item stands for its tier; or of some items only: the
    fewer, the cheaper."""

    def __init__(
        self, under: Conditions, by_tier: bool = False, only: IntArray | Sequence[int] | None = None
    ) -> None:
        self.under = under
        items = len(under.game.items)
        # Among which things each item counts; -1 for none.
        self._place: IntArray = under.catalogue.item_groups if by_tier else np.arange(items)
        self._count = under.catalogue.groups if by_tier else items
        if only is not None:
            every, self._place = self._place, np.full(items, -1)
            self._place[only] = every[only]
        # What results rest on besides the view: which things are counted.
        key = ("try", by_tier, None if only is None else self._place.tobytes())
        self._tries = _Tries(under, self._place, self._count, by_tier, key)
        self._depths = int(under.depths.size)

    def of(self, view: View) -> Lean:
        """The next event of a source, or execution of a table, for a fresh player."""
        if rests_on_state(self.under, view):
            return self._depth_by_depth(view)
        once = self._tries.of(view)
        mean = expected(self.under, most_rolls(self.under, view), view, self._place, self._count)
        return Lean(once.places, once.hit, mean[once.places], once.value_mean, once.value_var)

    def tried(self, view: View, where: BoolArray | None = None) -> Tried:
        """The same without how many, for less. `where` are the depths that are asked, (d,): where they are
        worked out one by one the others have no figures."""
        if rests_on_state(self.under, view):
            lean = self._depth_by_depth(view, where)
            return Tried(lean.places, lean.hit, lean.value_mean, lean.value_var)
        return self._tries.of(view)

    def means(self, view: View, where: BoolArray | None = None) -> FloatArray:
        """How many of each item (or tier) such an event gives, shape (items, d); by itself it is far
        cheaper than all odds. `where` as in `tried`."""
        if not rests_on_state(self.under, view):
            return expected(self.under, most_rolls(self.under, view), view, self._place, self._count)
        found = np.zeros((self._count, self._depths))
        lean = self._depth_by_depth(view, where)
        found[lean.places] = lean.mean
        return found

    # --- where what a player carries matters within one event ------------------------------------------

    def _depth_by_depth(self, view: View, where: BoolArray | None = None) -> Lean:
        """Each depth by itself, but depths at which every chance is the same only once."""
        outcomes, which = outcomes_apart(self.under, view, where)
        parts = [self._tries.of_outcome(outcome) for outcome in outcomes]
        places, rows, hit = self._tries.room(parts)
        mean = np.zeros_like(hit)
        for number, (part, outcome) in enumerate(zip(parts, outcomes, strict=True)):
            here = np.ix_(rows[part.places], which == number)
            hit[here] = part.hit
            mean[here] = outcome.mean[:, self._tries.counted(outcome)[1]].T
        # Behind them one for where nothing is asked.
        means = np.array([*(outcome.value_mean[0] for outcome in outcomes), np.nan])
        spreads = np.array([*(outcome.value_var[0] for outcome in outcomes), np.nan])
        return Lean(places, hit, mean, means[which], spreads[which])


def _compound(law: AnyLaw, once: Tried) -> tuple[FloatArray, FloatArray]:
    """Mean and variance of the value of a compound sum."""
    return law.mean * once.value_mean, law.mean * once.value_var + law.var * once.value_mean**2


def odds_of_view(under: Conditions, view: View) -> Lean:
    """The fresh odds of one view: as `DepthOdds` gives them, but of items that it cannot tell apart only
    the first is worked out."""
    first = first_twins(under, most_rolls(under, view))
    lean = DepthOdds(under, only=np.unique(first)).of(view)
    row = np.full(first.size, -1)
    row[lean.places] = np.arange(lean.places.size)
    places = np.flatnonzero(row[first] >= 0)
    rows = row[first[places]]
    return Lean(places, lean.hit[rows], lean.mean[rows], lean.value_mean, lean.value_var)


def depth_odds(game: Game, view: View, depths: Iterable[int], flags: Iterable[str] = ()) -> Lean:
    """The fresh odds of one view at these depths, all worked out together."""
    return odds_of_view(Conditions(game, depths, flags), view)
