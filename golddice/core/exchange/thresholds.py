"""Thresholds: every table at every depth as whole numbers of 32 bits, for the code of the game.

"Draw u evenly from 0 to 2^32 - 1, take the first line whose `below` is above u" gives the exact odds to less
than 2^-32 each. Depths that are alike share a span. What changes while it is played (limits, guards, distinct
picks, decks) is data: a table that has such is `dynamic`, and its weights stand beside the bounds.
"""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from itertools import combinations, groupby
from typing import Any, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from golddice.core.errors import QueryError, TooLarge
from golddice.core.game.models import (
    DeckLine,
    DeckTable,
    Drop,
    Game,
    Guard,
    ItemNamed,
    Line,
    PickTable,
    Pool,
    RetryTable,
    Source,
    Table,
    Yield,
)
from golddice.core.game.quantity import Quantity
from golddice.core.game.views import View
from golddice.core.stopping import go_on
from golddice.core.terms.conditions import Conditions

WHOLE = 2**32
MOST_FLAGS = 6  # that one table asks about: each set of them has spans of its own
FORMAT = "golddice-thresholds"

Bound = Field(ge=0, le=WHOLE)


class Part(BaseModel):
    model_config = ConfigDict(extra="forbid")


class QuantityOut(Part):
    """min to max in steps, or dice; times `factor`, rounded up with the chance of its fraction."""

    min: int
    max: int
    step: int = 1
    dice: str | None = None
    factor: float = 1.0


class GuardOut(Part):
    after: int
    rise: float
    sure_at: int | None = None


class YieldOut(Part):
    """One of item, table, source, pool (its number in `pools`)."""

    item: str | None = None
    table: str | None = None
    source: str | None = None
    pool: int | None = None
    quantity: QuantityOut


class LineOut(Part):
    """`below`: in a pick and a retry the cumulative bound, in each and first the line's own chance. `hit` of
    a retry the line's chance, `copies` of a deck. `weight` is what bounds are made of."""

    id: str
    below: int = Bound
    weight: float
    hit: int | None = None
    copies: int | None = None
    limit: int | None = None
    guard: GuardOut | None = None
    yields: list[YieldOut]


class Span(Part):
    """Depths `from` to `to`, where of the flags asked about just `flags` are set. Open lines only."""

    from_: int = Field(alias="from")
    to: int
    flags: list[str]
    nothing: float
    rolls: QuantityOut
    lines: list[LineOut]


class TableOut(Part):
    id: str
    rule: Literal["pick", "each", "first", "retry", "deck"]
    asks: list[str]
    distinct: bool
    tries: int
    dynamic: bool
    spans: list[Span]


class DropOut(Part):
    id: str
    below: int = Bound
    table: str
    guard: GuardOut | None = None
    times: QuantityOut


class DropSpan(Part):
    from_: int = Field(alias="from")
    to: int
    flags: list[str]
    drops: list[DropOut]


class SourceOut(Part):
    id: str
    kind: str
    depths: tuple[int, int] | None = None
    seconds: float
    price: dict[str, Any] | None = None
    cells: tuple[int, int] | None = None
    asks: list[str]
    spans: list[DropSpan]


class PoolItem(Part):
    id: str
    below: int = Bound


class PoolSpan(Part):
    from_: int = Field(alias="from")
    to: int
    items: list[PoolItem]


class PoolOut(Part):
    tiers: list[str]
    tags: list[str]
    spans: list[PoolSpan]


class Thresholds(Part):
    format: Literal["golddice-thresholds"]
    version: Literal[1]
    game: str
    depths: tuple[int, int]
    tables: list[TableOut]
    sources: list[SourceOut]
    pools: list[PoolOut]


def thresholds(game: Game, first: int | None = None, last: int | None = None) -> dict[str, Any]:
    """Of the game's depths, or of some.

    Raises QueryError where there are none of these, TooLarge where a table asks about too many flags.
    """
    low = game.depth.from_ if first is None else max(first, game.depth.from_)
    high = game.depth.to if last is None else min(last, game.depth.to)
    if low > high:
        asked = f"{game.depth.from_ if first is None else first} to {game.depth.to if last is None else last}"
        raise QueryError(
            f"there are no depths from {asked}; ask for some of {game.depth.from_} to {game.depth.to}"
        )
    made = _Maker(game, low, high)
    found = Thresholds(
        format=FORMAT,
        version=1,
        game=game.name,
        depths=(low, high),
        tables=[made.table(table) for table in game.tables],
        sources=[made.source(source) for source in game.sources],
        pools=made.pools(),
    )
    return found.model_dump(mode="json", by_alias=True, exclude_none=True)


