"""Faults that leave a signature in a log, each with how many times, and the first rows that show it."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import Any

import numpy as np

from golddice.core.arrays import IntArray, distinct
from golddice.core.errors import TooLarge
from golddice.core.exchange.logs.events import AT_ONCE, Events
from golddice.core.exchange.logs.impossible import beyond_one, fault, impossible, most_of
from golddice.core.exchange.logs.reading import Log
from golddice.core.game.models import Game, Source
from golddice.core.game.views import View
from golddice.core.odds.depths.depth_odds import DepthOdds
from golddice.core.stopping import go_on
from golddice.core.terms.conditions import Conditions

_PARTS = 8  # in which instances are looked at, likewise
_SURE = 1e-6  # how unlikely it must be that so many players are alike
_FAR_MORE = 1.5  # times what is due
_ALIKE = 0.5  # of the players with the same results, from where on it is a fixed seed
_SHORTEST, _LONGEST = 8, 64  # events that are compared for that
_MANY, _HARDLY_ANY = (
    20,
    0.9,
)  # doubled events, and their share, from where on it is each event that fires twice


def faults_of(game: Game, log: Log, events: Events) -> list[dict[str, Any]]:
    found = [*_twice(game, log, events), *_reopened(game, log, events), *_same_results(game, log, events)]
    for source in range(len(game.sources)):
        go_on()
        rows = np.flatnonzero((events.source[events.of_row] == source) & (log.item >= 0))
        if rows.size:
            found += impossible(game, log, events, source, rows)
    return found


def _twice(game: Game, log: Log, events: Events) -> Iterator[dict[str, Any]]:
    """An event whose rows come back later, or are there doubled, or are more than one event can give; two of
    one instance within a second."""
    again = np.concatenate(
        [_come_back(events), _impossibly_doubled(game, log, events), beyond_one(game, log, events)]
    )
    quick = _within_a_second(events)
    for source in range(len(game.sources)):
        mine = np.concatenate([again[events.source[again] == source], quick[events.source[quick] == source]])
        mine = distinct(mine)
        if mine.size:
            one = game.sources[source]
            many = "1 event" if mine.size == 1 else f"{mine.size:,} events"
            how = "there twice, within a second of one another, or with more than one can give"
            says = f"{many} of {one.name}: {how}"
            yield fault(log, "twice", one, None, int(mine.size), events.first[mine], says)


def _come_back(events: Events) -> IntArray:
    """Events whose rows do not stand together. They are numbered as they come, so one that begins below the
    highest so far has been there."""
    of_row = events.of_row
    begins = of_row[1:] != of_row[:-1]
    begins &= of_row[1:] <= np.maximum.accumulate(of_row)[:-1]
    return distinct(of_row[1:][begins])


def _changes(values: IntArray) -> Any:
    """Where another value begins, the first among them."""
    found = np.ones(values.size, dtype=bool)
    found[1:] = values[1:] != values[:-1]
    return found


def _doubled(log: Log, events: Events) -> IntArray:
    """Events of two or more different things whose rows are one list, twice over."""
    owner = events.of_row
    order: Any = None  # as they stand
    if (owner[1:] < owner[:-1]).any():
        order = np.argsort(owner, kind="stable").astype(np.int32)
        owner = owner[order]
    starts = np.flatnonzero(_changes(owner)).astype(np.int32)
    sizes = np.diff(starts, append=np.int32(owner.size))
    able = np.flatnonzero((sizes % 2 == 0) & (sizes >= 4))
    if not able.size:
        return np.zeros(0, dtype=np.int64)
    half = sizes[able] // 2
    event = np.repeat(np.arange(able.size), half)
    first = np.repeat(starts[able] - np.cumsum(half) + half, half) + np.arange(event.size)
    one, other = first, first + half[event]
    if order is not None:
        one, other = order[one], order[other]
    differ = (log.item[one] != log.item[other]) | (log.quantity[one] != log.quantity[other])
    varied = log.item[one] != log.item[one[np.cumsum(half) - half]][event]
    is_doubled = (np.bincount(event, differ) == 0) & (np.bincount(event, varied) > 0)
    return np.asarray(owner[starts[able[is_doubled]]])


def _impossibly_doubled(game: Game, log: Log, events: Events) -> IntArray:
    """Of the doubled events those that the odds cannot mean: two rolls may well bring the same things twice.
    So all of a source's where hardly any of its events is not doubled; else those that gave more of
    something than one event can."""
    doubled = _doubled(log, events)
    found = []
    for source in range(len(game.sources)) if doubled.size else ():
        mine = doubled[events.source[doubled] == source]
        many = int((np.bincount(events.of_row)[events.source == source] >= 2).sum())
        is_each = mine.size >= _MANY and mine.size > _HARDLY_ANY * many
        if is_each and _gives_twice(game, log, events, game.sources[source], mine):
            found.append(mine)
        elif mine.size:
            found.append(_beyond_the_most(game, log, events, game.sources[source], mine))
    return np.concatenate(found) if found else np.zeros(0, dtype=np.int64)


def _gives_twice(game: Game, log: Log, events: Events, source: Source, mine: IntArray) -> bool:
    """Whether these events, at the first one's depth and with its flags, gave far more than they are due."""
    one = int(mine[0])
    alike = (events.depth[mine] == events.depth[one]) & (events.flags[mine] == events.flags[one])
    under = Conditions(game, [int(events.depth[one])], log.flag_sets[int(events.flags[one])])
    try:
        due = float(DepthOdds(under).means(View("source", source.id)).sum())
    except TooLarge:
        return False
    rows = np.isin(events.of_row, mine[alike]) & (log.item >= 0)
    return float(log.quantity[rows].sum()) / int(alike.sum()) > _FAR_MORE * due


