"""How much work a walk over states is, known before it is begun: no question takes longer than a bound.

Counted in steps of about a nanosecond on a slow core: every change of an array over states costs what a
call costs and one step for each of its cells.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

from golddice.core.errors import TooLarge
from golddice.core.game.links import links_of
from golddice.core.game.models import BaseLine, Drop, Line, Source, Table
from golddice.core.game.views import View
from golddice.core.odds.carried.axes import Key, drop_keys, table_keys
from golddice.core.odds.carried.parts import LineOf, Part, What
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.resting import is_distinct
from golddice.core.terms.size import inner_of, missing, part_of

MOST_STEPS = 1_500_000_000
MOST_BYTES = 128 * 2**20
MOST_REPEATS = 2_000
MOST_SETS = 4_096
_CALL = 10_000  # what a change costs however few states there are
_DEEPEST = 60  # tables with state within each other


class Effort(NamedTuple):
    """changes : of arrays over all states, in one event. depth : how deep tables with state nest. held :
    how many arrays are needed at once."""

    changes: int
    depth: int
    held: int

    def steps(self, states: int, width: int, events: int = 1) -> int:
        return events * self.changes * (_CALL + states * width)


def carried_under(under: Conditions) -> Carried:
    """One for all who ask about the same conditions."""
    return under.once("carried", under.game, lambda: Carried(under))


class Carried:
    """What each table and source carries under some conditions, itself and all that it reaches."""

    def __init__(self, under: Conditions) -> None:
        self.under = under
        self._keys: dict[View, tuple[Key, ...]] = {}
        self._efforts: dict[View, Effort] = {}

    def keys(self, view: View) -> tuple[Key, ...]:
        """The pockets of all that is reached from here."""
        for one in missing(self.under, view, self._keys):
            self._keys[one] = tuple(dict.fromkeys(self._found(one)))
        return self._keys[view]

    def has(self, view: View) -> bool:
        """Whether what is reached from here rests on what a player carries."""
        return bool(self.keys(view))

    def _found(self, view: View) -> list[Key]:
        part = part_of(self.under, view)
        if isinstance(part, Source):
            return [key for drop in part.drops for key in self.of_drop(part, drop)]
        inner = [key for link in inner_of(self.under, view) for key in self._keys[link]]
        return [*table_keys(part, self.under), *inner]

    def keys_within(self, line: BaseLine) -> list[Key]:
        """The pockets of all that a line leads to, without its own."""
        return [key for view in links_of(line) for key in self.keys(view)]

    def of_drop(self, source: Source, drop: Drop) -> list[Key]:
        """The pockets of a drop and of all that it rolls; none where it is closed."""
        if not bool(self.under.drop_open(drop).any()):
            return []
        return [*drop_keys(source.id, drop, self.under), *self.keys(View("table", drop.table))]

    def effort(self, what: What) -> Effort:
        """Of one event of some drops of a source, or one execution of a table. Raises TooLarge where it
        has no bound worth counting to."""
        found = self._of_parts(what[1]) if isinstance(what, tuple) else self._of(View("table", what.id))
        if found.depth > _DEEPEST:
            raise TooLarge(f"tables that a player carries something of, {found.depth} within each other")
        return found

    @staticmethod
    def at_a_time(effort: Effort, states: int, each: int) -> int:
        """How many columns, of so many numbers a state each, can be walked together."""
        return max(1, MOST_BYTES // (effort.held * states * each * 8))

    def check(self, effort: Effort, states: int, width: int, events: int = 1) -> None:
        """Raise TooLarge where a walk would take longer, or more memory, than the bound."""
        if effort.held * states * width * 8 > MOST_BYTES:
            raise TooLarge(f"{states:,} states of a player, {effort.held:,} times over: too much to hold")
        if effort.steps(states, width, events) > MOST_STEPS:
            raise TooLarge(
                f"{states:,} states of a player, {effort.changes:,} changes an event"
                + (f", {events:,} events" if events > 1 else "")
                + ": more work than one question may be"
            )

    def _of(self, view: View) -> Effort:
        for one in missing(self.under, view, self._efforts):
            part = part_of(self.under, one)
            is_source = isinstance(part, Source)
            self._efforts[one] = self._of_parts(part.drops) if is_source else self._of_table(part)  # type: ignore[union-attr,arg-type]
        return self._efforts[view]

    def _of_parts(self, parts: Sequence[Part]) -> Effort:
        changes, depth, held = 1, 0, 2
        for part in parts:
            if isinstance(part, LineOf):
                inner, times = self._of_line(part.table.lines[part.at]), 1
                held = max(held, 3)
            else:
                inner = self._of(View("table", part.table))
                times = self._many(self.under.law(part.times).most)
            changes += 2 + times * inner.changes
            depth, held = max(depth, inner.depth), max(held, inner.held)
        return Effort(changes, depth + 1, held + 2)

    def _of_table(self, table: Table) -> Effort:
        if not self.has(View("table", table.id)):
            return Effort(1, 0, 1)
        changes, depth, held = 1, 0, 2 + len(table.lines)
        for line in table.lines:
            inner = self._of_line(line)
            changes += inner.changes
            depth, held = max(depth, inner.depth), max(held, inner.held)
        rolls = self.under.law(table.rolls).most
        if is_distinct(self.under, table):
            sets = self._sets(table, rolls)
            return Effort(changes * sets * self._many(rolls), depth + 1, held + 2 * sets + rolls)
        return Effort(changes * self._many(rolls), depth + 1, held + 2)

    def _of_line(self, line: Line) -> Effort:
        changes, depth, held = 2, 0, 0
        for given in line.yields:
            if isinstance(given.what, View) and self.has(given.what):
                inner = self._of(given.what)
                changes += self._many(self.under.law(given.quantity).most) * inner.changes
                depth, held = max(depth, inner.depth), max(held, inner.held)
        return Effort(changes, depth, held)

    def _many(self, count: int) -> int:
        if count > MOST_REPEATS:
            raise TooLarge(
                f"{count:,} repeats of what a player carries something of; exact up to {MOST_REPEATS:,}"
            )
        return count

    def _sets(self, table: Table, rolls: int) -> int:
        """How many sets of lines can be out in a distinct pick."""
        lines = len(table.lines)
        sets = sum(math.comb(lines, out) for out in range(min(rolls, lines + 1)))
        if sets > MOST_SETS:
            raise TooLarge(
                f"“{table.id}” picks distinct lines, {sets:,} sets of them, with what players carry; "
                f"exact up to {MOST_SETS:,}"
            )
        return sets
