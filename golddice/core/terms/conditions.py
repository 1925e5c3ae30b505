"""A game seen under conditions: at these depths, with these flags set.

Everything that depth and flags decide is decided here, once: multipliers, open lines, weights and
chances at depth, the members of pools. The evaluators above only combine.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from functools import cached_property
from typing import Any, TypeVar

import numpy as np

from golddice.core.arrays import BoolArray, FloatArray, IntArray
from golddice.core.errors import QueryError, UnknownThing
from golddice.core.game.curves import multiplier
from golddice.core.game.models import (
    BaseLine,
    Drop,
    Game,
    Gated,
    PickTable,
    Pool,
    Source,
    Table,
    Tier,
    Yield,
)
from golddice.core.game.quantity import Quantity
from golddice.core.odds.terms.catalogue import PoolKey, catalogue_of, pool_key
from golddice.core.odds.terms.forms import form_of
from golddice.core.odds.terms.law import Law, law_of
from golddice.core.odds.terms.rolling import scaled, share_weights

Known = TypeVar("Known")
_SPARE = 20_000  # parts of drafts that are remembered beside those of the game itself


class Conditions:
    """A game at some depths, shape (d,), with a set of flags."""

    def __init__(self, game: Game, depths: Iterable[int], flags: Iterable[str] = ()) -> None:
        self.game = game
        self.catalogue = catalogue_of(game)
        self.depths: IntArray = np.array(list(depths), dtype=np.int64)
        self.flags = frozenset(flags)
        _check_depths(game, self.depths)
        for flag in sorted(self.flags - {flag.id for flag in game.flags}):
            raise UnknownThing("flag", flag)
        self._curves: dict[str, FloatArray] = {}
        self._laws: dict[tuple[int | str | None, ...], Law] = {}
        self._laws_by_id: dict[int, tuple[Quantity, Law]] = {}  # each holds its quantity, so ids stay its own
        # By identity; each entry holds its part, so that no other can come to have the same id.
        self._memory: dict[tuple[str, int], tuple[object, Any]] = {}
        self._remembered_first = 0  # how much of it was there when it was first taken over
        # The most rolls within an event of a source or table, by (kind, id); `size` fills it.
        self.executions: dict[tuple[str, str], int] = {}
        self._pool_chances: dict[PoolKey, FloatArray] = {}

    def take_over(self, before: Conditions, turned: frozenset[str]) -> None:
        """Go on with what was worked out before an edit.

        Only for the same depths, flags, items and tiers: what is remembered of a line or table rests
        on these, on itself and on curves. `turned` are the curves that are not what they were.
        """
        if turned:
            self._curves = {name: at for name, at in before._curves.items() if name not in turned}
            if not turned & {tier.curve for tier in self.game.tiers}:
                self._pool_chances = before._pool_chances
            return
        self._curves, self._laws, self._pool_chances = before._curves, before._laws, before._pool_chances
        # Of every draft something is remembered, so in a long drag it has to be forgotten now and then.
        first = before._remembered_first or len(before._memory)
        if len(before._memory) < 2 * first + _SPARE:
            self._memory, self._remembered_first = before._memory, first

    def turned_since(self, before: Conditions) -> frozenset[str]:
        """The curves that are something else at these depths than they were before an edit."""
        old = {curve.id: curve for curve in before.game.curves}
        new = {curve.id: curve for curve in self.game.curves}
        return frozenset(
            name
            for name in old.keys() | new.keys()
            if old.get(name) is not new.get(name)
            and (name not in old or name not in new or not self._same_curve(before, name))
        )

    def _same_curve(self, before: Conditions, name: str) -> bool:
        return bool(np.array_equal(before.curve(name), self.curve(name)))

    def curves_of(self, part: Table | Source | Drop) -> frozenset[str]:
        """Every curve that what a table, source or drop itself says rests on."""
        return self.remembered("curves", part, lambda: frozenset(self._curves_of(part)))

    def _curves_of(self, part: Table | Source | Drop) -> Iterator[str]:
        found: list[str | None] = []
        if isinstance(part, Source):
            for drop in part.drops:
                yield from self.curves_of(drop)
        elif isinstance(part, Drop):
            found = [part.curve, part.times.curve]
        else:
            found = [part.rolls.curve, part.nothing_curve if part.rule == "pick" else None]
            for line in part.lines:
                found += [line.curve, *(given.quantity.curve for given in line.yields)]
                found += [tier.curve for given in line.yields for tier in self._tiers_of(given)]
        yield from (name for name in found if name is not None)

    def _tiers_of(self, given: Yield) -> list[Tier]:
        """The tiers that a yield's item, or any item of its pool, can be of."""
        if given.item is not None:
            names = {self.catalogue.tier_of[given.item]}
        elif given.pool is not None:
            names = set(given.pool.tiers) or set(self.tier_index)
        else:
            names = set()
        return [self.game.tiers[self.tier_index[name]] for name in names]

    def remembered(self, what: str, part: object, make: Callable[[], Known]) -> Known:
        """What `make` gives for a part of the game, worked out once."""
        key = (what, id(part))
        found = self._memory.get(key)
        if found is None:
            found = self._memory[key] = (part, make())
        result: Known = found[1]
        return result

    @cached_property
    def ones(self) -> FloatArray:
        return np.ones(self.depths.size)

    @cached_property
    def _everywhere(self) -> BoolArray:
        return np.ones(self.depths.size, dtype=bool)

    @property
    def item_index(self) -> dict[str, int]:
        return self.catalogue.item_index

    @property
    def tier_index(self) -> dict[str, int]:
        return self.catalogue.tier_index

    @property
    def item_tiers(self) -> IntArray:
        """Index of each item's tier, shape (items,)."""
        return self.catalogue.item_tiers

    @property
    def item_values(self) -> FloatArray:
        return self.catalogue.item_values

    @cached_property
    def tables(self) -> dict[str, Table]:
        return {table.id: table for table in self.game.tables}

    @cached_property
    def sources(self) -> dict[str, Source]:
        return {source.id: source for source in self.game.sources}

    def table(self, name: str) -> Table:
        if name not in self.tables:
            raise UnknownThing("table", name)
        return self.tables[name]

    def source(self, name: str) -> Source:
        if name not in self.sources:
            raise UnknownThing("source", name)
        return self.sources[name]

    def curve(self, name: str | None) -> FloatArray:
        """The named curve at each depth; no curve is 1 everywhere. Shape (d,)."""
        if name is None:
            return self.ones
        if name not in self._curves:
            found = next((curve for curve in self.game.curves if curve.id == name), None)
            if found is None:
                raise UnknownThing("curve", name)
            self._curves[name] = multiplier(found, self.depths)
        return self._curves[name]

    def law(self, quantity: Quantity) -> Law:
        """The distribution of a quantity, at each depth where a curve scales it."""
        known = self._laws_by_id.get(id(quantity))
        if known is not None:
            return known[1]
        law = self._law(quantity)
        self._laws_by_id[id(quantity)] = (quantity, law)
        return law

    def _law(self, quantity: Quantity) -> Law:
        key = (quantity.min, quantity.max, quantity.step, quantity.dice, quantity.curve)
        found = self._laws.get(key)
        if found is None:
            factor = None if quantity.curve is None else self.curve(quantity.curve)
            found = self._laws[key] = law_of(quantity, factor)
        return found

    # --- lines and drops ---------------------------------------------------------------------

    def line_tier(self, line: BaseLine) -> str | None:
        """The one definite tier that all of a line's item and pool yields share, if they do."""
        if len(line.yields) == 1 and line.yields[0].item is not None:  # most lines, and quickest
            return self.catalogue.tier_of[line.yields[0].item]
        tiers: set[str | None] = set()
        for given in line.yields:
            if given.item is not None:
                tiers.add(self.catalogue.tier_of[given.item])
            elif given.pool is not None:
                tiers.add(given.pool.tiers[0] if len(set(given.pool.tiers)) == 1 else None)
        return tiers.pop() if len(tiers) == 1 else None

    def line_multiplier(self, line: BaseLine) -> FloatArray:
        """lineCurve(d) * tierCurve(d), shape (d,)."""
        return self.curve(line.curve) * self.curve(self._tier_curve[self.line_tier(line)])

    @cached_property
    def _tier_curve(self) -> dict[str | None, str | None]:
        return {None: None, **{tier.id: tier.curve for tier in self.game.tiers}}

    def line_open(self, line: BaseLine, scaled: bool = True) -> BoolArray:
        """Where a line is open, its limit aside. Shape (d,). A deck is not scaled by curves."""
        what = "open" if scaled else "open unscaled"
        return self.remembered(what, line, lambda: self._line_open(line, scaled))

    def _line_open(self, line: BaseLine, scaled: bool) -> BoolArray:
        gate = self.gate_open(line)
        return np.asarray(gate & (self.line_multiplier(line) != 0.0)) if scaled else gate

    def gate_open(self, part: Gated) -> BoolArray:
        """Where depths and flags let a line or drop take part. Shape (d,)."""
        if part.depths is None and not part.needs and not part.unless:
            return self._everywhere
        held = set(part.needs) <= self.flags and not set(part.unless) & self.flags
        if part.depths is None:
            return np.full(self.depths.size, held)
        low, high = part.depths
        return np.asarray((self.depths >= low) & (self.depths <= high) & held)

    def drop_open(self, drop: Drop) -> BoolArray:
        return np.asarray(self.gate_open(drop) & (self.curve(drop.curve) != 0.0))

    def drop_chance(self, drop: Drop) -> FloatArray:
        """min(1, chance * dropCurve(d)), 0 where closed. Shape (d,)."""
        return np.where(self.drop_open(drop), np.minimum(1.0, drop.chance * self.curve(drop.curve)), 0.0)

    def weights(self, table: Table) -> FloatArray:
        """Weight at depth of each line of a pick or retry table, 0 where closed. Shape (n, d)."""
        return self.remembered("weights", table, lambda: self._weights(table))

    def _weights(self, table: Table) -> FloatArray:
        form = form_of(table)
        if table.rule == "pick":
            return self._scaled(table, form.weights)
        return np.asarray(form.weights[:, None] * (self._scaled(table, form.ones) != 0.0))

    def chances(self, table: Table) -> FloatArray:
        """min(1, chance * multiplier) of each line of a chance rule. Shape (n, d)."""
        return self.remembered("chances", table, lambda: self._chances(table))

    def _chances(self, table: Table) -> FloatArray:
        return np.minimum(1.0, self._scaled(table, form_of(table).chances))

    def _scaled(self, table: Table, entered: FloatArray) -> FloatArray:
        """Of each line what was entered times its multiplier, 0 where the line is closed. Shape (n, d)."""
        form = form_of(table)
        curves = np.array([self.curve(name) for name in form.curves]).reshape(-1, self.depths.size)
        result = scaled(entered, curves, form.curve, self._tier_curves, self._line_tiers(table))
        for at in form.gated:
            result[at] *= self.gate_open(table.lines[at])
        return np.asarray(result)

    @cached_property
    def _tier_curves(self) -> FloatArray:
        """The curve of each tier, and last that of none, shape (tiers + 1, d)."""
        return np.array([*(self.curve(tier.curve) for tier in self.game.tiers), self.ones])

    def _line_tiers(self, table: Table) -> IntArray:
        """Index of each line's one definite tier, -1 where it has none."""
        form = form_of(table)
        tiers = np.full(len(table.lines), -1, dtype=np.int64)
        tiers[form.plain] = self.item_tiers[self.plain_items(table)]
        for at in form.tiered:
            tier = self.line_tier(table.lines[at])
            tiers[at] = -1 if tier is None else self.tier_index[tier]
        return tiers

    def plain_items(self, table: Table) -> IntArray:
        """Index of the item of each of a table's plain lines."""
        index = self.item_index
        return self.remembered(
            "items", table, lambda: np.array([index[name] for name in form_of(table).named], dtype=np.int64)
        )

    def nothing(self, table: PickTable) -> FloatArray:
        """The weight of nothing at each depth, shape (d,)."""
        return table.nothing * self.curve(table.nothing_curve)

    # --- pools -------------------------------------------------------------------------------

    def pool_items(self, pool: Pool) -> IntArray:
        """Indices of the items that a pool can give, in file order."""
        return self.catalogue.pool_items(pool)

    def pool_chances(self, pool: Pool) -> FloatArray:
        """Chance of each of `pool_items`, shape (n, d); all 0 where nothing has weight."""
        key = pool_key(pool)
        if key not in self._pool_chances:
            members = self.pool_items(pool)
            abundances, tiers = self.catalogue.abundances[members], self.item_tiers[members]
            weights = scaled(abundances, self.ones[None], np.zeros_like(members), self._tier_curves, tiers)
            self._pool_chances[key] = share_weights(weights, np.zeros(self.depths.size))[0]
        return self._pool_chances[key]


def _check_depths(game: Game, depths: IntArray) -> None:
    low, high = game.depth.from_, game.depth.to
    for depth in depths:
        if not low <= depth <= high:
            raise QueryError(f"depth {depth} is outside the game's depths {low} to {high}")
