"""A log held against what was authored: what agrees, what does not, how sure that is."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
from scipy.stats import binom, norm

from golddice.core.arrays import FloatArray, IntArray, give_back
from golddice.core.errors import GameError, TooLarge
from golddice.core.exchange.logs.faults import faults_of
from golddice.core.exchange.logs.reading import Log
from golddice.core.game.models import Game
from golddice.core.game.reading import plain, read_part
from golddice.core.game.views import View
from golddice.core.odds.carried.prospect import Prospect
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.stopping import go_on
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.resting import carries
from golddice.core.terms.size import most_rolls

AT_ONCE = 500_000  # rows or events, so that what is worked out on the way stays small beside the log
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
    """All that is told of a log, whose columns are gone afterwards. Raises TooLarge."""
    events = events_of(log)
    give_back()
    groups = list(_groups(game, log, events))
    found, count = faults_of(game, log, events), int(events.first.size)
    # What follows fills memory of its own: the log goes first.
    del events
    log.taken("item"), log.taken("quantity")
    give_back()
    rivals: Rivals = {}
    _judge([item for group in groups for item in group["items"]])
    for group in groups:
        verdicts = {item["verdict"] for item in group["items"]}
        group["verdict"] = "differs" if "differs" in verdicts else "agrees" if "agrees" in verdicts else "few"
        group["better"] = _better(game, group, rivals) if group["verdict"] == "differs" else []
        group.pop("hits")
    agrees = not found and all(group["verdict"] != "differs" for group in groups)
    return {
        "events": count,
        "rows": log.rows,
        "refused": [
            {"why": why, "count": count, "rows": log.refused_rows[why]} for why, count in log.refused.items()
        ],
        "sources": groups,
        "faults": found,
        "agrees": agrees,
    }


def events_of(log: Log) -> Events:
    """Rows of one event stand for it wherever they are; its first tells the rest. The runs are taken."""
    of_run, runs = _numbered(log.taken("event"))
    columns = {name: log.taken(name)[runs] for name in ("source", "depth", "flags", "time")}
    columns |= {name: _coded(log.taken(name)[runs]) for name in ("player", "instance")}
    run = log.taken("run")
    starts: Any = np.flatnonzero(np.diff(run, prepend=np.int32(-1)) != 0).astype(np.int32)
    return Events(of_row=of_run[run], first=starts[runs], **columns)


def _numbered(names: IntArray) -> tuple[IntArray, IntArray]:
    """Each as a number, by which came first; and the place of the first of each. There are millions, hardly
    any of them twice, so only those are sorted with their places."""
    ordered = np.sort(names)
    twice = np.unique(ordered[1:][ordered[1:] == ordered[:-1]])
    del ordered
    at = _places_of(names, twice)
    _, first, which = np.unique(names[at], return_index=True, return_inverse=True)
    first_at = at[first][which.reshape(-1)]
    is_first = np.ones(names.size, dtype=bool)
    is_first[at] = first_at == at
    numbers: Any = np.cumsum(is_first, dtype=np.int32) - np.int32(1)
    numbers[at] = numbers[first_at]
    return numbers, np.flatnonzero(is_first)


def _coded(names: IntArray) -> Any:
    """Each as a narrower number, -1 as it is."""
    known, codes = np.unique(names), np.empty(names.size, dtype=np.int32)
    for first in range(0, names.size, AT_ONCE):
        piece = names[first : first + AT_ONCE]
        codes[first : first + AT_ONCE] = np.where(piece == -1, -1, np.searchsorted(known, piece))
    return codes


def _places_of(names: IntArray, some: IntArray) -> IntArray:
    """Where any of some that are sorted stands."""
    found = [np.zeros(0, dtype=np.int64)]
    for first in range(0, names.size if some.size else 0, AT_ONCE):
        piece = names[first : first + AT_ONCE]
        near = some[np.minimum(np.searchsorted(some, piece), some.size - 1)]
        found.append(first + np.flatnonzero(near == piece))
    return np.concatenate(found)


def _groups(game: Game, log: Log, events: Events) -> Iterator[dict[str, Any]]:
    """By source, depth and flags: events, and of each item how many were expected and observed."""
    keys = (events.source.astype(np.int64) << 40) + (events.depth.astype(np.int64) << 20) + events.flags
    keys[events.source < 0] = -1
    for key in _distinct(keys):
        go_on()
        is_mine = keys == key
        at, count = int(np.argmax(is_mine)), int(is_mine.sum())
        source = game.sources[int(events.source[at])]
        flags = log.flag_sets[int(events.flags[at])]
        depth = int(events.depth[at])
        units, hits = _observed(log, events, is_mine, len(game.items))
        expected = _expected(game, View("source", source.id), depth, flags, events.player[is_mine])
        items = []
        for place, item in enumerate(game.items):
            if expected is None:
                break
            mean, var, chance = (float(one[place]) for one in expected)
            if mean <= 0 and not units[place]:
                continue
            seen = int(units[place]), int(hits[place])
            items.append(_item(item.id, count, mean, var, chance, *seen))
        yield {
            "source": source.id,
            "depth": depth,
            "flags": sorted(flags),
            "events": count,
            "value": float((units * _values(game)).sum()) / count,
            "items": items,
            "told": expected is not None,
            "hits": hits,
        }


def _distinct(keys: IntArray) -> list[int]:
    """Those that there are, but -1, in order; a piece at a time."""
    found: set[int] = set()
    for first in range(0, keys.size, AT_ONCE):
        found.update(np.unique(keys[first : first + AT_ONCE]).tolist())
    return sorted(found - {-1})


def _values(game: Game) -> FloatArray:
    return np.array([item.value for item in game.items])


def _observed(log: Log, events: Events, is_mine: Any, items: int) -> tuple[IntArray, IntArray]:
    """Of some events the units of each item, and how many have any of it."""
    units, hits = np.zeros(items, dtype=np.int64), np.zeros(items, dtype=np.int64)
    for first in range(0, events.first.size, AT_ONCE):
        rows = _rows_of(log, events, is_mine, first)
        item, quantity = log.item[rows], log.quantity[rows]
        units += np.bincount(item, weights=quantity, minlength=items).astype(np.int64)
        some = quantity > 0
        pairs = np.unique(events.of_row[rows][some].astype(np.int64) * items + item[some])
        hits += np.bincount(pairs % items, minlength=items)
    return units, hits


def _rows_of(log: Log, events: Events, is_mine: Any, first: int) -> IntArray:
    """Rows with an item of those events, among so many from the first on."""
    some = (events.of_row >= first) & (events.of_row < first + AT_ONCE) & (log.item >= 0)
    rows = np.flatnonzero(some)
    return np.asarray(rows[is_mine[events.of_row[rows]]])


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
        "needed": _needed(chance),
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


def _needed(chance: float) -> int | None:
    """Events in which a rate 20 % off would be seen at 5 % four times in five."""
    if math.isnan(chance) or not 0 < chance < 1:
        return None
    return math.ceil((1.959963984540054 + 0.8416212335729143) ** 2 * (1 - chance) / (0.04 * chance))


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
    """Sources and tables, at every depth, under which what came is likelier, most first; and the source
    itself with a table (`each`) rolled line by line. What comes together is taken as if it came apart, alike
    for all. `rivals` keeps the chances from one group to the next."""
    hits, count, flags = group["hits"], group["events"], frozenset(group["flags"])
    found: list[tuple[float, str, str, int, str | None]] = []
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
            log_like = _log_likelihood(chances, hits, count)
            if view == View("source", group["source"]) and depth == group["depth"]:
                own = log_like
            found.append((log_like, view.kind, view.id, depth, None))
    mine, depth = View("source", group["source"]), group["depth"]
    for table, other in _each_instead(game, mine):
        chances = _chances(other, mine, depth, flags)
        if chances is not None:
            found.append((_log_likelihood(chances, hits, count), *mine, depth, table))
    best = sorted(found, key=lambda one: -one[0])[:_SHOWN]
    return [
        {"kind": kind, "id": name, "depth": depth, "each": table, "times_likelier": _times(one - own)}
        for one, kind, name, depth, table in best
        if one > own + math.log(100)
    ]


def _log_likelihood(chances: FloatArray, hits: IntArray, count: int) -> float:
    bare = np.clip(chances, 1e-7, 1 - 1e-7)
    return float((hits * np.log(bare) + (count - hits) * np.log1p(-bare)).sum())


def _each_instead(game: Game, view: View) -> Iterator[tuple[str, Game]]:
    """The game with one of the tables that a source drops rolled line by line, where it picks one or takes
    the first: what code does that asks of every line whether it hits."""
    drops = next(one.drops for one in game.sources if one.id == view.id)
    for name in dict.fromkeys(drop.table for drop in drops):
        go_on()
        other = _line_by_line(plain(next(one for one in game.tables if one.id == name)))
        if other is not None:
            tables = [other if one.id == name else one for one in game.tables]
            yield name, game.model_copy(update={"tables": tables})


def _line_by_line(body: dict[str, Any]) -> Any | None:
    if body["rule"] not in ("pick", "first") or body.get("distinct"):
        return None
    lines = body.get("lines", [])
    weights = [line.get("weight", 1.0) for line in lines]
    whole = sum(weights) + body.get("nothing", 0.0)
    kept = {key: value for key, value in body.items() if key not in ("nothing", "nothing_curve", "distinct")}
    told = [
        {key: value for key, value in line.items() if key != "weight"}
        | ({"chance": weight / whole} if body["rule"] == "pick" and whole > 0 else {})
        for line, weight in zip(lines, weights, strict=True)
    ]
    try:
        return read_part("table", {**kept, "rule": "each", "lines": told})
    except GameError:
        return None  # it has what no table has that is rolled so


def _times(log_ratio: float) -> float:
    return math.exp(min(log_ratio, 700.0))


def _chances(game: Game, view: View, depth: int, flags: frozenset[str]) -> FloatArray | None:
    try:
        under = Conditions(game, [depth], flags)
        prospect = Prospect(Evaluator(under, detail=False), view)
        return np.array([prospect.hit(prospect.columns.item(at)) for at in range(len(game.items))])
    except TooLarge:
        return None