def _beyond_the_most(game: Game, log: Log, events: Events, source: Source, among: IntArray) -> IntArray:
    """Events in which more of an item came than any event of the source can give there."""
    rows = np.flatnonzero(np.isin(events.of_row, among) & (log.item >= 0))
    items = len(game.items)
    keys, at = np.unique(events.of_row[rows].astype(np.int64) * items + log.item[rows], return_inverse=True)
    units = np.bincount(at, log.quantity[rows])
    most: dict[tuple[int, int, int], float] = {}
    found = []
    for key, came in zip(keys.tolist(), units.tolist(), strict=True):
        event, item = divmod(key, items)
        where = item, int(events.depth[event]), int(events.flags[event])
        if where not in most:
            go_on()
            most[where] = most_of(game, source, item, where[1], log.flag_sets[where[2]])
        if came > most[where]:
            found.append(event)
    return np.unique(np.array(found, dtype=np.int64))


def _within_a_second(events: Events) -> IntArray:
    found = [order[1:][same & soon] for order, same, soon in _by_instance(events, ~np.isnan(events.time))]
    return np.concatenate(found)


def _by_instance(events: Events, some: Any) -> Iterator[tuple[IntArray, Any, Any]]:
    """Some events by their instance and time: which, and of each but the first whether it is of the same
    instance as the one before it and within a second of it. A part of all instances at a time."""
    many = np.bincount(events.instance[events.instance >= 0], minlength=1) > 1  # hardly any
    some = some & (events.instance >= 0) & many[events.instance]
    for part in range(_PARTS):
        mine = np.flatnonzero(some & (events.instance % _PARTS == part))
        order = mine[np.lexsort((events.time[mine], events.instance[mine]))]
        same = events.instance[order][1:] == events.instance[order][:-1]
        yield order, same, np.diff(events.time[order]) <= 1.0


def _reopened(game: Game, log: Log, events: Events) -> Iterator[dict[str, Any]]:
    """A container that gave twice."""
    for source, one in enumerate(game.sources):
        if one.kind != "container":
            continue
        parts = _by_instance(events, events.source == source)
        again = np.sort(np.concatenate([order[1:][same & ~soon] for order, same, soon in parts]))
        if again.size:
            many = "once" if again.size == 1 else f"{again.size:,} times"
            says = f"{many} a {one.name} gave that had been opened before"
            yield fault(log, "reopened", one, None, int(again.size), events.first[again], says)


def _same_results(game: Game, log: Log, events: Events) -> Iterator[dict[str, Any]]:
    """Players with the very same results one after another: a seed that is fixed."""
    signs = np.zeros(events.first.size, dtype=np.uint32)  # eight and more in a row tell them well enough
    for first in range(0, log.item.size, AT_ONCE):
        rows = slice(first, first + AT_ONCE)
        mixed = (log.item[rows].astype(np.int64) + 2) * 1_000_003 + log.quantity[rows].astype(
            np.int64
        ) * 8_191
        np.add.at(signs, events.of_row[rows], ((mixed * 2_654_435_761) >> 16).astype(np.uint32))
    for source, one in enumerate(game.sources):
        mine = np.flatnonzero(events.source == source).astype(np.int32)
        by_player = mine[np.argsort(events.player[mine], kind="stable")]
        starts = np.flatnonzero(_changes(events.player[by_player]))
        counts = np.diff(starts, append=by_player.size)
        length = int(min(np.median(counts), _LONGEST)) if starts.size >= 3 else 0
        able = counts >= length
        if length < _SHORTEST or able.sum() < 3:
            continue
        rows = by_player[starts[able][:, None] + np.arange(length)]
        sequences, times = np.unique(signs[rows], axis=0, return_counts=True)
        best = int(np.argmax(times))
        _, shares = np.unique(sequences[best], return_counts=True)
        # Two events are alike with about that chance; so many players in so many events hardly ever.
        alike = length * math.log(float(((shares / length) ** 2).sum())) + 2 * math.log(starts.size)
        if times[best] >= 3 and times[best] > _ALIKE * able.sum() and alike < math.log(_SURE):
            says = (
                f"{times[best]} of {able.sum()} players have the same {length} results of {one.name}: "
                "its seed seems fixed"
            )
            first = rows[(signs[rows] == sequences[best]).all(axis=1)][:, 0]
            yield fault(log, "same-results", one, None, int(times[best]), events.first[first], says)
