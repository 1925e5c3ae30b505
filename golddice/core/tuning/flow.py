"""What an event gives, noted on a tape: the chance of any of some things, how many, and how worth spreads,
for a fresh player whose event does not rest on what is carried.

The closed forms are those of `domain.md`, section 4, written once more: the odds say what is so, these in
which direction they move. Where a table is not of these forms (distinct picks, decks, what rests on state)
there is nothing to note, and whoever asks takes differences.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterable, Sequence
from dataclasses import dataclass, field
from typing import Any, TypeVar

import numpy as np
from propcache.api import cached_property

from golddice.core.arrays import FloatArray, IntArray
from golddice.core.game.models import Drop, PickTable, Pool, Source, Table
from golddice.core.game.views import View
from golddice.core.odds.event.algebra import Algebra, Roll
from golddice.core.terms.catalogue import pool_key
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.law import AnyLaw
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
        self.known: dict[Hashable, Algebra[Any]] = {}  # figures, by what they are of


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
        return self._noted(("hit", counts.tobytes()), lambda: _Hits(self._notes, counts))

    def mean(self, worths: FloatArray) -> Node:
        """How much an event gives, of what each item counts for, (items,)."""
        return self._noted(("mean", worths.tobytes()), lambda: _Means(self._notes, worths))

    def mean_and_var(self, worths: FloatArray) -> tuple[Node, Node]:
        """The mean and variance of the same."""
        return self._noted(("pair", worths.tobytes()), lambda: _Pairs(self._notes, worths))

    def _noted(self, key: Hashable, algebra: Callable[[], Algebra[Figured]]) -> Figured:
        if key not in self._notes.known:
            self._notes.known[key] = algebra()
        found: Figured = self._notes.known[key].of(self.view)
        return found


class _OnTape(Algebra[Figured]):
    """An event whose chances are nodes of a tape; `worths` is what each item counts for, (items,)."""

    takes_plain = True

    def __init__(self, notes: Notes, worths: FloatArray) -> None:
        super().__init__(notes.under)
        self.tape, self._notes, self._worths = notes.tape, notes, worths
        self._ones = notes.under.ones

    def perhaps(self, chance: FloatArray, part: Figured) -> Figured:
        raise AssertionError("drops are tried all at once")

    def one_item(self, items: IntArray, chances: FloatArray) -> Figured:
        raise AssertionError("the chances of a pool are a node")

    def distinct(self, table: PickTable) -> Figured:
        raise NotNoted

    @property
    def none(self) -> Node:
        return self.tape.put(np.zeros(self._ones.size))

    def chances_of(self, source: Source) -> Node:
        return self._notes.leaves.drops[source.id]

    def chances_in(self, roll: Roll) -> Node:
        assert roll.table is not None
        return self._notes.once[roll.table.id]

    def laid(self, roll: Roll, plain: FloatArray, others: Iterable[Node]) -> Node:
        """What each line comes to, (n, d): of the plain ones these figures, alike at all depths."""
        base = np.zeros((roll.chances.shape[0], self._ones.size))
        base[roll.plain.at] = plain[:, None]
        return self.tape.laid(base, list(zip(roll.plain.others, others, strict=True)))

    def pool_sum(self, pool: Pool, worths: FloatArray) -> Node:
        """What one of a pool is worth on average."""
        key, pools = pool_key(pool), self._notes.leaves.pools
        if key not in pools:
            # In shares of all, which is all that matters: tiers' curves scale them.
            chances = self.under.pool_chances(pool)
            pools[key] = (pool, self.tape.put(chances.reshape(len(chances), self._ones.size)))
        shares = self.tape.shares(pools[key][1])
        mine = worths[self.under.pool_items(pool)].astype(np.float64)
        return self.tape.put(mine @ shares.value, (shares, lambda back: mine[:, None] * back))


class _Hits(_OnTape[Node]):
    """The chance of any of what counts."""

    def item(self, at: int, law: AnyLaw) -> Node:
        return self.tape.put((law.some if self._worths[at] else 0.0) * self._ones)

    def pool(self, pool: Pool) -> Node:
        return self.pool_sum(pool, self._worths)

    def repeated(self, law: AnyLaw, once: Node) -> Node:
        if law.is_one:
            return once
        values = law.any_of(once.value[:, None])[:, 0] if law.varies else law.any_of(once.value[None])[0]
        slope = _any_slope(law, once.value)
        return self.tape.put(values, (once, lambda back: back * slope))

    def all_of(self, parts: Iterable[Node]) -> Node:
        every = list(parts)
        return self.tape.any_of(self.tape.stacked(every)) if every else self.none

    def tried(self, source: Source, drops: Sequence[Drop]) -> Node:
        each = [self.dropped(source, drop) for drop in drops]
        if not each:
            return self.none
        return self.tape.any_of(self.tape.times(self.tape.stacked(each), self.chances_of(source)))

    def together(self, roll: Roll, others: Iterable[Node]) -> Node:
        lines = self.laid(roll, roll.plain.some * self._worths[roll.plain.items], others)
        hits = self.tape.times(lines, self.chances_in(roll))
        return self.tape.any_of(hits) if roll.blank is None else self.tape.summed(hits)


class _Means(_OnTape[Node]):
    """How much, on average."""

    def item(self, at: int, law: AnyLaw) -> Node:
        return self.tape.put(self._worths[at] * law.mean * self._ones)

    def pool(self, pool: Pool) -> Node:
        return self.pool_sum(pool, self._worths)

    def repeated(self, law: AnyLaw, once: Node) -> Node:
        return once if law.is_one else self.tape.scaled(once, law.mean * self._ones)

    def all_of(self, parts: Iterable[Node]) -> Node:
        every = list(parts)
        return self.tape.plus(every) if every else self.none

    def tried(self, source: Source, drops: Sequence[Drop]) -> Node:
        each = [self.dropped(source, drop) for drop in drops]
        if not each:
            return self.none
        return self.tape.summed(self.tape.times(self.tape.stacked(each), self.chances_of(source)))

    def together(self, roll: Roll, others: Iterable[Node]) -> Node:
        lines = self.laid(roll, roll.plain.mean * self._worths[roll.plain.items], others)
        return self.tape.summed(self.tape.times(lines, self.chances_in(roll)))


Pair = tuple[Node, Node]


class _Pairs(_OnTape[Pair]):
    """Mean and variance together."""

    def item(self, at: int, law: AnyLaw) -> Pair:
        worth, put = self._worths[at], self.tape.put
        return put(worth * law.mean * self._ones), put(worth**2 * law.var * self._ones)

    def pool(self, pool: Pool) -> Pair:
        mean = self.pool_sum(pool, self._worths)
        return mean, self._less(self.pool_sum(pool, self._worths**2), mean)

    def repeated(self, law: AnyLaw, once: Pair) -> Pair:
        if law.is_one:
            return once
        (mean, var), tape = once, self.tape
        many, varied = law.mean * self._ones, law.var * self._ones
        spread = tape.plus([tape.scaled(var, many), tape.scaled(tape.squared(mean), varied)])
        return tape.scaled(mean, many), spread

    def all_of(self, parts: Iterable[Pair]) -> Pair:
        every = list(parts)
        if not every:
            return self.none, self.none
        return self.tape.plus([mean for mean, _ in every]), self.tape.plus([var for _, var in every])

    def tried(self, source: Source, drops: Sequence[Drop]) -> Pair:
        pairs = [self.dropped(source, drop) for drop in drops]
        if not pairs:
            return self.none, self.none
        means, spreads = (self.tape.stacked(list(rows)) for rows in zip(*pairs, strict=True))
        return self._each(means, spreads, self.chances_of(source))

    def together(self, roll: Roll, others: Iterable[Pair]) -> Pair:
        plain, pairs = roll.plain, list(others)
        worth = self._worths[plain.items]
        means = self.laid(roll, worth * plain.mean, [mean for mean, _ in pairs])
        spreads = self.laid(roll, worth**2 * plain.var, [spread for _, spread in pairs])
        of = self._each if roll.blank is None else self._one
        return of(means, spreads, self.chances_in(roll))

    def _one(self, means: Node, spreads: Node, chances: Node) -> Pair:
        """One of several, or nothing: E[x^2] - E[x]^2."""
        tape = self.tape
        squares = tape.plus([spreads, tape.squared(means)])
        mean = tape.summed(tape.times(means, chances))
        return mean, self._less(tape.summed(tape.times(squares, chances)), mean)

    def _each(self, means: Node, spreads: Node, chances: Node) -> Pair:
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
