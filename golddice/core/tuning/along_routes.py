"""Figures of targets on routes: of all that a route has given by its end."""

from __future__ import annotations

import math

import numpy as np

from golddice.core.arrays import FloatArray
from golddice.core.errors import QueryError, TooLarge
from golddice.core.game.models import Game
from golddice.core.game.target import Target
from golddice.core.game.views import View
from golddice.core.odds.depths.along import all_depths
from golddice.core.odds.route.expectation import AtStop, Expectation
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.kept import RESULTS, Sign, sign_of
from golddice.core.terms.places.laid import laid_out
from golddice.core.terms.size import sign_of_view
from golddice.core.terms.stops import Stop, route_of, stops_of


def sign_of_route(game: Game, name: str) -> Sign:
    """All that a route's figures rest on."""
    route = route_of(game, name)
    game = laid_out(game, _stops(game, name)).game
    rolled = dict.fromkeys((stop.flags, stop.view) for stop in _stops(game, name))
    under = {flags: all_depths(game, flags) for flags, _ in rolled}
    signs = [sign_of_view(under[flags], view) for flags, view in rolled if view is not None]
    return sign_of((route, *signs), (game.depth.model_dump_json(),))


def end_of(game: Game, name: str) -> int | None:
    """The depth of a route's last stop; None of one without stops, or with a leg outside the game."""
    stops = _stops(game, name)
    return stops[-1].depth if stops else None


def views_on(game: Game, name: str) -> list[View]:
    """What is rolled along a route, each once."""
    stocks = {place.id: View("table", place.stock) for place in game.places}
    views = [stocks.get(str(stop.leg.place), stop.view) for stop in _stops(game, name)]
    return list(dict.fromkeys(view for view in views if view is not None))


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
    return RESULTS.get(("end of route", sign_of_route(game, name)), lambda: _told(game, name))


def _told(game: Game, name: str) -> AtStop:
    return Expectation(game, route_of(game, name)).told()[-1]
