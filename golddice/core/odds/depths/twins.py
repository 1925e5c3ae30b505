"""Items that one view cannot tell apart: what is worked out for the first of them holds for all.

A pool of a hundred items gives each of one tier and abundance the same chance. Where no line that
the view reaches names an item, its chances are those of every other in the same pools.
"""

from __future__ import annotations

import numpy as np

from golddice.core.arrays import IntArray
from golddice.core.game.models import Pool
from golddice.core.terms.catalogue import PoolKey, pool_key
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.forms import form_of
from golddice.core.terms.size import Rolled


def first_twins(under: Conditions, rolls: Rolled) -> IntArray:
    """By item the first of its twins, itself where it has none before it; shape (items,).

    `rolls` is `size.most_rolls` of the view.
    """
    pools: dict[PoolKey, Pool] = {}
    named = np.zeros(len(under.game.items), dtype=bool)
    for table in (under.table(name) for kind, name in rolls if kind == "table"):
        form = form_of(table)
        named[under.plain_items(table)] = True
        for _, item, _ in form.items:
            named[under.item_index[item]] = True
        for _, pool, _ in form.pools:
            pools[pool_key(pool)] = pool
    within: dict[int, list[int]] = {}
    for number, pool in enumerate(pools.values()):
        members = under.pool_items(pool)
        for item in members[~named[members]].tolist():
            within.setdefault(item, []).append(number)
    return _firsts(under, within)


def _firsts(under: Conditions, within: dict[int, list[int]]) -> IntArray:
    """`within` are the pools of each item that can have twins."""
    result = np.arange(len(under.game.items))
    tiers, abundances = under.item_tiers.tolist(), under.catalogue.abundances.tolist()
    first: dict[tuple[int, float, tuple[int, ...]], int] = {}
    for item, pools in within.items():
        result[item] = first.setdefault((tiers[item], abundances[item], tuple(pools)), item)
    return result
