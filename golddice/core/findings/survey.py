"""A game seen over all its depths at once, as findings need it: what is open where, what reaches what.

Flags are left open: a line that needs one counts as open, since some player will have it.
"""

from __future__ import annotations

from functools import cached_property
from typing import Any

import numpy as np

from golddice.core.arrays import BoolArray
from golddice.core.findings.finding import Finding, Mend
from golddice.core.game.links import link_of
from golddice.core.game.models import BaseLine, Drop, Game, Gated, Item, Source, Table
from golddice.core.game.reading import plain
from golddice.core.odds.conditions import Conditions

Reached = dict[tuple[str, str], BoolArray]


class Survey:
    """What the lookers share. Arrays are over depths, shape (d,)."""

    def __init__(self, game: Game) -> None:
        self.game = game
        first, last = game.depth.from_, game.depth.to
        self.under = Conditions(game, range(first, last + 1))
        self.items: dict[str, Item] = {item.id: item for item in game.items}
        self._places = {
            (kind, part.id): (order, at)
            for order, kind in enumerate(("item", "table", "source"))
            for at, part in enumerate(getattr(game, f"{kind}s"))
        }

    def place(self, kind: str, name: str) -> tuple[int, int]:
        return self._places.get((kind, name), (-1, 0))

    def of_table(self, table: Table, message: str, at: int | None = None, **more: Any) -> Finding:
        """A finding about a table, or about its line `at`; `within` goes on the path."""
        path = f"tables[{self.place('table', table.id)[1]}]"
        if at is not None:
            path += f".lines[{at}]"
            more["line"] = table.lines[at].id
        within = more.pop("within", "")
        return Finding("warning", f"{path}.{within}" if within else path, "table", table.id, message, **more)

    def of_source(self, source: Source, message: str, at: int | None = None, **more: Any) -> Finding:
        path = f"sources[{self.place('source', source.id)[1]}]"
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
        found: Reached = {}
        pending = [(("source", source.id), self.met(source))]
        while pending:
            key, where = pending.pop()
            before = found.get(key)
            if before is not None and not bool((where & ~before).any()):
                continue
            found[key] = where if before is None else before | where
            pending += [(link, found[key] & opened) for link, opened in self._links(key)]
        return found

    def _links(self, key: tuple[str, str]) -> list[tuple[tuple[str, str], BoolArray]]:
        kind, name = key
        if kind == "source":
            part = self.under.source(name)
            return [(("table", drop.table), self.drop_open(drop)) for drop in part.drops]
        table = self.under.table(name)
        links: list[tuple[tuple[str, str], BoolArray]] = []
        for line in table.lines:
            for given in line.yields:
                link = link_of(given)
                if link is not None:
                    links.append((link, self.line_open(table, line)))
        return links


def mended_table(table: Table, label: str, **changed: Any) -> Mend:
    """The table with some of its keys changed."""
    return Mend(label, [{"kind": "table", "id": table.id, "body": plain(table) | changed}])


def mended_line(table: Table, at: int, label: str, **changed: Any) -> Mend:
    """The table with one line's keys changed; None takes a key out."""
    lines = plain(table)["lines"]
    line = lines[at] | changed
    lines[at] = {key: value for key, value in line.items() if value is not None}
    return mended_table(table, label, lines=lines)


def without_line(table: Table, at: int, label: str) -> Mend:
    lines = plain(table)["lines"]
    return mended_table(table, label, lines=[*lines[:at], *lines[at + 1 :]])


def mended_drop(source: Source, at: int, label: str, **changed: Any) -> Mend:
    body = plain(source)
    body["drops"][at] |= changed
    return Mend(label, [{"kind": "source", "id": source.id, "body": body}])
