"""Fresh odds at many depths at once: chances of every item, how many, and the value of an event.

`Evaluator` carries every moment of everything; a sheet over a hundred depths wants less, and faster.
Here each table is worked out once for all depths and for all that roll it, in compiled loops over
items x depths.

What a player carries seldom matters within one event. Where it cannot, the fresh chances stand; where
it can (a guarded table rolled twice), those drops are worked out depth by depth, alike depths once.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from golddice.core.arrays import FloatArray, IntArray
from golddice.core.game.models import Game, Pool, Source, Table, Yield
from golddice.core.odds.apart import outcomes_apart
from golddice.core.odds.conditions import Conditions
from golddice.core.odds.evaluator import Evaluator
from golddice.core.odds.law import Law
from golddice.core.odds.lines import PlainLines, no_plain_lines, plain_lines
from golddice.core.odds.mixing import mix_into, mix_items_into, or_into, or_items_into
from golddice.core.odds.outcome import Outcome
from golddice.core.odds.resting import Rolled, is_distinct, rests_on_state
from golddice.core.odds.rules import roll_chances
from golddice.core.odds.size import most_rolls

PoolKey = tuple[tuple[str, ...], tuple[str, ...]]
_NO_ITEMS: IntArray = np.zeros(0, dtype=np.int64)


@dataclass
class Lean:
    """One try at d depths.

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


