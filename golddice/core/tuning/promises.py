"""Promises: the fewest and the most of some things that an event can ever give, and how that comes about.

Decided by what can come at all, for any player: one whose limits are used up, whose guards are due, whose
deck is nearly drawn. Lines and drops count as possible where they are open and not without any chance; as
certain where nothing that a player carries can keep them from it.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from typing import Literal, NamedTuple

import numpy as np

from golddice.core.arrays import FloatArray
from golddice.core.errors import TooLarge
from golddice.core.game.models import BaseLine, DeckLine, Drop, ItemNamed, Line, Pool, Source, Table, Yield
from golddice.core.game.quantity import Quantity
from golddice.core.game.views import View
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.resting import is_distinct
from golddice.core.terms.size import Rolled, in_order, most_rolls, part_of

MOST_STEPS = 20


class Step(NamedTuple):
    """One thing that happens on the way: a line or drop that hits or misses, or a roll that gives nothing."""

    kind: Literal["table", "source"]
    id: str
    part: str
    how: Literal["hits", "misses", "nothing"]


Path = tuple[Step, ...]


@dataclass(frozen=True)
class Reach:
    """least, most : how many can be given. fewest, most_of : a way to each.
    is_loose : whether more than `most` is told than may really come."""

    least: float
    most: float
    fewest: Path = ()
    most_of: Path = ()
    is_loose: bool = False


_NONE = Reach(0.0, 0.0)


def reach(under: Conditions, view: View, counts: FloatArray) -> Reach:
    """Of one event at one depth; `counts`, (items,) of 0 and 1, says which items count.

    Raises TooLarge where that cannot be decided: where a guard is sure within an event.
    """
    return _Reaches(under, view, counts).of_view


class _Reaches:
    def __init__(self, under: Conditions, view: View, counts: FloatArray) -> None:
        self._under, self._counts = under, counts
        self._rolls: Rolled = most_rolls(under, view)
        self._found: dict[View, Reach] = {}
        self._check_guards()
        for one in in_order(under, [view]):
            part = part_of(under, one)
            self._found[one] = self._source(part) if isinstance(part, Source) else self._table(part)
        self.of_view = self._found[view]

    def _check_guards(self) -> None:
        """A guard that is sure within the rolls of an event makes promises that no single roll makes."""
        for view, many in self._rolls.items():
            part = part_of(self._under, view)
            held: Sequence[Drop | Line] = part.drops if isinstance(part, Source) else part.lines
            for one in held:
                sure = None if one.guard is None else one.guard.sure_at
                if sure is not None and 1 < sure <= many:
                    raise TooLarge(
                        f"the guard of “{one.id}” in “{part.id}” is sure within one event; "
                        "what that promises cannot be decided"
                    )

    # --- sources ---------------------------------------------------------------------------------------

    def _source(self, source: Source) -> Reach:
        parts = []
        for drop in source.drops:
            certain, possible = self._drop_can(drop)
            if possible:
                given = self._times(drop.times, self._found[View("table", drop.table)])
                hit, miss = (Step("source", source.id, drop.id, how) for how in ("hits", "misses"))
                parts.append(_perhaps(given, certain, hit, miss))
        return _all(parts)

    def _drop_can(self, drop: Drop) -> tuple[bool, bool]:
        chance = float(self._under.drop_chance(drop)[0])
        return _can(drop, chance, bool(self._under.drop_open(drop)[0]))

    # --- tables ----------------------------------------------------------------------------------------

    def _table(self, table: Table) -> Reach:
        under = self._under
        lines = [(line, self._line(table, line)) for line in table.lines]
        can = list(self._lines_can(table))
        least, most = _ends(under, table.rolls)
        open_ = [
            (line, given, certain)
            for (line, given), (certain, possible) in zip(lines, can, strict=True)
            if possible
        ]
        if table.rule == "each":
            return self._each(table, open_, least, most)
        if table.rule == "deck":
            return self._deck(table, open_, least, most)
        blank = Step("table", table.id, "", "nothing")
        options, may_be_nothing = self._options(table, open_)
        if is_distinct(under, table):
            return _distinct(options, may_be_nothing, blank, least, most)
        return self._one_of(table, options, may_be_nothing, blank, least, most)

    def _line(self, table: Table, line: Line) -> Reach:
        given = _all([self._yield(one) for one in line.yields])
        step = (Step("table", table.id, line.id, "hits"),)
        return Reach(given.least, given.most, step + given.fewest, step + given.most_of, given.is_loose)

    def _yield(self, given: Yield) -> Reach:
        match given.what:
            case ItemNamed(item):
                once = float(self._counts[self._under.item_index[item]])
                return self._times(given.quantity, Reach(once, once))
            case View() as view:
                return self._times(given.quantity, self._found[view])
            case Pool() as pool:
                return self._times(given.quantity, self._pool(pool))

    def _pool(self, pool: Pool) -> Reach:
        can = self._under.pool_chances(pool)[:, 0] > 0
        mine = self._counts[self._under.pool_items(pool)][can]
        return Reach(float(mine.min()), float(mine.max())) if mine.size else _NONE

    def _times(self, quantity: Quantity, once: Reach) -> Reach:
        least, most = _ends(self._under, quantity)
        fewest = once.fewest if least else ()
        return Reach(least * once.least, most * once.most, fewest, once.most_of, once.is_loose)

    def _lines_can(self, table: Table) -> Iterator[tuple[bool, bool]]:
        """Of each line whether it is certain, and whether it is possible, where it has its turn."""
        under = self._under
        weights = under.weights(table)[:, 0] if table.rule in ("pick", "retry") else None
        chances = under.chances(table)[:, 0] if table.rule not in ("pick", "deck") else None
        for at, line in enumerate(table.lines):
            is_open = bool(under.line_open(line, table.rule != "deck")[0])
            if isinstance(line, DeckLine):
                yield False, is_open and line.copies > 0
                continue
            chance = 0.0 if chances is None else float(chances[at])
            if weights is not None and weights[at] <= 0:
                yield _sure_at_once(line), is_open and line.guard is not None and bool(line.guard.sure_at)
            elif table.rule == "pick":
                yield _sure_at_once(line), is_open
            else:
                yield _can(line, chance, is_open)

    def _options(
        self, table: Table, lines: list[tuple[Line, Reach, bool]]
    ) -> tuple[list[tuple[Line, Reach]], bool]:
        """Of which lines one comes in a roll, and whether nothing may."""
        under = self._under
        if table.rule == "first":
            return _until_certain(lines)
        due = [(line, given) for line, given, _ in lines if _sure_at_once(line)]
        unlimited = [line for line, _ in due if line.limit is None]
        if unlimited:
            return due[: [line for line, _ in due].index(unlimited[0]) + 1], False
        every = [(line, given) for line, given, _ in lines]
        lasting = [line for line, _, _ in lines if line.limit is None]
        if table.rule == "pick":
            weights = under.weights(table)[:, 0]
            weighty = {line.id for line, weight in zip(table.lines, weights, strict=True) if weight > 0}
            return every, bool(under.nothing(table)[0] > 0) or not any(line.id in weighty for line in lasting)
        certain = all(sure for line, _, sure in lines if line.limit is None) and bool(lasting)
        picked = under.weights(table)[:, 0]
        missing = any(
            weight > 0 and line.id not in {one.id for one, _, sure in lines if sure}
            for line, weight in zip(table.lines, picked, strict=True)
        )
        return every, not certain or missing

    def _one_of(
        self,
        table: Table,
        options: list[tuple[Line, Reach]],
        may_be_nothing: bool,
        blank: Step,
        least: int,
        most: int,
    ) -> Reach:
        """Roll after roll one of the lines, or nothing."""
        fewest = [(given.least, given.fewest) for _, given in options]
        if may_be_nothing or not options:
            fewest.append((0.0, (blank,)))
        low, way = min(fewest, key=lambda one: one[0])
        high, best, is_loose = self._most_of(table, options, most)
        return Reach(least * low, high, way if least else (), best, is_loose)

    def _most_of(
        self, table: Table, options: list[tuple[Line, Reach]], rolls: int
    ) -> tuple[float, Path, bool]:
        """The most that so many rolls of one line each can give: limited lines for as long as they last."""
        left, total, is_loose = rolls, 0.0, False
        best: Path = ()
        for line, given in sorted(options, key=lambda one: -one[1].most):
            if left <= 0 or given.most <= 0:
                break
            many = left if line.limit is None else min(left, line.limit)
            total += many * given.most
            best = best or given.most_of
            left -= many
            is_loose = is_loose or given.is_loose or self._is_shared(table, line, rolls)
        return total, best, is_loose

    def _is_shared(self, table: Table, line: BaseLine, rolls: int) -> bool:
        """Whether its limit could be used up elsewhere within the event."""
        return line.limit is not None and line.limit < self._rolls[View("table", table.id)] > rolls

    def _each(self, table: Table, lines: list[tuple[Line, Reach, bool]], least: int, most: int) -> Reach:
        fewest, best = [], []
        for line, given, certain in lines:
            hit, miss = (Step("table", table.id, line.id, how) for how in ("hits", "misses"))
            sure = certain and line.limit is None
            fewest.append(_perhaps(given, sure, None, miss))
            total, way, is_loose = self._most_of(table, [(line, given)], most)
            best.append(Reach(0.0, total, (), way or (hit,), is_loose or given.is_loose))
        low, high = _all(fewest), _all(best)
        return Reach(least * low.least, high.most, low.fewest if least else (), high.most_of, high.is_loose)

    def _deck(self, table: Table, lines: list[tuple[Line, Reach, bool]], least: int, most: int) -> Reach:
        """The last cards of a deck, then the first of the next: any of each."""
        if any(line.limit is not None for line, _, _ in lines):
            raise TooLarge(f"“{table.id}” is a deck with limits; what it promises cannot be decided")
        lasting = [(line, given) for line, given, _ in lines if isinstance(line, DeckLine)]
        lows = sorted(value for line, given in lasting for value in [given.least] * line.copies)
        highs = sorted(
            (value for line, given in lasting for value in [given.most] * line.copies), reverse=True
        )
        if not lows:
            return _NONE
        low = min(lasting, key=lambda one: one[1].least)[1].fewest
        high = max(lasting, key=lambda one: one[1].most)[1].most_of
        total_low, total_high = _over_decks(lows, least, min), _over_decks(highs, most, max)
        return Reach(total_low, total_high, low if least else (), high, any(g.is_loose for _, g in lasting))


def _over_decks(cards: list[float], rolls: int, best: Callable[[Iterator[float]], float]) -> float:
    """The least or most that so many draws in a row can come to; cards in order, the best first."""
    sums = np.concatenate([[0.0], np.cumsum(cards)])
    spans = []
    for first in range(min(rolls, len(cards)) + 1):
        after = rolls - first
        decks, last = divmod(after, len(cards))
        spans.append(float(sums[first] + decks * sums[-1] + sums[last]))
    return best(iter(spans))


def _can(part: Drop | BaseLine, chance: float, is_open: bool) -> tuple[bool, bool]:
    """Whether it is certain, and whether it is possible, of what has a chance of its own."""
    guard = part.guard
    rises = guard is not None and (guard.rise > 0 or guard.sure_at is not None)
    return is_open and (chance >= 1.0 or _sure_at_once(part)), is_open and (chance > 0.0 or rises)


def _sure_at_once(part: Drop | BaseLine) -> bool:
    return part.guard is not None and part.guard.sure_at == 1


def _until_certain(lines: list[tuple[Line, Reach, bool]]) -> tuple[list[tuple[Line, Reach]], bool]:
    """The lines that may be the first to hit, and whether none may be."""
    found = []
    for line, given, certain in lines:
        found.append((line, given))
        if certain and line.limit is None:
            return found, False
    return found, True


def _distinct(
    options: list[tuple[Line, Reach]], may_be_nothing: bool, blank: Step, least: int, most: int
) -> Reach:
    """So many rolls, each line once at most. Limited lines may be used up."""
    lasting = sorted((given for line, given in options if line.limit is None), key=lambda one: one.least)
    every = sorted((given for _, given in options), key=lambda one: one.least)
    highs = sorted((given for _, given in options), key=lambda one: -one.most)[:most]
    is_loose = any(given.is_loose for given in highs)
    best = highs[0].most_of if highs and highs[0].most > 0 else ()
    total = sum(given.most for given in highs)
    if may_be_nothing or not options:
        return Reach(0.0, total, (blank,) if least else (), best, is_loose)
    low = min(sum(given.least for given in some[:least]) for some in (lasting, every))
    return Reach(low, total, every[0].fewest if least else (), best, is_loose)


def _perhaps(given: Reach, certain: bool, hit: Step | None, miss: Step) -> Reach:
    first = () if hit is None else (hit,)
    most_of = first + given.most_of
    if certain:
        return Reach(given.least, given.most, first + given.fewest, most_of, given.is_loose)
    return Reach(0.0, given.most, (miss,) if given.most > 0 else (), most_of, given.is_loose)


def _all(parts: Sequence[Reach]) -> Reach:
    """All of them happen; ways are told of those that have a say."""
    mine = [part for part in parts if part.most > 0]
    return Reach(
        sum(part.least for part in parts),
        sum(part.most for part in parts),
        tuple(step for part in mine for step in part.fewest)[:MOST_STEPS],
        tuple(step for part in mine for step in part.most_of)[:MOST_STEPS],
        any(part.is_loose for part in parts),
    )


def _ends(under: Conditions, quantity: Quantity) -> tuple[int, int]:
    values, chances = under.law(quantity).row(0)
    come = values[chances > 0]
    return int(come[0]), int(come[-1])
