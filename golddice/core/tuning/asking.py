"""What may be asked of a proposal: which targets must hold, which numbers may move, how far, in which way."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from golddice.core.errors import QueryError, UnknownThing
from golddice.core.game.models import Game
from golddice.core.game.target import Target
from golddice.core.game.views import View
from golddice.core.terms.conditions import Conditions
from golddice.core.tuning.aims import Book
from golddice.core.tuning.numbers import FARTHEST, Number, Sort, numbers_of
from golddice.core.tuning.slopes import touched, touched_by
from golddice.core.tuning.targets import standings

Way = Literal["smallest", "fewest", "weights", "curves"]
USUAL: frozenset[Sort] = frozenset({"weight", "chance", "nothing"})
WEIGHTS: frozenset[Sort] = frozenset({"weight", "nothing"})
KINDS: dict[str, frozenset[Sort]] = {
    "weights": WEIGHTS,
    "chances": frozenset({"chance"}),
    "curves": frozenset({"point"}),
    "guards": frozenset({"rise", "after", "sure-at"}),
    "quantities": frozenset({"least", "most", "copies"}),
}


@dataclass(frozen=True)
class Ask:
    """What is asked.

    targets : ids, None for all that are not put aside. unlock : what alone may move, as `TABLE`,
        `TABLE/LINE`, `SOURCE/DROP`, `CURVE`, `CURVE@DEPTH` or the name of a number; empty for the weights and
        chances that missed targets rest on, or whatever else they do where there are none.
    keep : what stays, likewise. kinds : of `KINDS`, which may move at all; empty for the usual ones.
    whole : the largest whole weight. most : the largest factor by which a number may change.
    way : the smallest change; the fewest numbers; the smallest of weights or of curves' points alone.
    hold_long_run : where a wait is missed that rests on what players carry, how many an event gives in the
        long run stays as it is.
    """

    targets: Sequence[str] | None = None
    unlock: Sequence[str] = ()
    keep: Sequence[str] = ()
    kinds: Sequence[str] = ()
    rounded: bool = False
    whole: int | None = None
    keep_totals: bool = True
    most: float | None = None
    way: Way = "smallest"
    hold_long_run: bool = False

    @property
    def far(self) -> float:
        """The longest step of a number."""
        return FARTHEST if self.most is None else min(math.log(self.most), FARTHEST)


def chosen(game: Game, ask: Ask) -> list[Target]:
    """The targets that must hold. Raises UnknownThing, and QueryError where there is none."""
    if ask.targets is None:
        found = [target for target in game.targets if not target.aside]
    else:
        known = {target.id: target for target in game.targets}
        for name in ask.targets:
            if name not in known:
                raise UnknownThing("target", name)
        found = [target for target in game.targets if target.id in set(ask.targets)]
    if not found:
        raise QueryError("there is no target to meet; write down what is wanted first")
    return found


def free_numbers(book: Book, ask: Ask, missed: Sequence[Target]) -> list[Number]:
    """What may move. By default weights and chances that missed targets rest on, or other numbers."""
    every = numbers_of(book.game)
    known = set().union(*map(_names_of, every))
    for pattern in (*ask.unlock, *ask.keep):
        if pattern not in known:
            raise QueryError(f"“{pattern}” names no number that can move; give TABLE, TABLE/LINE or CURVE")
    keep, unlock = set(ask.keep), set(ask.unlock)
    kept = [number for number in every if not keep & _names_of(number)] if keep else every
    if unlock:
        return _of_way([number for number in kept if unlock & _names_of(number)], ask)
    near: set[tuple[str, str]] = set()
    for target in missed:
        near |= touched_by(book.figures(frozenset(target.flags)).under, target)
    mine = [number for number in kept if (number.of, number.id) in near]
    if ask.kinds or ask.way in ("weights", "curves"):
        return _of_way(mine, ask)
    return [number for number in mine if number.sort in USUAL] or mine


def numbers_under(under: Conditions, view: View, ask: Ask) -> list[Number]:
    """What may move of all that an event rests on."""
    near = touched(under, view)
    return _of_way([one for one in numbers_of(under.game) if (one.of, one.id) in near], ask)


def _of_way(numbers: list[Number], ask: Ask) -> list[Number]:
    for kind in ask.kinds:
        if kind not in KINDS:
            raise QueryError(f"“{kind}” is no kind of numbers; there are {', '.join(KINDS)}")
    sorts = frozenset().union(*(KINDS[kind] for kind in ask.kinds)) if ask.kinds else None
    if ask.way in ("weights", "curves"):
        of_way = KINDS[ask.way]
        sorts = of_way if sorts is None else sorts & of_way
    return [number for number in numbers if sorts is None or number.sort in sorts]


def _names_of(number: Number) -> set[str]:
    """What it may be called by: its own name, and those of what it is in."""
    where = number.where
    return {where} | {where[:at] for at, letter in enumerate(where) if letter in "/@"}


def missed_of(game: Game, ask: Ask) -> list[Target]:
    """The chosen targets that are missed and can be told."""
    stood = standings(game, [target.id for target in chosen(game, ask)])
    return [one.target for one in stood if not one.is_met and one.untold is None and one.depths]
