"""The bag of one player on a route, packed: as it is before it is emptied for the first time, and what was
left behind by then."""

from __future__ import annotations

from typing import Any

from golddice.core.errors import QueryError
from golddice.core.game.models import Game
from golddice.core.sheets.kept.container import drawn
from golddice.core.terms.stops import route_of
from golddice.core.trial.packing import Packing
from golddice.core.trial.route import Course, course_of
from golddice.core.trial.trace import MOST_TRACED_EVENTS, EventTrace, replayed

SEED = 20_417


def bag(game: Game, name: str, player: int = 0) -> dict[str, Any]:
    """Of the player of a number. `stop` is the one after which it is drawn, from 0; `left_at` the first at
    which something was left behind.

    Raises UnknownThing, TooLarge, and QueryError of a route without a bag.
    """
    route = route_of(game, name)
    if route.bag is None:
        raise QueryError(f"“{name}” has no bag; say how many cells, and it is packed")
    course = course_of(game, route)
    last = _first_emptied(course)
    found = replayed(course, game, seed=SEED, player=player, count=MOST_TRACED_EVENTS)
    packing, items = Packing(*route.bag), {item.id: item for item in game.items}
    left_at: int | None = None
    for event in found.events:
        if event.stop is None or event.stop > last:
            break
        for item, count in _got(event):
            for _ in range(count):
                if packing.add(items[item]) is None and left_at is None:
                    left_at = event.stop
    return {
        "player": player,
        "cells": list(route.bag),
        "stop": last,
        "left_at": left_at,
        **drawn(game, packing),
    }


def _first_emptied(course: Course) -> int:
    """The last stop of the first leg after which the bag is sold or put aside; else of the route."""
    for at, stop in enumerate(course.stops):
        if course.ends_leg(at) and (stop.leg.sells is not None or stop.leg.stores):
            return at
    return len(course.stops) - 1


def _got(event: EventTrace) -> list[tuple[str, int]]:
    """What came out of an event in order, less what was lost in a container or was out of reach."""
    got: list[tuple[str, int]] = []
    for step in event.steps:
        if step["kind"] == "item":
            got.append((step["item"], step["count"]))
        elif step["kind"] in ("lost", "missed") and got:
            item, count = got[-1]
            got[-1] = item, count - step["count"]
    return got
