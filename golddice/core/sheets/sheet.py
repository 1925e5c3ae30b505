"""What a screen shows of one view: every line's real chances beside what was entered."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from typing import Any

import numpy as np
from propcache.api import cached_property

from golddice.core.arrays import FloatArray, IntArray
from golddice.core.errors import QueryError, UnknownThing
from golddice.core.forecast import Ahead, Later, Wait, value_forecast
from golddice.core.forecast.later import PLAYERS, Estimate
from golddice.core.forecast.marking import Part
from golddice.core.game.links import reached
from golddice.core.game.models import BaseLine, Drop, Game, Source, Table
from golddice.core.game.views import View
from golddice.core.odds.carried.prospect import Prospect
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.odds.event.rules import roll_chances
from golddice.core.odds.event.waits import NEVER, events_to_first, one_in
from golddice.core.sheets.report import MOST_EVENTS, item_moments, later_facts, next_facts, value_odds
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.pace import events_per_hour
from golddice.core.terms.size import inner_of

WAIT_POINTS = 60
DOTS = 100
SCREEN_GRID = 1 << 16
QUICK_GRID = 1 << 12
SCREEN_EVENTS = 2_000_000
Points = list[list[float]]
_NOBODY = 1e-12


class SheetOdds:
    """The odds of a view at one depth, worked out once and asked for piece by piece."""

    def __init__(
        self,
        game: Game,
        view: View,
        depth: int,
        flags: Iterable[str] = (),
        quick: bool = False,
    ) -> None:
        """`quick` plays fewer players where some have to be played: for edits still under way."""
        self.view, self._quick = view, quick
        self.under = Conditions(game, [depth], flags)
        self.evaluator = Evaluator(self.under)
        self.prospect = Prospect(self.evaluator, view)
        self.columns = self.prospect.columns

    def sheet(self) -> dict[str, Any]:
        """Everything the sheet of this view shows, as plain data."""
        source = self.under.sources[self.view.id] if self.view.kind == "source" else None
        found: dict[str, Any] = {
            "next": next_facts(self.ahead),
            "depth": int(self.under.depths[0]),
            "carries": not self.prospect.is_plain,
            "value": value_odds(self.ahead.outcome),
            "per_hour": events_per_hour(source) if source else None,
            "items": self._items(),
            "tiers": self._tiers(),
            "drops": {} if source is None else self._drops(source),
            "tables": {name: self._table(self.under.tables[name]) for name in self._reached},
        }
        value = self.later.value()
        found["value"] |= _run_facts(value)
        return {**found, "later": later_facts(self.later)}

    @cached_property
    def ahead(self) -> Ahead:
        return Ahead(self.prospect, *self._parts)

    @cached_property
    def later(self) -> Later:
        return Later(self.prospect, *self._parts, most=PLAYERS // 5 if self._quick else PLAYERS)

    @cached_property
    def _parts(self) -> tuple[list[Part], list[Part]]:
        """The lines and the drops that are shown."""
        tables = [self.under.tables[name] for name in self._reached]
        lines = [(table.id, line.id) for table in tables for line in table.lines]
        source = self.under.sources[self.view.id] if self.view.kind == "source" else None
        return lines, [(source.id, drop.id) for drop in source.drops] if source else []

    @cached_property
    def _reached(self) -> list[str]:
        """Ids of the tables that this view rolls, outermost first."""
        views = reached([self.view], lambda view: inner_of(self.under, view))
        return [view.id for view in views if view.kind == "table"]

    def _items(self) -> dict[str, Any]:
        found = {}
        for at, item in enumerate(self.under.game.items):
            if self.ahead.reaches(self.columns.item(at)):
                found[item.id] = {
                    **item_moments(self.ahead, at),
                    **self._long_run(at),
                }
        return found

    def _tiers(self) -> dict[str, Any]:
        units = self.ahead.mean(self.columns.units)
        worth = float(self.ahead.outcome.value_mean[0])
        by_tier = dict.fromkeys(range(len(self.under.game.tiers)), 0.0)
        for at, item in enumerate(self.under.game.items):
            mean = self.ahead.mean(self.columns.item(at))
            by_tier[self.under.tier_index[item.tier]] += item.value * mean
        result = {}
        for at, tier in enumerate(self.under.game.tiers):
            column = self.columns.tier(at)
            p_any, mean = self.ahead.hit(column), self.ahead.mean(column)
            result[tier.id] = {
                "p_any": p_any,
                "mean": mean,
                "share": mean / units if units > 0 else 0.0,
                "value_share": by_tier[at] / worth if worth > 0 else 0.0,
                "one_in": one_in(p_any),
                **self._long_run(column),
            }
        return result

    def _long_run(self, column: int) -> dict[str, float | None]:
        return _run_facts(self.later.long_run(column))

    def _drops(self, source: Source) -> dict[str, Any]:
        result = {}
        for drop in source.drops:
            column = self.columns.drop_hits(source.id, drop.id)
            rolls = self.under.law(drop.times).mean * self.under.law(self.under.tables[drop.table].rolls).mean
            chance = float(self.under.drop_chance(drop)[0])
            result[drop.id] = {
                "open": bool(self.under.drop_open(drop)[0]),
                "multiplier": float(self.under.curve(drop.curve)[0]),
                "chance": chance,
                "p_any": self.ahead.hit(column),
                "rolls": chance * float(rolls[0]),
                "share": self._share(column + 1),
            }
        return result

    def _share(self, flow: int) -> float | None:
        """A part's share of the variance of value: cov(part, whole) / var(whole); None where it is not
        told."""
        whole, cov = float(self.ahead.outcome.value_var[0]), self.ahead.cov(flow)
        if cov is None:
            return None
        return cov / whole if whole > 0 else 0.0

    def _table(self, table: Table) -> dict[str, Any]:
        chances, blank = roll_chances(table, self.under)
        return {
            "rolls": float(self.under.law(table.rolls).mean[0]),
            "nothing": float(blank[0]),
            "empty": _empty(table, chances[:, 0], float(blank[0])),
            "lines": {
                line.id: self._line(table, line, float(chances[at, 0])) for at, line in enumerate(table.lines)
            },
        }

    def _line(self, table: Table, line: BaseLine, chance: float) -> dict[str, Any]:
        column = self.columns.line_hits(table.id, line.id)
        hits, p_any = self.ahead.mean(column), self.ahead.hit(column)
        quantities = [float(self.under.law(given.quantity).mean[0]) for given in line.yields]
        return {
            "open": bool(self.under.line_open(line, scaled=table.rule != "deck")[0]),
            "multiplier": 1.0 if table.rule == "deck" else float(self.under.line_multiplier(line)[0]),
            "chance": chance,
            "p_any": p_any,
            "one_in": one_in(p_any),
            "hits_100": 100.0 * hits,
            "per_100": 100.0 * hits * (quantities[0] if quantities else 1.0),
            "share": self._share(column + 1),
            **self._later_line(column, quantities[0] if quantities else 1.0),
        }

    def _later_line(self, column: int, quantity: float) -> dict[str, Any]:
        """The standard error of 1 / hits is that of hits over its square."""
        run = self.later.long_run(column)
        hits, error = run.settled, run.error
        return {
            "long_run_100": None if hits is None else 100.0 * hits * quantity,
            "long_run_100_error": 100.0 * error * quantity,
            "long_run_one_in": None if hits is None else one_in(hits),
            "long_run_one_in_error": error / hits**2 if hits and hits > NEVER**0.5 else 0.0,
        }

    # --- the reading ---------------------------------------------------------------------------

    def rarest_tier(self) -> dict[str, str] | None:
        """The focus until something is chosen: the highest tier that falls here."""
        tiers = self.under.game.tiers
        falling = [tier for at, tier in enumerate(tiers) if self.ahead.hit(self.columns.tier(at)) > 0]
        return {"kind": "tier", "id": falling[-1].id} if falling else None

    def focus_column(self, focus: dict[str, str]) -> int:
        """The column that a focus names: an item, a tier, a line or a drop."""
        columns, kind = self.columns, focus.get("kind")
        try:
            if kind == "item":
                return columns.item(self.under.item_index[focus["id"]])
            if kind == "tier":
                return columns.tier(self.under.tier_index[focus["id"]])
            if kind == "line":
                lines = self.under.table(focus["table"]).lines
                return columns.line_hits(focus["table"], _named(focus["line"], lines))
            if kind == "drop":
                drops = self.under.source(focus["source"]).drops
                return columns.drop_hits(focus["source"], _named(focus["drop"], drops))
        except KeyError as missing:
            raise UnknownThing(str(kind), str(missing.args[0])) from None
        raise QueryError("a focus is an item, a tier, a line or a drop")

    def wait(self, focus: dict[str, str]) -> dict[str, Any]:
        """Chance of having it by event k, as points for a plot up to a little past 99 %.

        With state, `without` says what the wait would be if every event were like the first.
        """
        column = self.focus_column(focus)
        self.prospect.prepare(column)
        p_any = self.ahead.hit(column)
        wait = self.later.wait(column)
        points, without = self._wait_points(column, p_any, wait)
        return {
            "focus": focus,
            "p_any": p_any,
            "p_any_error": self.ahead.hit_error(column),
            "one_in": one_in(p_any),
            **self._long_run(column),
            "method": wait.method,
            **wait.events,
            "errors": wait.errors,
            "more_than": wait.more_than,
            "all": self._all_have_one(column, wait),
            "points": points,
            "without": without,
        }

    def _all_have_one(self, column: int, wait: Wait) -> bool:
        """Whether nobody waits longer than 99 in a hundred."""
        last = wait.events.get("first_99")
        if wait.method != "exact" or last is None:
            return False
        return float(self.later.none_at(column, np.array([last]))[-1]) < _NOBODY

    def _wait_points(self, column: int, p_any: float, wait: Wait) -> tuple[Points, Points]:
        if wait.method == "untold":
            return [], []
        played = self.later.players.events if wait.method == "simulated" and self.later.players else None
        end = wait.events["first_99"] or played or events_to_first(p_any, 0.995)
        if end is None:
            return [], []
        last = math.ceil(1.1 * end)
        if wait.method == "exact" and self.prospect.is_steady(column):
            return _memoryless(p_any, np.unique(np.linspace(0, max(last, 1), WAIT_POINTS).round())), []
        if played:
            last = min(last, played)
        ks = np.unique(np.linspace(0, last, 4 * WAIT_POINTS).round().astype(int))
        none = self.later.none_at(column, ks)
        points = np.column_stack([ks[: none.size], 1.0 - none]).tolist()
        return points, _memoryless(p_any, ks[: none.size]) if p_any > 0 else []


def _named(name: str, parts: Sequence[BaseLine | Drop]) -> str:
    """The name, if one of the parts has it. Raises KeyError."""
    if all(part.id != name for part in parts):
        raise KeyError(name)
    return name


def _empty(table: Table, chances: FloatArray, blank: float) -> float:
    """Chance that one roll gives nothing at all: no line hits, or only lines without yields."""
    if table.rule == "each":
        giving = [chance for chance, line in zip(chances, table.lines, strict=True) if line.yields]
        return float(np.prod([1.0 - chance for chance in giving]))
    return blank + sum(
        float(chance) for chance, line in zip(chances, table.lines, strict=True) if not line.yields
    )


def _run_facts(run: Estimate) -> dict[str, float | None]:
    """Of the long run, and where that has not settled how many came in the last events that were played."""
    return {
        "long_run_mean": run.settled,
        "long_run_error": run.error,
        "late_mean": None if run.over is None else run.figure,
    }


def _memoryless(p_any: float, events: FloatArray | IntArray) -> list[list[float]]:
    """Chance of one by each of these events, if every event were like the first."""
    if p_any >= 1:
        return [[0.0, 0.0], [1.0, 1.0]]
    return [[float(k), -math.expm1(k * math.log1p(-p_any))] for k in events]


def spread(
    game: Game, view: View, *, depth: int, events: int, flags: Iterable[str] = (), quick: bool = False
) -> dict[str, Any]:
    """Value after so many events, as 100 players in a row and the usual quantiles.

    `quick` takes a coarser grid, and simulates fewer players where it has to simulate: for edits that
    are still under way.

    On a grid of at most SCREEN_GRID points, so that it follows an edit; `grid_error` says by how
    much a figure may be off (0 mostly).
    """
    if not 1 <= events <= MOST_EVENTS:
        raise QueryError(f"events must be 1 to {MOST_EVENTS:,}, got {events:,}")
    dots = (np.arange(DOTS) + 0.5) / DOTS
    found = value_forecast(
        game,
        view,
        depth=depth,
        events=events,
        qs=np.concatenate([dots, [0.05, 0.25, 0.5, 0.75, 0.95]]),
        flags=flags,
        largest=QUICK_GRID if quick else SCREEN_GRID,
        most_played=SCREEN_EVENTS // 10 if quick else SCREEN_EVENTS,
    )
    names = ("p05", "p25", "p50", "p75", "p95")
    return {
        "events": events,
        "method": found.method,
        "players": found.players,
        "errors": dict(zip(names, found.errors[DOTS:].tolist(), strict=True)),
        "dots": found.quantiles[:DOTS].tolist(),
        **dict(zip(names, found.quantiles[DOTS:].tolist(), strict=True)),
        "grid_error": found.grid_error,
    }
