"""A proposal: the numbers with which chosen targets are met, what else they move, or why it cannot be."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import Any, Literal

import numpy as np

from golddice.core.errors import QueryError
from golddice.core.game.models import Game
from golddice.core.tuning.aims import Book, told
from golddice.core.tuning.asking import Ask, chosen, free_numbers
from golddice.core.tuning.conflict import blocked, contradiction, of_targets
from golddice.core.tuning.fewest import fewest
from golddice.core.tuning.long_runs import LongRun, long_runs, to_hold
from golddice.core.tuning.moved import Moved, what_moved
from golddice.core.tuning.numbers import Number, numbers_of, with_values
from golddice.core.tuning.rounding import Holds, costing_little, in_whole, rounded, size_of
from golddice.core.tuning.solving import Found, Task, as_near, can_be_met, gentler, has_pinned, solved
from golddice.core.tuning.targets import Standing, standings
from golddice.core.tuning.whole import with_whole

Status = Literal["met", "nearest", "nothing-to-do"]
_ROOM = 0.02  # of a coordinate
_BEYOND = 1e-3
_USUALLY = Ask()
_OF_GUARDS = ("weights", "chances", "guards")
_WIDE = 0.05  # rows with more room than this are not in danger
_A_PROMISE = (
    "a promise is kept by what can come at all, which no number above 0 changes: "
    "close a line, or make it certain"
)


@dataclass(frozen=True)
class Proposal:
    """before, after : standings of the chosen targets. conflict : ids of targets that contradict each other.
    untold : of targets that are left out, why; of those that stand, `played` says which rest on players who
    are played. rounding : by what share few digits made the change larger. long_run : what missed waits cost
    there."""

    status: Status
    values: dict[Number, float]
    game: Game
    before: list[Standing]
    after: list[Standing]
    moved: list[Moved] = field(default_factory=list)
    conflict: list[str] = field(default_factory=list)
    untold: dict[str, str] = field(default_factory=dict)
    free: int = 0
    rounding: float = 0.0
    long_run: list[LongRun] = field(default_factory=list)

    @property
    def size(self) -> float:
        """The root of the sum of squares of all steps: logarithms of ratios, of odds of chances."""
        return size_of(self.values)

    @property
    def played(self) -> list[str]:
        return [one.target.id for one in self.after if one.is_played and one.target.id not in self.untold]

    def plain(self) -> dict[str, Any]:
        numbers = [
            {"where": number.where, "before": number.value, "after": value}
            for number, value in self.values.items()
        ]
        pairs = zip(self.before, self.after, strict=True)
        return {
            "status": self.status,
            "numbers": numbers,
            "targets": [_target(old, new) for old, new in pairs],
            "moved": [one.plain() for one in self.moved],
            "conflict": self.conflict,
            "untold": self.untold,
            "played": self.played,
            "free": self.free,
            "size": self.size,
            "rounding": self.rounding,
            "long_run": [one.plain() for one in self.long_run],
        }


def _target(before: Standing, after: Standing) -> dict[str, Any]:
    old, new = before.plain(), after.plain()
    return {
        "id": before.target.id,
        "name": before.target.name,
        "depths": old["depths"],
        "before": old["figures"],
        "after": new["figures"],
        "was_met": old["is_met"],
        "met": new["is_met"],
    }


def propose(game: Game, ask: Ask = _USUALLY) -> Proposal:
    """The smallest change with which all chosen targets are met, or the nearest and what contradicts.

    Everything is checked by the exact odds before it is told. Raises QueryError for what is asked of nothing,
    Cancelled.
    """
    targets = chosen(game, ask)
    ids = [target.id for target in targets]
    before = standings(game, ids)
    untold = {one.target.id: one.untold for one in before if one.untold is not None}
    missed = [one.target for one in before if not one.is_met and one.target.id not in untold and one.depths]
    broken = [target.id for target in missed if target.is_promise]
    untold |= dict.fromkeys(broken, _A_PROMISE)
    missed = [target for target in missed if not target.is_promise]
    if not missed:
        status: Status = "nearest" if broken else "nothing-to-do"
        return Proposal(status, {}, game, before, before, untold=untold)
    book = Book(game)
    aims, more = told(book, [target for target in targets if target.id not in untold])
    untold |= more
    if ask.hold_long_run:
        ask = replace(ask, kinds=ask.kinds or _OF_GUARDS)
        aims += told(book, to_hold(book, missed))[0]
    numbers = free_numbers(book, ask, missed)
    if not numbers:
        raise QueryError("nothing that a missed target rests on may move; unlock a table, or keep less")
    task = Task.of(game, numbers, aims, ask.keep_totals, ask.far)
    found, moving = fewest(task) if ask.way == "fewest" else _found(task)
    if not found.is_met:
        return _nearest(task, moving, found, ask.rounded, before, untold)
    values = _written(moving, found, ask, [name for name in ids if name not in untold])
    after = standings(with_values(game, values), ids)
    proposal = _told(game, values, before, after, untold, len(numbers))
    least = size_of(_cleaned(moving, found))
    cost = max(0.0, proposal.size / least - 1.0) if ask.rounded and least > 0 else 0.0
    return replace(proposal, rounding=cost, long_run=long_runs(book, proposal.game, missed))


def _told(
    game: Game,
    values: dict[Number, float],
    before: list[Standing],
    after: list[Standing],
    untold: dict[str, str],
    free: int,
) -> Proposal:
    changed = with_values(game, values)
    is_met = all(map(_is_well, after))
    moved = what_moved(game, changed)
    return Proposal(
        "met" if is_met else "nearest", values, changed, before, after, moved, untold=untold, free=free
    )


def _is_well(one: Standing) -> bool:
    """Met, or nothing that could be."""
    return one.is_met or one.untold is not None or not one.depths


def _nearest(
    task: Task,
    moving: Task,
    found: Found,
    is_rounded: bool,
    before: list[Standing],
    untold: dict[str, str],
) -> Proposal:
    """Of the numbers of `moving`, those of the task of which something came."""
    ids = [one.target.id for one in before]

    def told(values: dict[Number, float]) -> Proposal:
        after = standings(with_values(task.game, values), ids)
        return _told(task.game, values, before, after, untold, len(task.numbers))

    proposal = told(_cleaned(moving, found))
    if proposal.status == "met":  # players that are played come in steps: what is aimed for lies beyond
        return proposal
    gentle = gentler(moving, found)
    values = _cleaned(moving, gentle)
    if is_rounded:
        short = rounded(values, costing_little(as_near(moving, gentle), size_of(values)))
        values = {number: value for number, value in short.items() if value != number.value}
    proposal = told(values)

    known = {frozenset(found.blocked): False} if not _has_more_ways(task) else {}

    def can(names: Sequence[str]) -> bool:
        key = frozenset(names)
        if key not in known:
            known[key] = _can_in_any_way(of_targets(task, set(names)))
        return known[key]

    return replace(proposal, conflict=contradiction(task.aims, found, can))


def _found(task: Task) -> tuple[Found, Task]:
    """The change, with tables' totals kept where that can be, then with whole numbers moved too."""
    plain = _smooth(task)
    found, best = _by_smooth(plain), plain
    if not found.is_met and task.keep_totals and has_pinned(plain):
        looser = replace(plain, keep_totals=False)
        other = _by_smooth(looser)
        if other.is_met:
            return other, looser
    if len(plain.numbers) < len(task.numbers):
        return with_whole(task, plain, found)
    return found, best


