"""Expected numbers, from the top down: how often each table is rolled within one event, and so how many
of each item it gives.

Unlike chances these need nothing of a table but how often its lines hit, so they are cheap: no table has
an array of its own over items. Of a fresh player whose misses, hits and cards stay as they are
throughout the event.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass

import numpy as np

from golddice.core.arrays import FloatArray, IntArray
from golddice.core.game.models import Pool, Table
from golddice.core.game.views import View
from golddice.core.odds.depths.mixing import mix_items_into
from golddice.core.odds.event.rules import line_hits
from golddice.core.terms.catalogue import PoolKey, pool_key
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.forms import form_of
from golddice.core.terms.lines import PlainLines, plain_lines

Flows = dict[View, FloatArray]


@dataclass(frozen=True)
class Given:
    """What the lines of a table give when they hit: the row of a line, and how many on average.

    `hits` are the expected hits of each line in one execution, shape (n, d); `plain` the lines that give so
    many of one item; `items` are those of the other lines.
    """

    hits: FloatArray

    plain: PlainLines
    items: list[tuple[int, int, FloatArray]]
    pools: list[tuple[int, Pool, FloatArray]]
    links: list[tuple[int, View, FloatArray]]


def given_by(table: Table, under: Conditions) -> Given:
    return under.once("given", table, lambda: _given_by(table, under))


def _given_by(table: Table, under: Conditions) -> Given:
    form = form_of(table)
    return Given(
        line_hits(under, table),
        plain_lines(table, under),
        [(row, under.item_index[item], under.law(many).mean) for row, item, many in form.items],
        [(row, pool, under.law(many).mean) for row, pool, many in form.pools],
        [(row, link, under.law(many).mean) for row, link, many in form.links],
    )


def flows(
    under: Conditions,
    order: Iterable[View],
    start: View,
    *,
    take: Callable[[Given, FloatArray], None] | None = None,
    past_sources: bool = True,
) -> Flows:
    """Expected events of each source and executions of each table within one of `start`, by depth.

    `order` has each of them after all that lead to it (`size.most_rolls`). `take` is told of each table
    that is rolled what it gives, and the expected hits of its lines, shape (n, d). Without
    `past_sources` those that lines yield are counted, but not what they roll.
    """
    flow: Flows = {start: under.ones}

    def add(link: View, many: FloatArray) -> None:
        flow[link] = flow[link] + many if link in flow else many

    for view in order:
        here = flow.get(view)
        if here is None or not here.any():
            continue
        if view.kind == "table":
            given = given_by(under.table(view.id), under)
            hits = given.hits * here
            if take is not None:
                take(given, hits)
            for row, link, many in given.links:
                add(link, hits[row] * many)
        elif past_sources or view == start:
            for drop in under.source(view.id).drops:
                add(View("table", drop.table), here * under.drop_chance(drop) * under.law(drop.times).mean)
    return flow


def expected(
    under: Conditions, order: Iterable[View], start: View, place: IntArray, count: int
) -> FloatArray:
    """How many of each thing one event of `start` gives, shape (count, d).

    `place` says for each item among which of the things it counts, shape (items,); -1 for none.
    """
    under.check_cells(count, "items")
    found = np.zeros((count, under.depths.size))
    pools: dict[PoolKey, tuple[Pool, FloatArray]] = {}

    def take(given: Given, hits: FloatArray) -> None:
        plain = given.plain
        mix_items_into(found, place[plain.items], hits[plain.at], plain.mean)
        for row, item, many in given.items:
            if place[item] >= 0:
                found[place[item]] += hits[row] * many
        for row, pool, many in given.pools:
            key = pool_key(pool)
            before = pools[key][1] if key in pools else 0.0
            pools[key] = (pool, hits[row] * many + before)

    flows(under, order, start, take=take)
    for pool, many in pools.values():
        members = under.pool_items(pool)
        mix_items_into(found, place[members], under.pool_chances(pool) * many, np.ones(members.size))
    return found
