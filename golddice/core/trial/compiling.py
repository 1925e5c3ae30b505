"""From a game under conditions to a `Program`."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from golddice.core.arrays import FloatArray, IntArray
from golddice.core.game.models import Drop, Guard, Line, PickTable, Source, Table, Yield
from golddice.core.game.quantity import Quantity
from golddice.core.odds.terms.conditions import Conditions
from golddice.core.odds.terms.size import check_size
from golddice.core.trial import program as p


@dataclass(frozen=True)
class Compiled:
    """A program and what its row numbers stand for.

    `tables`, `lines`, `sources`, `drops` name the rows: a line by (table id, line index in the
    file), a drop by (source id, drop index in the file). `items` are the item indices of the slots.
    """

    program: p.Program
    root_kind: int
    root: int
    tables: list[str]
    lines: list[tuple[str, int]]
    sources: list[str]
    drops: list[tuple[str, int]]
    items: IntArray


def compiled(under: Conditions, kind: str, name: str) -> Compiled:
    """Compile what one source (or table) can reach, at the one depth of `under`.

    Raises TooLarge where an event would execute more tables than the limit.
    """
    reach = _reach(under, kind, name)
    check_size(under, kind, name)
    return _Compiler(under, reach).compile(kind, name)


@dataclass
class _Reach:
    """Tables and sources that can be reached, in order of discovery, and items by index."""

    tables: list[str] = field(default_factory=list)
    sources: list[str] = field(default_factory=list)
    items: set[int] = field(default_factory=set)


def _reach(under: Conditions, kind: str, name: str) -> _Reach:
    reach = _Reach()
    pending = [(kind, name)]
    seen = set(pending)
    while pending:
        kind, name = pending.pop(0)
        if kind == "source":
            reach.sources.append(name)
            found = [("table", drop.table) for drop in under.source(name).drops]
        else:
            reach.tables.append(name)
            found = []
            for line in under.table(name).lines:
                for given in line.yields:
                    found += _reached_by(under, given, reach.items)
        for link in found:
            if link not in seen:
                seen.add(link)
                pending.append(link)
    return reach


def _reached_by(under: Conditions, given: Yield, items: set[int]) -> list[tuple[str, str]]:
    if given.item is not None:
        items.add(under.item_index[given.item])
    elif given.pool is not None:
        items.update(int(at) for at in under.pool_items(given.pool))
    elif given.table is not None:
        return [("table", given.table)]
    elif given.source is not None:
        return [("source", given.source)]
    return []


class _Compiler:
    """Fills the arrays, one table and source after another."""

    def __init__(self, under: Conditions, reach: _Reach) -> None:
        self.under, self.reach = under, reach
        self.table_row = {name: at for at, name in enumerate(reach.tables)}
        self.source_row = {name: at for at, name in enumerate(reach.sources)}
        self.items = np.array(sorted(reach.items), dtype=np.int64)
        self.table_rows: list[list[int]] = []
        self.nothing: list[float] = []
        self.guide: list[int] = []
        self.line_rows: list[list[int]] = []
        self.line_floats: list[list[float]] = []
        self.line_names: list[tuple[str, int]] = []
        self.yield_rows: list[list[int]] = []
        self.quantities: dict[Quantity, int] = {}
        self.quantity_rows: list[list[int]] = []
        self.factors: list[float] = []
        self.drop_rows: list[list[int]] = []
        self.drop_floats: list[list[float]] = []
        self.drop_names: list[tuple[str, int]] = []
        self.pool_rows: list[list[int]] = []
        self.pool_item: list[int] = []
        self.pool_upper: list[float] = []
        self.guards = self.limits = 0

    def compile(self, kind: str, name: str) -> Compiled:
        for table in self.reach.tables:
            self._table(self.under.table(table))
        spans = [self._source(self.under.source(source)) for source in self.reach.sources]
        game = self.under.game
        slots = np.full(len(game.items), -1, dtype=np.int64)
        slots[self.items] = np.arange(self.items.size)
        blocks = p.Blocks(
            tables=_ints(self.table_rows, p.TABLE_FIELDS),
            lines=_ints(self.line_rows, p.LINE_FIELDS),
            yields=_ints(self.yield_rows, p.YIELD_FIELDS),
            quantities=_ints(self.quantity_rows, p.QUANTITY_FIELDS),
            sources=_ints(spans, 2),
            drops=_ints(self.drop_rows, p.DROP_FIELDS),
            pools=_ints(self.pool_rows, 2),
            pool_items=np.array(self.pool_item, dtype=np.int64),
            guide=np.array(self.guide, dtype=np.int64),
            slots=slots,
            line_reals=_floats(self.line_floats, p.LINE_FLOATS),
            nothing=np.array(self.nothing, dtype=np.float64),
            factors=np.array(self.factors, dtype=np.float64),
            drop_reals=_floats(self.drop_floats, 2),
            pool_upper=np.array(self.pool_upper, dtype=np.float64),
            values=np.array([game.items[at].value for at in self.items], dtype=np.float64),
        )
        stack = 16 + sum(3 + self._pending(self.under.table(name)) for name in self.reach.tables)
        stack += 3 * len(self.reach.sources)
        return Compiled(
            program=p.packed(blocks, self.guards, self.limits, stack, self._is_plain()),
            root_kind=p.SOURCE if kind == "source" else p.TABLE,
            root=self.source_row[name] if kind == "source" else self.table_row[name],
            tables=self.reach.tables,
            lines=self.line_names,
            sources=self.reach.sources,
            drops=self.drop_names,
            items=self.items,
        )

    def _is_plain(self) -> bool:
        """Whether all tables are picks without state whose lines give one item or nothing, and no
        quantity is dice: what `kernel._plain_player` can do."""
        picks = all(row[p.T_RULE] == p.PICK and not row[p.T_DYNAMIC] for row in self.table_rows)
        single = all(row[p.L_END_YIELD] - row[p.L_FIRST_YIELD] <= 1 for row in self.line_rows)
        items = all(row[p.Y_KIND] == p.ITEM for row in self.yield_rows)
        dice = any(row[p.Q_KIND] == p.DICE for row in self.quantity_rows)
        unguarded = all(row[p.D_GUARD] < 0 for row in self.drop_rows)
        return picks and single and items and unguarded and not dice

    @staticmethod
    def _pending(table: Table) -> int:
        """How many nested yields one roll can leave on the stack."""
        return sum(1 for line in table.lines for given in line.yields if given.table or given.source)

    def _table(self, table: Table) -> None:
        first = len(self.line_rows)
        scaled = table.rule != "deck"
        open_lines = [
            at for at, line in enumerate(table.lines) if bool(self.under.line_open(line, scaled=scaled)[0])
        ]
        for at in open_lines:
            self._line(table, at)
        rows = range(first, len(self.line_rows))
        distinct = table.rule == "pick" and table.distinct and self.under.law(table.rolls).most > 1
        dynamic = distinct or any(
            self.line_rows[row][p.L_LIMIT] or self.line_rows[row][p.L_GUARD] >= 0 for row in rows
        )
        nothing = float(self.under.nothing(table)[0]) if isinstance(table, PickTable) else 0.0
        guide = self._guide(first, nothing)
        self.nothing.append(nothing)
        self.table_rows.append(
            [
                p.RULES[table.rule],
                first,
                len(self.line_rows),
                self._quantity(table.rolls),
                table.tries if table.rule == "retry" else 1,
                int(distinct),
                int(dynamic),
                *guide,
            ]
        )

    def _line(self, table: Table, at: int) -> None:
        line = table.lines[at]
        first = len(self.yield_rows)
        for given in line.yields:
            self.yield_rows.append(self._yield(given))
        factor = float(self.under.line_multiplier(line)[0])
        weight, chance, copies = _entered(line)
        if table.rule == "pick":
            weight *= factor
        guard = self._guard(line.guard)
        self.line_rows.append(
            [
                first,
                len(self.yield_rows),
                line.limit or 0,
                self.limits if line.limit else -1,
                *guard[:3],
                copies,
            ]
        )
        self.limits += bool(line.limit)
        self.line_floats.append([weight, min(1.0, chance * factor), guard[3], 0.0])
        self.line_names.append((table.id, at))

    def _guard(self, guard: Guard | None) -> tuple[int, int, int, float]:
        """(state index or -1, after, sure_at or 0, rise)."""
        if guard is None:
            return -1, 0, 0, 0.0
        self.guards += 1
        return self.guards - 1, guard.after, guard.sure_at or 0, guard.rise

    def _guide(self, first: int, nothing: float) -> list[int]:
        """Where each line ends on the strip [0, 1), and a guide to search it in constant time."""
        rows = self.line_floats[first:]
        weights = np.array([row[p.LF_WEIGHT] for row in rows])
        total = weights.sum() + nothing
        if not rows or total <= 0:
            return [0, 0]
        upper = np.cumsum(weights) / total
        if nothing == 0:
            upper[np.flatnonzero(weights > 0)[-1] :] = 1.0  # rounding must not open a gap at the end
        for row, end in zip(rows, upper, strict=True):
            row[p.LF_UPPER] = float(end)
        size = 1 << max(3, (16 * len(rows)).bit_length())
        starts = np.arange(size) / size
        offset = len(self.guide)
        self.guide += [first + int(at) for at in np.searchsorted(upper, starts, side="right")]
        return [offset, size]

    def _yield(self, given: Yield) -> list[int]:
        quantity = self._quantity(given.quantity)
        if given.item is not None:
            return [p.ITEM, self.under.item_index[given.item], quantity]
        if given.table is not None:
            return [p.TABLE, self.table_row[given.table], quantity]
        if given.source is not None:
            return [p.SOURCE, self.source_row[given.source], quantity]
        assert given.pool is not None
        members = self.under.pool_items(given.pool)
        chances = self.under.pool_chances(given.pool)[:, 0]
        self.pool_rows.append(self._pool(members, chances))
        return [p.POOL, len(self.pool_rows) - 1, quantity]

    def _pool(self, members: IntArray, chances: FloatArray) -> list[int]:
        first = len(self.pool_item)
        kept = np.flatnonzero(chances > 0)
        upper = np.cumsum(chances[kept])
        if kept.size:
            upper[-1] = 1.0
        self.pool_item += [int(members[at]) for at in kept]
        self.pool_upper += [float(end) for end in upper]
        return [first, len(self.pool_item)]

    def _quantity(self, quantity: Quantity) -> int:
        if quantity not in self.quantities:
            self.quantities[quantity] = len(self.quantity_rows)
            self.quantity_rows.append(_quantity_row(quantity))
            factor = 1.0 if quantity.curve is None else float(self.under.curve(quantity.curve)[0])
            self.factors.append(factor)
        return self.quantities[quantity]

    def _source(self, source: Source) -> list[int]:
        first = len(self.drop_rows)
        for at, drop in enumerate(source.drops):
            if bool(self.under.drop_open(drop)[0]):
                self._drop(source, at, drop)
        return [first, len(self.drop_rows)]

    def _drop(self, source: Source, at: int, drop: Drop) -> None:
        guard = self._guard(drop.guard)
        self.drop_rows.append([self.table_row[drop.table], self._quantity(drop.times), *guard[:3]])
        self.drop_floats.append([float(self.under.drop_chance(drop)[0]), guard[3]])
        self.drop_names.append((source.id, at))


def _entered(line: Line) -> tuple[float, float, int]:
    """(weight, chance, copies) as entered; what a rule does not have is 1, 1, 0."""
    weight = float(getattr(line, "weight", 1.0))
    chance = float(getattr(line, "chance", 1.0))
    return weight, chance, int(getattr(line, "copies", 0))


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