def _by_smooth(task: Task) -> Found:
    """From several starts, unless a few that are missed from the first cannot be met even by themselves."""
    found = solved(task, starts=1)
    if not np.isfinite(found.misses).all():  # something cannot come at all: others may lead to where it can
        found = solved(task, starts=3, found=found)
    few = () if found.is_met else blocked(task, found)
    return replace(found, blocked=few) if few else solved(task, found=found)


def _smooth(task: Task) -> Task:
    """The same with those numbers alone that are not whole."""
    smooth = [number for number in task.numbers if not number.is_whole]
    return Task.of(task.game, smooth, task.aims, task.keep_totals, task.far)


def _has_more_ways(task: Task) -> bool:
    """Whether what the numbers that are not whole cannot do, with totals kept, may be done otherwise."""
    plain = _smooth(task)
    return len(plain.numbers) < len(task.numbers) or (task.keep_totals and has_pinned(plain))


def _can_in_any_way(task: Task) -> bool:
    """By whichever way a proposal is looked for."""
    plain = _smooth(task)
    if can_be_met(plain):
        return True
    if task.keep_totals and has_pinned(plain) and can_be_met(replace(plain, keep_totals=False)):
        return True
    return len(plain.numbers) < len(task.numbers) and _found(task)[0].is_met


