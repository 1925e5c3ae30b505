"""A log held against what was authored: what agrees, what does not, how sure that is."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
from scipy.stats import binom, norm

from golddice.core.arrays import FloatArray, IntArray
from golddice.core.errors import TooLarge
from golddice.core.exchange.logs.faults import faults_of
from golddice.core.exchange.logs.reading import Log
from golddice.core.game.models import Game
from golddice.core.game.views import View
from golddice.core.odds.carried.prospect import Prospect
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.stopping import go_on
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.resting import carries
from golddice.core.terms.size import most_rolls

LEVEL = 0.01  # of false alarms among what is said not to agree (Benjamini and Hochberg 1995)
FEW = 5.0  # events with an item that are expected, below which there is too little to say
_SHOWN = 3  # tables that could be meant
_LEAST = 1e-9
_MOST_COUNTS = 40  # different numbers of events of a player that are followed exactly


@dataclass(frozen=True)
class Events:
    """The log by events. e events: of each its first row, source, depth, flags, player, time and instance;
    of each row the event that it is of."""

    of_row: IntArray
    first: IntArray
    source: IntArray
    depth: IntArray
    flags: IntArray
    player: IntArray
    time: FloatArray
    instance: IntArray


def check_log(game: Game, log: Log) -> dict[str, Any]:
    """All that is told of a log, of whose columns those of events are gone afterwards. Raises TooLarge."""
    events = events_of(log)
    log.forget_events()
    groups = list(_groups(game, log, events))
    rivals: Rivals = {}
    _judge([item for group in groups for item in group["items"]])
    for group in groups:
        verdicts = {item["verdict"] for item in group["items"]}
        group["verdict"] = "differs" if "differs" in verdicts else "agrees" if "agrees" in verdicts else "few"
        group["better"] = _better(game, group, rivals) if group["verdict"] == "differs" else []
        group.pop("hits")
    found = faults_of(game, log, events)
    agrees = not found and all(group["verdict"] != "differs" for group in groups)
    return {
        "events": int(events.first.size),
        "rows": log.rows,
        "refused": [
            {"why": why, "count": count, "rows": log.refused_rows[why]} for why, count in log.refused.items()
        ],
        "sources": groups,
        "faults": found,
        "agrees": agrees,
    }


def events_of(log: Log) -> Events:
    """Rows of one event stand for it wherever they are; its first tells the rest."""
    # Rows of one event mostly stand together: of each such run one is enough to tell it by.
    is_new = np.ones(log.event.size, dtype=bool)
    is_new[1:] = log.event[1:] != log.event[:-1]
    starts: Any = np.flatnonzero(is_new).astype(np.int32)
    _, first, of_run = np.unique(log.event[starts], return_index=True, return_inverse=True)
    order = np.argsort(first, kind="stable")
    rank: Any = np.empty(order.size, dtype=np.int32)
    rank[order] = np.arange(order.size, dtype=np.int32)
    first = starts[first[order]]
    of_row = rank[of_run.reshape(-1)][np.cumsum(is_new, dtype=np.int32) - 1]
    return Events(
        of_row=of_row,
        first=first,
        source=log.source[first],
        depth=log.depth[first],
        flags=log.flags[first],
        player=log.player[first],
        time=log.time[first],
        instance=log.instance[first],
    )


def _groups(game: Game, log: Log, events: Events) -> Iterator[dict[str, Any]]:
    """By source, depth and flags: events, and of each item how many were expected and observed."""
    known = events.source >= 0
    keys = (events.source.astype(np.int64) << 40) + (events.depth.astype(np.int64) << 20) + events.flags
    for key in np.unique(keys[known]):
        go_on()
        mine = np.flatnonzero(keys == key)
        at = int(mine[0])
        source = game.sources[int(events.source[at])]
        flags = log.flag_sets[int(events.flags[at])]
        depth = int(events.depth[at])
        is_mine = np.zeros(events.first.size, dtype=bool)
        is_mine[mine] = True
        rows = is_mine[events.of_row] & (log.item >= 0)
        units, hits = _observed(log, events, rows, len(game.items))
        expected = _expected(game, View("source", source.id), depth, flags, events.player[mine])
        items = []
        for place, item in enumerate(game.items):
            if expected is None:
                break
            mean, var, chance = (float(one[place]) for one in expected)
            if mean <= 0 and not units[place]:
                continue
            seen = int(units[place]), int(hits[place])
            items.append(_item(item.id, mine.size, mean, var, chance, *seen))
        yield {
            "source": source.id,
            "depth": depth,
            "flags": sorted(flags),
            "events": int(mine.size),
            "value": float((log.quantity[rows] * _values(game)[log.item[rows]]).sum()) / mine.size,
            "items": items,
            "told": expected is not None,
            "hits": hits,
        }


def _values(game: Game) -> FloatArray:
    return np.array([item.value for item in game.items])


def _observed(log: Log, events: Events, rows: Any, items: int) -> tuple[IntArray, IntArray]:
    """Units of each item, and events with any of it."""
    units = np.bincount(log.item[rows], weights=log.quantity[rows], minlength=items)
    some = rows & (log.quantity > 0)
    pairs = _distinct(events.of_row[some].astype(np.int64) * items + log.item[some])
    return units.astype(np.int64), np.bincount(pairs % items, minlength=items).astype(np.int64)


def _distinct(keys: IntArray) -> IntArray:
    """Sorted, which for millions is several times as fast as hashing."""
    ordered = np.sort(keys)
    return np.asarray(ordered[np.diff(ordered, prepend=-1) != 0])


Moments = tuple[FloatArray, FloatArray, FloatArray]


def _expected(game: Game, view: View, depth: int, flags: frozenset[str], players: IntArray) -> Moments | None:
    """Units of each item in all events, their variance, and the chance in one event; None where not told.
    What players carry is followed from their first event in the log on."""
    try:
        under = Conditions(game, [depth], flags)
        prospect = Prospect(Evaluator(under, detail=False), view)
        columns = [prospect.columns.item(at) for at in range(len(game.items))]
        if not carries(under, most_rolls(under, view)):
            count = players.size
            mean = np.array([prospect.mean(column) for column in columns])
            var = np.array([prospect.var(column) for column in columns])
            return count * mean, count * var, np.array([prospect.hit(column) for column in columns])
        counts, many = np.unique(np.unique(players, return_counts=True)[1], return_counts=True)
        if counts.size > _MOST_COUNTS:
            return None
        mean, var = np.zeros(len(columns)), np.zeros(len(columns))
        for events, times in zip(counts.tolist(), many.tolist(), strict=True):
            for at, column in enumerate(columns):
                if prospect.reaches(column):
                    one = prospect.count_after(column, events)
                    mean[at] += times * one[0]
                    var[at] += times * one[1]
        return mean, var, np.full(len(columns), np.nan)
    except TooLarge:
        return None


def _item(
    name: str, events: int, mean: float, var: float, chance: float, units: int, hits: int
) -> dict[str, Any]:
    error = math.sqrt(var)
    z = (units - mean) / error if error > _LEAST * max(1.0, mean) else None
    if math.isnan(chance):
        p = 2 * float(norm.sf(abs(z))) if z is not None else float(units == round(mean))
        likely, shown = mean, None
    else:
        p = min(
            1.0, 2 * min(float(binom.cdf(hits, events, chance)), float(binom.sf(hits - 1, events, chance)))
        )
        if events * chance > 30 and z is not None:
            p = min(p, 2 * float(norm.sf(abs(z)))) * 2  # of two tests the better one
        likely, shown = events * chance, _interval(hits, events)
    return {
        "item": name,
        "expected": mean,
        "observed": units,
        "z": z,
        "with_any": hits,
        "chance": None if math.isnan(chance) else chance,
        "interval": shown,
        "p": min(p, 1.0),
        "likely": likely,
        "power": _power(events, chance),
    }


def _interval(hits: int, events: int) -> list[float]:
    """Of the true rate, 95 %, by Wilson (1927)."""
    z, share = 1.959963984540054, hits / events
    middle = (share + z * z / (2 * events)) / (1 + z * z / events)
    half = z / (1 + z * z / events) * math.sqrt(share * (1 - share) / events + z * z / (4 * events * events))
    return [max(0.0, middle - half), min(1.0, middle + half)]


def _power(events: int, chance: float) -> float | None:
    """The chance with which a rate 20 % off would be seen at 5 %."""
    if math.isnan(chance) or not 0 < chance < 1:
        return None
    error = math.sqrt(chance * (1 - chance) / events)
    return float(norm.sf(1.959963984540054 - 0.2 * chance / error))


def _judge(items: list[dict[str, Any]]) -> None:
    """`differs` where false alarms among all that is said so are at most LEVEL."""
    ordered = sorted(items, key=lambda one: one["p"])
    last = -1
    for at, one in enumerate(ordered):
        if one["p"] <= LEVEL * (at + 1) / max(len(ordered), 1):
            last = at
    for at, one in enumerate(ordered):
        few = one["likely"] < FEW and one["observed"] <= FEW
        one["verdict"] = "differs" if at <= last else "few" if few else "agrees"
        one.pop("p")
        one.pop("likely")


# --- which table is it really? -----------------------------------------------------------------------------


Rivals = dict[tuple[View, int, frozenset[str]], FloatArray | None]


def _better(game: Game, group: dict[str, Any], rivals: Rivals) -> list[dict[str, Any]]:
    """Sources and tables, at every depth, under which what came is likelier, most first. What comes together
    is taken as if it came apart, alike for all. `rivals` keeps the chances from one group to the next."""
    hits, count, flags = group["hits"], group["events"], frozenset(group["flags"])
    found: list[tuple[float, str, str, int]] = []
    views = [View("source", one.id) for one in game.sources]
    views += [View("table", one.id) for one in game.tables]
    step = max(1, (game.depth.to - game.depth.from_ + 1) // 60)
    depths = sorted({*range(game.depth.from_, game.depth.to + 1, step), group["depth"]})
    own = -math.inf
    for view in views:
        go_on()
        for depth in depths:
            key = (view, depth, flags)
            if key not in rivals:
                rivals[key] = _chances(game, view, depth, flags)
            chances = rivals[key]
            if chances is None:
                continue
            with np.errstate(divide="ignore"):
                bare = np.clip(chances, 1e-7, 1 - 1e-7)
                log_like = float((hits * np.log(bare) + (count - hits) * np.log1p(-bare)).sum())
            if view == View("source", group["source"]) and depth == group["depth"]:
                own = log_like
            found.append((log_like, view.kind, view.id, depth))
    best = sorted(found, reverse=True)[:_SHOWN]
    return [
        {"kind": kind, "id": name, "depth": depth, "times_likelier": _times(one - own)}
        for one, kind, name, depth in best
        if one > own + math.log(100)
    ]


def _times(log_ratio: float) -> float:
    return math.exp(min(log_ratio, 700.0))


def _chances(game: Game, view: View, depth: int, flags: frozenset[str]) -> FloatArray | None:
    try:
        under = Conditions(game, [depth], flags)
        prospect = Prospect(Evaluator(under, detail=False), view)
        return np.array([prospect.hit(prospect.columns.item(at)) for at in range(len(game.items))])
    except TooLarge:
        return None
