"""What is to be played for a trial: of a source or table at one depth, or of a route."""

from __future__ import annotations

import hashlib
import math
from abc import ABC, abstractmethod
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np

from golddice.core.arrays import IntArray
from golddice.core.errors import QueryError, TooLarge
from golddice.core.game.models import Game
from golddice.core.game.views import View
from golddice.core.odds.carried.prospect import Prospect
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.odds.route.expectation import AtStop, Expectation
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.places.laid import laid_out
from golddice.core.terms.stops import route_of
from golddice.core.trial.compiling import Compiled, compiled
from golddice.core.trial.keeps import BARE, Keeps
from golddice.core.trial.kept import kept_marks
from golddice.core.trial.kept_report import KeptSummary
from golddice.core.trial.playing import Bags, Unit, played
from golddice.core.trial.program import N_PLAIN
from golddice.core.trial.route import RouteBags, RouteUnit, course_of
from golddice.core.trial.summary import Summary

MOST_PLAYERS = 1_000_000
MOST_EVENTS = 1_000_000
MOST_TOTAL = 10_000_000_000
MOST_UNITS = 1e17  # of a player, roughly; some hundred times as many can be counted
LARGEST_SEED = 2**63 - 1
CHECKPOINTS = 60
FEWEST_PLAYERS = 100  # before a stop rule may end a trial
_UNIT_ROLLS = 2_000_000  # a unit is a fraction of a second, whatever an event costs
_UNIT_CELLS = 1_000_000
_NEVER = 2**31 - 2  # an event that no player on a route comes to

Expected = tuple[float, float]  # mean and variance


@dataclass(frozen=True)
class Until:
    """A trial ends as soon as the mean of what it is about is known so well: half of the 95 % interval over
    the mean is at most `within`. Of an item, or of the value where that is None."""

    within: float
    item: str | None = None

    def check(self, game: Game) -> None:
        if not 1e-6 <= self.within <= 1:
            raise QueryError(f"known within 0.0001 to 100 %, got {100 * self.within:g} %")
        if self.item is not None and all(item.id != self.item for item in game.items):
            raise QueryError(f"there is no item “{self.item}” to stop by")


@dataclass(frozen=True)
class Trial:
    """So many players, each doing so many events of one source (or table) at one depth."""

    view: View
    depth: int
    players: int
    events: int
    seed: int
    flags: tuple[str, ...] = ()
    until: Until | None = None

    def check(self) -> None:
        """Raise QueryError or TooLarge for a trial that cannot be run."""
        _check_bounds(self.players, self.seed)
        if not 1 <= self.events <= MOST_EVENTS:
            raise QueryError(f"events must be 1 to {MOST_EVENTS:,}, got {self.events:,}")
        _check_total(self.players, self.events)


@dataclass(frozen=True)
class RouteTrial:
    """So many players, each going along a route."""

    route: str
    players: int
    seed: int
    until: Until | None = None

    def check(self) -> None:
        _check_bounds(self.players, self.seed)


AnyTrial = Trial | RouteTrial


def _check_bounds(players: int, seed: int) -> None:
    for name, value, low, high in (("players", players, 1, MOST_PLAYERS), ("seed", seed, 0, LARGEST_SEED)):
        if not low <= value <= high:
            raise QueryError(f"{name} must be {low} to {high:,}, got {value:,}")


def _check_total(players: int, events: int) -> None:
    if players * events > MOST_TOTAL:
        raise TooLarge(
            f"{players:,} players x {events:,} events are more than the limit of "
            f"{MOST_TOTAL:,}; take fewer of either"
        )


def _check_units(units: float) -> None:
    if units > MOST_UNITS:
        raise TooLarge(
            f"a player may receive some {units:.1g} things; more than {MOST_UNITS:.0e} are not counted"
        )


