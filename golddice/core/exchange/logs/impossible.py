"""What came that cannot: items, amounts and numbers of rows that no event of a source gives, limits and
promises that were passed."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import Any

import numpy as np

from golddice.core.arrays import IntArray, distinct
from golddice.core.errors import TooLarge
from golddice.core.exchange.logs.events import AT_ONCE, Events
from golddice.core.exchange.logs.reading import Log
from golddice.core.game.models import Drop, Game, Guard, Item, Line, Source, Table
from golddice.core.game.quantity import ONE
from golddice.core.game.views import View
from golddice.core.stopping import go_on
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.law import law_of
from golddice.core.tuning.promises import reach

SHOWN = 5
_SURE = 1e-6  # how unlikely it must be that an end of a range never came
_MOST_WAYS = 10_000
_MOST_SUMS = 2_000_000


def fault(
    log: Log, kind: str, source: Source | None, item: Item | None, count: int, rows: IntArray, says: str
) -> dict[str, Any]:
    return {
        "fault": kind,
        "source": None if source is None else source.id,
        "item": None if item is None else item.id,
        "count": count,
        "rows": log.numbers(rows[:SHOWN].astype(np.int64)).tolist(),
        "says": says,
    }


# --- more than one event can give --------------------------------------------------------------------------


def beyond_one(game: Game, log: Log, events: Events) -> IntArray:
    """Events with more rows than an event of their source has yields at the most: rolled twice, and written
    under one name."""
    rows = np.bincount(events.of_row[log.item >= 0], minlength=events.first.size).astype(np.int32)
    once, counts, known = _each_yield_once(game), np.ones(len(game.items)), dict[int, float]()
    found = [np.zeros(0, dtype=np.int64)]
    for first in range(0, rows.size, AT_ONCE):
        go_on()
        some = first + np.flatnonzero(rows[first : first + AT_ONCE] > 1)
        some = some[events.source[some] >= 0]
        source = events.source[some].astype(np.int64)
        keys = (source << 40) + (events.depth[some].astype(np.int64) << 20) + events.flags[some]
        places, which = np.unique(keys, return_inverse=True)
        for key in places.tolist():
            if key not in known:
                at, flags = game.sources[key >> 40], log.flag_sets[key & 0xFFFFF]
                known[key] = _most(once, at, counts, (key >> 20) & 0xFFFFF, flags)
        most = np.array([known[key] for key in places.tolist()])
        found.append(some[rows[some] > most[which]] if places.size else some)
    return np.concatenate(found)


def most_of(game: Game, source: Source, item: int, depth: int, flags: frozenset[str]) -> float:
    """How many of an item one event of a source can give; infinite where that is not decided."""
    counts = np.zeros(len(game.items))
    counts[item] = 1.0
    return _most(game, source, counts, depth, flags)


def _most(game: Game, source: Source, counts: Any, depth: int, flags: frozenset[str]) -> float:
    try:
        return reach(Conditions(game, [depth], flags), View("source", source.id), counts).most
    except TooLarge:
        return math.inf


def _each_yield_once(game: Game) -> Game:
    """The game with one of every item that a line names, so that what is counted are yields."""
    tables = []
    for table in game.tables:
        lines = [
            line.model_copy(
                update={
                    "yields": [
                        one if one.item is None else one.model_copy(update={"quantity": ONE})
                        for one in line.yields
                    ]
                }
            )
            for line in table.lines
        ]
        tables.append(table.model_copy(update={"lines": lines}))
    return game.model_copy(update={"tables": tables})


# --- what a source cannot do -------------------------------------------------------------------------------


def impossible(game: Game, log: Log, events: Events, place: int, rows: IntArray) -> Iterator[dict[str, Any]]:
    """What came from a source, by its place in the game, that cannot; `rows` are those of its events."""
    source = game.sources[place]
    tables = {table.id: table for table in game.tables}
    for at in np.unique(log.item[rows]).tolist():
        item = game.items[at]
        mine = rows[log.item[rows] == at]
        ways = list(_ways(game, tables, source, item))
        wrong = _cannot_fall(game, log, events, source, at, mine)
        if wrong.size:
            says = f"{item.name} came {wrong.size} times from {source.name} where it cannot"
            yield fault(log, "cannot-fall", source, item, int(wrong.size), wrong, says)
        elif ways:
            yield from _quantities(game, log, events, source, at, ways, mine)
        yield from _limits(log, events, source, item, ways, mine)
    yield from _guards(game, log, events, place, tables)


Way = tuple[Table, Line, Any]


def _ways(game: Game, tables: dict[str, Table], source: Source, item: Item) -> Iterator[Way]:
    """Every yield that gives an item, by itself or through a pool, of what a source reaches."""
    pending, seen = [drop.table for drop in source.drops], set()
    others = {one.id: one for one in game.sources}
    while pending:
        name = pending.pop()
        if name in seen:
            continue
        seen.add(name)
        for line in tables[name].lines:
            for given in line.yields:
                if given.table is not None:
                    pending.append(given.table)
                elif given.source is not None:
                    pending += [drop.table for drop in others[given.source].drops]
                elif given.item == item.id or (given.pool is not None and _fits(given.pool, item)):
                    yield tables[name], line, given


def _fits(pool: Any, item: Item) -> bool:
    of_tier = not pool.tiers or item.tier in pool.tiers
    return of_tier and (not pool.tags or any(tag in item.tags for tag in pool.tags))


def _cannot_fall(game: Game, log: Log, events: Events, source: Source, item: int, rows: IntArray) -> IntArray:
    """Rows of an item at depths and with flags at which no event of the source can give it."""
    counts = np.zeros(len(game.items))
    counts[item] = 1.0
    owners = events.of_row[rows]
    keys = events.depth[owners].astype(np.int64) * 4096 + events.flags[owners]
    wrong = []
    for key in np.unique(keys):
        flags = log.flag_sets[int(key % 4096)]
        under = Conditions(game, [int(key // 4096)], flags)
        try:
            if reach(under, View("source", source.id), counts).most == 0:
                wrong.append(rows[keys == key])
        except TooLarge:
            continue
    return np.sort(np.concatenate(wrong)) if wrong else np.zeros(0, dtype=np.int64)


def _quantities(
    game: Game, log: Log, events: Events, source: Source, at: int, ways: list[Way], rows: IntArray
) -> Iterator[dict[str, Any]]:
    """A quantity that cannot come; an end of the one range there is that never comes.

    Where an event can bring an item in several ways and none has two rows of it, what they brought may stand
    added up in one row.
    """
    item, given = game.items[at], [one for _, _, one in ways]
    if any(one.pool is not None or one.quantity.curve is not None for one in given):
        return
    laws = [law_of(one.quantity) for one in given]
    allowed = np.unique(np.concatenate([law.row(0)[0] for law in laws]))
    seen, times = log.quantity[rows], 1
    outside = rows[~np.isin(seen, allowed)]
    never_comes = any(not (seen == end).any() for law in laws for end in law.row(0)[0][[0, -1]])
    if (outside.size or never_comes) and not _has_two_rows(events.of_row[rows]):
        times = _most_ways(game, log, events, source, at, rows)
        outside = outside[~_are_sums(log.quantity[outside], allowed, times)]
    if outside.size:
        low, high = int(allowed[allowed > 0].min()), int(allowed.max()) * times
        says = f"{outside.size} times so many {item.name} that no line gives: {low} to {high} can come"
        yield fault(log, "outside-range", source, item, int(outside.size), outside, says)
    if times > 1:
        return
    if len({str(one.quantity) for one in given}) != 1:
        return
    values, chances = laws[0].row(0)
    some = values > 0
    values, chances = values[some], chances[some] / chances[some].sum()
    for end in (0, values.size - 1) if values.size > 1 else ():
        if (seen == values[end]).any():
            continue
        never = rows.size * math.log1p(-float(chances[end])) / math.log(10)
        if never < math.log10(_SURE):
            of = f"{int(values[end])} of {given[0].quantity} {item.name}"
            says = f"{of} never in {rows.size:,}: 10^{never:.0f}"
            yield fault(log, "missing-end", source, item, int(rows.size), rows, says)


def _has_two_rows(owners: IntArray) -> bool:
    """Whether any event has two of these rows."""
    return bool(distinct(owners).size < owners.size)


def _most_ways(game: Game, log: Log, events: Events, source: Source, item: int, rows: IntArray) -> int:
    """How many yields of an item one event can bring at the most, wherever these rows are of."""
    owners = events.of_row[rows]
    once, most = _each_yield_once(game), 1.0
    for key in np.unique(events.depth[owners].astype(np.int64) * 4096 + events.flags[owners]):
        flags = log.flag_sets[int(key % 4096)]
        most = max(most, most_of(once, source, item, int(key // 4096), flags))
    return int(min(most, _MOST_WAYS))


def _are_sums(amounts: IntArray, allowed: IntArray, most: int) -> Any:
    """Which amounts are sums of up to so many allowed ones; of large ones only whether they lie between."""
    some, high = allowed[allowed > 0], int(allowed.max(initial=0)) * most
    if high * most > _MOST_SUMS:
        return (amounts >= some.min()) & (amounts <= high)
    come = np.zeros(high + 1, dtype=bool)
    come[0] = True
    for _ in range(most):
        before = come.copy()
        for amount in some.tolist():
            come[amount:] |= before[: come.size - amount]
    return come[np.minimum(amounts, high)] & (amounts <= high)


def _limits(
    log: Log, events: Events, source: Source, item: Item, ways: list[Way], rows: IntArray
) -> Iterator[dict[str, Any]]:
    """More of an item than the limits of all lines that give it let a player have."""
    if not ways or any(line.limit is None or given.pool is not None for _, line, given in ways):
        return
    most = sum(line.limit or 0 for _, line, _ in ways)
    players, counts = np.unique(events.player[events.of_row[rows]], return_counts=True)
    over = players[counts > most]
    if over.size:
        bad = rows[np.isin(events.player[events.of_row[rows]], over)]
        says = f"{over.size} players had {item.name} more than {most} times"
        yield fault(log, "over-limit", source, item, int(over.size), bad, says)


def _guards(
    game: Game, log: Log, events: Events, place: int, tables: dict[str, Table]
) -> Iterator[dict[str, Any]]:
    """A wait beyond `sure_at`: of a line rolled for certain at every event, that alone gives its item."""
    source = game.sources[place]
    for drop in source.drops:
        table = tables[drop.table]
        rolls = drop.times.least * table.rolls.least
        if _is_certain(drop) and rolls >= 1 and table.rolls.curve is None:
            for line in table.lines:
                item = _promised(game, line)
                if item is not None and len(list(_ways(game, tables, source, item))) == 1:
                    assert line.guard is not None
                    at = game.items.index(item)
                    yield from _late(log, events, place, source, at, item, line.guard, rolls)


def _is_certain(drop: Drop) -> bool:
    bare = drop.curve is None and drop.times.curve is None and drop.guard is None
    return bare and drop.chance >= 1 and not _is_gated(drop)


def _promised(game: Game, line: Line) -> Item | None:
    """The item of a line whose guard makes it sure, and which nothing can take away again."""
    if line.guard is None or line.guard.sure_at is None or _is_gated(line) or line.limit is not None:
        return None
    named = [given.item for given in line.yields if given.item is not None and given.quantity.least > 0]
    return next((one for one in game.items if named and one.id == named[0]), None)


def _is_gated(part: Line | Drop) -> bool:
    return bool(part.depths or part.needs or part.unless)


def _late(
    log: Log, events: Events, place: int, source: Source, at: int, item: Item, guard: Guard, rolls: int
) -> Iterator[dict[str, Any]]:
    """Every wait, from the last of the item or the player's first event on, as long as the promise; one twice
    as long counts twice."""
    assert guard.sure_at is not None
    mine = np.flatnonzero(events.source == place)
    order = mine[np.argsort(events.player[mine], kind="stable")]
    has = np.zeros(events.first.size, dtype=bool)
    has[events.of_row[(log.item == at) & (log.quantity > 0)]] = True
    is_new = np.ones(order.size, dtype=bool)
    is_new[1:] = np.diff(events.player[order]) != 0
    index = np.arange(order.size)
    wait = index - np.maximum.accumulate(np.where(has[order], index, np.where(is_new, index - 1, -1)))
    late = order[(wait > 0) & (wait % -(-guard.sure_at // rolls) == 0)]
    if late.size:
        says = f"{late.size} times no {item.name} in so many rolls that it was sure by {guard.sure_at}"
        yield fault(log, "late-guard", source, item, int(late.size), events.first[late], says)
