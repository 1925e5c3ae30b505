"""Which number moves a figure: by how many per cent it changes for one per cent of each number."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from golddice.core.errors import QueryError, TooLarge
from golddice.core.game.models import Game
from golddice.core.game.target import Target
from golddice.core.tuning.aims import Aim, Book, aims_of
from golddice.core.tuning.numbers import CHANCES, Number, numbers_of
from golddice.core.tuning.slopes import touched_by

_NOTHING = 1e-9


@dataclass(frozen=True)
class Lever:
    """elasticity : per cent of the figure for one per cent of the number; of a wait, and of the chance of
    none, of the chance to have one."""

    number: Number
    elasticity: float


def levers(game: Game, target: Target, depth: int) -> list[Lever]:
    """Every number but whole ones that a target's figure rests on at a depth, the strongest first; none where
    the figure is not told, or nothing moves it. Raises QueryError where the target asks nothing there."""
    if target.is_promise or target.gone is not None:
        return []
    if target.is_order:
        target = target.model_copy(update={"side": "at-least"})
    book = Book(game)
    under = book.figures(frozenset(target.flags)).under
    try:
        aims = aims_of(book, target)
    except TooLarge:
        return []
    if not aims or (target.route is None and not aims[0].where[under.depths == depth].any()):
        raise QueryError(f"“{target.name}” asks nothing at {depth}")
    aim = aims[0]
    row = 0 if target.route is not None else int(np.flatnonzero(under.depths[aim.where] == depth)[0])
    near = touched_by(under, target)
    # Whole numbers do not move by a per cent.
    every = (number for number in numbers_of(game) if not number.is_whole)
    numbers = [number for number in every if (number.of, number.id) in near]
    only = np.zeros(aim.rows, dtype=bool)
    only[row] = True
    try:
        here, (lean, _) = float(aim.read(book, only)[0]), aim.slopes(book, numbers, only)
    except TooLarge:
        return []
    found = [
        Lever(one, _elasticity(aim, here, one, float(by))) for one, by in zip(numbers, lean[row], strict=True)
    ]
    told = [one for one in found if np.isfinite(one.elasticity) and abs(one.elasticity) > _NOTHING]
    return sorted(told, key=lambda one: -abs(one.elasticity))


def _elasticity(aim: Aim, here: float, number: Number, lean: float) -> float:
    """d log figure / d log number, from the coordinates in which both are taken."""
    figure = lean / (1.0 + np.exp(here)) if aim.scale == "odds" else lean
    if aim.target.figure in ("one-in", "cost") and aim.scale == "odds":
        figure = -figure
    return float(figure / (1.0 - number.value) if number.sort in CHANCES else figure)