def _cleaned(task: Task, found: Found) -> dict[Number, float]:
    """Without what moved by nothing that anyone would see."""
    return {
        number: value
        for number, value in task.values(found.steps).items()
        if abs(number.change(value)) > 1e-12
    }


def _written(task: Task, found: Found, ask: Ask, ids: list[str]) -> dict[Number, float]:
    """As it is asked for: in whole weights, in few digits. Tried by what is quick to look at; what comes of
    that is held against all of it, and tried again by all of it where that does not hold."""
    values = _cleaned(task, found)
    if ask.whole is None and not ask.rounded:
        return values

    def holds(tried: dict[Number, float]) -> bool:
        stood = standings(with_values(task.game, tried), ids)
        return all(map(_is_well, stood))

    inside, least = _inside(task, found), size_of(values)
    written = _tried(task, inside, ask, _quickly(task, inside), least)
    return written if holds(written) else _tried(task, values, ask, holds, least)


def _within(holds: Holds, far: float) -> Holds:
    """No rounding leads further than numbers may go."""

    def both(tried: dict[Number, float]) -> bool:
        return all(abs(number.change(value)) <= far + _BEYOND for number, value in tried.items()) and holds(
            tried
        )

    return both


def _inside(task: Task, found: Found) -> dict[Number, float]:
    """A little further inside than needs be, where that can be: rounding needs room."""
    book = Book(with_values(task.game, task.values(found.steps)))
    aims = [aim.inside(_ROOM, aim.read(book)) for aim in task.aims]
    further = solved(replace(task, aims=aims), starts=1, first=found.steps)
    return _cleaned(task, further if further.is_met else found)


def _quickly(task: Task, values: dict[Number, float]) -> Holds:
    """Whether all aims are met: those that are dear to read at the rows that have the least room."""
    book = Book(with_values(task.game, values))
    aims = sorted(task.aims, key=lambda aim: not aim.is_noted)
    some = [None if aim.is_noted else aim.tightest(aim.read(book), _WIDE) for aim in aims]

    def holds(tried: dict[Number, float]) -> bool:
        there = Book(with_values(task.game, tried))
        pairs = zip(aims, some, strict=True)
        return all(not aim.off(aim.read(there, rows)).any() for aim, rows in pairs)

    return holds


def _tried(
    task: Task, values: dict[Number, float], ask: Ask, holds: Holds, least: float
) -> dict[Number, float]:
    """`least` : the size of the smallest change, which few digits may exceed by no more than COST."""
    if ask.most is not None:
        holds = _within(holds, ask.far)
    if ask.whole is not None:
        every = {
            number: values.get(number, number.value)
            for number in numbers_of(task.game)
            if number.sort in ("weight", "nothing") and number.id in {one.id for one in values}
        }
        found = in_whole(values, every, ask.whole, holds)
        values = values if found is None else found
    if ask.rounded:
        values = rounded(values, costing_little(holds, max(least, size_of(values))))
    return {number: value for number, value in values.items() if value != number.value}
