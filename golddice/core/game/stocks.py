"""What must hold between places, stalls and the tables that are their stock: checked on games that are sound
otherwise."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np
from propcache.api import cached_property

from golddice.core.errors import Problem
from golddice.core.game.curves import multiplier
from golddice.core.game.models import Curve, Game, ItemNamed, Line, PickTable, Pool, Table
from golddice.core.game.places import Filled, Place, Stall


class Stocked:
    """What lines are weighed and sorted by, looked up once for all stalls of a game."""

    def __init__(self, game: Game) -> None:
        self.game = game
        self._factors: dict[tuple[str | None, int], float] = {}

    @cached_property
    def tiers(self) -> dict[str, str]:
        """Of each item."""
        return {item.id: item.tier for item in self.game.items}

    @cached_property
    def tags(self) -> dict[tuple[str, str], list[str]]:
        """Of each item and source."""
        tags = {("item", item.id): list(item.tags) for item in self.game.items}
        return tags | {("source", source.id): list(source.tags) for source in self.game.sources}

    @cached_property
    def _tier_curves(self) -> dict[str, str | None]:
        return {tier.id: tier.curve for tier in self.game.tiers}

    @cached_property
    def _curves(self) -> dict[str, Curve]:
        return {curve.id: curve for curve in self.game.curves}

    def weight_at(self, line: Line, depth: int) -> float:
        """A line's weight at a depth, 0 where it is closed; no flag is set."""
        low, high = line.depths or (depth, depth)
        if line.needs or not low <= depth <= high:
            return 0.0
        of_tier = self._tier_curves.get(self.tier_of(line) or "")
        factors = self._factor(line.curve, depth) * self._factor(of_tier, depth)
        return float(getattr(line, "weight", 1.0)) * factors

    def _factor(self, name: str | None, depth: int) -> float:
        if (name, depth) not in self._factors:
            found = self._curves.get(name or "")
            factor = 1.0 if found is None else float(multiplier(found, np.array([depth]))[0])
            self._factors[name, depth] = factor
        return self._factors[name, depth]

    def tier_of(self, line: Line) -> str | None:
        """The one tier that all items and pools of a line have; None where there is no such."""
        tiers: set[str | None] = set()
        for given in line.yields:
            if isinstance(given.what, ItemNamed):
                tiers.add(self.tiers.get(given.what.id))
            elif isinstance(given.what, Pool):
                tiers.add(given.what.tiers[0] if len(set(given.what.tiers)) == 1 else None)
        return tiers.pop() if len(tiers) == 1 else None

    def kinds_of(self, line: Line) -> set[str]:
        """The tags of all that a line names; of a pool its own."""
        found: set[str] = set()
        for given in line.yields:
            if given.pool is not None:
                found.update(given.pool.tags)
            elif given.item is not None:
                found.update(self.tags.get(("item", given.item), ()))
            elif given.source is not None:
                found.update(self.tags.get(("source", given.source), ()))
        return found


def stock_problems(game: Game) -> Iterator[Problem]:
    """Of every place and stall, with paths in the file."""
    tables: dict[str, Table] = {table.id: table for table in game.tables}
    stocked = Stocked(game)
    for at, place in enumerate(game.places):
        for one in place_problems(place, tables.get(place.stock)):
            yield Problem(f"places[{at}].{one.path}", one.message)
    for at, stall in enumerate(game.stalls):
        for one in stall_problems(stocked, stall, tables.get(stall.stock)):
            yield Problem(f"stalls[{at}].{one.path}", one.message)


def place_problems(place: Place, table: Table | None) -> Iterator[Problem]:
    yield from plan_problems(place.model_dump(include={"size", "covers", "spots"}))
    if place.way == "each-rolls" and isinstance(place.filled, Filled):
        yield Problem("filled", "every spot rolls by itself: say which share of them is filled, no count")
    lines = {line.id for line in table.lines} if table is not None else None
    told: set[str] = set()
    for at, least in enumerate(place.least):
        if place.way == "each-rolls":
            yield Problem(
                f"least[{at}]", "every spot rolls by itself: nothing is certain; share it out instead"
            )
        if least.line in told:
            yield Problem(f"least[{at}].line", f"“{least.line}” has a least already; put both in one")
        if lines is not None and least.line not in lines:
            yield Problem(f"least[{at}].line", f"the stock has no line “{least.line}”")
        told.add(least.line)
    yield from _of_stock(table)
    if lines is not None and "empty" in lines:
        yield Problem("stock", "a line with the id “empty” could not be told from an empty spot; rename it")


def plan_problems(body: dict[str, Any]) -> Iterator[Problem]:
    """Of a place's covers and spots, from its body, of which other parts may be unsound."""
    match body.get("size"):
        case (int(columns), int(rows)) if columns > 0 and rows > 0:
            yield from _of_covers(body.get("covers"), columns, rows)
            yield from _of_spots(body.get("spots"), columns, rows)


def _of_covers(covers: Any, columns: int, rows: int) -> Iterator[Problem]:
    for at, cover in enumerate(covers if isinstance(covers, list) else ()):
        match cover:
            case {"rows": list(told)} if not all(isinstance(row, str) for row in told):
                continue
            case {"rows": list(told)} if len(told) == rows and all(len(row) == columns for row in told):
                continue
            case {**other} if isinstance(other.get("rows", []), list):
                message = f"the plan has {rows} rows of {columns} cells; so must a cover"
                yield Problem(f"covers[{at}].rows", message)


def _of_spots(spots: Any, columns: int, rows: int) -> Iterator[Problem]:
    taken: dict[tuple[int, int], Any] = {}
    for at, spot in enumerate(spots if isinstance(spots, list) else ()):
        match spot:
            case {"x": int(x), "y": int(y)} if x >= columns or y >= rows:
                message = f"column {x}, row {y} is outside the plan of {columns} × {rows}"
                yield Problem(f"spots[{at}]", message)
            case {"x": int(x), "y": int(y)}:
                if (x, y) in taken:
                    message = f"the cell of “{str(taken[x, y])[:80]}”; move one of them"
                    yield Problem(f"spots[{at}]", message)
                taken.setdefault((x, y), spot.get("id"))


def _of_stock(table: Table | None) -> Iterator[Problem]:
    if table is not None and not isinstance(table, PickTable):
        yield Problem("stock", f"“{table.id}” picks no line by weight; a stock is a table that does")


def stall_problems(stocked: Stocked, stall: Stall, table: Table | None) -> Iterator[Problem]:
    game = stocked.game
    yield from _of_stock(table)
    if stall.way == "deal" and stall.fixed:
        yield Problem("fixed", "goods that are dealt have no fixed slots; draw them, or take these out")
    told: set[int] = set()
    for at, fixed in enumerate(stall.fixed):
        if fixed.slot > stall.slots:
            yield Problem(f"fixed[{at}].slot", f"there are {stall.slots} slots")
        if fixed.slot in told:
            yield Problem(f"fixed[{at}].slot", f"slot {fixed.slot} is fixed already")
        told.add(fixed.slot)
    if not game.depth.from_ <= stall.depth <= game.depth.to:
        yield Problem("depth", f"the game's depths are {game.depth.from_} to {game.depth.to}")
    elif isinstance(table, PickTable):
        goods = sum(stocked.weight_at(line, stall.depth) > 0 for line in table.lines)
        if stall.slots > goods:
            yield Problem("slots", f"{stall.slots} slots, and at depth {stall.depth} there are {goods} goods")
