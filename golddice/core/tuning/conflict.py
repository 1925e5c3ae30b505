"""Which targets contradict each other: a smallest set that cannot be met, each of them needed for it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

from golddice.core.stopping import go_on
from golddice.core.tuning.solving import Found, Task, solved

_STARTS = 3


def contradiction(task: Task, nearest: Found) -> list[str]:
    """Ids of targets, in the order of the aims.

    Where squares of misses are the least that they can be, those that pull against each other all miss; so
    these are looked at first, and one after another is left out for as long as the rest cannot be met.
    """
    ids = list(dict.fromkeys(aim.target.id for aim in task.aims))

    def can(names: Sequence[str]) -> bool:
        go_on()
        return solved(_only(task, names), _STARTS).is_met

    missed = {
        aim.target.id for aim, miss in zip(task.aims, nearest.misses.tolist(), strict=True) if miss > 1e-7
    }
    first = [name for name in ids if name in missed]
    return _smallest(first if first and not can(first) else ids, can)


def _smallest(names: list[str], can: Callable[[Sequence[str]], bool]) -> list[str]:
    """Leave out one after another: what can be left out is not needed."""
    needed = list(names)
    for name in names:
        rest = [one for one in needed if one != name]
        if rest and not can(rest):
            needed = rest
    return needed


def _only(task: Task, names: Sequence[str]) -> Task:
    return replace(task, aims=[aim for aim in task.aims if aim.target.id in set(names)])
