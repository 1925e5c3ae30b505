"""From a game at a depth to a `Program`: tables, lines, sources, drops as rows of numbers."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from golddice.core.arrays import FloatArray, IntArray
from golddice.core.errors import TooLarge
from golddice.core.game.models import (
    DeckTable,
    Drop,
    Guard,
    ItemNamed,
    PickTable,
    Pool,
    RetryTable,
    Source,
    Table,
    Yield,
)
from golddice.core.game.quantity import Quantity
from golddice.core.game.views import View
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.law import MOST_AMOUNT, TOO_MANY
from golddice.core.terms.layout import Layout
from golddice.core.terms.size import check_size
from golddice.core.trial import program as p
from golddice.core.trial.at_depth import Index, Reach, TermsAt
from golddice.core.trial.keeps import Carry, Keeps

MOST_RECORDS = 20_000_000  # numbers in a program


@dataclass(frozen=True)
class Compiled:
    """A program and what its row numbers stand for.

    `tables`, `lines`, `sources`, `drops` name the rows: a line by (table id, line index in the
    file), a drop by (source id, drop index in the file). `items` are the item indices of the columns of
    results. `work` is roughly how many rolls one event comes to, `units` roughly how many things it
    gives at the most. `counts` are the rows of the quantities that were compiled besides. `keeps` tells
    what is kept of what is received.
    """

    program: p.Program
    root_kind: int
    root: int
    layout: Layout
    tables: list[str]
    lines: list[tuple[str, int]]
    sources: list[str]
    drops: list[tuple[str, int]]
    items: IntArray
    work: float
    units: float
    keeps: Keeps
    counts: tuple[int, ...] = ()


def compiled(under: Conditions, view: View, carry: Carry | None = None) -> Compiled:
    """Compile what one source (or table) can reach, at the one depth of `under`.

    Raises TooLarge where an event would execute more tables than the limit.
    """
    return compiled_along([(under, view)], carry=carry)[0]


def compiled_along(
    stops: Sequence[tuple[Conditions, View]],
    counts: Sequence[Sequence[Quantity]] = (),
    carry: Carry | None = None,
) -> list[Compiled]:
    """A program for each stop, of one depth, that a player comes to in turn: what a player carries and
    has received lies alike in all of them, so that the player can be taken from one to the next. `counts`
    are quantities of each stop that are drawn there besides. With `carry`, the player keeps what they can
    of what they receive; else nothing is said of that."""
    for under, view in stops:
        check_size(under, view)
    index = Index(stops[0][0].game)
    views = list(dict.fromkeys(view for _, view in stops))
    reach = Reach.of(index, views)
    layout = Layout.of([index.part(view) for view in reach.views])
    sources = [index.sources[name] for name in reach.sources]
    keeps = Keeps(index.game, reach.items, sources, carry)
    return [
        _Compiler(index, reach, layout, keeps, int(under.depths[0]), under.flags).compile(view, more)
        for (under, view), more in zip(stops, counts or [()] * len(stops), strict=True)
    ]


class _Records:
    """The rows of a program as they are found."""

    def __init__(self) -> None:
        self.tables: list[list[int]] = []
        self.nothing: list[float] = []
        self.guide: list[int] = []
        self.lines: list[list[int]] = []
        self.line_reals: list[list[float]] = []
        self.line_names: list[tuple[str, int]] = []
        self.yields: list[list[int]] = []
        self.quantities: list[list[int]] = []
        self.factors: list[float] = []
        self.drops: list[list[int]] = []
        self.drop_reals: list[list[float]] = []
        self.drop_names: list[tuple[str, int]] = []
        self.pools: list[list[int]] = []
        self.pool_items: list[int] = []
        self.pool_upper: list[float] = []

    def check(self) -> None:
        size = 10 * len(self.lines) + len(self.guide) + len(self.pool_items)
        if size > MOST_RECORDS:
            raise TooLarge(
                f"{len(self.lines):,} lines with {len(self.pool_items):,} items of pools to simulate"
            )


class _Compiler:
    """Fills the records, one table and source after another."""

    def __init__(
        self,
        index: Index,
        reach: Reach,
        layout: Layout,
        keeps: Keeps,
        depth: int,
        flags: frozenset[str],
    ) -> None:
        self._index, self._reach, self._layout, self._keeps = index, reach, layout, keeps
        self._terms = TermsAt(index, depth, flags)
        self._table_row = {name: at for at, name in enumerate(reach.tables)}
        self._source_row = {name: at for at, name in enumerate(reach.sources)}
        self._quantities: dict[Quantity, int] = {}
        self._pools: dict[tuple[tuple[str, ...], tuple[str, ...]], int] = {}
        self._out = _Records()
        assert self._quantity(Quantity(min=1, max=1)) == p.ONE

    def compile(self, view: View, counts: Sequence[Quantity] = ()) -> Compiled:
        out, reach = self._out, self._reach
        for name in reach.tables:
            self._table(self._index.tables[name])
            out.check()
        spans = [self._source(self._index.sources[name]) for name in reach.sources]
        stack = 16 + sum(3 + _pending(self._index.tables[name]) for name in reach.tables)
        drawn = tuple(self._quantity(one) for one in counts)
        blocks = self._blocks(spans)
        stack += 3 * len(reach.sources)
        room = self._keeps.room()
        work, units = self._work(view)
        return Compiled(
            program=p.packed(blocks, self._layout.size, stack, self._is_plain(), room),
            root_kind=p.SOURCE if view.kind == "source" else p.TABLE,
            root=(self._source_row if view.kind == "source" else self._table_row)[view.id],
            layout=self._layout,
            tables=reach.tables,
            lines=out.line_names,
            sources=reach.sources,
            drops=out.drop_names,
            items=reach.items,
            work=work,
            units=units,
            keeps=self._keeps,
            counts=drawn,
        )

    def _blocks(self, spans: list[list[int]]) -> p.Blocks:
        out, items = self._out, self._index.game.items
        slots = np.full(len(items), -1, dtype=np.int64)
        slots[self._reach.items] = np.arange(self._reach.items.size)
        kept = self._keeps.blocks(self._terms.curve, self._quantity)
        return p.Blocks(
            tables=_ints(out.tables, p.TABLE_FIELDS),
            lines=_ints(out.lines, p.LINE_FIELDS),
            yields=_ints(out.yields, p.YIELD_FIELDS),
            quantities=_ints(out.quantities, p.QUANTITY_FIELDS),
            sources=_ints(spans, 2),
            drops=_ints(out.drops, p.DROP_FIELDS),
            pools=_ints(out.pools, p.POOL_FIELDS),
            pool_items=np.array(out.pool_items, dtype=np.int64),
            guide=np.array(out.guide, dtype=np.int64),
            slots=slots,
            goods=kept.goods,
            own=kept.own,
            pieces=kept.pieces,
            pieces_of=kept.pieces_of,
            sets=kept.sets,
            line_reals=_floats(out.line_reals, p.LINE_FLOATS),
            nothing=np.array(out.nothing, dtype=np.float64),
            factors=np.array(out.factors, dtype=np.float64),
            drop_reals=_floats(out.drop_reals, 2),
            pool_upper=np.array(out.pool_upper, dtype=np.float64),
            values=np.array([items[at].value for at in self._reach.items], dtype=np.float64),
            seconds=np.array([self._index.sources[name].seconds for name in self._reach.sources]),
            scores=kept.scores,
            widths=kept.widths,
            ground=kept.ground,
        )

    def _is_plain(self) -> bool:
        """Whether all tables are picks without state whose lines give one item or nothing, and no
        quantity is dice: what `plain.plain_player` can do."""
        out = self._out
        picks = all(row[p.T_RULE] == p.PICK and not row[p.T_DYNAMIC] for row in out.tables)
        single = all(row[p.L_END_YIELD] - row[p.L_FIRST_YIELD] <= 1 for row in out.lines)
        items = all(row[p.Y_KIND] == p.ITEM for row in out.yields)
        dice = any(row[p.Q_KIND] == p.DICE for row in out.quantities)
        unguarded = all(row[p.D_MISSES] < 0 for row in out.drops)
        return picks and single and items and unguarded and not dice

    # --- tables ----------------------------------------------------------------------------------------

    def _table(self, table: Table) -> None:
        out, first = self._out, len(self._out.lines)
        for at in range(len(table.lines)):
            self._line(table, at)
        rows = out.lines[first:]
        distinct = isinstance(table, PickTable) and table.distinct and table.rolls.most > 1
        distinct = distinct or (
            isinstance(table, PickTable) and table.distinct and table.rolls.curve is not None
        )
        dynamic = distinct or any(row[p.L_LIMIT] or row[p.L_MISSES] >= 0 for row in rows)
        nothing = 0.0
        if isinstance(table, PickTable):
            nothing = table.nothing * self._terms.curve(table.nothing_curve)
        guide = self._guide(first, nothing)
        out.nothing.append(nothing)
        out.tables.append(
            [
                p.RULES[table.rule],
                first,
                len(out.lines),
                self._quantity(table.rolls),
                table.tries if isinstance(table, RetryTable) else 1,
                int(distinct),
                int(dynamic),
                *guide,
            ]
        )

    def _line(self, table: Table, at: int) -> None:
        out, line = self._out, table.lines[at]
        first = len(out.yields)
        for given in line.yields:
            out.yields.append(self._yield(given))
        is_deck = isinstance(table, DeckTable)
        factor = self._terms.factor(line)
        is_open = self._terms.gate(line) and (is_deck or factor != 0.0)
        weight = float(getattr(line, "weight", 1.0)) * (factor if isinstance(table, PickTable) else 1.0)
        guard = line.guard or Guard()
        out.lines.append(
            [
                first,
                len(out.yields),
                int(is_open),
                line.limit or 0,
                self._layout.at("hits", "table", table.id, line.id),
                self._layout.at("misses", "table", table.id, line.id),
                guard.after,
                guard.sure_at or 0,
                self._layout.at("left", "table", table.id, line.id),
                int(getattr(line, "copies", 0)),
            ]
        )
        chance = min(1.0, float(getattr(line, "chance", 1.0)) * factor)
        out.line_reals.append([weight if is_open else 0.0, chance if is_open else 0.0, guard.rise, 0.0])
        out.line_names.append((table.id, at))

    def _guide(self, first: int, nothing: float) -> list[int]:
        """Where each line ends on the strip [0, 1), and a guide to search it in constant time."""
        rows = self._out.line_reals[first:]
        weights = np.array([row[p.LF_WEIGHT] for row in rows])
        total = weights.sum() + nothing
        if not rows or total <= 0:
            return [0, 0]
        upper = np.cumsum(weights) / total
        if nothing == 0:
            upper[np.flatnonzero(weights > 0)[-1] :] = 1.0  # rounding must not open a gap at the end
        for row, end in zip(rows, upper, strict=True):
            row[p.LF_UPPER] = float(end)
        return self._guided(first, upper, 1 << max(3, (16 * len(rows)).bit_length()))

    def _guided(self, first: int, upper: FloatArray, size: int) -> list[int]:
        """Offset and size of a guide of so many steps, a power of two: for the start of each the first that
        ends beyond it, counted from `first`."""
        offset, starts = len(self._out.guide), np.arange(size) / size
        self._out.guide += (first + np.searchsorted(upper, starts, side="right")).tolist()
        return [offset, size]

    # --- what is given ---------------------------------------------------------------------------------

    def _yield(self, given: Yield) -> list[int]:
        quantity = self._quantity(given.quantity)
        match given.what:
            case ItemNamed(item):
                return [p.ITEM, self._index.items[item], quantity]
            case View("table", name):
                return [p.TABLE, self._table_row[name], quantity]
            case View(_, name):
                return [p.SOURCE, self._source_row[name], quantity]
            case Pool() as pool:
                return [p.POOL, self._pool(pool), quantity]

    def _pool(self, pool: Pool) -> int:
        key, out = (tuple(pool.tiers), tuple(pool.tags)), self._out
        if key not in self._pools:
            members = self._index.of_pool(pool)
            chances = self._terms.pool_chances(members)
            kept = np.flatnonzero(chances > 0)
            upper = np.cumsum(chances[kept])
            first, guide = len(out.pool_items), [0, 0]
            if kept.size:
                upper[-1] = 1.0
                guide = self._guided(first, upper, 1 << min(12, max(3, (8 * kept.size).bit_length())))
            out.pool_items += [members[at] for at in kept]
            out.pool_upper += upper.tolist()
            out.pools.append([first, len(out.pool_items), *guide])
            self._pools[key] = len(out.pools) - 1
        return self._pools[key]

    def _quantity(self, quantity: Quantity) -> int:
        if quantity not in self._quantities:
            most = quantity.most * self._terms.curve(quantity.curve)
            if most > MOST_AMOUNT:
                raise TooLarge(f"{quantity} is {most:.3g} by its curve; {TOO_MANY}")
            self._quantities[quantity] = len(self._out.quantities)
            self._out.quantities.append(_quantity_row(quantity))
            self._out.factors.append(self._terms.curve(quantity.curve))
        return self._quantities[quantity]

    # --- sources ---------------------------------------------------------------------------------------

    def _source(self, source: Source) -> list[int]:
        first = len(self._out.drops)
        for at, drop in enumerate(source.drops):
            self._drop(source, at, drop)
        return [first, len(self._out.drops)]

    def _drop(self, source: Source, at: int, drop: Drop) -> None:
        factor, guard = self._terms.curve(drop.curve), drop.guard or Guard()
        is_open = self._terms.gate(drop) and factor != 0.0
        self._out.drops.append(
            [
                self._table_row[drop.table],
                self._quantity(drop.times),
                int(is_open),
                self._layout.at("misses", "source", source.id, drop.id),
                guard.after,
                guard.sure_at or 0,
            ]
        )
        self._out.drop_reals.append([min(1.0, drop.chance * factor) if is_open else 0.0, guard.rise])
        self._out.drop_names.append((source.id, at))

    def _work(self, start: View) -> tuple[float, float]:
        """Roughly how many rolls an event comes to, and how many units it may give: as if lines hit as often
        as their weights say."""
        known: dict[View, float] = {}
        units: dict[View, float] = {}
        for view in reversed(self._reach.views):  # those that nest deeper are mostly found later
            if view.kind == "source":
                drops = self._index.sources[view.id].drops
                tables = [(drop.chance * drop.times.most, View("table", drop.table)) for drop in drops]
                known[view] = 1.0 + sum(many * known.get(inner, 1.0) for many, inner in tables)
                units[view] = sum(many * units.get(inner, 1.0) for many, inner in tables)
                continue
            table, row = self._index.tables[view.id], self._table_row[view.id]
            reals = self._out.line_reals[self._out.tables[row][p.T_FIRST_LINE] :][: len(table.lines)]
            total = sum(real[p.LF_WEIGHT] for real in reals) or 1.0
            inner, given_units = 1.0, 0.0
            for line, real in zip(table.lines, reals, strict=True):
                share = real[p.LF_CHANCE] * (real[p.LF_WEIGHT] / total if table.rule != "each" else 1.0)
                for given in line.yields:
                    inner_view = given.what if isinstance(given.what, View) else None
                    inside = known.get(inner_view, 1.0) if inner_view else 0.0
                    many = isinstance(given.what, (View, Pool))
                    many_units = given.quantity.most * self._terms.curve(given.quantity.curve)
                    given_units += share * many_units * (units.get(inner_view, 1.0) if inner_view else 1.0)
                    inner += share * (given.quantity.most * max(inside, 1.0) if many else 0.0)
            # Where weights depend on what is carried, or each line is tested, a roll goes through all lines.
            through = 1.0 + len(table.lines) / 16 if self._goes_through(row) else 1.0
            known[view] = max(table.rolls.most, 1) * (inner - 1.0 + through)
            units[view] = table.rolls.most * self._terms.curve(table.rolls.curve) * given_units
        return max(known[start], 1.0), units[start]

    def _goes_through(self, row: int) -> bool:
        record = self._out.tables[row]
        return bool(record[p.T_DYNAMIC]) or record[p.T_RULE] in (p.EACH, p.FIRST, p.DECK)


def _pending(table: Table) -> int:
    """How many nested yields one roll can leave on the stack."""
    return sum(1 for line in table.lines for given in line.yields if isinstance(given.what, View))


def _quantity_row(quantity: Quantity) -> list[int]:
    if quantity.dice is not None:
        count, faces, plus = quantity.dice_parts()
        return [p.DICE, plus, faces, count]
    low, high = quantity.least, quantity.most
    kind = p.CONSTANT if low == high else p.RANGE
    return [kind, low, quantity.step, (high - low) // quantity.step + 1]


def _ints(rows: list[list[int]], fields: int) -> IntArray:
    return np.array(rows, dtype=np.int64).reshape(len(rows), fields)


def _floats(rows: list[list[float]], fields: int) -> FloatArray:
    return np.array(rows, dtype=np.float64).reshape(len(rows), fields)
