"""The rules of a game, played out in full: every way that an event can go, with its chance.

Slow, and as plain as it can be: no arrays, no closed forms, nothing shared with the core but its models
and its curves. What the core works out in clever ways is held against this.

A player is what they carry, a frozen mapping written as sorted pairs:
    ("misses", table, line)    rolls in a row in which the line was open and did not hit
    ("hits", table, line)      hits of a line that has a limit
    ("tried", source, drop)    events in a row in which the drop was open and did not hit
    ("deck", table)            copies left of each line; absent for a full deck
A bag is how many of each item, in file order.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Callable, Iterable
from typing import Any

import numpy as np

from golddice.core.game.curves import multiplier
from golddice.core.game.models import Drop, Game, Guard, Source, Table, Yield

Player = tuple[tuple[tuple[str, ...], Any], ...]
Bag = tuple[int, ...]
World = tuple[Player, Bag]
Chances = dict[World, float]
Step = Callable[[Player, Bag], Iterable[tuple[float, World]]]
FRESH: Player = ()
MOST_WORLDS = 1_500
MOST_STEPS = 15_000


class TooMany(Exception):
    """More ways than a test should wait for."""


def value(player: Player, key: tuple[str, ...], default: Any = 0) -> Any:
    return dict(player).get(key, default)


def with_value(player: Player, key: tuple[str, ...], new: Any, default: Any = 0) -> Player:
    """The player with something else on their mind; defaults are not written down."""
    kept = {k: v for k, v in player if k != key}
    if new != default:
        kept[key] = new
    return tuple(sorted(kept.items()))


def then(chances: Chances, step: Step) -> Chances:
    found: dict[World, float] = defaultdict(float)
    for (player, bag), p in chances.items():
        for q, world in step(player, bag):
            if q > 0:
                found[world] += p * q
    if len(found) > MOST_WORLDS:
        raise TooMany
    return dict(found)


class Oracle:
    def __init__(self, game: Game, depth: int, flags: Iterable[str] = ()) -> None:
        self.game, self.depth, self.flags = game, depth, set(flags)
        self.items = {item.id: at for at, item in enumerate(game.items)}
        self.tiers = {tier.id: tier for tier in game.tiers}
        self.tables = {table.id: table for table in game.tables}
        self.sources = {source.id: source for source in game.sources}
        self.curves = {curve.id: curve for curve in game.curves}
        self.steps = 0
        self.empty: Bag = (0,) * len(game.items)

    # --- asked from outside --------------------------------------------------------------------------

    def events(self, source: str, count: int) -> Chances:
        """A fresh player's first events."""
        chances: Chances = {(FRESH, self.empty): 1.0}
        for _ in range(count):
            chances = self.event(self.sources[source], chances)
        return chances

    def worth(self, bag: Bag) -> float:
        return sum(item.value * count for item, count in zip(self.game.items, bag, strict=True))

    # --- what is open --------------------------------------------------------------------------------

    def curve(self, name: str | None) -> float:
        return 1.0 if name is None else float(multiplier(self.curves[name], np.array([self.depth]))[0])

    def gate(self, part: Any) -> bool:
        low, high = part.depths or (self.depth, self.depth)
        flagged = set(part.needs) <= self.flags and not set(part.unless) & self.flags
        return low <= self.depth <= high and flagged

    def factor(self, line: Any) -> float:
        """The line's curve times that of its one tier."""
        found: set[str | None] = set()
        for given in line.yields:
            if given.item is not None:
                found.add(self.game.items[self.items[given.item]].tier)
            elif given.pool is not None:
                found.add(given.pool.tiers[0] if len(set(given.pool.tiers)) == 1 else None)
        tier = found.pop() if len(found) == 1 else None
        return self.curve(line.curve) * (self.curve(self.tiers[tier].curve) if tier else 1.0)

    def is_open(self, table: Table, line: Any, player: Player, taken: frozenset[str] = frozenset()) -> bool:
        if not self.gate(line) or line.id in taken:
            return False
        if table.rule != "deck" and self.factor(line) == 0:
            return False
        return line.limit is None or value(player, ("hits", table.id, line.id)) < line.limit

    # --- numbers -------------------------------------------------------------------------------------

    def amounts(self, quantity: Any) -> list[tuple[float, int]]:
        """Every number that a quantity can be drawn as."""
        if quantity.dice is not None:
            drawn = _dice(quantity.dice)
        else:
            values = range(quantity.min, quantity.max + 1, quantity.step)
            drawn = {x: 1 / len(values) for x in values}
        found: dict[int, float] = defaultdict(float)
        scale = self.curve(quantity.curve)
        for x, p in drawn.items():
            y = x * scale
            low = math.floor(y)
            found[low] += p * (1 - (y - low))
            found[low + 1] += p * (y - low)
        return [(p, x) for x, p in found.items() if p > 0]

    def so_often(self, quantity: Any, chances: Chances, once: Callable[[Chances], Chances]) -> Chances:
        """`once` as often as the quantity says."""
        amounts = {x: p for p, x in self.amounts(quantity)}
        found: dict[World, float] = defaultdict(float)
        for count in range(max(amounts) + 1):
            for world, p in chances.items():
                found[world] += amounts.get(count, 0.0) * p
            if count < max(amounts):
                chances = once(chances)
        return {world: p for world, p in found.items() if p > 0}

    # --- events --------------------------------------------------------------------------------------

    def event(self, source: Source, chances: Chances) -> Chances:
        for drop in source.drops:
            chances = self.drop(source, drop, chances)
        return chances

    def drop(self, source: Source, drop: Drop, chances: Chances) -> Chances:
        scale = self.curve(drop.curve)
        if not self.gate(drop) or scale == 0:
            return chances
        key = ("tried", source.id, drop.id)
        hit: dict[World, float] = defaultdict(float)
        miss: dict[World, float] = defaultdict(float)
        for (player, bag), p in chances.items():
            misses = value(player, key)
            c = _raised(min(1.0, drop.chance * scale), drop.guard, misses)
            hit[with_value(player, key, 0), bag] += p * c
            after = with_value(player, key, misses + 1) if drop.guard else player
            miss[after, bag] += p * (1 - c)
        table = self.tables[drop.table]
        given = self.so_often(drop.times, dict(hit), lambda now: self.execute(table, now))
        return _added(given, miss)

    def execute(self, table: Table, chances: Chances) -> Chances:
        """All rolls of a table; lines taken in a distinct pick are written into the player for so long."""
        key = ("taken", table.id)
        found = self.so_often(table.rolls, chances, lambda now: self.roll(table, now))
        return then(
            found, lambda player, bag: [(1.0, (with_value(player, key, frozenset(), frozenset()), bag))]
        )

    def roll(self, table: Table, chances: Chances) -> Chances:
        if table.rule == "each":
            for at in range(len(table.lines)):
                chances = self.tested(table, at, chances)
            return chances
        by_line: dict[str | None, Chances] = {}
        for (player, bag), p in chances.items():
            self.count()
            for q, after, line in self.outcomes(table, player):
                if p * q > 0:
                    hit = by_line.setdefault(None if line is None else line.id, {})
                    hit[after, bag] = hit.get((after, bag), 0.0) + p * q
        found = by_line.pop(None, {})
        for line in table.lines:
            if line.id in by_line:
                found = _added(found, self.gives(line.yields, by_line[line.id]))
        if len(found) > MOST_WORLDS:
            raise TooMany
        return found

    def count(self) -> None:
        self.steps += 1
        if self.steps > MOST_STEPS:
            raise TooMany

    def tested(self, table: Table, at: int, chances: Chances) -> Chances:
        """One line of `each`."""
        line: Any = table.lines[at]
        hit: dict[World, float] = defaultdict(float)
        rest: dict[World, float] = defaultdict(float)
        for (player, bag), p in chances.items():
            self.count()
            if not self.is_open(table, line, player):
                rest[player, bag] += p
                continue
            c = self.chance(table, line, player)
            hit[self.noted(table, line, player, True), bag] += p * c
            rest[self.noted(table, line, player, False), bag] += p * (1 - c)
        return _added(self.gives(line.yields, {world: p for world, p in hit.items() if p > 0}), rest)

    def outcomes(self, table: Any, player: Player) -> list[tuple[float, Player, Any]]:
        """(chance, the player after, the line that hits) for the rules that give at most one line."""
        if table.rule == "deck":
            return self.cards(table, player)
        if table.rule == "first":
            return self.in_order(table, player)
        taken = value(player, ("taken", table.id), frozenset())
        open_lines = [line for line in table.lines if self.is_open(table, line, player, taken)]
        due = [line for line in open_lines if self.is_due(table, line, player)]
        chances = (
            self.one_of(table, open_lines, player)
            if not due
            else [1.0 if line is due[0] else 0.0 for line in open_lines]
        )
        found = []
        for at, hit in enumerate([*open_lines, None]):
            p = chances[at] if hit is not None else 1.0 - sum(chances)
            after = player
            for line in open_lines:
                after = self.noted(table, line, after, line is hit)
            if hit is not None and table.rule == "pick" and table.distinct:
                after = with_value(after, ("taken", table.id), taken | {hit.id}, frozenset())
            found.append((max(p, 0.0), after, hit))
        return found

    def one_of(self, table: Any, open_lines: list[Any], player: Player) -> list[float]:
        if table.rule == "pick":
            weights = []
            for line in open_lines:
                rise = 0.0 if line.guard is None else self.rise(table, line, player)
                weights.append(line.weight * self.factor(line) * (1 + rise))
            whole = sum(weights) + table.nothing * self.curve(table.nothing_curve)
            return [w / whole if whole > 0 else 0.0 for w in weights]
        whole = sum(line.weight for line in open_lines)
        if whole == 0:
            return [0.0 for _ in open_lines]
        # A try after a try, as it is told.
        found, left = [0.0 for _ in open_lines], 1.0
        for _ in range(table.tries):
            some = 0.0
            for at, line in enumerate(open_lines):
                c = min(1.0, min(1.0, line.chance * self.factor(line)) + self.rise(table, line, player))
                found[at] += left * line.weight / whole * c
                some += line.weight / whole * c
            left *= 1 - some
        return found

    def in_order(self, table: Table, player: Player) -> list[tuple[float, Player, Any]]:
        found, reached = [], 1.0
        for line in table.lines:
            if not self.is_open(table, line, player):
                continue
            c = self.chance(table, line, player)
            found.append((reached * c, self.noted(table, line, player, True), line))
            player = self.noted(table, line, player, False)
            reached *= 1 - c
        return [*found, (reached, player, None)]

    def cards(self, table: Any, player: Player) -> list[tuple[float, Player, Any]]:
        key = ("deck", table.id)
        full = tuple(line.copies if self.is_open(table, line, player) else 0 for line in table.lines)
        left = value(player, key, None) or full
        if not any(left):
            left = full
        if not any(left):
            return [(1.0, player, None)]
        found = []
        for at, line in enumerate(table.lines):
            if left[at]:
                after = self.noted(table, line, player, True)
                rest = [count - (n == at) for n, count in enumerate(left)]
                if not self.is_open(table, line, after):
                    rest[at] = 0
                now = with_value(after, key, tuple(rest) if any(rest) else None, None)
                found.append((left[at] / sum(left), now, line))
        return found

    # --- guards and limits ---------------------------------------------------------------------------

    def rise(self, table: Table, line: Any, player: Player) -> float:
        if line.guard is None:
            return 0.0
        misses = value(player, ("misses", table.id, line.id))
        return float(line.guard.rise) * max(0, misses - line.guard.after)

    def is_due(self, table: Table, line: Any, player: Player) -> bool:
        if line.guard is None or line.guard.sure_at is None:
            return False
        return bool(value(player, ("misses", table.id, line.id)) + 1 >= line.guard.sure_at)

    def chance(self, table: Table, line: Any, player: Player) -> float:
        """Of a line that is tested on a chance of its own."""
        at_depth = min(1.0, line.chance * self.factor(line))
        return _raised(at_depth, line.guard, value(player, ("misses", table.id, line.id)))

    def noted(self, table: Table, line: Any, player: Player, hit: bool) -> Player:
        """The player after an open line took part in a roll."""
        if line.guard is not None:
            key = ("misses", table.id, line.id)
            player = with_value(player, key, 0 if hit else value(player, key) + 1)
        if hit and line.limit is not None:
            key = ("hits", table.id, line.id)
            player = with_value(player, key, value(player, key) + 1)
        return player

    # --- what a line gives ---------------------------------------------------------------------------

    def gives(self, yields: list[Yield], chances: Chances) -> Chances:
        for given in yields:
            chances = self.so_often(given.quantity, chances, lambda now, one=given: self.unit(one, now))
        return chances

    def unit(self, given: Yield, chances: Chances) -> Chances:
        if given.table is not None:
            return self.execute(self.tables[given.table], chances)
        if given.source is not None:
            return self.event(self.sources[given.source], chances)
        one_of = [(1.0, self.items[given.item])] if given.item is not None else self.pool(given)
        rest = 1.0 - sum(p for p, _ in one_of)

        def received(player: Player, bag: Bag) -> Iterable[tuple[float, World]]:
            for p, at in one_of:
                yield p, (player, tuple(count + (n == at) for n, count in enumerate(bag)))
            if rest > 1e-12:
                yield rest, (player, bag)

        return then(chances, received)

    def pool(self, given: Yield) -> list[tuple[float, int]]:
        assert given.pool is not None
        fits = [
            at
            for at, item in enumerate(self.game.items)
            if (not given.pool.tiers or item.tier in given.pool.tiers)
            and (not given.pool.tags or set(item.tags) & set(given.pool.tags))
        ]
        weights = [
            self.game.items[at].abundance * self.curve(self.tiers[self.game.items[at].tier].curve)
            for at in fits
        ]
        whole = sum(weights)
        return [(w / whole, at) for w, at in zip(weights, fits, strict=True) if whole > 0]


def _raised(chance: float, guard: Guard | None, misses: int) -> float:
    """A chance with what a guard does to it."""
    if guard is None:
        return chance
    if guard.sure_at is not None and misses + 1 >= guard.sure_at:
        return 1.0
    return min(1.0, chance + guard.rise * max(0, misses - guard.after))


def _added(first: Chances, second: Chances) -> Chances:
    found: dict[World, float] = defaultdict(float)
    for part in (first, second):
        for world, p in part.items():
            if p > 0:
                found[world] += p
    return dict(found)


def _dice(text: str) -> dict[int, float]:
    """`2d6+1`: every total with its chance."""
    count, _, rest = text.partition("d")
    sign = next((one for one in "+-" if one in rest), "")
    sides, _, off = rest.partition(sign) if sign else (rest, "", "0")
    totals: dict[int, float] = {0: 1.0}
    for _ in range(int(count or 1)):
        rolled: dict[int, float] = defaultdict(float)
        for total, p in totals.items():
            for side in range(1, int(sides) + 1):
                rolled[total + side] += p / int(sides)
        totals = dict(rolled)
    shift = -int(off) if sign == "-" else int(off)
    return {max(0, total + shift): p for total, p in totals.items()}
