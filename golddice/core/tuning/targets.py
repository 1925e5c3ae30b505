"""Where a game's targets stand: the figure wanted, at every depth that each is about.

A target rests on what its source or table reaches and on the catalogue. What an edit does not touch is
found again (`core.results`).
"""

from __future__ import annotations

import json
from collections.abc import Collection
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from golddice.core.arrays import BoolArray, FloatArray
from golddice.core.errors import TooLarge
from golddice.core.game.models import Game
from golddice.core.game.target import KEPT, Target
from golddice.core.odds.depths.along import met_at
from golddice.core.results import RESULTS, CacheKey, cache_key
from golddice.core.stopping import go_on
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.size import view_key
from golddice.core.tuning.along_routes import end_of, route_key
from golddice.core.tuning.elsewhere import asked_elsewhere, elsewhere_key
from golddice.core.tuning.figures import Figures
from golddice.core.tuning.promises import Path

_TIE = 1e-9  # a figure that misses by rounding alone holds


@dataclass(frozen=True)
class Standing:
    """A target's figure at each depth that it asks about.

    depths : those of its range at which it is met.
    figures : infinite for never, NaN where there is no such figure; empty where it cannot be told,
        and `untold` says why.
    holds : whether each is as wanted; empty where untold. Where an order is wanted, a depth holds that does
        not step the wrong way from the one before.
    is_played : whether the figures are of players, settings-out or periods that were played, not exact.
    way : of a promise that is broken, how an event breaks it at the `furthest` depth.
    """

    target: Target
    depths: list[int]
    figures: list[float]
    holds: list[bool]
    untold: str | None
    way: Path = ()
    is_played: bool = False

    @property
    def is_met(self) -> bool:
        """Whether it holds at every depth that it asks about, and asks about one at all."""
        return self.untold is None and bool(self.depths) and all(self.holds)

    @property
    def furthest(self) -> int | None:
        """The row of the depth at which it is furthest off; None where it holds at all of them."""
        missed = [row for row, held in enumerate(self.holds) if not held]
        by_how_much = off(self.target, np.array(self.figures))
        return max(missed, key=lambda row: float(by_how_much[row]), default=None)

    def plain(self) -> dict[str, Any]:
        """As it goes over the wire: None for what is no finite number, with `never` beside it."""
        finite = [figure if np.isfinite(figure) else None for figure in self.figures]
        return {
            "id": self.target.id,
            "is_met": self.is_met,
            "depths": self.depths,
            "figures": finite,
            "never": [bool(np.isinf(figure)) for figure in self.figures],
            "holds": self.holds,
            "furthest": self.furthest,
            "untold": self.untold,
            "played": self.is_played,
            "way": [step._asdict() for step in self.way],
        }


def standings(
    game: Game,
    only: Collection[str] | None = None,
) -> list[Standing]:
    """Every target of a game, or those of the ids `only`, in order."""
    books: dict[tuple[frozenset[str], str | None], Figures] = {}
    asked = [target for target in game.targets if only is None or target.id in only]
    found: dict[str, Standing] = {}
    # Those of one view one after another: they share what is worked out about it.
    for target in sorted(asked, key=lambda one: one.view):
        key = frozenset(target.flags), target.tag
        if key not in books:
            books[key] = Figures(game, key[0], target.tag)
        found[target.id] = _standing(books[key], target)
    return [found[target.id] for target in asked]


def off(target: Target, figures: FloatArray) -> FloatArray:
    """How far figures are outside what is wanted, 0 within; infinite for a figure that there is not. Where
    an order is wanted, how far each steps the wrong way."""
    if target.is_order:
        return _steps_back(target, figures)
    low = target.wanted - target.tolerance if target.side != "at-most" else -np.inf
    high = target.wanted + target.tolerance if target.side != "at-least" else np.inf
    with np.errstate(invalid="ignore"):
        beyond = np.maximum(np.maximum(low - figures, figures - high), 0.0)
    # Where never is what is wanted at the least, infinity less infinity is no number.
    beyond = np.where(np.isinf(figures) & (target.side == "at-least"), 0.0, beyond)
    return np.asarray(np.where(np.isnan(figures), np.inf, beyond))


def _steps_back(target: Target, figures: FloatArray) -> FloatArray:
    before = np.concatenate([figures[:1], figures[:-1]])
    with np.errstate(invalid="ignore"):
        back = before - figures if target.side == "never-falls" else figures - before
    back = np.where(before == figures, 0.0, back)  # never after never is in order
    return np.asarray(np.where(np.isnan(figures), np.inf, np.maximum(np.nan_to_num(back), 0.0)))


def _standing(book: Figures, target: Target) -> Standing:
    if target.gone is not None:
        kind, _, name = target.gone.partition("/")
        return Standing(
            target, [], [], [], f"the {kind} “{name}” that it was about is gone; point it elsewhere"
        )
    key = (
        "standing",
        cache_key((target,)),
        _rests_on(book.under, target),
        _kept_key(book.under.game, target),
    )
    found: Standing | None = RESULTS.peek(key)
    if found is None:
        found = RESULTS.get(key, lambda: _worked_out(book, target))
        go_on()
    return found


def _rests_on(under: Conditions, target: Target) -> CacheKey:
    if target.is_elsewhere:
        return elsewhere_key(under, target)
    return view_key(under, target.view) if target.route is None else route_key(under.game, target.route)


def _kept_key(game: Game, target: Target) -> CacheKey | None:
    """What figures of what is kept rest on besides: items as they are worn and packed, how much their tiers
    and curves make of their stats, scores, the set."""
    if target.figure not in KEPT:
        return None
    sets = [one for one in game.sets if one.id == target.set]
    named = {stat.curve for item in game.items for stat in item.stats.values()}
    curves = [curve for curve in game.curves if curve.id in named]
    return cache_key((*game.items, *game.tiers, *curves, *sets), (json.dumps(game.scores),))


def _worked_out(book: Figures, target: Target) -> Standing:
    where = asked_at(book.under, target)
    depths = book.under.depths[where].tolist()
    if not depths:
        return Standing(target, [], [], [], None)
    try:
        figures = book.of(target, where)
    except TooLarge as error:
        return Standing(target, depths, [], [], str(error))
    sizes = np.abs(figures) if target.is_order else max(target.wanted, target.tolerance, 1e-300)
    holds = off(target, figures) <= _TIE * sizes
    is_played = target.id in book.played
    found = Standing(target, depths, figures.tolist(), holds.tolist(), None, is_played=is_played)
    if target.is_promise and not found.is_met and not target.is_order:
        way = book.way(target, int(np.flatnonzero(where)[found.furthest or 0]))
        return replace(found, way=way)
    return found


def asked_at(under: Conditions, target: Target) -> BoolArray:
    """The depths of a target's range at which it is met; of a route that of its end."""
    if target.gone is not None:
        return np.zeros(under.depths.size, dtype=bool)
    if target.route is not None:
        return np.asarray(under.depths == end_of(under.game, target.route))
    if target.is_elsewhere:
        return asked_elsewhere(under, target)
    kind, name = target.view
    where = met_at(under, under.source(name) if kind == "source" else None)
    if target.depths is not None:
        low, high = target.depths
        where = where & (under.depths >= low) & (under.depths <= high)
    return np.asarray(where)