def bounds(weights: list[float], nothing: float) -> list[int]:
    """Cumulative bounds of weights with what is nothing above the last: shares of 2^32 by the largest
    remainder, no line of weight 0 with a number, none above 0 without."""
    exact = [Fraction(weight) for weight in [*weights, nothing]]
    total = sum(exact, Fraction(0))
    if total == 0:
        return [0] * len(weights)
    shares = [WHOLE * one / total for one in exact]
    counts = [max(int(share), 1 if share > 0 else 0) for share in shares]
    left = WHOLE - sum(counts)
    order = sorted(range(len(shares)), key=lambda at: (counts[at] - shares[at], at))
    for at in order[:left] if left > 0 else ():
        counts[at] += 1
    while left < 0:  # many tiny ones were raised to 1: the largest give it back
        counts[max(range(len(counts)), key=lambda at: counts[at])] -= 1
        left += 1
    return [int(one) for one in np.cumsum(counts[:-1], dtype=np.int64)]


def chance_bound(chance: float) -> int:
    """A chance as a number of 2^32: 0 and 1 exactly, nothing between them as either."""
    if chance <= 0.0:
        return 0
    if chance >= 1.0:
        return WHOLE
    return min(max(round(Fraction(chance) * WHOLE), 1), WHOLE - 1)


