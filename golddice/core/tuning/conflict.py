"""Which targets contradict each other: a smallest set that cannot be met, each of them needed for it."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from golddice.core.stopping import go_on
from golddice.core.tuning.aims import Aim

_MISSED = 1e-7


def contradiction(
    aims: Sequence[Aim], misses: Sequence[float], can: Callable[[Sequence[str]], bool]
) -> list[str]:
    """Ids of targets, in the order of the aims. `misses` are those of the nearest that was found, `can` says
    whether some targets can be met together.

    Where squares of misses are the least that they can be, those that pull against each other all miss; so
    these are looked at first, of them those that are quick to look at, and one after another is left out for
    as long as the rest cannot be met.
    """
    ids = list(dict.fromkeys(aim.target.id for aim in aims))
    missed = {aim.target.id for aim, miss in zip(aims, misses, strict=True) if miss > _MISSED}
    dear = {aim.target.id for aim in aims if not aim.is_noted}
    for some in ([name for name in ids if name in missed - dear], [name for name in ids if name in missed]):
        if some and len(some) < len(ids) and not can(some):
            return _smallest(some, can)
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
