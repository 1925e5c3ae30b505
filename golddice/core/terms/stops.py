"""A route laid out stop by stop: where, with which flags, and what a player does there.

Shared by the exact odds and the trials, as the models are.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

import numpy as np

from golddice.core.arrays import IntArray
from golddice.core.errors import QueryError, TooLarge
from golddice.core.game.finding import named
from golddice.core.game.models import Band, Game, Route, RouteLeg
from golddice.core.game.places import Place
from golddice.core.game.quantity import ONE, Quantity
from golddice.core.game.views import View

MOST_STOPS = 10_000


@dataclass(frozen=True)
class Stop:
    """One depth of one leg.

    Attributes
    ----------
    flags : those that are set there.
    doing : `events` of the view, a source, so many `times`; `visits`, so many `times` as many
        `encounters`, each of them one execution of the view, a spawn table, and `between` seconds; or
        nothing. A place is emptied by one visit, whose view is the table that `terms.places.laid` makes.
    """

    leg: RouteLeg
    depth: int
    flags: frozenset[str]
    doing: Literal["events", "visits", "nothing"] = "nothing"
    view: View | None = None
    times: Quantity = ONE
    encounters: Quantity = ONE
    between: float = 0.0


def route_of(game: Game, name: str) -> Route:
    """Raises UnknownThing."""
    return named(game.routes, "route", name)


def stops_of(game: Game, route: Route) -> list[Stop]:
    """Raises TooLarge where there are too many, QueryError where a leg leaves the game's depths."""
    count = sum(abs(leg.to - leg.from_) + 1 for leg in route.legs)
    if count > MOST_STOPS:
        raise TooLarge(f"“{route.id}” has {count:,} stops; the limit is {MOST_STOPS:,}")
    return list(_stops(game, route))


def _stops(game: Game, route: Route) -> Iterator[Stop]:
    flags = frozenset(route.flags)
    for leg in route.legs:
        down = 1 if leg.to >= leg.from_ else -1
        for depth in range(leg.from_, leg.to + down, down):
            if not game.depth.from_ <= depth <= game.depth.to:
                raise QueryError(
                    f"leg “{leg.id}” of “{route.id}” goes to depth {depth}, outside the game's "
                    f"{game.depth.from_} to {game.depth.to}"
                )
            yield _stop(game, leg, depth, flags)
        flags = (flags | set(leg.gains)) - set(leg.loses)


def _stop(game: Game, leg: RouteLeg, depth: int, flags: frozenset[str]) -> Stop:
    if leg.source is not None:
        return Stop(leg, depth, flags, "events", View("source", leg.source), leg.times or ONE)
    if leg.place is not None:
        name = laid_name(named(game.places, "place", leg.place), depth, flags)
        return Stop(leg, depth, flags, "visits", View("table", name))
    band = band_at(game, depth)
    if leg.visits is None or band is None or band.spawns is None:
        return Stop(leg, depth, flags)
    view = View("table", band.spawns)
    return Stop(leg, depth, flags, "visits", view, leg.visits, band.encounters, band.between_seconds)


def is_laid(table: str) -> bool:
    """Whether a table's name is one that `laid_name` gives, or is within such a table."""
    return table.startswith("place ")


def laid_name(place: Place, depth: int, flags: frozenset[str]) -> str:
    """Of the table that emptying a place executes: what is no id, so that no other table has it."""
    if place.way == "each-rolls":
        return f"place {place.id}"
    return " ".join([f"place {place.id} at {depth}", *sorted(flags)])


def band_at(game: Game, depth: int) -> Band | None:
    """The first band in the file that holds the depth."""
    return next((one for one in game.depth.bands if one.from_ <= depth <= one.to), None)


def bands_at(game: Game, depths: IntArray) -> IntArray:
    """Which band counts at each depth, by its place in the file, shape (d,); -1 where none does.

    Where bands overlap, the first in the file counts.
    """
    found = np.full(depths.size, -1)
    for at, band in reversed(list(enumerate(game.depth.bands))):
        found[(depths >= band.from_) & (depths <= band.to)] = at
    return found
