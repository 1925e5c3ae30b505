"""What an event gives, noted on a tape: the chance of any of some things, how many, and how worth spreads,
for a fresh player whose event does not rest on what is carried.

The closed forms are those of `domain.md`, section 4, written once more: the odds say what is so, these in
which direction they move. Where a table is not of these forms (distinct picks, decks, what rests on state)
there is nothing to note, and whoever asks takes differences.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable
from dataclasses import dataclass, field
from typing import Any, TypeVar

import numpy as np
from propcache.api import cached_property

from golddice.core.arrays import FloatArray, IntArray
from golddice.core.game.models import BaseLine, ItemNamed, Pool, Source, Table, Yield
from golddice.core.game.quantity import Quantity
from golddice.core.game.views import View
from golddice.core.terms.catalogue import pool_key
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.law import AnyLaw
from golddice.core.terms.lines import PlainLines, plain_lines
from golddice.core.terms.resting import is_distinct, rests_on_state
from golddice.core.terms.size import in_order, part_of
from golddice.core.tuning.tape import Node, Tape

Figured = TypeVar("Figured")  # a node, or a pair of them
_MOST_TERMS = 200_000  # of a quantity's values times depths


class NotNoted(Exception):
    """The event is not of the forms that can be noted."""


@dataclass
class Leaves:
    """Where numbers enter: of each table (weights, chances, nothing), source (drops' chances) and pool."""

    weights: dict[str, Node] = field(default_factory=dict)
    chances: dict[str, Node] = field(default_factory=dict)
    nothing: dict[str, Node] = field(default_factory=dict)
    drops: dict[str, Node] = field(default_factory=dict)
    pools: dict[Hashable, tuple[Pool, Node]] = field(default_factory=dict)

    def all(self) -> list[Node]:
        plain = (self.weights, self.chances, self.nothing, self.drops)
        return [node for kind in plain for node in kind.values()] + [node for _, node in self.pools.values()]

    def of(self, names: set[str]) -> list[Node]:
        """Of tables and sources alone."""
        plain = (self.weights, self.chances, self.nothing, self.drops)
        return [kind[name] for kind in plain for name in names if name in kind]


class Notes:
    """What is noted of a game at some depths, (d,), on one tape: views that roll the same tables share what
    is noted of these."""

    def __init__(self, under: Conditions) -> None:
        self.under, self.tape, self.leaves = under, Tape(), Leaves()
        self.once: dict[str, Node] = {}  # the chances of a table's lines in one roll
        self.known: dict[Hashable, dict[View, Any]] = {}  # figures, by what they are of


class Noted:
    """Everything under one view, on the tape of `notes`."""

    def __init__(self, notes: Notes, view: View) -> None:
        """Raises NotNoted."""
        under = notes.under
        if rests_on_state(under, view):
            raise NotNoted
        self.under, self.view, self.tape = under, view, notes.tape
        self._notes, self._every = notes, notes.leaves
        self._order = in_order(under, [view])
        self._once = notes.once
        for one in self._order:
            part = part_of(under, one)
            if isinstance(part, Source):
                if part.id not in self._every.drops:
                    drops = [under.drop_chance(drop) for drop in part.drops]
                    self._every.drops[part.id] = self._leaf(drops)
            elif part.id not in self._once:
                self._once[part.id] = self._chances(part)

    @cached_property
    def leaves(self) -> Leaves:
        """Those of what the view reaches."""
        mine = {kind: {one.id for one in self._order if one.kind == kind} for kind in ("table", "source")}

        def some(nodes: dict[str, Node], kind: str) -> dict[str, Node]:
            return {name: node for name, node in nodes.items() if name in mine[kind]}

        every = self._every
        weights, chances = some(every.weights, "table"), some(every.chances, "table")
        nothing, drops = some(every.nothing, "table"), some(every.drops, "source")
        return Leaves(weights, chances, nothing, drops, every.pools)

    # --- chances ---------------------------------------------------------------------------------------

    def _leaf(self, rows: list[FloatArray] | FloatArray) -> Node:
        return self.tape.put(np.array(rows, dtype=np.float64).reshape(len(rows), self.under.depths.size))

    def _chances(self, table: Table) -> Node:
        under, tape, leaves = self.under, self.tape, self._every
        if table.rule == "deck" or is_distinct(under, table):
            raise NotNoted
        if table.rule in ("pick", "retry"):
            weights = leaves.weights[table.id] = self._leaf(under.weights(table))
        if table.rule != "pick":
            chances = leaves.chances[table.id] = self._leaf(under.chances(table))
        if table.rule == "pick":
            nothing = leaves.nothing[table.id] = tape.put(under.nothing(table))
            return tape.shares(weights, nothing)
        if table.rule == "each":
            return chances
        if table.rule == "first":
            return tape.firsts(chances)
        return tape.tried(tape.times(tape.shares(weights), chances), table.tries)

    # --- figures -----------------------------------------------------------------------------------------

    def hit(self, counts: FloatArray) -> Node:
        """Chance of at least one of the items that count, (items,) of 0 and 1."""
        key = ("hit", counts.tobytes())
        return self._walk(key, lambda part, inner: self._hit_of(part, inner, counts))

    def mean(self, worths: FloatArray) -> Node:
        """How much an event gives, of what each item counts for, (items,)."""
        key = ("mean", worths.tobytes())
        return self._walk(key, lambda part, inner: self._mean_of(part, inner, worths))

    def mean_and_var(self, worths: FloatArray) -> tuple[Node, Node]:
        """The mean and variance of the same."""
        key = ("pair", worths.tobytes())
        return self._walk(key, lambda part, inner: self._pair_of(part, inner, worths))

    def _walk(self, key: Hashable, of: Callable[[Table | Source, dict[View, Figured]], Figured]) -> Figured:
        found: dict[View, Figured] = self._notes.known.setdefault(key, {})
        for view in self._order:
            if view not in found:
                found[view] = of(part_of(self.under, view), found)
        return found[self.view]

    # --- the chance of any -------------------------------------------------------------------------------

    def _hit_of(self, part: Table | Source, inner: dict[View, Node], counts: FloatArray) -> Node:
        tape = self.tape
        if isinstance(part, Source):
            each = [self._tries(drop.times, inner[View("table", drop.table)]) for drop in part.drops]
            return (
                self.tape.any_of(tape.times(tape.stacked(each), self._every.drops[part.id]))
                if each
                else self._none
            )
        if not part.lines:
            return self._none
        plain = plain_lines(part, self.under)
        some = [(at, self._line_hit(part.lines[at], inner, counts)) for at in plain.others]
        lines = tape.laid(self._base(part, plain, plain.some * counts[plain.items]), some)
        hits = tape.times(lines, self._once[part.id])
        once = self.tape.any_of(hits) if part.rule == "each" else tape.summed(hits)
        return self._tries(part.rolls, once)

    def _line_hit(self, line: BaseLine, inner: dict[View, Node], counts: FloatArray) -> Node:
        parts = [self._yield_hit(given, inner, counts) for given in line.yields]
        if not parts:
            return self._none
        return parts[0] if len(parts) == 1 else self.tape.any_of(self.tape.stacked(parts))

    def _yield_hit(self, given: Yield, inner: dict[View, Node], counts: FloatArray) -> Node:
        law = self.under.law(given.quantity)
        match given.what:
            case ItemNamed(item):
                some = law.some if counts[self.under.item_index[item]] else 0.0
                return self.tape.put(some * self.under.ones)
            case View() as view:
                return self._tries(given.quantity, inner[view])
            case Pool() as pool:
                return self._tries(given.quantity, self._pool_sum(pool, counts))

    def _tries(self, quantity: Quantity, once: Node) -> Node:
        law: AnyLaw = self.under.law(quantity)
        if law.is_one:
            return once
        values = law.any_of(once.value[:, None])[:, 0] if law.varies else law.any_of(once.value[None])[0]
        slope = _any_slope(law, once.value)
        return self.tape.put(values, (once, lambda back: back * slope))

    @property
    def _none(self) -> Node:
        return self.tape.put(np.zeros(self.under.depths.size))

    def _pool(self, pool: Pool) -> Node:
        """Chance of each of a pool's items."""
        key = pool_key(pool)
        if key not in self._every.pools:
            # In shares of all, which is all that matters: tiers' curves scale them.
            self._every.pools[key] = (pool, self._leaf(self.under.pool_chances(pool)))
        return self.tape.shares(self._every.pools[key][1])

    def _pool_sum(self, pool: Pool, worths: FloatArray) -> Node:
        mine = worths[self.under.pool_items(pool)].astype(np.float64)
        chances = self._pool(pool)
        return self.tape.put(mine @ chances.value, (chances, lambda back: mine[:, None] * back))

    # --- how many ----------------------------------------------------------------------------------------

    def _mean_of(self, part: Table | Source, inner: dict[View, Node], worths: FloatArray) -> Node:
        tape, under = self.tape, self.under
        if isinstance(part, Source):
            each = [self._many(drop.times, inner[View("table", drop.table)]) for drop in part.drops]
            rows = self._every.drops[part.id]
            return tape.summed(tape.times(tape.stacked(each), rows)) if each else self._none
        if not part.lines:
            return self._none
        plain = plain_lines(part, under)
        some = [(at, self._line_mean(part.lines[at], inner, worths)) for at in plain.others]
        lines = tape.laid(self._base(part, plain, plain.mean * worths[plain.items]), some)
        whole = tape.summed(tape.times(lines, self._once[part.id]))
        return tape.scaled(whole, under.law(part.rolls).mean)

    def _base(self, table: Table, plain: PlainLines, figures: FloatArray) -> FloatArray:
        """Of a table's plain lines what each is worth, of the others 0; (n, d)."""
        found = np.zeros((len(table.lines), self.under.depths.size))
        found[plain.at] = figures[:, None]
        return found

    def _many(self, quantity: Quantity, once: Node) -> Node:
        law = self.under.law(quantity)
        return once if law.is_one else self.tape.scaled(once, law.mean * self.under.ones)

    def _line_mean(self, line: BaseLine, inner: dict[View, Node], worths: FloatArray) -> Node:
        parts = [self._yield_mean(given, inner, worths) for given in line.yields]
        return self.tape.plus(parts) if parts else self._none

    def _yield_mean(self, given: Yield, inner: dict[View, Node], worths: FloatArray) -> Node:
        match given.what:
            case ItemNamed(item):
                worth = worths[self.under.item_index[item]]
                return self.tape.put(worth * self.under.law(given.quantity).mean * self.under.ones)
            case View() as view:
                return self._many(given.quantity, inner[view])
            case Pool() as pool:
                return self._many(given.quantity, self._pool_sum(pool, worths))

    # --- mean and variance together ------------------------------------------------------------------------

    def _pair_of(
        self, part: Table | Source, inner: dict[View, tuple[Node, Node]], worths: FloatArray
    ) -> tuple[Node, Node]:
        tape = self.tape
        if isinstance(part, Source):
            pairs = [self._compound(drop.times, inner[View("table", drop.table)]) for drop in part.drops]
            if not pairs:
                return self._none, self._none
            means, spreads = (tape.stacked(list(rows)) for rows in zip(*pairs, strict=True))
            return self._each_pair(means, spreads, self._every.drops[part.id])
        if not part.lines:
            return self._none, self._none
        means, spreads = self._pairs(part, inner, worths)
        of = self._each_pair if part.rule == "each" else self._one_pair
        once = of(means, spreads, self._once[part.id])
        law = self.under.law(part.rolls)
        return once if law.is_one else self._compounded(law, *once)

    def _pairs(
        self, table: Table, inner: dict[View, tuple[Node, Node]], worths: FloatArray
    ) -> tuple[Node, Node]:
        """Mean and variance of what each line gives, (n, d)."""
        plain = plain_lines(table, self.under)
        worth = worths[plain.items]
        means, spreads = (self._base(table, plain, row) for row in (worth * plain.mean, worth**2 * plain.var))
        some = [(at, self._line_pair(table.lines[at], inner, worths)) for at in plain.others]
        return (
            self.tape.laid(means, [(at, mean) for at, (mean, _) in some]),
            self.tape.laid(spreads, [(at, spread) for at, (_, spread) in some]),
        )

    def _line_pair(
        self, line: BaseLine, inner: dict[View, tuple[Node, Node]], worths: FloatArray
    ) -> tuple[Node, Node]:
        pairs = [self._yield_pair(given, inner, worths) for given in line.yields]
        if not pairs:
            return self._none, self._none
        return self.tape.plus([mean for mean, _ in pairs]), self.tape.plus([var for _, var in pairs])

    def _yield_pair(
        self, given: Yield, inner: dict[View, tuple[Node, Node]], worths: FloatArray
    ) -> tuple[Node, Node]:
        law, ones = self.under.law(given.quantity), self.under.ones
        match given.what:
            case ItemNamed(item):
                worth = worths[self.under.item_index[item]]
                return self.tape.put(worth * law.mean * ones), self.tape.put(worth**2 * law.var * ones)
            case View() as view:
                return self._compound(given.quantity, inner[view])
            case Pool() as pool:
                mean = self._pool_sum(pool, worths)
                square = self._pool_sum(pool, worths**2)
                return self._compound(given.quantity, (mean, self._less(square, mean)))

    def _compound(self, quantity: Quantity, once: tuple[Node, Node]) -> tuple[Node, Node]:
        law = self.under.law(quantity)
        return once if law.is_one else self._compounded(law, *once)

    def _compounded(self, law: AnyLaw, mean: Node, var: Node) -> tuple[Node, Node]:
        tape, ones = self.tape, self.under.ones
        spread = tape.plus(
            [tape.scaled(var, law.mean * ones), tape.scaled(tape.squared(mean), law.var * ones)]
        )
        return tape.scaled(mean, law.mean * ones), spread

    def _one_pair(self, means: Node, spreads: Node, chances: Node) -> tuple[Node, Node]:
        """One of several, or nothing: E[x^2] - E[x]^2."""
        tape = self.tape
        squares = tape.plus([spreads, tape.squared(means)])
        mean = tape.summed(tape.times(means, chances))
        return mean, self._less(tape.summed(tape.times(squares, chances)), mean)

    def _each_pair(self, means: Node, spreads: Node, chances: Node) -> tuple[Node, Node]:
        """Each on its own chance c: c (var + mean^2) - (c mean)^2."""
        tape = self.tape
        squares = tape.plus([spreads, tape.squared(means)])
        hits = tape.times(means, chances)
        own = tape.plus([tape.times(squares, chances), tape.scaled(tape.squared(hits), -1.0)])
        return tape.summed(hits), tape.summed(own)

    def _less(self, square: Node, mean: Node) -> Node:
        return self.tape.plus([square, self.tape.scaled(self.tape.squared(mean), -1.0)])


def _any_slope(law: AnyLaw, hit: FloatArray) -> FloatArray:
    """d/dh of sum p_n (1 - (1 - h)^n): sum p_n n (1 - h)^(n - 1), by depth."""
    if not law.varies:
        return _slope_of(*law.row(0), hit)
    return np.array([_slope_of(*law.row(row), hit[row : row + 1])[0] for row in range(hit.size)])


def _slope_of(values: IntArray, chances: FloatArray, hit: FloatArray) -> FloatArray:
    if values.size * hit.size > _MOST_TERMS:
        raise NotNoted
    n = np.maximum(values, 1).astype(np.float64)
    return np.asarray((1.0 - hit)[:, None] ** (n - 1.0) @ (chances * values))
