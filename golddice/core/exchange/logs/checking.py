"""A log held against what was authored: what agrees, what does not, how sure that is."""

from __future__ import annotations

from typing import Any

import numpy as np

from golddice.core.arrays import give_back
from golddice.core.errors import TooLarge
from golddice.core.exchange.logs.events import Events, Places, events_of
from golddice.core.exchange.logs.faults import faults_of
from golddice.core.exchange.logs.figures import PlaceCheck, seen_at
from golddice.core.exchange.logs.judging import Tests
from golddice.core.exchange.logs.played import all_played
from golddice.core.exchange.logs.pooled import Pooled
from golddice.core.exchange.logs.reading import Log
from golddice.core.exchange.logs.rivals import Rivals, better
from golddice.core.game.models import Game
from golddice.core.game.views import View
from golddice.core.stopping import go_on
from golddice.core.terms.conditions import Conditions


def check_log(game: Game, log: Log) -> dict[str, Any]:
    """All that is told of a log, whose columns are gone afterwards. Raises TooLarge."""
    events = events_of(log)
    give_back()
    tests = Tests()
    groups, pooled = _groups(game, log, events, tests)
    give_back()
    found, count = faults_of(game, log, events), int(events.first.size)
    # What follows fills memory of its own: the log goes first.
    del events
    log.taken("item"), log.taken("quantity")
    give_back()
    tests.judge()
    rivals = Rivals(game, {group["depth"] for group in groups})
    for group in groups:
        _sum_up(group)
        group["better"] = better(rivals, group) if group["verdict"] == "differs" else []
        group.pop("hits")
    for group in pooled:
        _sum_up(group)
    agrees = not found and all(group["verdict"] != "differs" for group in [*groups, *pooled])
    return {
        "events": count,
        "rows": log.rows,
        "refused": [
            {"why": why, "count": count, "rows": log.refused_rows[why]} for why, count in log.refused.items()
        ],
        "sources": groups,
        "pooled": pooled,
        "faults": found,
        "agrees": agrees,
    }


def _sum_up(group: dict[str, Any]) -> None:
    """What differs in any way does so as a whole."""
    for item in group["items"]:
        if any(item[way] and item[way]["verdict"] == "differs" for way in ("wait", "drought")):
            item["verdict"] = "differs"
    parts = [*group["items"], *(group[one] for one in ("any", "together") if group[one])]
    verdicts = {one["verdict"] for one in parts}
    group["verdict"] = "differs" if "differs" in verdicts else "agrees" if "agrees" in verdicts else "few"


Groups = list[dict[str, Any]]


def _groups(game: Game, log: Log, events: Events, tests: Tests) -> tuple[Groups, Groups]:
    """By source, depth and flags: events, and of each item how many were expected and observed; and the same
    of each source at all of them together."""
    groups = []
    values = np.array([item.value for item in game.items])
    places = Places(events)
    has = np.zeros(events.first.size, dtype=bool)  # one for all, and empty between
    played = all_played(game, log, events, places)
    pooled = Pooled(game, places.keys, played)
    for at, place in enumerate(places):
        go_on()
        source, flags = game.sources[place.source], log.flag_sets[place.flags]
        seen = seen_at(log, events, place, len(game.items), has)
        group: dict[str, Any] = {
            "source": source.id,
            "depth": place.depth,
            "flags": sorted(flags),
            "events": place.events.size,
            "value": float(seen.units @ values) / place.events.size,
            "hits": np.append(seen.hits, seen.any),
        }
        try:
            under = Conditions(game, [place.depth], flags)
            check = PlaceCheck(under, View("source", source.id), place, seen, tests, played.places.get(at))
            told = check.told(events, has)
            group |= {"told": True, **told}
            pooled.add(at, place.source, check, told)
        except TooLarge:
            group |= {"told": False, "items": [], "any": None, "together": None, "played": None}
            pooled.missing(place.source)
        groups.append(group)
    return groups, list(pooled.groups(log, events, has, tests))