class DepthOdds:
    """The fresh odds at many depths of all that a game holds; tables are worked out once for all that
    roll them. Of items, or of tiers: then every item stands for its tier."""

    def __init__(self, under: Conditions, by_tier: bool = False) -> None:
        self.under, self._by_tier = under, by_tier
        items = len(under.game.items)
        self._count = len(under.game.tiers) if by_tier else items
        self._place = under.item_tiers if by_tier else np.arange(items)
        self._depths = int(under.depths.size)
        self._evaluator = Evaluator(under, detail=False)
        self._tables: dict[str, Lean] = {}
        self._pools: dict[PoolKey, Lean] = {}

    def of(self, kind: str, name: str) -> Lean:
        """The next event of a source, or execution of a table, for a fresh player."""
        rolls = most_rolls(self.under, kind, name)
        if rests_on_state(self.under, rolls):
            return self._depth_by_depth(kind, name, rolls)
        return self._source(self.under.source(name)) if kind == "source" else self._table(name)

    # --- from the bottom up --------------------------------------------------------------------------

    def _table(self, name: str) -> Lean:
        if name not in self._tables:
            table = self.under.table(name)
            if is_distinct(self.under, table):
                self._tables[name] = self._lean(self._evaluator.executed(table))
            else:
                self._tables[name] = self._executed(table)
        return self._tables[name]

    def _source(self, source: Source) -> Lean:
        chances = [self.under.drop_chance(drop) for drop in source.drops]
        given = [self._repeated(self.under.law(drop.times), self._table(drop.table)) for drop in source.drops]
        return self._independent(np.array(chances).reshape(len(given), self._depths), given)

    def _executed(self, table: Table) -> Lean:
        """The plain lines first, all at once, then the others one by one."""
        chances, nothing = roll_chances(table, self.under)
        blank = None if table.rule == "each" else nothing
        plain = plain_lines(table, self.under)
        others = [self._line(table.lines[at].yields) for at in plain.others]
        return self._rolled(self.under.law(table.rolls), self._together(chances, blank, plain, others))

    def _together(
        self, chances: FloatArray, blank: FloatArray | None, plain: PlainLines, others: list[Lean]
    ) -> Lean:
        """One of the parts, or the blank, chances (n, d) and (d,); without a blank each on its own."""
        items_into, part_into = (or_items_into, or_into) if blank is None else (mix_items_into, mix_into)
        places, rows, hit, mean = self._room(others, plain.items)
        items_into(hit, mean, rows[self._place[plain.items]], chances[plain.at], plain.some, plain.mean)
        for at, part in zip(plain.others, others, strict=True):
            part_into(hit, mean, rows[part.places], chances[at], part.hit, part.mean)
        chances = chances[plain.order]
        means, spreads = self._worths(others, plain)
        value_mean = (chances * means).sum(axis=0)
        if blank is None:
            spreads = spreads + (1.0 - chances) * means**2
        else:
            spreads = spreads + (means - value_mean) ** 2
        value_var = (chances * spreads).sum(axis=0) + (0.0 if blank is None else blank * value_mean**2)
        return Lean(places, hit, mean, value_mean, value_var)

    def _independent(self, chances: FloatArray, parts: list[Lean]) -> Lean:
        """Each part with its own chance, shape (n, d)."""
        return self._together(chances, None, no_plain_lines(len(parts)), parts)

    def _room(
        self, parts: list[Lean], items: IntArray = _NO_ITEMS
    ) -> tuple[IntArray, IntArray, FloatArray, FloatArray]:
        """All places of some parts and items, rising; the row of each place; zeros to add to."""
        reached = np.zeros(self._count, dtype=bool)
        reached[self._place[items]] = True
        for part in parts:
            reached[part.places] = True
        places = np.flatnonzero(reached)
        rows = np.cumsum(reached) - 1
        return places, rows, np.zeros((places.size, self._depths)), np.zeros((places.size, self._depths))

    def _worths(self, others: list[Lean], plain: PlainLines) -> tuple[FloatArray, FloatArray]:
        """Mean and variance of the value of each plain line, then of each other part, shape (n, d)."""
        values = self.under.item_values[plain.items]
        shape = (len(others), self._depths)
        means = np.array([part.value_mean for part in others]).reshape(shape)
        spreads = np.array([part.value_var for part in others]).reshape(shape)
        flat = (values * plain.mean, values**2 * plain.var)
        wide = (np.repeat(part[:, None], self._depths, axis=1) for part in flat)
        return np.vstack([next(wide), means]), np.vstack([next(wide), spreads])

    def _line(self, yields: list[Yield]) -> Lean:
        """What a line gives when it hits."""
        if len(yields) == 1:
            return self._given(yields[0])
        ones = np.ones((len(yields), self._depths))
        return self._independent(ones, [self._given(given) for given in yields])

    def _given(self, given: Yield) -> Lean:
        law = self.under.law(given.quantity)
        if given.item is not None:
            return self._item(self.under.item_index[given.item], law)
        if given.table is not None:
            return self._repeated(law, self._table(given.table))
        if given.source is not None:
            return self._repeated(law, self._source(self.under.source(given.source)))
        assert given.pool is not None
        return self._repeated(law, self._pool(given.pool))

    def _pool(self, pool: Pool) -> Lean:
        """One of its items."""
        key = (tuple(pool.tiers), tuple(pool.tags))
        if key not in self._pools:
            members, chances = self.under.pool_items(pool), self.under.pool_chances(pool)
            places, rows, hit, mean = self._room([], members)
            ones = np.ones(members.size)
            mix_items_into(hit, mean, rows[self._place[members]], chances, ones, ones)
            values = self.under.item_values[members]
            worth = values @ chances
            off = values[:, None] - worth
            blank = np.maximum(1.0 - chances.sum(axis=0), 0.0)
            value_var = (chances * off * off).sum(axis=0) + blank * worth**2
            self._pools[key] = Lean(places, np.minimum(hit, 1.0), mean, worth, value_var)
        return self._pools[key]

    def _item(self, at: int, law: Law) -> Lean:
        """So many of one item, where it is not a plain line: its figures by depth."""
        ones, value = self.under.ones, self.under.game.items[at].value
        some, mean = (part[None] * ones for part in (law.some, law.mean))
        return Lean(self._place[at : at + 1], some, mean, value * mean[0], value**2 * law.var * ones)

    def _repeated(self, law: Law, once: Lean) -> Lean:
        """A compound sum; the chance of any through the law of how often."""
        if law.is_one:
            return once
        n, spread = law.mean, law.var
        value_var = n * once.value_var + spread * once.value_mean**2
        hit = law.any_of(once.hit) if law.is_short else law.any_of(once.hit.T).T
        return Lean(once.places, np.ascontiguousarray(hit), n * once.mean, n * once.value_mean, value_var)

    def _rolled(self, law: Law, once: Lean) -> Lean:
        """The same for what nobody else holds, in its own place: fresh pages cost more than the sums."""
        if law.is_one:
            return once
        if not law.is_short:
            return self._repeated(law, once)
        law.any_in_place(once.hit)
        np.multiply(once.mean, law.mean, out=once.mean)
        value_var = law.mean * once.value_var + law.var * once.value_mean**2
        return Lean(once.places, once.hit, once.mean, law.mean * once.value_mean, value_var)

    def _lean(self, outcome: Outcome) -> Lean:
        first = len(self.under.game.items) if self._by_tier else 0  # tiers stand behind the items
        places = outcome.columns - first
        here = (places >= 0) & (places < self._count)
        hit, mean = (np.ascontiguousarray(part[:, here].T) for part in (outcome.hit, outcome.mean))
        return Lean(places[here], hit, mean, outcome.value_mean, outcome.value_var)

    # --- where what a player carries matters within one event ------------------------------------------

    def _depth_by_depth(self, kind: str, name: str, rolls: Rolled) -> Lean:
        """Each depth by itself, but depths at which every chance is the same only once."""
        outcomes, which = outcomes_apart(self.under, kind, name, rolls)
        leans = [self._lean(outcome) for outcome in outcomes]
        found = [leans[number] for number in which]
        places, rows, hit, mean = self._room(found)
        for at, lean in enumerate(found):
            hit[rows[lean.places], at] = lean.hit[:, 0]
            mean[rows[lean.places], at] = lean.mean[:, 0]
        value_mean = np.array([lean.value_mean[0] for lean in found])
        return Lean(places, hit, mean, value_mean, np.array([lean.value_var[0] for lean in found]))


def depth_odds(game: Game, kind: str, name: str, depths: Iterable[int], flags: Iterable[str] = ()) -> Lean:
    """The fresh odds of one view at these depths, all worked out together."""
    return DepthOdds(Conditions(game, depths, flags)).of(kind, name)
