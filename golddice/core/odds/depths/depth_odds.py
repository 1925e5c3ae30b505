"""Fresh odds at many depths at once: chances of every item, how many, and the value of an event.

`Evaluator` carries every moment of everything; a sheet over a hundred depths wants less, and faster.
Here each table is worked out once for all depths and for all that roll it, in compiled loops over
items x depths.

What a player carries seldom matters within one event. Where it cannot, the fresh chances stand; where
it can (a guarded table rolled twice), those drops are worked out depth by depth, alike depths once.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import partial

import numpy as np

from golddice.core.arrays import BoolArray, FloatArray, IntArray
from golddice.core.game.models import Game, ItemNamed, Pool, Source, Table, Yield
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
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.odds.event.outcome import Outcome
from golddice.core.odds.event.rules import roll_chances
from golddice.core.results import RESULTS, cache_key
from golddice.core.stopping import go_on
from golddice.core.terms.catalogue import PoolKey, pool_key
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.law import AnyLaw
from golddice.core.terms.lines import PlainLines, no_plain_lines, plain_lines
from golddice.core.terms.resting import is_distinct, rests_on_state
from golddice.core.terms.size import missing, most_rolls, part_of, view_key

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
        self._kept = np.zeros(self._count, dtype=bool)
        self._kept[self._place[self._place >= 0]] = True
        self._first = items if by_tier else 0  # among the columns of an outcome tiers stand behind the items
        self._depths = int(under.depths.size)
        self._evaluator = Evaluator(under, detail=False)
        self._found: dict[View, Tried] = {}
        self._pools: dict[PoolKey, Tried] = {}
        # What results rest on besides the view: which things are counted.
        counted = None if only is None else self._place.tobytes()
        self._counts = cache_key((), ("try", by_tier, counted))

    def of(self, view: View) -> Lean:
        """The next event of a source, or execution of a table, for a fresh player."""
        if rests_on_state(self.under, view):
            return self._depth_by_depth(view)
        once = self._once(view)
        mean = expected(self.under, most_rolls(self.under, view), view, self._place, self._count)
        return Lean(once.places, once.hit, mean[once.places], once.value_mean, once.value_var)

    def tried(self, view: View, where: BoolArray | None = None) -> Tried:
        """The same without how many, for less. `where` are the depths that are asked, (d,): where they are
        worked out one by one the others have no figures."""
        if rests_on_state(self.under, view):
            lean = self._depth_by_depth(view, where)
            return Tried(lean.places, lean.hit, lean.value_mean, lean.value_var)
        return self._once(view)

    def means(self, view: View, where: BoolArray | None = None) -> FloatArray:
        """How many of each item (or tier) such an event gives, shape (items, d); by itself it is far
        cheaper than all odds. `where` as in `tried`."""
        if not rests_on_state(self.under, view):
            return expected(self.under, most_rolls(self.under, view), view, self._place, self._count)
        found = np.zeros((self._count, self._depths))
        lean = self._depth_by_depth(view, where)
        found[lean.places] = lean.mean
        return found

    # --- from the bottom up --------------------------------------------------------------------------

    def _once(self, view: View) -> Tried:
        """One event or execution, after all that it leads to."""
        for one in missing(self.under, view, self._found):
            go_on()
            key = (self._counts, view_key(self.under, one))
            self._found[one] = RESULTS.get(key, partial(self._worked_out, one))
        return self._found[view]

    def _worked_out(self, view: View) -> Tried:
        part = part_of(self.under, view)
        if isinstance(part, Source):
            return self._source(part)
        if is_distinct(self.under, part):
            return self._tried(self._evaluator.table(view.id))
        return self._executed(part)

    def _table(self, name: str) -> Tried:
        return self._once(View("table", name))

    def _source(self, source: Source) -> Tried:
        chances = [self.under.drop_chance(drop) for drop in source.drops]
        given = [self._repeated(self.under.law(drop.times), self._table(drop.table)) for drop in source.drops]
        return self._independent(np.array(chances).reshape(len(given), self._depths), given)

    def _executed(self, table: Table) -> Tried:
        """The plain lines first, all at once, then the others one by one."""
        chances, nothing = roll_chances(table, self.under)
        blank = None if table.rule == "each" else nothing
        plain = plain_lines(table, self.under)
        others = [self._line(table.lines[at].yields) for at in plain.others]
        return self._rolled(self.under.law(table.rolls), self._together(chances, blank, plain, others))

    def _together(
        self, chances: FloatArray, blank: FloatArray | None, plain: PlainLines, others: list[Tried]
    ) -> Tried:
        """One of the parts, or the blank, chances (n, d) and (d,); without a blank each on its own."""
        items_into, part_into = (or_items_into, or_into) if blank is None else (mix_items_into, mix_into)
        places, rows, hit = self._room(others, plain.items)
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
        return self._together(chances, None, no_plain_lines(len(parts)), parts)

    def _room(self, parts: list[Tried], items: IntArray = _NO_ITEMS) -> tuple[IntArray, IntArray, FloatArray]:
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

    def _line(self, yields: list[Yield]) -> Tried:
        """What a line gives when it hits."""
        if len(yields) == 1:
            return self._given(yields[0])
        ones = np.ones((len(yields), self._depths))
        return self._independent(ones, [self._given(given) for given in yields])

    def _given(self, given: Yield) -> Tried:
        law = self.under.law(given.quantity)
        match given.what:
            case ItemNamed(item):
                return self._item(self.under.item_index[item], law)
            case View() as view:
                return self._repeated(law, self._once(view))
            case Pool() as pool:
                return self._repeated(law, self._pool(pool))

    def _pool(self, pool: Pool) -> Tried:
        """One of its items."""
        pooled = pool_key(pool)
        known = self._pools.get(pooled)
        if known is None:
            key = (self._counts, self.under.tiers_key, pooled)
            known = self._pools[pooled] = RESULTS.get(key, lambda: self._one_of(pool))
        return known

    def _one_of(self, pool: Pool) -> Tried:
        members, chances = self.under.pool_items(pool), self.under.pool_chances(pool)
        places, rows, hit = self._room([], members)
        mix_items_into(hit, rows[self._place[members]], chances, np.ones(members.size))
        blank = np.maximum(1.0 - chances.sum(axis=0), 0.0)
        values = self.under.item_values[members]
        flat = (np.arange(members.size), values, np.zeros(members.size))
        worth = worth_of_one(chances, blank, *flat, _NO_ITEMS, *np.zeros((2, 0, self._depths)))
        return Tried(places, np.minimum(hit, 1.0, out=hit), *worth)

    def _item(self, at: int, law: AnyLaw) -> Tried:
        """So many of one item, where it is not a plain line: its figures by depth."""
        ones, value = self.under.ones, self.under.game.items[at].value
        places = self._place[at : at + 1]
        places = places[places >= 0]
        some = np.repeat((law.some * ones)[None], places.size, axis=0)
        return Tried(places, some, value * (law.mean * ones), value**2 * law.var * ones)

    def _repeated(self, law: AnyLaw, once: Tried) -> Tried:
        """A compound sum; the chance of any through the law of how often."""
        if law.is_one:
            return once
        hit = law.any_of(once.hit.T).T if law.varies or not law.is_short else law.any_of(once.hit)
        return Tried(once.places, np.ascontiguousarray(hit), *_compound(law, once))

    def _rolled(self, law: AnyLaw, once: Tried) -> Tried:
        """The same for what nobody else holds, in its own place: fresh pages cost more than the sums."""
        if law.is_one:
            return once
        if law.varies or not law.is_short:
            return self._repeated(law, once)
        law.any_in_place(once.hit)
        return Tried(once.places, once.hit, *_compound(law, once))

    def _tried(self, outcome: Outcome) -> Tried:
        places, here = self._counted(outcome)
        hit = np.ascontiguousarray(outcome.hit[:, here].T)
        return Tried(places, hit, outcome.value_mean, outcome.value_var)

    def _counted(self, outcome: Outcome) -> tuple[IntArray, IntArray]:
        """Of what counts: its places, and where an outcome of all has them."""
        places = outcome.columns - self._first
        here = np.flatnonzero((places >= 0) & (places < self._count))
        here = here[self._kept[places[here]]]
        return places[here], here

    # --- where what a player carries matters within one event ------------------------------------------

    def _depth_by_depth(self, view: View, where: BoolArray | None = None) -> Lean:
        """Each depth by itself, but depths at which every chance is the same only once."""
        outcomes, which = outcomes_apart(self.under, view, where)
        parts = [self._tried(outcome) for outcome in outcomes]
        places, rows, hit = self._room(parts)
        mean = np.zeros_like(hit)
        for number, (part, outcome) in enumerate(zip(parts, outcomes, strict=True)):
            here = np.ix_(rows[part.places], which == number)
            hit[here] = part.hit
            mean[here] = outcome.mean[:, self._counted(outcome)[1]].T
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
