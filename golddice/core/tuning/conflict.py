"""Which targets contradict each other: a smallest set that cannot be met, each of them needed for it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

from golddice.core.stopping import go_on
from golddice.core.tuning.aims import Aim
from golddice.core.tuning.solving import Found, Task, can_be_met

_MISSED = 1e-7
_SIZES = (1, 2, 3, 4, 6, 9, 13, 20, 30, 50)


def blocked(task: Task, found: Found) -> tuple[str, ...]:
    """Ids of a few targets that cannot be met, if those that miss most are such; else none.

    Where squares of misses are the least that they can be, those that pull against each other all miss, and
    most. To find a few of them out of reach says as much of all as many tries with all, and is far cheaper.
    """
    order = _by_misses(task.aims, found.misses.tolist())
    every = {aim.target.id for aim in task.aims}
    for size in _SIZES:
        some = set(order[:size])
        if len(some) < size or some == every:
            break
        go_on()
        if not can_be_met(of_targets(task, some)):
            return tuple(name for name in order if name in some)
    return ()


def of_targets(task: Task, names: set[str]) -> Task:
    """The same numbers for some of its targets."""
    return replace(task, aims=[aim for aim in task.aims if aim.target.id in names])


def _by_misses(aims: Sequence[Aim], misses: Sequence[float]) -> list[str]:
    """Ids of targets that are missed, most first."""
    worst: dict[str, float] = {}
    for aim, miss in zip(aims, misses, strict=True):
        worst[aim.target.id] = max(miss, worst.get(aim.target.id, 0.0))
    return sorted((name for name, miss in worst.items() if miss > _MISSED), key=lambda name: -worst[name])


def contradiction(aims: Sequence[Aim], found: Found, can: Callable[[Sequence[str]], bool]) -> list[str]:
    """Ids of targets, in the order of the aims. `found` is the nearest, `can` says whether some targets can
    be met together.

    Those that are known to be out of reach are looked at first, then those that are missed, and one after
    another is left out for as long as the rest cannot be met.
    """
    ids = list(dict.fromkeys(aim.target.id for aim in aims))
    missed = set(_by_misses(aims, found.misses.tolist()))
    dear = {aim.target.id for aim in aims if not aim.is_noted}
    for some in (set(found.blocked), missed - dear, missed):
        names = [name for name in ids if name in some]
        if names and len(names) < len(ids) and not can(names):
            return _smallest(names, can)
    return _smallest(ids, can)


def _smallest(names: list[str], can: Callable[[Sequence[str]], bool]) -> list[str]:
    """Leave out one after another: what can be left out is not needed."""
    needed = list(names)
    for name in names:
        go_on()
        rest = [one for one in needed if one != name]
        if rest and not can(rest):
            needed = rest
    return needed
