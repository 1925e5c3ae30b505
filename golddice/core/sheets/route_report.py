"""What is expected along a route, in the shape that the command line and the server print."""

from __future__ import annotations

import math
from typing import Any

from golddice.core.arrays import FloatArray
from golddice.core.errors import TooLarge
from golddice.core.game.models import Game
from golddice.core.odds.kit.slots import SlotAlong, slots_of
from golddice.core.odds.route.expectation import AtStop, Expectation
from golddice.core.terms.places.laid import laid_out
from golddice.core.terms.stops import route_of, stops_of
from golddice.core.trial.expected import carries_anything


def route_odds(game: Game, name: str, kit: bool = False) -> dict[str, Any]:
    """After every stop: events, seconds, and mean and sd by item, by tier and of value, since the start; with
    `kit`, where nothing is carried, what is worn in each slot.

    Where the states are too many, or what is bought depends on luck, `method` is untold and `why` says so;
    the stops are named all the same. Raises UnknownThing, QueryError, and TooLarge of too many stops.
    """
    route = route_of(game, name)
    stops = stops_of(game, route)
    try:
        told = Expectation(game, route).told()
    except TooLarge as error:
        named = [{"leg": stop.leg.id, "depth": stop.depth} for stop in stops]
        return {"method": "untold", "route": name, "why": str(error), "stops": named}
    laid = laid_out(game, stops).game
    found = [_plain(game, one) for one in told]
    if kit and slots_of(game) and not carries_anything(laid, stops):
        slots = {name: SlotAlong(laid, stops, name).along() for name in slots_of(game)}
        for at, one in enumerate(found):
            one["slots"] = {name: vars(worn[at]) for name, worn in slots.items()}
    return {"method": "exact", "route": name, "stops": found}


def _plain(game: Game, at: AtStop) -> dict[str, Any]:
    items = len(game.items)
    return {
        "leg": at.stop.leg.id,
        "depth": at.stop.depth,
        "events_mean": at.events,
        "seconds_mean": at.seconds,
        "items": _named([item.id for item in game.items], at.mean[:items], at.var[:items]),
        "tiers": _named([tier.id for tier in game.tiers], at.mean[items:], at.var[items:]),
        "value": {"mean": at.value_mean, "sd": math.sqrt(at.value_var)},
    }


def _named(names: list[str], mean: FloatArray, var: FloatArray) -> dict[str, dict[str, float]]:
    found = zip(names, mean.tolist(), var.tolist(), strict=True)
    return {name: {"mean": one, "sd": math.sqrt(spread)} for name, one, spread in found}
