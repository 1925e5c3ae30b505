"""What players keep, quickly: kit and sets exactly where nothing is carried; all the rest of some thousands
who are played, as a trial would."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from golddice.core.arrays import IntArray
from golddice.core.errors import TooLarge
from golddice.core.game.models import Game
from golddice.core.game.views import View
from golddice.core.odds.kit.sets import Completion, is_told
from golddice.core.odds.kit.slots import Slot, SlotAlong, slots_at, slots_of
from golddice.core.results import RESULTS
from golddice.core.stopping import go_on
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.keys import game_key
from golddice.core.terms.places.laid import laid_out
from golddice.core.terms.resting import carries
from golddice.core.terms.stops import route_of, stops_of
from golddice.core.trial.expected import carries_anything
from golddice.core.trial.plans import Plan, RouteTrial, Trial, plan_of, play_unit
from golddice.core.trial.playing import Bags
from golddice.core.trial.summary import Summary

PLAYERS = 4_000
FEWEST = 200
SEED = 20_417
_MOST_ROLLS = 12_000_000
_MARKS = (1, 2, 3, 5, 8, 13, 20, 30, 50, 80, 130, 200, 300, 500, 800, 1300, 2000, 5000, 10_000)


def kept_of(game: Game, source: str, *, depth: int, events: int, flags: Iterable[str] = ()) -> dict[str, Any]:
    """After so many events of a source at a depth.

    Raises UnknownThing, QueryError, and TooLarge where even playing takes too long.
    """
    asked = Trial(View("source", source), depth, FEWEST, events, SEED, tuple(flags))
    return RESULTS.get(("kept of", game_key(game), asked), lambda: _of(game, asked))


def _of(game: Game, asked: Trial) -> dict[str, Any]:
    view, events = asked.view, asked.events
    under = Conditions(game, [asked.depth], asked.flags)
    under.source(view.id)
    found = _played(plan_of(game, asked))
    exact: dict[str, Any] = {"slots": {}, "sets": {}}
    if not carries(under, view):
        exact["slots"] = {name: _slot(game, view, name, under, events) for name in slots_of(game)}
        exact["sets"] = {
            one.id: _set(Completion(under, view, one), events) for one in game.sets if is_told(one)
        }
    return {**found, "exact": exact, "by_stops": False}


def kept_along(game: Game, name: str) -> dict[str, Any]:
    """Along a route. Raises UnknownThing, QueryError, TooLarge."""
    return RESULTS.get(("kept along", game_key(game), name), lambda: _along(game, name))


def _along(game: Game, name: str) -> dict[str, Any]:
    route = route_of(game, name)
    stops = stops_of(game, route)
    found = _played(plan_of(game, RouteTrial(name, FEWEST, SEED)))
    exact: dict[str, Any] = {"slots": {}, "sets": {}}
    laid = laid_out(game, stops).game
    if not carries_anything(laid, stops):
        for slot in slots_of(game):
            along = SlotAlong(laid, stops, slot).along()
            exact["slots"][slot] = {"along": [{"at": at, **vars(worn)} for at, worn in enumerate(along)]}
    return {**found, "exact": exact, "by_stops": True}


def kit_by_depth(
    game: Game, source: str, *, events: int, flags: Iterable[str] = ()
) -> list[dict[str, Any]] | None:
    """What is worn after so many events at each depth of the game, exactly; None where something is carried
    somewhere. Raises UnknownThing and TooLarge."""
    found, view, names = [], View("source", source), slots_of(game)
    for depth in range(game.depth.from_, game.depth.to + 1):
        go_on()
        under = Conditions(game, [depth], flags)
        if carries(under, view):
            return None
        slots = {}
        for slot in slots_at(under, view, names):
            worn, upgrades = slot.after(events)
            slots[slot.name] = {**vars(worn), "upgrades": upgrades}
        found.append({"depth": depth, "slots": slots})
    return found


def _slot(game: Game, view: View, name: str, under: Conditions, events: int) -> dict[str, Any]:
    """What is worn in the end and on the way there; the chance that an event is an upgrade, which falls."""
    slot = Slot(under, view, name)
    worn, upgrades = slot.after(events)
    marks = [mark for mark in _MARKS if mark < events] + [events]
    return {
        "after": {**vars(worn), "upgrades": upgrades},
        **{f"first_{q}": slot.first(q / 100) for q in (50, 90, 99)},
        "next": slot.upgrade_at(events + 1),
        "chances": [[mark, slot.upgrade_at(mark)] for mark in marks],
        "along": [{"at": mark, **vars(slot.after(mark)[0])} for mark in marks],
    }


def _set(of: Completion, events: int) -> dict[str, Any]:
    return {
        "complete": of.after(events),
        **{f"first_{q}": of.first(q / 100) for q in (50, 90, 99)},
        "along": [{"at": mark, "complete": of.after(mark)} for mark in _MARKS if mark < events]
        + [{"at": events, "complete": of.after(events)}],
    }


def _played(plan: Plan) -> dict[str, Any]:
    """What some thousands of players keep, as a trial tells it."""
    players = int(min(PLAYERS, _MOST_ROLLS / max(plan.work, 1.0)))
    if players < FEWEST:
        raise TooLarge(f"a player rolls some {plan.work:,.0f} times; a trial tells it")
    summary, size = plan.new_summary(), _unit(plan, players)
    for first in range(0, players, size):
        go_on()
        bags: Bags = play_unit(plan.unit(first, min(size, players - first)))
        summary.add(bags)
    return {"players": players, "received": _received(plan, summary), **_told(summary)}


def _unit(plan: Plan, players: int) -> int:
    cells = 2 * plan.items.size + plan.marks.size + plan.state_size
    return max(1, min(players, 4_000_000 // cells))


def _told(summary: Summary) -> dict[str, Any]:
    return {} if summary.kept is None else summary.kept.told()


def _received(plan: Plan, summary: Summary) -> dict[str, float]:
    """How many of each item a player receives on average, of those that come at all."""
    columns: IntArray = plan.items
    return {
        plan.game.items[at].id: summary.totals[slot] / summary.players
        for slot, at in enumerate(columns.tolist())
        if summary.totals[slot]
    }
