"""The change that touches the fewest numbers: one after another is left as it is for as long as the others
can make up for it."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from golddice.core.stopping import go_on
from golddice.core.tuning.numbers import Number
from golddice.core.tuning.solving import Found, Task, solved

_ROUNDS = 4
_SHORT = 0.02  # a step beside which others are long
_LONG = 1e-3


def fewest(task: Task) -> tuple[Found, Task]:
    """What is found, and the task that it is of: that of the numbers which move. Totals are not kept, since
    that would touch more. Whole numbers stay."""
    smooth = [number for number in task.numbers if not number.is_whole]
    loose = Task.of(task.game, smooth, task.aims, False, task.far)
    found = solved(loose)
    if not found.is_met:
        return found, loose
    few, found = _gathered(loose, found)
    return _without(few, found)


def _gathered(task: Task, found: Found) -> tuple[Task, Found]:
    """Steps that are short are made dear, again and again: what is left gathers in a few (Candes, Wakin and
    Boyd 2008)."""
    best = found
    for _ in range(_ROUNDS):
        go_on()
        costs = 1.0 / (np.abs(best.steps) + _SHORT)
        other = solved(replace(task, costs=costs), starts=1, first=best.steps)
        if not other.is_met:
            break
        best = other
    keep = np.abs(best.steps) > _LONG
    some = _only(task, keep.tolist())
    other = solved(some, starts=1, first=best.steps[keep])
    return (some, other) if other.is_met else (task, best)


def _without(task: Task, found: Found) -> tuple[Found, Task]:
    """Leave out those that move least, one by one."""
    order = sorted(task.numbers, key=lambda one: _size(task, found, one))
    for number in order:
        if len(task.numbers) == 1:
            break
        go_on()
        keep = [one is not number for one in task.numbers]
        some = _only(task, keep)
        other = solved(some, starts=1, first=found.steps[np.array(keep)])
        if other.is_met:
            task, found = some, other
    return solved(task, found=found), task


def _size(task: Task, found: Found, number: Number) -> float:
    return float(abs(found.steps[list(task.numbers).index(number)]))


def _only(task: Task, keep: list[bool]) -> Task:
    numbers = [number for number, kept in zip(task.numbers, keep, strict=True) if kept]
    return Task.of(task.game, numbers, task.aims, False, task.far)
