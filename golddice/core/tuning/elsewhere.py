"""Figures of targets about places and stalls, and what these rest on."""

from __future__ import annotations

import numpy as np

from golddice.core.arrays import BoolArray, FloatArray
from golddice.core.errors import TooLarge
from golddice.core.game.finding import named
from golddice.core.game.models import Game
from golddice.core.game.target import Target
from golddice.core.game.views import View
from golddice.core.odds.places.lying import Lying
from golddice.core.odds.places.setting_out import set_out
from golddice.core.odds.stalls import Sale, stall_of
from golddice.core.results import CacheKey, cache_key
from golddice.core.stopping import go_on
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.places.laid import ways_of
from golddice.core.terms.places.shares import units_of
from golddice.core.terms.places.spots import place_of
from golddice.core.terms.size import view_key

FIRST_PERIODS = 400  # of a stall, whose longest absence a target is about


def stock_of(game: Game, target: Target) -> View:
    """The table that a place or stall is stocked from."""
    if target.place is not None:
        return View("table", place_of(game, target.place).stock)
    return View("table", stall_of(game, str(target.stall)).stock)


def elsewhere_key(under: Conditions, target: Target) -> CacheKey:
    """All that such a target's figure rests on, the target itself apart."""
    game = under.game
    about = place_of(game, target.place) if target.place else stall_of(game, str(target.stall))
    return cache_key((about, *game.items, *game.sources), (view_key(under, stock_of(game, target)),))


def asked_elsewhere(under: Conditions, target: Target) -> BoolArray:
    """The depths of a place that are asked about; of a stall its own."""
    if target.stall is not None:
        return np.asarray(under.depths == stall_of(under.game, target.stall).depth)
    found = np.ones(under.depths.size, dtype=bool)
    for depths in (place_of(under.game, str(target.place)).depths, target.depths):
        if depths is not None:
            found &= (under.depths >= depths[0]) & (under.depths <= depths[1])
    return found


def figures_elsewhere(
    under: Conditions, target: Target, where: BoolArray, counts: FloatArray
) -> tuple[FloatArray, bool]:
    """At the depths `where`, and whether they are of settings-out that were drawn, or counted periods, rather
    than exact. `counts`, (items,) of 0 and 1, says which items a target is about. Raises TooLarge."""
    if target.stall is not None:
        figure, is_counted = _of_stall(under.game, target)
        return np.full(int(where.sum()), figure), is_counted
    found, is_played = [], False
    for row in np.flatnonzero(where).tolist():
        go_on()
        figure, is_drawn = _of_place(under.alone(row), target, counts)
        found.append(figure)
        is_played = is_played or is_drawn
    return np.array(found), is_played


def _of_place(under: Conditions, target: Target, counts: FloatArray) -> tuple[float, bool]:
    lying = Lying(under, place_of(under.game, str(target.place)))
    if target.figure == "all-placed":
        if lying.place.way == "each-rolls":
            return 1.0, False
        ways, is_drawn = ways_of(lying)
        return min(ways.get(tuple(units_of(lying)), 0.0), 1.0), is_drawn
    out = set_out(lying)
    if target.figure == "mean":
        return float(out.mean @ counts), out.method == "simulated"
    return float(1.0 - out.none[under.item_index[str(target.item)]]), out.method == "simulated"


def _of_stall(game: Game, target: Target) -> tuple[float, bool]:
    sale = Sale(game, stall_of(game, str(target.stall)))
    good = str(target.good)
    if good not in sale.shares:
        lines = named(game.tables, "table", sale.stall.stock).lines
        is_there = any(line.id == good for line in lines)
        why = "it is closed at the stall's depth" if is_there else "there is no such good any more"
        raise TooLarge(f"“{good}” is never on sale: {why}")
    if target.figure == "on-sale":
        return sale.shares[good], sale.is_counted
    return float(sale.absences(0, FIRST_PERIODS)[good]), False