class Plan(ABC):
    """A trial made ready: its units, and what is expected of it. Rests on game and trial alone."""

    game: Game
    trial: AnyTrial
    items: IntArray
    events: int  # the most that a player can come to, for waits
    marks: IntArray
    work: float  # roughly the rolls of one player
    state_size: int
    keeps: Keeps | None  # what is kept of what is received
    is_plain: bool  # all that is played is plain picks of items

    def units(self) -> Iterator[tuple[int, int]]:
        """(first, how many) players of about the same work, by a rule that rests on the trial alone."""
        by_work = int(_UNIT_ROLLS / self.work)
        by_cells = _UNIT_CELLS // (2 * self.items.size + self.marks.size + self.state_size)
        size = max(1, min(by_work, by_cells, -(-self.trial.players // 8)))
        for first in range(0, self.trial.players, size):
            yield first, min(size, self.trial.players - first)

    @abstractmethod
    def unit(self, first: int, players: int) -> Any:
        """What an executor can play by `played`."""

    @abstractmethod
    def program_digest(self) -> str:
        """Of the compiled programs: two that are the same play alike, with the same kernel."""

    @abstractmethod
    def expected_item(self, at: int) -> Expected | None:
        """Of how many one player has in the end; None where it is not told exactly."""

    @abstractmethod
    def expected_tier(self, at: int) -> Expected | None: ...

    @abstractmethod
    def expected_value(self) -> Expected | None: ...

    def why_untold(self) -> str | None:
        """Why there is no expectation, where there is none."""
        return None

    def stops(self, summary: Summary) -> list[dict[str, Any]] | None:
        """Of a route, stop by stop."""
        return None

    def new_summary(self) -> Summary:
        keeps, kept = self.keeps, None
        if keeps is not None and keeps.used:
            by_stops = isinstance(self.trial, RouteTrial)
            marks = kept_marks(self.marks if by_stops else self.marks[self.marks > 0])
            kept = KeptSummary(keeps, marks.tolist(), self.events, by_stops)
        return Summary(self.items, len(self.game.items), self.events, kept)

    def marked(self) -> list[int]:
        """The events, or stops, at which the value so far is noted."""
        return [int(mark) for mark in self.marks]


class ViewPlan(Plan):
    def __init__(self, game: Game, trial: Trial) -> None:
        trial.check()
        self.game, self.trial, self._asked = game, trial, trial
        self.view = trial.view
        self.under = Conditions(game, [trial.depth], trial.flags)
        self.program: Compiled = compiled(self.under, trial.view, BARE)
        self.items, self.events = self.program.items, trial.events
        self.keeps = self.program.keeps
        self.marks = checkpoints(trial.events)
        self.work = trial.events * self.program.work
        _check_units(trial.events * self.program.units)
        self.state_size = self.program.program.state_size
        self.is_plain = bool(self.program.program.code[N_PLAIN])
        self._prospect: Prospect | None = None

    def unit(self, first: int, players: int) -> Unit:
        return Unit.of(self.program, self._asked.seed, first, players, self._asked.events, self.marks)

    def program_digest(self) -> str:
        return _digest([self.program])

    @property
    def _ahead(self) -> Prospect:
        if self._prospect is None:
            self._prospect = Prospect(Evaluator(self.under, detail=False), self._asked.view)
        return self._prospect

    def expected_item(self, at: int) -> Expected | None:
        return self._of(self._ahead.columns.item(at))

    def expected_tier(self, at: int) -> Expected | None:
        return self._of(self._ahead.columns.tier(at))

    def _of(self, column: int) -> Expected | None:
        try:
            return self._ahead.count_after(column, self._asked.events)
        except TooLarge:
            return None

    def expected_value(self) -> Expected | None:
        try:
            return self._ahead.value_after(self._asked.events)
        except TooLarge:
            return None

    def why_untold(self) -> str | None:
        try:
            self._ahead.value_after(self._asked.events)
        except TooLarge as error:
            return str(error)
        return None


class RoutePlan(Plan):
    def __init__(self, game: Game, trial: RouteTrial) -> None:
        trial.check()
        self.game, self.trial, self._asked = game, trial, trial
        self._route = route_of(game, trial.route)
        if not self._route.legs:
            raise QueryError(f"“{trial.route}” has no legs; give it one before players go along it")
        self.course = course_of(game, self._route)
        self.items, self.marks, self.events = self.course.items, self.course.marks, _NEVER
        self.work = self.course.work
        self.keeps = None if self.course.any is None else self.course.any.keeps
        sizes = [one.program.state_size for one in self.course.programs if one is not None]
        self.state_size, self.is_plain = max(sizes, default=1), False
        if trial.players * self.work > 10 * MOST_TOTAL:
            raise TooLarge(f"{trial.players:,} players of about {self.work:,.0f} rolls each; take fewer")
        _check_units(self.course.units)
        self._told: list[AtStop] | str | None = None

    @property
    def laid(self) -> Game:
        """With what the places on the way are rolled by."""
        return laid_out(self.game, self.course.stops).game

    def unit(self, first: int, players: int) -> RouteUnit:
        return RouteUnit(self.course, self._asked.seed, first, players)

    def program_digest(self) -> str:
        return _digest([one for one in self.course.programs if one is not None])

    @property
    def _stops_told(self) -> list[AtStop] | None:
        if self._told is None:
            try:
                self._told = Expectation(self.game, self._route).told()
            except TooLarge as error:
                self._told = str(error)
        return self._told if isinstance(self._told, list) else None

    def why_untold(self) -> str | None:
        return None if self._stops_told is not None else str(self._told)

    def expected_item(self, at: int) -> Expected | None:
        told = self._stops_told
        return (float(told[-1].mean[at]), float(told[-1].var[at])) if told else None

    def expected_tier(self, at: int) -> Expected | None:
        return self.expected_item(len(self.game.items) + at)

    def expected_value(self) -> Expected | None:
        told = self._stops_told
        return (told[-1].value_mean, told[-1].value_var) if told else None

    def stops(self, summary: Summary) -> list[dict[str, Any]]:
        """At every stop events and seconds; of those that are marked the spread of value too."""
        told = self._stops_told
        at_marks = dict(zip(self.marks.tolist(), summary.fan_figures(), strict=True))
        found = []
        for at, stop in enumerate(self.course.stops):
            row: dict[str, Any] = {
                "leg": stop.leg.id,
                "depth": stop.depth,
                "events": float(summary.events_at[at]) / summary.players,
                "seconds": float(summary.seconds_at[at]) / summary.players,
            }
            if at in at_marks:
                expected = (told[at].value_mean, told[at].value_var) if told else None
                row["value"] = at_marks[at] | beside(at_marks[at]["mean"], expected, summary.fan_players)
            found.append(row)
        return found


def plan_of(game: Game, trial: AnyTrial) -> Plan:
    """Raises QueryError, TooLarge and UnknownThing for a trial that cannot be run."""
    if trial.until is not None:
        trial.until.check(game)
    return ViewPlan(game, trial) if isinstance(trial, Trial) else RoutePlan(game, trial)


def play_unit(unit: Unit | RouteUnit, stop: Any = None) -> Bags | RouteBags:
    """Whatever kind it is: what an executor runs."""
    return unit.played(stop) if isinstance(unit, RouteUnit) else played(unit, stop)


def checkpoints(events: int) -> IntArray:
    """The events at which the value so far is noted: at most CHECKPOINTS, the last one included."""
    return np.unique(np.linspace(0, events, CHECKPOINTS + 1).round().astype(np.int64)[1:])


def beside(mean: float, expected: Expected | None, players: int) -> dict[str, float | None]:
    """What was expected, and how far off the mean of so many players is."""
    if expected is None:
        return {"expected_mean": None, "expected_sd": None, "z": None}
    return {
        "expected_mean": expected[0],
        "expected_sd": math.sqrt(expected[1]),
        "z": z_score(mean, expected, players),
    }


def z_score(mean: float, expected: Expected | None, players: int) -> float | None:
    """(observed mean - exact mean) / its standard error; None where a constant is not met."""
    if expected is None:
        return None
    exact, var = expected
    if var <= 1e-18 * exact * exact:
        return 0.0 if abs(mean - exact) <= 1e-9 * max(1.0, exact) else None
    return (mean - exact) / math.sqrt(var / players)


def _digest(programs: list[Compiled]) -> str:
    found = hashlib.sha256()
    for one in {id(program): program for program in programs}.values():
        found.update(one.program.code.tobytes())
        found.update(one.program.real.tobytes())
    return found.hexdigest()
