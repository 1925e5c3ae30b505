"""Of every item: from where, at which depths, how long until half of all players have one at the best place;
what cannot be had at all, what only with or without a flag, what only so many times."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from golddice.core.arrays import BoolArray, FloatArray, IntArray
from golddice.core.errors import TooLarge
from golddice.core.game.models import Source
from golddice.core.game.views import View
from golddice.core.odds.carried.prospect import Prospect
from golddice.core.odds.depths.along import met_at
from golddice.core.odds.depths.depth_odds import DepthOdds
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.odds.event.waits import events_to_first
from golddice.core.stopping import go_on
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.pace import events_per_hour
from golddice.core.terms.resting import carries

SHOWN = 5  # sources of an item
_MOST_FOLLOWED = 400  # items whose wait is followed through what players carry
_MOST_FLAGS = 12  # flags that are tried one by one


@dataclass(frozen=True)
class _Ways:
    """How every source gives every item. s sources, i items; rows of depths, and -1 where it does not.

    pace (s, i) : how soon half of all players have one: hits an hour at the best depth, of what is bought for
    one unit of its money; `row` that depth's; `chance` of any there; first and last depth, all (s, i).
    """

    pace: FloatArray
    row: IntArray
    chance: FloatArray
    first: IntArray
    last: IntArray

    @staticmethod
    def of(under: Conditions, odds: DepthOdds) -> _Ways:
        shape = (len(under.game.sources), len(under.game.items))
        ways = _Ways(np.zeros(shape), np.full(shape, -1), *np.zeros((1, *shape)), *np.full((2, *shape), -1))
        for at, source in enumerate(under.game.sources):
            go_on()
            tried = odds.tried(View("source", source.id))
            hit = tried.hit * met_at(under, source)
            row = hit.argmax(axis=1)
            best = hit[np.arange(row.size), row]
            some = best > 0
            items = tried.places[some]
            comes = hit[some] > 0
            ways.row[at, items], ways.chance[at, items] = row[some], best[some]
            ways.pace[at, items] = -np.log1p(-np.minimum(best[some], 1 - 1e-16)) * _an_hour(source)
            ways.first[at, items] = comes.argmax(axis=1)
            ways.last[at, items] = comes.shape[1] - 1 - comes[:, ::-1].argmax(axis=1)
        return ways


def coverage(under: Conditions, odds: DepthOdds) -> dict[str, dict[str, Any]]:
    """By item, at the depths and with the flags of `under`: how many `sources` give it and the first few of
    them, those that are not bought before those that are; the best place; `limited` where it comes so many
    times, ever; flags `with` which it comes though not now, `without` which alone; whether it comes `ever`.
    """
    ways = _Ways.of(under, odds)
    bought = np.array([one.price is not None for one in under.game.sources], dtype=bool)
    lasting = _lasting(under)
    flagged = _by_flag(under, np.asarray((ways.row >= 0).any(axis=0)))
    timing = _Timing(under, ways)
    found = {}
    for at, item in enumerate(under.game.items):
        mine = np.flatnonzero(ways.row[:, at] >= 0)
        order = mine[np.lexsort((-ways.pace[mine, at], bought[mine]))].tolist()
        found[item.id] = {
            "count": len(order),
            "sources": [_told(under, ways, source, at) for source in order[:SHOWN]],
            "best": timing.told(order[0], at) if order else None,
            "limited": bool(order) and not bool(lasting[at]),
            **flagged[at],
        }
    return found


def _told(under: Conditions, ways: _Ways, source: int, item: int) -> dict[str, Any]:
    ends = under.depths[[ways.first[source, item], ways.last[source, item]]].tolist()
    return {"id": under.game.sources[source].id, "from": ends[0], "to": ends[1]}


def _an_hour(source: Source) -> float:
    """Events an hour; of what is bought, purchases for one unit of its money."""
    if source.price is None:
        return events_per_hour(source)
    return 1.0 / max(source.price.amount, 1e-9)


class _Timing:
    """The events by which half of all players have one at a place, and the hours; `events` None where that is
    not told."""

    def __init__(self, under: Conditions, ways: _Ways) -> None:
        self._under, self._ways = under, ways
        self._carried: dict[int, bool] = {}
        self._prospects: dict[tuple[int, int], Prospect] = {}
        self._followed = 0

    def told(self, source: int, item: int) -> dict[str, Any]:
        one, row = self._under.game.sources[source], int(self._ways.row[source, item])
        chance = float(self._ways.chance[source, item])
        if self._carries(source):
            events = self._by_following(source, row, item)
        else:
            events = events_to_first(chance, 0.5)
        return {
            "source": one.id,
            "depth": int(self._under.depths[row]),
            "chance": chance,
            "events": events,
            "hours": _hours(one, events),
            "price": _price(one, events),
        }

    def _carries(self, source: int) -> bool:
        if source not in self._carried:
            view = View("source", self._under.game.sources[source].id)
            self._carried[source] = carries(self._under, view)
        return self._carried[source]

    def _by_following(self, source: int, row: int, item: int) -> int | None:
        self._followed += 1
        if self._followed > _MOST_FOLLOWED:
            return None
        if (source, row) not in self._prospects:
            evaluator = Evaluator(self._under.alone(row), detail=False)
            view = View("source", self._under.game.sources[source].id)
            self._prospects[source, row] = Prospect(evaluator, view)
        return _followed(self._prospects[source, row], item)


def _followed(prospect: Prospect, item: int) -> int | None:
    go_on()
    try:
        found = prospect.wait_of(prospect.columns.item(item))["first_50"]
    except TooLarge:
        return None
    return None if found is None else int(found)


def _hours(source: Source, events: int | None) -> float | None:
    return None if events is None or source.price is not None else events / events_per_hour(source)


def _price(source: Source, events: int | None) -> float | None:
    return None if events is None or source.price is None else float(events * source.price.amount)


# --- what can come at all ----------------------------------------------------------------------------------


def _reached(under: Conditions) -> BoolArray:
    """Which items any source can give, at some depth, (i,)."""
    found, odds = np.zeros(len(under.game.items), dtype=bool), DepthOdds(under)
    for source in under.game.sources:
        go_on()
        tried = odds.tried(View("source", source.id))
        found[tried.places[(tried.hit * met_at(under, source) > 0).any(axis=1)]] = True
    return found


def _lasting(under: Conditions) -> BoolArray:
    """Which items come without end, (i,); where nothing has a limit all of them, whether they come or not."""
    if not any(line.limit is not None for table in under.game.tables for line in table.lines):
        return np.ones(len(under.game.items), dtype=bool)
    return _reached(_without_limits(under))


def _without_limits(under: Conditions) -> Conditions:
    """Without the lines of which a player has only so many: what is left out then comes so often, ever."""
    tables = [
        table.model_copy(update={"lines": [line for line in table.lines if line.limit is None]})
        if any(line.limit is not None for line in table.lines)
        else table
        for table in under.game.tables
    ]
    return Conditions(under.game.model_copy(update={"tables": tables}), under.depths, under.flags)


def _by_flag(under: Conditions, now: BoolArray) -> list[dict[str, Any]]:
    """Of each item the flags of which one more lets it come where it cannot now, or shuts it out."""
    game = under.game
    found: list[dict[str, Any]] = [{"with": [], "without": [], "ever": bool(here)} for here in now]
    flags = [flag.id for flag in game.flags if flag.id not in under.flags]
    for flag in flags[:_MOST_FLAGS]:
        go_on()
        then = _reached(Conditions(game, under.depths, [*under.flags, flag]))
        for at in np.flatnonzero(then & ~now).tolist():
            found[at]["with"].append(flag)
        for at in np.flatnonzero(now & ~then).tolist():
            found[at]["without"].append(flag)
    if len(flags) > 1:
        every = _reached(Conditions(game, under.depths, [*under.flags, *flags]))
        for at in np.flatnonzero(every).tolist():
            found[at]["ever"] = True
    for one in found:
        one["ever"] = one["ever"] or bool(one["with"])
    return found
