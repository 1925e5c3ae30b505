"""A log by events: which rows are of one, and what all of them share."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any, NamedTuple

import numpy as np

from golddice.core.arrays import FloatArray, IntArray, distinct
from golddice.core.exchange.logs.reading import Log

AT_ONCE = 500_000  # rows or events, so that what is worked out on the way stays small beside the log


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
    twice = distinct(ordered[1:][ordered[1:] == ordered[:-1]])
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
    known, codes = distinct(names), np.empty(names.size, dtype=np.int32)
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


@dataclass(frozen=True)
class Place:
    """One source at one depth with the same flags: its events and the rows of these, rising."""

    source: int
    depth: int
    flags: int
    events: IntArray
    rows: IntArray


class PlaceKey(NamedTuple):
    """Source, depth, and which flags."""

    source: int
    depth: int
    flags: int


class Places:
    """All that there are in a log, numbered; together they hold each event, and each row, once. One at a time
    is made of what is as long as the log. `of_event` : its place, below 0 where no source is known."""

    def __init__(self, events: Events) -> None:
        every = _distinct(events)
        unknown = sum(key < 0 for key in every)
        self.keys = [PlaceKey(key >> 40, (key >> 20) & 0xFFFFF, key & 0xFFFFF) for key in every[unknown:]]
        self.of_event = _which(np.array(every, dtype=np.int64), events)
        self.of_event -= unknown
        self._of_row = self.of_event[events.of_row]

    def __iter__(self) -> Iterator[Place]:
        for at, key in enumerate(self.keys):
            yield Place(
                *key,
                events=np.flatnonzero(self.of_event == at).astype(np.int32),
                rows=np.flatnonzero(self._of_row == at).astype(np.int32),
            )


def _pieces(events: Events) -> Iterator[tuple[slice, IntArray]]:
    """A key of source, depth and flags for each event, -1 where no source is known; a piece at a time."""
    for first in range(0, events.source.size, AT_ONCE):
        piece = slice(first, first + AT_ONCE)
        source = events.source[piece].astype(np.int64)
        keys = (source << 40) + (events.depth[piece].astype(np.int64) << 20) + events.flags[piece]
        yield piece, np.where(source < 0, -1, keys)


def _distinct(events: Events) -> list[int]:
    found: set[int] = set()
    for _, keys in _pieces(events):
        found.update(distinct(keys).tolist())
    return sorted(found)


def _which(known: IntArray, events: Events) -> IntArray:
    """The place of each among those that are known."""
    found: Any = np.empty(events.source.size, dtype=np.int16 if known.size < 2**15 else np.int32)
    for piece, keys in _pieces(events):
        found[piece] = np.searchsorted(known, keys)
    return np.asarray(found)
