"""Numbers that are whole: ends of quantities, steps of guards, copies of cards. Searched one step at a time
around what the others can do."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from golddice.core.stopping import go_on
from golddice.core.tuning.numbers import Number, with_values
from golddice.core.tuning.solving import Found, Task, solved

_ROUNDS = 12
_SOME_STEPS = (1, -1, 2, -2, 5, -5, 20, -20)


def with_whole(task: Task, plain: Task, found: Found) -> tuple[Found, Task]:
    """The change with whole numbers of the task moved as well, where that is nearer; the task that is told
    has them among its numbers. `plain` is the task of the others alone, and `found` what they can do."""
    whole = [number for number in task.numbers if number.is_whole]
    at: dict[Number, float] = {}
    for _ in range(_ROUNDS):
        if found.is_met:
            break
        best: tuple[Found, dict[Number, float]] | None = None
        for number in whole:
            for step in _SOME_STEPS:
                go_on()
                value = at.get(number, number.value) + step
                if value < (1 if number.sort in ("sure-at", "copies") else 0):
                    continue
                tried = {**at, number: value}
                other = solved(replace(plain, game=with_values(task.game, tried)), starts=1)
                if _nearer(other, best[0] if best else found):
                    best = (other, tried)
        if best is None:
            break
        found, at = best
    steps = np.array([at[one] - one.value if one in at else 0.0 for one in whole])
    both = replace(
        plain,
        numbers=[*plain.numbers, *whole],
        costs=np.concatenate([plain.costs, np.ones(len(whole))]),
    )
    return Found(np.concatenate([found.steps, steps]), found.misses), both


def _nearer(one: Found, other: Found) -> bool:
    if one.is_met and other.is_met:
        return one.size < other.size
    return float(one.misses.sum()) < float(other.misses.sum()) * (1 - 1e-6)
