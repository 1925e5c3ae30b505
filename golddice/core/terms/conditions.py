"""A game seen under conditions: at these depths, with these flags set.

Everything that depth and flags decide is decided here, once: multipliers, open lines, weights and
chances at depth, the members of pools. The evaluators above only combine.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from typing import Any, TypeVar

import numpy as np
from propcache.api import cached_property

from golddice.core.arrays import BoolArray, FloatArray, IntArray
from golddice.core.errors import QueryError, TooLarge, UnknownThing
from golddice.core.game.finding import found_one
from golddice.core.game.models import (
    BaseLine,
    Drop,
    Game,
    Gated,
    PickTable,
    Pool,
    Source,
    Table,
)
from golddice.core.game.quantity import Quantity
from golddice.core.game.views import View
from golddice.core.results import RESULTS, CacheKey, cache_key
from golddice.core.terms.catalogue import catalogue_of, pool_key
from golddice.core.terms.forms import curve_at, form_of, small_law
from golddice.core.terms.law import AnyLaw, law_of
from golddice.core.terms.rolling import scaled, share_weights

Known = TypeVar("Known")
# Bytes of a table as models, and of each line: as long as a result is kept its table is. A quarter of them,
# since some four results are kept of one.
_PART, _LINE = 500, 750
MOST_CELLS = 10_000_000  # of lines or of a pool's items, times depths


class Conditions:
    """A game at some depths, shape (d,), with a set of flags; or with a set of its own at each. With a
    `tag`, what has it is counted as a group of its own."""

    def __init__(
        self,
        game: Game,
        depths: Iterable[int],
        flags: Iterable[str] = (),
        flags_at: Sequence[frozenset[str]] | None = None,
        tag: str | None = None,
    ) -> None:
        self.game = game
        plain = catalogue_of(game)
        self.catalogue = plain if tag is None else plain.tagged(tag)
        self.depths: IntArray = np.array(list(depths), dtype=np.int64)
        self.flags = frozenset(flags)
        self._flags_at = None if flags_at is None else tuple(flags_at)
        _check_depths(game, self.depths)
        for flag in sorted(self.flags - {flag.id for flag in game.flags}):
            raise UnknownThing("flag", flag)
        self._curves: dict[str, FloatArray] = {}
        self._laws_by_id: dict[
            int, tuple[Quantity, AnyLaw]
        ] = {}  # each holds its quantity, so ids stay its own
        self._bytes: dict[str, bytes] = {}
        # By identity; each entry holds its part, so that no other can come to have the same id.
        self._memory: dict[tuple[str, int], tuple[object, Any]] = {}
        # The most rolls within an event of a source or table; `size` fills it.
        self.executions: dict[View, int] = {}
        self.carried: dict[View, bool] = {}
        # What each rests on with all that it reaches; filled likewise.
        self.keys: dict[View, CacheKey] = {}
        self.rolled: dict[View, dict[View, int]] = {}

    def alone(self, row: int) -> Conditions:
        """The same at one of its depths only."""
        flags = self.flags if self._flags_at is None else self._flags_at[row]
        return Conditions(self.game, [int(self.depths[row])], flags, tag=self.catalogue.tag)

    # --- what things rest on ---------------------------------------------------------------------

    @cached_property
    def terms(self) -> CacheKey:
        """These depths and flags, and what the catalogue tells."""
        return cache_key((self.catalogue,), (self.depths.tobytes(), self.flags, self._flags_at))

    def own_key(self, part: Table | Source | Drop) -> CacheKey:
        """All that what a table, source or drop says itself rests on."""
        return self.once("key", part, lambda: self._own_key(part))

    def _own_key(self, part: Table | Source | Drop) -> CacheKey:
        curves = tuple(self._curve_bytes(name) for name in self._curves_of(part))
        return cache_key((part, self.terms), curves)

    def _curve_bytes(self, name: str) -> bytes:
        if name not in self._bytes:
            self._bytes[name] = self.curve(name).tobytes()
        return self._bytes[name]

    @cached_property
    def tiers_key(self) -> CacheKey:
        """What pools rest on: the terms, and the curves of all tiers."""
        return cache_key((self.terms,), (self._tier_curves.tobytes(),))

    def _curves_of(self, part: Table | Source | Drop) -> Iterable[str]:
        """Every curve that what a table, source or drop itself says rests on, in one order."""
        if isinstance(part, Source):
            return sorted({name for drop in part.drops for name in self._curves_of(drop)})
        if isinstance(part, Drop):
            return sorted({name for name in (part.curve, part.times.curve) if name is not None})
        return self.catalogue.placed(form_of(part)).curves

    def remembered(self, what: str, part: Table | Source, make: Callable[[], Known]) -> Known:
        """What `make` gives for what a table or source says itself, worked out once; also for other games
        in which it says the same."""
        key = (what, id(part))
        found = self._memory.get(key)
        if found is None:
            lines = len(part.drops if isinstance(part, Source) else part.lines)
            made = RESULTS.get((what, self.own_key(part)), make, _PART + _LINE * lines)
            found = self._memory[key] = (part, made)
        result: Known = found[1]
        return result

    def once(self, what: str, part: object, make: Callable[[], Known]) -> Known:
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
            found = found_one(self.game.curves, name)
            if found is None:
                raise UnknownThing("curve", name)
            scale = (self.game.depth.from_, self.game.depth.to)
            self._curves[name] = curve_at(found, scale, self.depths)
        return self._curves[name]

    def law(self, quantity: Quantity) -> AnyLaw:
        """The distribution of a quantity, at each depth where a curve scales it."""
        known = self._laws_by_id.get(id(quantity))
        if known is not None:
            return known[1]
        law = small_law(quantity)
        law = self._law(quantity) if law is None else law
        self._laws_by_id[id(quantity)] = (quantity, law)
        return law

    def _law(self, quantity: Quantity) -> AnyLaw:
        factor = None if quantity.curve is None else self.curve(quantity.curve)
        same = (quantity.min, quantity.max, quantity.step, quantity.dice)
        key = ("law", *same, None if factor is None else factor.tobytes())
        return RESULTS.get(key, lambda: law_of(quantity, factor))

    # --- lines and drops ---------------------------------------------------------------------

    def line_multiplier(self, line: BaseLine) -> FloatArray:
        """lineCurve(d) * tierCurve(d), shape (d,)."""
        return self.curve(line.curve) * self.curve(self._tier_curve[self.catalogue.line_tier(line)])

    @cached_property
    def _tier_curve(self) -> dict[str | None, str | None]:
        return {None: None, **{tier.id: tier.curve for tier in self.game.tiers}}

    def line_open(self, line: BaseLine, scaled: bool = True) -> BoolArray:
        """Where a line is open, its limit aside. Shape (d,). A deck is not scaled by curves."""
        what = "open" if scaled else "open unscaled"
        return self.once(what, line, lambda: self._line_open(line, scaled))

    def _line_open(self, line: BaseLine, scaled: bool) -> BoolArray:
        gate = self.gate_open(line)
        return np.asarray(gate & (self.line_multiplier(line) != 0.0)) if scaled else gate

    def gate_open(self, part: Gated) -> BoolArray:
        """Where depths and flags let a line or drop take part. Shape (d,)."""
        if part.depths is None and not part.needs and not part.unless:
            return self._everywhere
        held = self._held(part)
        if part.depths is None:
            return held
        low, high = part.depths
        return np.asarray((self.depths >= low) & (self.depths <= high) & held)

    def _held(self, part: Gated) -> BoolArray:
        """Where the flags that are set let a line or drop take part."""
        sets = (self.flags,) if self._flags_at is None else self._flags_at
        held = [set(part.needs) <= flags and not set(part.unless) & flags for flags in sets]
        return np.array(held * self.depths.size if self._flags_at is None else held, dtype=bool)

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
        self.check_cells(len(table.lines), f"the lines of “{table.id}”")
        curves = np.array([self.curve(name) for name in form.curves]).reshape(-1, self.depths.size)
        result = scaled(
            entered, curves, form.curve, self._tier_curves, self.catalogue.placed(form).line_tiers
        )
        for at in form.gated:
            result[at] *= self.gate_open(table.lines[at])
        return np.asarray(result)

    @cached_property
    def _tier_curves(self) -> FloatArray:
        """The curve of each tier, and last that of none, shape (tiers + 1, d)."""
        return np.array([*(self.curve(tier.curve) for tier in self.game.tiers), self.ones])

    def plain_items(self, table: Table) -> IntArray:
        """Index of the item of each of a table's plain lines."""
        return self.catalogue.placed(form_of(table)).items

    def nothing(self, table: PickTable) -> FloatArray:
        """The weight of nothing at each depth, shape (d,)."""
        return table.nothing * self.curve(table.nothing_curve)

    # --- pools -------------------------------------------------------------------------------

    def pool_items(self, pool: Pool) -> IntArray:
        """Indices of the items that a pool can give, in file order."""
        return self.catalogue.pool_items(pool)

    def pool_chances(self, pool: Pool) -> FloatArray:
        """Chance of each of `pool_items`, shape (n, d); all 0 where nothing has weight."""
        return RESULTS.get(("pool", self.tiers_key, pool_key(pool)), lambda: self._pool_chances(pool))

    def _pool_chances(self, pool: Pool) -> FloatArray:
        members = self.pool_items(pool)
        self.check_cells(members.size, "the items of a pool")
        abundances, tiers = self.catalogue.abundances[members], self.item_tiers[members]
        weights = scaled(abundances, self.ones[None], np.zeros_like(members), self._tier_curves, tiers)
        return np.asarray(share_weights(weights, np.zeros(self.depths.size))[0])

    def check_cells(self, count: int, what: str) -> None:
        """Raise TooLarge where so many things at all depths are more than an array may hold."""
        if count * self.depths.size > MOST_CELLS:
            raise TooLarge(
                f"{what} ({count:,}) at {self.depths.size:,} depths are more than {MOST_CELLS:,} together"
            )


def _check_depths(game: Game, depths: IntArray) -> None:
    low, high = game.depth.from_, game.depth.to
    for depth in depths:
        if not low <= depth <= high:
            raise QueryError(f"depth {depth} is outside the game's depths {low} to {high}")
