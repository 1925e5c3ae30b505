"""Which table is it really? Sources and tables under which what came is likelier."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator
from typing import Any

import numpy as np

from golddice.core.arrays import FloatArray, IntArray
from golddice.core.errors import GameError, TooLarge
from golddice.core.game.finding import by_id
from golddice.core.game.models import Game
from golddice.core.game.reading import plain, read_part
from golddice.core.game.views import View
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.stopping import go_on
from golddice.core.terms.conditions import Conditions

_SHOWN = 3  # tables that could be meant

_DEPTHS = 60  # that are tried, besides those of the log


class Rivals:
    """The chances of every item, and of anything, under every source and table of a game."""

    def __init__(self, game: Game, depths: Iterable[int]) -> None:
        step = max(1, (game.depth.to - game.depth.from_ + 1) // _DEPTHS)
        self.game = game
        self.depths = sorted({*range(game.depth.from_, game.depth.to + 1, step), *depths})
        self._views = [View("source", one.id) for one in game.sources]
        self._views += [View("table", one.id) for one in game.tables]
        self._known: dict[frozenset[str], dict[View, FloatArray]] = {}

    def under(self, flags: frozenset[str]) -> dict[View, FloatArray]:
        """By view, shape (depths, items + 1); without those that cannot be told."""
        if flags not in self._known:
            evaluator = Evaluator(Conditions(self.game, self.depths, flags), detail=False)
            found = {view: _chances(evaluator, view) for view in self._views}
            self._known[flags] = {view: one for view, one in found.items() if one is not None}
        return self._known[flags]


def better(rivals: Rivals, group: dict[str, Any]) -> list[dict[str, Any]]:
    """Sources and tables, at every depth, under which what came is likelier, most first; and the source
    itself with a table (`each`) rolled line by line. What comes together is taken as if it came apart, alike
    for all."""
    hits, count, flags = group["hits"], group["events"], frozenset(group["flags"])
    mine, depth = View("source", group["source"]), group["depth"]
    known, place = rivals.under(flags), rivals.depths.index(depth)
    found: list[tuple[float, View, int, str | None]] = []
    for view, chances in known.items():
        likely = _log_likelihood(chances, hits, count)
        found += [(one, view, at, None) for one, at in zip(likely.tolist(), rivals.depths, strict=True)]
    own = float(_log_likelihood(known[mine][[place]], hits, count)[0]) if mine in known else -math.inf
    for table, other in _each_instead(rivals.game, mine):
        instead = _chances(Evaluator(Conditions(other, [depth], flags), detail=False), mine)
        if instead is not None:
            found.append((float(_log_likelihood(instead, hits, count)[0]), mine, depth, table))
    best = sorted(found, key=lambda one: -one[0])[:_SHOWN]
    return [
        {"kind": view.kind, "id": view.id, "depth": at, "each": table, "times_likelier": _times(one - own)}
        for one, view, at, table in best
        if one > own + math.log(100)
    ]


def _log_likelihood(chances: FloatArray, hits: IntArray, count: int) -> FloatArray:
    """Of each row of chances."""
    bare = np.clip(chances, 1e-7, 1 - 1e-7)
    return np.asarray(np.log(bare) @ hits + np.log1p(-bare) @ (count - hits))


def _each_instead(game: Game, view: View) -> Iterator[tuple[str, Game]]:
    """The game with one of the tables that a source drops rolled line by line, where it picks one or takes
    the first: what code does that asks of every line whether it hits."""
    drops = by_id(game.sources, view.id).drops
    for name in dict.fromkeys(drop.table for drop in drops):
        go_on()
        other = _line_by_line(plain(by_id(game.tables, name)))
        if other is not None:
            tables = [other if one.id == name else one for one in game.tables]
            yield name, game.model_copy(update={"tables": tables})


def _line_by_line(body: dict[str, Any]) -> Any | None:
    if body["rule"] not in ("pick", "first") or body.get("distinct"):
        return None
    lines = body.get("lines", [])
    weights = [line.get("weight", 1.0) for line in lines]
    whole = sum(weights) + body.get("nothing", 0.0)
    kept = {key: value for key, value in body.items() if key not in ("nothing", "nothing_curve", "distinct")}
    told = [
        {key: value for key, value in line.items() if key != "weight"}
        | ({"chance": weight / whole} if body["rule"] == "pick" and whole > 0 else {})
        for line, weight in zip(lines, weights, strict=True)
    ]
    try:
        return read_part("table", {**kept, "rule": "each", "lines": told})
    except GameError:
        return None  # it has what no table has that is rolled so


def _times(log_ratio: float) -> float:
    return math.exp(min(log_ratio, 700.0))


def _chances(evaluator: Evaluator, view: View) -> FloatArray | None:
    go_on()
    try:
        outcome = evaluator.of(view)
    except TooLarge:
        return None
    items = evaluator.columns.item(len(evaluator.under.game.items))
    found = np.zeros((evaluator.under.depths.size, items + 1))
    mine = outcome.columns < items
    found[:, outcome.columns[mine]] = outcome.hit[:, mine]
    found[:, -1] = outcome.hit[:, outcome.columns == evaluator.columns.units].sum(axis=1)
    return found
