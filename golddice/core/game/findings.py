"""Findings: what is odd about a sound game, said while editing, never in the way."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import asdict, dataclass
from typing import Any, Literal

from golddice.core.game.models import Game, Source, Table


@dataclass(frozen=True)
class Finding:
    """One thing worth a look: how bad, where (as a JSON path), of which entity, and why."""

    level: Literal["error", "warning"]
    path: str
    kind: str
    id: str
    message: str

    def plain(self) -> dict[str, Any]:
        return asdict(self)


def findings(game: Game) -> list[Finding]:
    """All findings of a sound game, in file order."""
    return [
        *_unused_items(game),
        *_tables(game),
        *_stacks(game),
        *_sources(game),
    ]


def _unused_items(game: Game) -> Iterator[Finding]:
    pools = [
        given.pool
        for table in game.tables
        for line in table.lines
        for given in line.yields
        if given.pool is not None
    ]
    offered = {given.item for table in game.tables for line in table.lines for given in line.yields}
    for at, item in enumerate(game.items):
        pooled = any(
            (not pool.tiers or item.tier in pool.tiers) and (not pool.tags or set(pool.tags) & set(item.tags))
            for pool in pools
        )
        if item.id not in offered and not pooled:
            message = f"nobody can receive {item.name}: no table offers it"
            yield Finding("warning", f"items[{at}]", "item", item.id, message)


def _tables(game: Game) -> Iterator[Finding]:
    used = {drop.table for source in game.sources for drop in source.drops}
    used |= {
        given.table for table in game.tables for line in table.lines for given in line.yields if given.table
    }
    used |= {band.spawns for band in game.depth.bands if band.spawns}
    for at, table in enumerate(game.tables):
        path = f"tables[{at}]"
        if table.id not in used:
            message = f"nobody reaches {table.name}: no drop, line or band rolls it"
            yield Finding("warning", path, "table", table.id, message)
        yield from _lines(table, path)


def _lines(table: Table, path: str) -> Iterator[Finding]:
    for at, line in enumerate(table.lines):
        here = f"{path}.lines[{at}]"
        entered = getattr(line, "weight", None) if table.rule == "pick" else getattr(line, "chance", 1)
        if entered == 0 and line.guard is None:
            yield Finding("warning", here, "table", table.id, "this line can never hit: it has 0")
        for place, given in enumerate(line.yields):
            if given.quantity.most == 0:
                message = "this line can hit and give none of it: its quantity is 0"
                yield Finding("warning", f"{here}.yields[{place}]", "table", table.id, message)
    yield from _shadowed(table, path)
    yield from _weights_like_percent(table, path)


def _stacks(game: Game) -> Iterator[Finding]:
    """A quantity that no stack can hold."""
    items = {item.id: item for item in game.items}
    for at, table in enumerate(game.tables):
        for row, line in enumerate(table.lines):
            for place, given in enumerate(line.yields):
                item = items.get(given.item or "")
                if item is not None and given.quantity.most > item.stack:
                    path = f"tables[{at}].lines[{row}].yields[{place}].quantity"
                    message = f"up to {given.quantity.most} {item.name}, but a stack holds {item.stack}"
                    yield Finding("warning", path, "table", table.id, message)


def _shadowed(table: Table, path: str) -> Iterator[Finding]:
    if table.rule != "first":
        return
    sure = next((at for at, line in enumerate(table.lines) if line.chance == 1), None)
    for at in range(sure + 1, len(table.lines)) if sure is not None else ():
        message = "this line is never tested: an earlier one always hits"
        yield Finding("warning", f"{path}.lines[{at}]", "table", table.id, message)


def _weights_like_percent(table: Table, path: str) -> Iterator[Finding]:
    if table.rule != "pick" or len(table.lines) < 2:
        return
    weights = [*(line.weight for line in table.lines), table.nothing]
    total = sum(weights)
    if total != 100 and 98 <= total <= 102 and all(weight == int(weight) for weight in weights):
        message = f"the weights look like percentages but add up to {total:g}, not 100"
        yield Finding("warning", path, "table", table.id, message)


def _sources(game: Game) -> Iterator[Finding]:
    for at, source in enumerate(game.sources):
        yield from _one_source(source, f"sources[{at}]")


def _one_source(source: Source, path: str) -> Iterator[Finding]:
    if not source.drops:
        message = f"{source.name} gives nothing: it has no drops"
        yield Finding("warning", path, "source", source.id, message)
    for place, drop in enumerate(source.drops):
        if drop.chance == 0 and drop.guard is None:
            message = "this drop never happens: its chance is 0"
            yield Finding("warning", f"{path}.drops[{place}]", "source", source.id, message)
