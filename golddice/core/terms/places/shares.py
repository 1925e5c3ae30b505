"""How many of each line are set out where numbers are fixed, in what order, and how many could be at most."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Hashable, Iterator
from dataclasses import dataclass
from fractions import Fraction
from math import comb
from typing import Any, TypeVar

from golddice.core.errors import TooLarge
from golddice.core.game.places import Filled
from golddice.core.stopping import go_on
from golddice.core.terms.places.spots import Spots


def units_of(spots: Spots) -> list[int]:
    """Units of each line, 0 of a closed one: whole parts of the shares, what is left over to the largest
    remainders, then every least."""
    place, weights = spots.place, spots.exact_weights
    total = sum(weights, Fraction(0))
    wanted = _count(spots) if total > 0 else 0
    shares = [wanted * one / total if total > 0 else Fraction(0) for one in weights]
    units = [int(share) for share in shares]
    order = sorted(range(len(units)), key=lambda at: (units[at] - shares[at], at))
    for at in order[: wanted - sum(units)]:
        units[at] += 1
    least = [0] * len(units)
    for one in place.least:
        at = spots.lines.index(one.line)
        least[at] = one.count if spots.open[at] else 0
    for at in range(len(units)):
        while units[at] < least[at]:
            giver = _giver(units, shares, least)
            units[at] += 1
            if giver is not None:
                units[giver] -= 1
    return units


def _count(spots: Spots) -> int:
    """Of all the spots, rounded half up."""
    filled = spots.place.filled
    if isinstance(filled, Filled):
        return filled.count
    return int(Fraction(repr(filled)) * len(spots.place.spots) + Fraction(1, 2))


def _giver(units: list[int], shares: list[Fraction], least: list[int]) -> int | None:
    """The line that is most above its share, ties to the later one, of those above their own least."""
    able = [at for at in range(len(units)) if units[at] > least[at]]
    return max(able, key=lambda at: (units[at] - shares[at], at), default=None)


def order_of(spots: Spots) -> list[int]:
    """Rarest first, ties to the earlier one; closed ones too."""
    weights = spots.exact_weights
    return sorted(range(len(weights)), key=lambda at: (weights[at], at))


def most_placed(spots: Spots, units: list[int]) -> list[int]:
    """The maximum flow from lines to spots that serves them in the order of setting out, each with as many as
    can be without taking from those before."""
    classes, members = classes_of(spots)
    free = list(members)
    flow: dict[tuple[int, int], int] = {}
    found = [0] * len(units)
    for line in order_of(spots):
        while found[line] < units[line] and _augment(line, classes, free, flow):
            found[line] += 1
    return found


def classes_of(spots: Spots) -> tuple[list[frozenset[int]], list[int]]:
    """Spots that allow the same lines are alike: the lines of each class, and how many spots it has."""
    counts: dict[frozenset[int], int] = {}
    for row in spots.allowed:
        key = frozenset(row.nonzero()[0].tolist())
        counts[key] = counts.get(key, 0) + 1
    return list(counts), list(counts.values())


def spread(free: tuple[int, ...], may: list[int], many: int) -> Iterator[tuple[tuple[int, ...], float]]:
    """How so many units fall on the free spots of some classes, with the chance of each way: a draw without
    replacement."""
    if not may:
        yield free, 1.0
        return
    first, rest = may[0], may[1:]
    here, others = free[first], sum(free[at] for at in rest)
    whole = comb(here + others, many)
    for taken in range(max(0, many - others), min(many, here) + 1):
        chance = comb(here, taken) * comb(others, many - taken) / whole
        left = (*free[:first], here - taken, *free[first + 1 :])
        for further, share in spread(left, rest, many - taken):
            yield further, chance * share


Mark = TypeVar("Mark", bound=Hashable)
Free = tuple[int, ...]  # how many spots of each class are


@dataclass(frozen=True)
class Turn:
    """A line's turn: the classes that it may lie in, and, of each state before it, how many are placed."""

    line: int
    may: list[int]
    units: int

    def placed(self, free: Free) -> int:
        return min(self.units, sum(free[at] for at in self.may))


def set_out_by_line(
    spots: Spots,
    units: list[int],
    start: tuple[Mark, Any],
    turn: Callable[[Turn, dict[tuple[Free, Mark], Any]], Iterator[tuple[Free, Mark, Any, int]]],
    most_steps: int,
) -> dict[tuple[Free, Mark], Any]:
    """All ways to set lines out, line by line through the free spots of each class, with what each state
    weighs: a number, or an array, which shares of ways multiply.

    `turn` is told of each line's turn and the states before it, and gives of each the free spots, a mark,
    what it weighs now and how many of the line are placed. Raises TooLarge of more steps between states.
    """
    classes, members = classes_of(spots)
    states: dict[tuple[Free, Mark], Any] = {(tuple(members), start[0]): start[1]}
    order, steps = [line for line in order_of(spots) if units[line] > 0], 0
    for place, line in enumerate(order):
        go_on()
        may = [at for at, lines in enumerate(classes) if line in lines]
        later = set(order[place + 1 :])
        asked = [bool(later & lines) for lines in classes]
        after: dict[tuple[Free, Mark], Any] = {}
        for free, mark, weight, many in turn(Turn(line, may, units[line]), states):
            for left, share in spread(free, may, many):
                steps += 1
                if steps > most_steps:
                    raise TooLarge("too many ways to set them out")
                # Classes that no line asks for any more are alike whatever is free there.
                key = tuple(one if wanted else 0 for one, wanted in zip(left, asked, strict=True)), mark
                found = after.get(key)
                after[key] = share * weight if found is None else found + share * weight
        states = after
    return states


def _augment(
    line: int, classes: list[frozenset[int]], free: list[int], flow: dict[tuple[int, int], int]
) -> bool:
    """One unit more of a line, others moved aside where they must, by the shortest way (Edmonds and Karp)."""
    came: dict[tuple[str, int], tuple[str, int] | None] = {("line", line): None}
    pending = deque([("line", line)])
    while pending:
        kind, at = pending.popleft()
        if kind == "line":
            steps = [("class", one) for one, lines in enumerate(classes) if at in lines]
        else:
            if free[at] > 0:
                _turn(("class", at), came, flow)
                free[at] -= 1
                return True
            steps = [("line", other) for (other, one), units in flow.items() if one == at and units > 0]
        for step in steps:
            if step not in came:
                came[step] = (kind, at)
                pending.append(step)
    return False


def _turn(
    at: tuple[str, int],
    came: dict[tuple[str, int], tuple[str, int] | None],
    flow: dict[tuple[int, int], int],
) -> None:
    before = came[at]
    while before is not None:
        if at[0] == "class":
            flow[before[1], at[1]] = flow.get((before[1], at[1]), 0) + 1
        else:
            flow[at[1], before[1]] -= 1
        at, before = before, came[before]
