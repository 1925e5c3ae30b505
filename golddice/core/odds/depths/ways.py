"""Every path from a source to an item, and how many of it come that way at each depth."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from golddice.core.arrays import FloatArray
from golddice.core.game.models import ItemNamed, Pool, Source, Yield
from golddice.core.game.views import View
from golddice.core.odds.depths.along import met_at
from golddice.core.odds.event.rules import line_hits
from golddice.core.stopping import go_on
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.size import in_order, inner_of


@dataclass(frozen=True)
class Way:
    """One path to an item and its units per event by depth.

    `path` are the tables it goes through from the drop on, by ("table", id); where a line yields a
    source, that source ("source", id) and the table it rolls follow. `line` is of the last table.
    """

    source: str
    drop: str
    path: list[View]
    line: str
    mean: FloatArray


def item_ways(under: Conditions, item: int) -> Iterator[Way]:
    """Each path from a source to a line that gives the item, with expected units per event.

    Of a fresh player whose misses, hits and cards stay as they are throughout the event.
    """
    reaching = _reaching(under, item)
    for source in under.game.sources:
        flow = met_at(under, source) * under.ones
        for drop, step in zip(source.drops, _by_drops(under, source, flow, []), strict=True):
            yield from (Way(source.id, drop.id, *found) for found in _within(under, step, item, reaching))


Step = tuple[View, FloatArray, list[View]]  # a table, how often it is executed, what led to it
Found = tuple[list[View], str, FloatArray]  # what led to a line, the line, how many of the item it gives


def _by_drops(under: Conditions, source: Source, flow: FloatArray, path: list[View]) -> Iterator[Step]:
    for drop in source.drops:
        tried = flow * under.drop_chance(drop) * under.law(drop.times).mean
        yield View("table", drop.table), tried, path


def _within(under: Conditions, start: Step, item: int, reaching: set[View]) -> Iterator[Found]:
    """Every way on from a table, depth first, without recursion: tables nest as deep as they like."""
    pending: list[Iterator[Step | Found]] = [iter([start])]
    while pending:
        go_on()
        step = next(pending[-1], None)
        if step is None:
            pending.pop()
        elif not isinstance(step[0], View):
            yield step
        elif step[0] in reaching and bool((step[1] > 0).any()):
            pending.append(_on_from(under, step, item))


def _on_from(under: Conditions, step: Step, item: int) -> Iterator[Step | Found]:
    """What the lines of a table lead to: the item itself, or other tables."""
    view, flow, before = step
    table, path = under.table(view.id), [*before, view]
    hits = line_hits(under, table) * flow
    for row, line in enumerate(table.lines):
        for given in line.yields:
            units = hits[row] * under.law(given.quantity).mean
            match given.what:
                case ItemNamed(name):
                    share = 1.0 if under.item_index[name] == item else 0.0
                case Pool() as pool:
                    place = np.flatnonzero(under.pool_items(pool) == item)
                    share = under.pool_chances(pool)[place[0]] if place.size else 0.0
                case View("table") as inner:
                    yield inner, units, path
                    continue
                case View() as inner:
                    yield from _by_drops(under, under.source(inner.id), units, [*path, inner])
                    continue
            if bool(np.any(units * share > 0)):
                yield path, line.id, units * share


def _reaching(under: Conditions, item: int) -> set[View]:
    """Tables and sources from which the item can be reached."""

    def gives(given: Yield) -> bool:
        match given.what:
            case ItemNamed(name):
                return under.item_index[name] == item
            case Pool() as pool:
                return item in under.pool_items(pool)
        return False

    found: set[View] = set()
    for view in in_order(under, [View("table", table.id) for table in under.game.tables]):
        own = view.kind == "table" and any(
            gives(given) for line in under.table(view.id).lines for given in line.yields
        )
        if own or any(link in found for link in inner_of(under, view)):
            found.add(view)
    return found