class _Maker:
    def __init__(self, game: Game, low: int, high: int) -> None:
        self.game, self.depths = game, range(low, high + 1)
        self._under: dict[frozenset[str], Conditions] = {}
        self._pools: dict[tuple[tuple[str, ...], tuple[str, ...]], int] = {}

    def under(self, flags: frozenset[str]) -> Conditions:
        if flags not in self._under:
            self._under[flags] = Conditions(self.game, self.depths, flags)
        return self._under[flags]

    def table(self, table: Table) -> TableOut:
        go_on()
        asks = _asks(table.id, table.lines)
        spans: list[Span] = []
        for flags in _subsets(asks):
            rows = [self._span(table, flags, row) for row in range(len(self.depths))]
            spans += [_joined(group) for group in _alike(rows)]
        held = any(line.limit is not None or line.guard is not None for line in table.lines)
        distinct = isinstance(table, PickTable) and table.distinct
        return TableOut(
            id=table.id,
            rule=table.rule,
            asks=asks,
            distinct=distinct,
            tries=table.tries if isinstance(table, RetryTable) else 1,
            dynamic=held or distinct or table.rule == "deck",
            spans=spans,
        )

    def _span(self, table: Table, flags: frozenset[str], row: int) -> Span:
        under = self.under(flags)
        is_deck = isinstance(table, DeckTable)
        shown = [
            at for at, line in enumerate(table.lines) if bool(under.line_open(line, scaled=not is_deck)[row])
        ]
        nothing = float(under.nothing(table)[row]) if isinstance(table, PickTable) else 0.0
        weights, below, hits = self._numbers(table, under, row, shown, nothing)
        lines = [
            LineOut(
                id=table.lines[at].id,
                below=below[place],
                weight=weights[place],
                hit=hits[place] if hits else None,
                copies=_copies(table.lines[at]),
                limit=table.lines[at].limit,
                guard=_guard(table.lines[at].guard),
                yields=[self._yield(given, under, row) for given in table.lines[at].yields],
            )
            for place, at in enumerate(shown)
        ]
        depth = self.depths[row]
        return Span(
            **{"from": depth},
            to=depth,
            flags=sorted(flags),
            nothing=nothing,
            rolls=self._quantity(table.rolls, under, row),
            lines=lines,
        )

    def _numbers(
        self, table: Table, under: Conditions, row: int, shown: list[int], nothing: float
    ) -> tuple[list[float], list[int], list[int]]:
        if table.rule in ("pick", "retry"):
            weights = under.weights(table)[shown, row].tolist()
            hits: list[int] = []
            if table.rule == "retry":
                hits = [chance_bound(one) for one in under.chances(table)[shown, row].tolist()]
            return weights, bounds(weights, nothing), hits
        if table.rule == "deck":
            copies = [float(_copies(table.lines[at]) or 0) for at in shown]
            return copies, bounds(copies, 0.0), []
        chances = under.chances(table)[shown, row].tolist()
        return chances, [chance_bound(one) for one in chances], []

    def _yield(self, given: Yield, under: Conditions, row: int) -> YieldOut:
        quantity = self._quantity(given.quantity, under, row)
        match given.what:
            case ItemNamed(item):
                return YieldOut(item=item, quantity=quantity)
            case Pool() as pool:
                key = tuple(pool.tiers), tuple(pool.tags)
                number = self._pools.setdefault(key, len(self._pools))
                return YieldOut(pool=number, quantity=quantity)
            case View("table", name):
                return YieldOut(table=name, quantity=quantity)
            case View(_, name):
                return YieldOut(source=name, quantity=quantity)

    def _quantity(self, quantity: Quantity, under: Conditions, row: int) -> QuantityOut:
        factor = float(under.curve(quantity.curve)[row])
        if quantity.dice is not None:
            return QuantityOut(min=0, max=0, dice=quantity.dice, factor=factor)
        return QuantityOut(min=quantity.least, max=quantity.most, step=quantity.step, factor=factor)

    def source(self, source: Source) -> SourceOut:
        asks = _asks(source.id, source.drops)
        spans: list[DropSpan] = []
        for flags in _subsets(asks):
            rows = [self._drop_span(source, flags, row) for row in range(len(self.depths))]
            spans += [_joined(group) for group in _alike(rows)]
        price = None if source.price is None else source.price.model_dump(mode="json")
        return SourceOut(
            id=source.id,
            kind=source.kind,
            depths=source.depths,
            seconds=source.seconds,
            price=price,
            cells=source.cells,
            asks=asks,
            spans=spans,
        )

    def _drop_span(self, source: Source, flags: frozenset[str], row: int) -> DropSpan:
        under, depth = self.under(flags), self.depths[row]
        drops = [self._drop(drop, under, row) for drop in source.drops if bool(under.drop_open(drop)[row])]
        return DropSpan(**{"from": depth}, to=depth, flags=sorted(flags), drops=drops)

    def _drop(self, drop: Drop, under: Conditions, row: int) -> DropOut:
        return DropOut(
            id=drop.id,
            below=chance_bound(float(under.drop_chance(drop)[row])),
            table=drop.table,
            guard=_guard(drop.guard),
            times=self._quantity(drop.times, under, row),
        )

    def pools(self) -> list[PoolOut]:
        """Those that were named by now, in the order of their numbers."""
        under, found = self.under(frozenset()), []
        for tiers, tags in self._pools:
            pool = Pool(tiers=list(tiers), tags=list(tags))
            members, chances = under.pool_items(pool), under.pool_chances(pool)
            rows = []
            for row, depth in enumerate(self.depths):
                below = bounds(chances[:, row].tolist(), 0.0)
                ends = zip(members, below, chances[:, row], strict=True)
                items = [PoolItem(id=self.game.items[at].id, below=end) for at, end, p in ends if p > 0]
                rows.append(PoolSpan(**{"from": depth}, to=depth, items=items))
            found.append(
                PoolOut(tiers=list(tiers), tags=list(tags), spans=[_joined(one) for one in _alike(rows)])
            )
        return found


def _asks(name: str, parts: Any) -> list[str]:
    """The flags that lines or drops ask about."""
    found = sorted({flag for part in parts for flag in (*part.needs, *part.unless)})
    if len(found) > MOST_FLAGS:
        raise TooLarge(
            f"“{name}” asks about {len(found)} flags; thresholds are told for {MOST_FLAGS} at most"
        )
    return found


def _subsets(flags: list[str]) -> Iterator[frozenset[str]]:
    for size in range(len(flags) + 1):
        for some in combinations(flags, size):
            yield frozenset(some)


def _alike(rows: list[Any]) -> list[list[Any]]:
    """Rows one after another that are the same but for their depth."""
    found = groupby(rows, key=lambda one: one.model_dump_json(exclude={"from_", "to"}))
    return [list(group) for _, group in found]


def _joined(group: list[Any]) -> Any:
    return group[0].model_copy(update={"to": group[-1].to})


def _guard(guard: Guard | None) -> GuardOut | None:
    return None if guard is None else GuardOut(after=guard.after, rise=guard.rise, sure_at=guard.sure_at)


def _copies(line: Line) -> int | None:
    return line.copies if isinstance(line, DeckLine) else None
