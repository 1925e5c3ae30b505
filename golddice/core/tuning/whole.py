"""Numbers that are whole: ends of quantities, steps of guards, copies of cards.

They are taken for others first; then they are brought to whole ones near where that leads, and the others
make up for it. What is nearer, or smaller, is gone on from.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from itertools import product

import numpy as np

from golddice.core.arrays import FloatArray
from golddice.core.game.models import Game
from golddice.core.stopping import go_on
from golddice.core.tuning.numbers import Number, with_values
from golddice.core.tuning.solving import Found, Task, is_hidden, solved, spread, straight_to, weighed_at

_ROUNDS = 12
_LEAPING, _LEAPS = 8, (0.5, 0.25, 2.0, 4.0, 0.1, 10.0)
_LARGE = 1.0  # a change so large may be one of several
_FEW, _CHOICES, _TAKEN = 5, 13, 6
_LOOKS, _DEAR_LOOKS = 400, 100
_REACH = 1.2  # of a logarithm
_OPEN = 3  # whole numbers that are tried on both sides


def with_whole(task: Task, plain: Task, found: Found) -> tuple[Found, Task]:
    """The change with whole numbers moved as well, where that is nearer or smaller, and the task that it is
    of. `plain` is the task of the others alone, and `found` what they can do."""
    whole = [number for number in task.numbers if number.is_whole]
    both = replace(
        plain,
        numbers=[*plain.numbers, *whole],
        costs=np.concatenate([plain.costs, np.ones(len(whole))]),
    )
    best = Found(np.concatenate([found.steps, np.zeros(len(whole))]), found.misses)
    tried: set[tuple[float, ...]] = {(0.0,) * len(whole)}
    here = best.steps if found.is_met or is_hidden(plain) else np.zeros(best.steps.size)
    for _ in range(_ROUNDS):
        before = best
        wanted = straight_to(both, here)
        for steps in _rounded(whole, wanted[-len(whole) :]):
            if tuple(steps.tolist()) in tried:
                continue
            tried.add(tuple(steps.tolist()))
            go_on()
            other = _with(plain, whole, steps, wanted[: -len(whole)])
            best = other if _nearer(other, best) else best
        if best is before and here is before.steps:
            break
        here = best.steps
    if not best.is_met or best.size > _LARGE:
        best = _by_grid(plain, whole, best)
    if not best.is_met:
        best = _by_leaps(plain, whole, best)
    return best, both


def _by_grid(plain: Task, whole: list[Number], best: Found) -> Found:
    """Where the whole numbers are few: all that are not far, looked at with the others as they stand; from
    the nearest of them the others go on."""
    if len(whole) > _FEW:
        return best
    looks = _LOOKS if all(aim.is_noted for aim in plain.aims) else _DEAR_LOOKS
    first = best.steps[: len(plain.numbers)]
    ranked: list[tuple[float, float, int, FloatArray]] = []
    for steps in _grid(whole)[:looks]:
        go_on()
        game = _game_with(plain, whole, steps)
        smooth = (first, np.zeros(first.size), *spread(plain))
        seen = [weighed_at(replace(plain, game=game), one) for one in smooth]
        ranked.append((min(seen), float(steps @ steps), len(ranked), steps))
    for _, _, _, steps in sorted(ranked)[:_TAKEN]:
        starts = 1 if best.is_met else 1 + len(list(spread(plain)))
        other = _with(plain, whole, steps, np.zeros(first.size), starts)
        best = other if _nearer(other, best) else best
    return best


def _grid(whole: list[Number]) -> list[FloatArray]:
    """Combinations of whole numbers within a factor, the smallest changes first."""
    choices = []
    for number in whole:
        near = {number.moved(float(x)) for x in np.linspace(-_REACH, _REACH, _CHOICES)} | {number.value}
        choices.append([0.0 if x == number.value else number.step_to(x) for x in sorted(near)])
    found = [np.array(steps) for steps in product(*choices)]
    return sorted(found, key=lambda steps: float(steps @ steps))


def _game_with(plain: Task, whole: list[Number], steps: FloatArray) -> Game:
    values = {n: n.moved(float(step)) for n, step in zip(whole, steps, strict=True) if step != 0.0}
    return with_values(plain.game, values)


def _by_leaps(plain: Task, whole: list[Number], best: Found) -> Found:
    """One number at a time, far: a guard that is sure later than anyone looks has no slope. Then as far back
    towards what it was as it can be."""
    count = len(plain.numbers)
    for at, number in enumerate(whole[:_LEAPING]):
        for factor in _LEAPS:
            steps = best.steps[count:].copy()
            steps[at] = number.step_to(number.moved(np.log(factor)))
            other = _with(plain, whole, steps, best.steps[:count])
            if not other.is_met:
                best = other if _nearer(other, best) else best
                continue
            near, far = number.value, number.moved(float(steps[at]))
            while abs(far - near) > 1:
                go_on()
                steps[at] = number.step_to((near + far) // 2)
                tried = _with(plain, whole, steps, other.steps[:count])
                near, far = (near, (near + far) // 2) if tried.is_met else ((near + far) // 2, far)
                other = tried if tried.is_met else other
            return other
    return best


def _rounded(whole: list[Number], wanted: FloatArray) -> Iterator[FloatArray]:
    """Whole numbers near those that are wanted: the nearest; then those that lie between two on the other
    side, one after another; last of all none moved that would move by less than one."""
    exact = np.array([max(n.value, 0.5) * np.exp(step) for n, step in zip(whole, wanted, strict=True)])
    near = np.rint(exact)
    yield _steps(whole, near)
    for at in np.argsort(np.abs(exact - near))[::-1][:_OPEN]:
        other = near.copy()
        other[at] += 1.0 if exact[at] > near[at] else -1.0
        yield _steps(whole, other)
    entered = np.array([number.value for number in whole])
    yield _steps(whole, np.where(np.abs(exact - entered) < 1.0, entered, near))


def _steps(whole: list[Number], values: FloatArray) -> FloatArray:
    found = []
    for number, value in zip(whole, values.tolist(), strict=True):
        kept = number.moved(number.step_to(max(value, 0.0)))
        found.append(0.0 if kept == number.value else number.step_to(kept))
    return np.array(found)


def _with(plain: Task, whole: list[Number], steps: FloatArray, first: FloatArray, starts: int = 1) -> Found:
    """What the other numbers can do with these whole ones."""
    found = solved(replace(plain, game=_game_with(plain, whole, steps)), starts, first)
    return Found(np.concatenate([found.steps, steps]), found.misses)


def _nearer(one: Found, other: Found) -> bool:
    if one.is_met and other.is_met:
        return one.size < other.size * (1 - 1e-6)
    if one.is_met or other.is_met:
        return one.is_met
    return float((one.misses**2).sum()) < float((other.misses**2).sum()) * (1 - 1e-6)
