"""Figures of targets on routes: of all that a route has given by its end."""

from __future__ import annotations

import math

import numpy as np

from golddice.core.arrays import FloatArray
from golddice.core.errors import QueryError, TooLarge
from golddice.core.game.finding import by_id
from golddice.core.game.models import Game
from golddice.core.game.target import Target
from golddice.core.game.views import View
from golddice.core.odds.depths.along import all_depths
from golddice.core.odds.route.expectation import AtStop, Expectation
from golddice.core.results import RESULTS, CacheKey, cache_key
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.size import view_key
from golddice.core.terms.stops import Stop, route_of, stops_of


def route_key(game: Game, name: str) -> CacheKey:
    """All that a route's figures rest on."""
    route, stops = route_of(game, name), _stops(game, name)
    places = {place.id: place for place in game.places}
    emptied = list(dict.fromkeys(stop.leg.place for stop in stops if stop.leg.place is not None))
    rolled = dict.fromkeys((stop.flags, _rolled_at(game, stop)) for stop in stops)
    under = {flags: all_depths(game, flags) for flags, _ in rolled}
    keys = [view_key(under[flags], view) for flags, view in rolled if view is not None]
    # What may lie where rests on the tags of all that there is.
    there = (*map(places.__getitem__, emptied), *game.items, *game.sources) if emptied else ()
    return cache_key((route, *keys, *there), (game.depth.model_dump_json(),))


def end_of(game: Game, name: str) -> int | None:
    """The depth of a route's last stop; None of one without stops, or with a leg outside the game."""
    stops = _stops(game, name)
    return stops[-1].depth if stops else None


def views_on(game: Game, name: str) -> list[View]:
    """What is rolled along a route, each once."""
    views = [_rolled_at(game, stop) for stop in _stops(game, name)]
    return list(dict.fromkeys(view for view in views if view is not None))


def _rolled_at(game: Game, stop: Stop) -> View | None:
    """What is rolled at a stop; of a place what it is stocked from."""
    if stop.leg.place is None:
        return stop.view
    return View("table", by_id(game.places, stop.leg.place).stock)


def _stops(game: Game, name: str) -> list[Stop]:
    """None where they cannot be laid out."""
    try:
        return stops_of(game, route_of(game, name))
    except (QueryError, TooLarge):
        return []


def at_the_end(under: Conditions, target: Target, counts: FloatArray) -> FloatArray:
    """A target's figure after the last stop of its route, shape (1,); NaN where there is none.

    `counts`, (items,) of 0 and 1, says which items it is about. Raises TooLarge where it cannot be told.
    """
    end = _last(under.game, str(target.route))
    if target.figure == "cv":
        found = math.sqrt(max(end.value_var, 0.0)) / end.value_mean if end.value_mean > 0 else math.nan
        return np.array([found])
    if target.figure == "value":
        return np.array([end.value_mean])
    many = end.mean[: counts.size]
    worths = many * under.item_values if target.figure == "worth" else many
    mine = float(worths @ counts)
    if target.figure == "mean":
        return np.array([mine])
    whole = float(worths.sum())
    return np.array([mine / whole if whole > 0 else math.nan])


def _last(game: Game, name: str) -> AtStop:
    return RESULTS.get(("end of route", route_key(game, name)), lambda: _told(game, name))


def _told(game: Game, name: str) -> AtStop:
    return Expectation(game, route_of(game, name)).told()[-1]
