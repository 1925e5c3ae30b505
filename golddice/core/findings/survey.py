"""A game seen over all its depths at once, as findings need it: what is open where, what reaches what.

Flags are left open: a line that needs one counts as open, since some player will have it.
"""

from __future__ import annotations

from collections.abc import Iterator
from itertools import combinations
from typing import Any

import numpy as np
from propcache.api import cached_property

from golddice.core.arrays import BoolArray
from golddice.core.findings.finding import Body, Finding, Mend
from golddice.core.game.models import (
    KINDS,
    Band,
    BaseLine,
    Drop,
    Game,
    Gated,
    Item,
    Source,
    Table,
    list_name,
)
from golddice.core.game.reading import plain, whole
from golddice.core.game.views import View
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.size import part_of
from golddice.core.terms.stops import bands_at

_MOST_FLAGS = 3
Reached = dict[View, BoolArray]


class Survey:
    """What the lookers share. Arrays are over depths, shape (d,)."""

    def __init__(self, game: Game) -> None:
        self.game = game
        first, last = game.depth.from_, game.depth.to
        self.under = Conditions(game, range(first, last + 1))
        self._conditions: dict[frozenset[str], Conditions] = {frozenset(): self.under}
        self.items: dict[str, Item] = {item.id: item for item in game.items}
        self._places = {
            (kind, part.id): (order, at)
            for order, kind in enumerate(KINDS)
            for at, part in enumerate(getattr(game, list_name(kind)))
        }

    def place(self, kind: str, name: str) -> tuple[int, int]:
        return self._places.get((kind, name), (-1, 0))

    def path(self, kind: str, name: str) -> str:
        """Where an entity stands in the file."""
        return f"{list_name(kind)}[{self.place(kind, name)[1]}]"

    def of_table(self, table: Table, message: str, at: int | None = None, **more: Any) -> Finding:
        """A finding about a table, or about its line `at`; `within` goes on the path."""
        path = self.path("table", table.id)
        if at is not None:
            path += f".lines[{at}]"
            more["line"] = table.lines[at].id
        within = more.pop("within", "")
        return Finding("warning", f"{path}.{within}" if within else path, "table", table.id, message, **more)

    def of_source(self, source: Source, message: str, at: int | None = None, **more: Any) -> Finding:
        path = self.path("source", source.id)
        if at is not None:
            path += f".drops[{at}]"
            more["line"] = source.drops[at].id
        return Finding("warning", path, "source", source.id, message, **more)

    # --- what is open where ----------------------------------------------------------------------

    def gate(self, part: Gated) -> BoolArray:
        """Where its depths let a line or drop take part; nowhere if its flags exclude each other."""
        everywhere = np.full(self.under.depths.size, not set(part.needs) & set(part.unless))
        if part.depths is None:
            return everywhere
        low, high = part.depths
        return np.asarray(everywhere & (self.under.depths >= low) & (self.under.depths <= high))

    def line_open(self, table: Table, line: BaseLine) -> BoolArray:
        return self.under.once("open to some", line, lambda: self._line_open(table, line))

    def _line_open(self, table: Table, line: BaseLine) -> BoolArray:
        if table.rule == "deck":
            return self.gate(line)
        return np.asarray(self.gate(line) & (self.under.line_multiplier(line) != 0.0))

    def drop_open(self, drop: Drop) -> BoolArray:
        return np.asarray(self.gate(drop) & (self.under.curve(drop.curve) != 0.0))

    def met(self, source: Source) -> BoolArray:
        """The depths at which a source is met."""
        low, high = source.depths or (self.game.depth.from_, self.game.depth.to)
        return np.asarray((self.under.depths >= low) & (self.under.depths <= high))

    def span(self, where: BoolArray) -> tuple[int, int] | None:
        """First and last depth of where something holds, unless that is everywhere."""
        if bool(where.all()):
            return None
        held = self.under.depths[where]
        return int(held[0]), int(held[-1])

    def words(self, where: BoolArray) -> str:
        """`at depth 3`, `at depths 9 to 12`, `at depths 1 to 4 and 9 to 12`."""
        runs: list[str] = []
        held = [int(depth) for depth in self.under.depths[where]]
        start = 0
        for at in range(1, len(held) + 1):
            if at == len(held) or held[at] != held[at - 1] + 1:
                low, high = held[start], held[at - 1]
                runs.append(str(low) if low == high else f"{low} to {high}")
                start = at
        one = len(held) == 1
        return f"at {self.game.words.depth}{'' if one else 's'} " + " and ".join(runs)

    def flagged(self, table: Table) -> Iterator[tuple[Conditions, str]]:
        """The game for players with each set of the flags that a table's lines ask about, and words
        for the set: `with Bell rung, `. All sets of a few flags, else none of them and all."""
        names = sorted({flag for line in table.lines for flag in (*line.needs, *line.unless)})
        sizes = range(len(names) + 1) if len(names) <= _MOST_FLAGS else (0, len(names))
        for size in sizes:
            for flags in combinations(names, size):
                yield self._with_flags(frozenset(flags)), self._flag_words(flags)

    def _with_flags(self, flags: frozenset[str]) -> Conditions:
        if flags not in self._conditions:
            first, last = self.game.depth.from_, self.game.depth.to
            self._conditions[flags] = Conditions(self.game, range(first, last + 1), flags)
        return self._conditions[flags]

    def _flag_words(self, flags: tuple[str, ...]) -> str:
        names = [flag.name for flag in self.game.flags if flag.id in flags]
        return f"with {' and '.join(names)}, " if names else ""

    # --- what reaches what -------------------------------------------------------------------------

    @cached_property
    def reached(self) -> Reached:
        """Where each table and source can be rolled at all, from any source that is met there."""
        found: Reached = {}
        for source in self.game.sources:
            for key, where in self.reached_from(source).items():
                found[key] = found[key] | where if key in found else where
        return found

    def reached_from(self, source: Source) -> Reached:
        """Where one source, met at its depths, rolls each table and source."""
        return self.reached_at(View("source", source.id), self.met(source))

    def spawned_by(self, band: Band) -> Reached:
        """Where a band's spawn table rolls each table, and yields each source; not what those roll."""
        if band.spawns is None:
            return {}
        here = bands_at(self.game, self.under.depths) == self.game.depth.bands.index(band)
        return self.reached_at(View("table", band.spawns), here, past_sources=False)

    def reached_at(self, start: View, where: BoolArray, past_sources: bool = True) -> Reached:
        """Where one view, rolled at some depths, rolls each table and source."""
        found: Reached = {}
        pending = [(start, where)]
        while pending:
            key, where = pending.pop()
            before = found.get(key)
            if before is not None and not bool((where & ~before).any()):
                continue
            found[key] = where if before is None else before | where
            if past_sources or key.kind == "table":
                pending += [(link, found[key] & opened) for link, opened in self._links(key)]
        return found

    def _links(self, key: View) -> list[tuple[View, BoolArray]]:
        part = part_of(self.under, key)
        return self.under.once("open links", part, lambda: list(self._open_links(part)))

    def _open_links(self, part: Table | Source) -> Iterator[tuple[View, BoolArray]]:
        """What a table or source leads to, and where."""
        if isinstance(part, Source):
            yield from ((View("table", drop.table), self.drop_open(drop)) for drop in part.drops)
            return
        for line in part.lines:
            for given in line.yields:
                if isinstance(given.what, View):
                    yield given.what, self.line_open(part, line)


def mended_table(table: Table, label: str, **changed: Any) -> Mend:
    """The table with some of its keys changed."""
    return Mend(label, "table", table.id, lambda: plain(table) | changed)


def mended_line(table: Table, at: int, label: str, **changed: Any) -> Mend:
    """The table with one line's keys changed; None takes a key out."""

    def make() -> Body:
        body = plain(table)
        line = body["lines"][at] | changed
        body["lines"][at] = {key: value for key, value in line.items() if value is not None}
        return body

    return Mend(label, "table", table.id, make)


def without_line(table: Table, at: int, label: str) -> Mend:
    def make() -> Body:
        body = plain(table)
        del body["lines"][at]
        return body

    return Mend(label, "table", table.id, make)


def mended_drop(source: Source, at: int, label: str, **changed: Any) -> Mend:
    def make() -> Body:
        body = whole(source)
        body["drops"][at] |= changed
        return body

    return Mend(label, "source", source.id, make)
