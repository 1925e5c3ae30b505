"""What waits that rest on what players carry cost in the long run: a guard that comes sooner gives more."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from golddice.core.errors import TooLarge
from golddice.core.game.models import Game
from golddice.core.game.target import Target
from golddice.core.terms.resting import carries
from golddice.core.tuning.aims import Book
from golddice.core.tuning.targets import asked_at

_CLOSE = 1e-3  # of itself: so near a long run that is held must stay


@dataclass(frozen=True)
class LongRun:
    """How many of a wait's thing an event gives in the long run, by depth, with and without a change."""

    target: str
    depths: list[int]
    before: list[float]
    after: list[float]

    def plain(self) -> dict[str, Any]:
        return self.__dict__.copy()


def long_runs(book: Book, changed: Game, targets: Sequence[Target]) -> list[LongRun]:
    """Of each target that waits on what is carried; none where the long run cannot be told."""
    other = Book(changed)
    found = []
    for target in _waiting(book, targets):
        try:
            depths, before = _of(book, target)
            _, after = _of(other, target)
        except TooLarge:
            continue
        found.append(LongRun(target.id, depths, before, after))
    return found


def to_hold(book: Book, targets: Sequence[Target]) -> list[Target]:
    """For each depth of each of these waits a target that its long run stays. Raises TooLarge where that
    cannot be told."""
    found = []
    for target in _waiting(book, targets):
        for depth, mean in zip(*_of(book, target), strict=True):
            if mean <= 0.0:
                continue  # what never comes in the long run costs nothing there
            wish = {"wanted": mean, "tolerance": _CLOSE * mean, "depths": (depth, depth)}
            held = _mean_of(target).model_copy(update=wish | {"id": f"{target.id}@{depth}"})
            found.append(held)
    return found


def _waiting(book: Book, targets: Sequence[Target]) -> list[Target]:
    def is_carried(target: Target) -> bool:
        under = book.figures(frozenset(target.flags), target.tag).under
        return not target.is_elsewhere and carries(under, target.view)

    return [
        target
        for target in targets
        if target.figure in ("wait", "none") and not target.is_order and is_carried(target)
    ]


def _mean_of(target: Target) -> Target:
    return target.model_copy(update={"figure": "mean", "long_run": True, "side": "near"})


def _of(book: Book, target: Target) -> tuple[list[int], list[float]]:
    figures = book.figures(frozenset(target.flags), target.tag)
    where = asked_at(figures.under, target)
    means = figures.of(_mean_of(target), where)
    return figures.under.depths[where].tolist(), np.asarray(means).tolist()
