"""Players on a route: taken through its stops one after another."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
from propcache.api import cached_property

from golddice.core.arrays import FloatArray, IntArray
from golddice.core.errors import TooLarge
from golddice.core.game.models import Game, Route
from golddice.core.stopping import Cancelled, Stop, current_stop
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.places.laid import laid_out
from golddice.core.terms.stops import Stop as RouteStop
from golddice.core.terms.stops import stops_of
from golddice.core.trial.compiling import Compiled, compiled_along
from golddice.core.trial.keeps import Carry
from golddice.core.trial.kept import Keeping, kept_marks, room_to_keep
from golddice.core.trial.kernel import collect, play_stop
from golddice.core.trial.playing import Bags
from golddice.core.trial.program import AT_EVENTS, AT_RECEIPTS, AT_SAME, S_CLOCK, S_COUNTS

MOST_EVENTS = 10_000_000  # of one player
MOST_PROGRAMS = 60_000_000  # numbers in all programs of a route
CHECKPOINTS = 60


def _nobody() -> Any:
    return np.zeros(0)


@dataclass(frozen=True)
class Course:
    """A route compiled: its stops, the program of each (None where nothing is done), and the stops, by
    number, after which the value so far is noted."""

    stops: Sequence[RouteStop]
    programs: Sequence[Compiled | None]
    marks: IntArray

    @cached_property
    def any(self) -> Compiled | None:
        """One of the programs: what players carry and receive lies alike in all."""
        return next((one for one in self.programs if one is not None), None)

    def ends_leg(self, at: int) -> bool:
        """Whether a stop is the last of its leg."""
        return at + 1 == len(self.stops) or self.stops[at + 1].leg is not self.stops[at].leg

    @property
    def items(self) -> IntArray:
        return np.zeros(0, dtype=np.int64) if self.any is None else self.any.items

    @property
    def work(self) -> float:
        """Roughly how many rolls a player comes to."""
        return 1.0 + self._sum(lambda program: program.work)

    @property
    def units(self) -> float:
        """Roughly how many things a player receives at the most."""
        return self._sum(lambda program: program.units)

    def _sum(self, of: Callable[[Compiled], float]) -> float:
        counts = zip(self.stops, self.programs, strict=True)
        return sum(_most_done(stop) * of(program) for stop, program in counts if program is not None)


@dataclass(frozen=True)
class RouteUnit:
    """Players `first` to `first + players - 1` of a course."""

    course: Course
    seed: int
    first: int
    players: int

    def played(self, stop: Stop | None = None) -> RouteBags:
        """Depends on the fields alone. Raises Cancelled where the sign is given meanwhile."""
        return _played(self, stop or current_stop(), None, lambda: None, None)

    def traced(
        self, trace: FloatArray, at_stop: Callable[[], None], last: int, stop: Stop | None = None
    ) -> RouteBags:
        """The same with notes taken; `at_stop` is called after every stop. No stop is begun after the event
        `last`."""
        return _played(self, stop or current_stop(), trace, at_stop, last)


@dataclass(frozen=True)
class RouteBags(Bags):
    """What the players of a unit received, and how it went. p players, s stops.

    events, seconds (p,) in the end; events_at, seconds_at (s,) sums over the players, since the start.
    """

    events: IntArray = field(default_factory=_nobody)
    seconds: FloatArray = field(default_factory=_nobody)
    events_at: FloatArray = field(default_factory=_nobody)
    seconds_at: FloatArray = field(default_factory=_nobody)


def course_of(game: Game, route: Route) -> Course:
    """Raises TooLarge."""
    stops = stops_of(game, route)
    game = laid_out(game, stops).game
    _check(stops)
    done = [at for at, stop in enumerate(stops) if stop.view is not None]
    programs: list[Compiled | None] = [None] * len(stops)
    if done:
        kinds = {at: _kind(stops[at]) for at in done}
        first = {kind: at for at, kind in reversed(kinds.items())}
        conditions = {
            place: Conditions(game, [place[0]], place[1])
            for place in {(stops[at].depth, stops[at].flags) for at in done}
        }
        alone = sorted(first.values())
        made = compiled_along(
            [(conditions[stops[at].depth, stops[at].flags], stops[at].view) for at in alone],  # type: ignore[misc]
            [(stops[at].times, stops[at].encounters) for at in alone],
            Carry.of(route),
        )
        if sum(one.program.code.size + one.program.real.size for one in made) > MOST_PROGRAMS:
            raise TooLarge(f"{len(made):,} stops at which something else holds, of so many tables")
        by_stop = dict(zip(alone, made, strict=True))
        for at, kind in kinds.items():
            programs[at] = by_stop[first[kind]]
    return Course(stops, programs, _marked(len(stops)))


def _marked(stops: int) -> IntArray:
    """At most CHECKPOINTS of the stops, the last included."""
    ends = np.unique(np.linspace(0, stops, CHECKPOINTS + 1).round().astype(np.int64))
    return ends[ends > 0] - 1


def _kind(stop: RouteStop) -> tuple[object, ...]:
    """Stops of the same kind share a program."""
    return stop.depth, stop.flags, stop.view, stop.times, stop.encounters


def _most_done(stop: RouteStop) -> int:
    return stop.times.most * (stop.encounters.most if stop.doing == "visits" else 1)


def _check(stops: Sequence[RouteStop]) -> None:
    most = sum(_most_done(stop) for stop in stops if stop.view is not None)
    if most > MOST_EVENTS:
        raise TooLarge(f"a player could come to {most:,} events; the limit is {MOST_EVENTS:,}")


def _played(
    unit: RouteUnit, stop: Stop, trace: FloatArray | None, at_stop: Callable[[], None], last: int | None
) -> RouteBags:
    course, players = unit.course, unit.players
    program = course.any
    size = 1 if program is None else max(one.program.state_size for one in course.programs if one)
    states = np.zeros((players, size), dtype=np.int64)
    random, seconds, values = np.zeros(1, dtype=np.uint64), np.zeros(players), np.zeros(players)
    clock = 0 if program is None else int(program.program.code[S_CLOCK]) + AT_EVENTS
    events_at, seconds_at = np.zeros((2, len(course.stops)))
    fan = np.zeros((players, course.marks.size))
    kept_at = kept_marks(course.marks)
    keeping = Keeping.of(program, states, kept_at.size)
    mark = 0
    for at, (place, own) in enumerate(zip(course.stops, course.programs, strict=True)):
        if last is not None and program is not None and states[0, clock] >= last:
            break
        if own is not None:
            play_stop(
                (own.program.code, own.program.real),
                (states, random),
                (unit.first, players),
                own.root,
                unit.seed,
                (at, place.doing == "visits", *own.counts, place.between),
                seconds,
                values,
                stop.flag,
                room_to_keep(keeping, players, trace),
                trace,
            )
            if stop.is_set():
                raise Cancelled("the trial was cancelled")
        events_at[at] = states[:, clock].sum() if program is not None else 0
        seconds_at[at] = seconds.sum()
        if mark < course.marks.size and course.marks[mark] == at:
            fan[:, mark] = values
            mark += 1
        if keeping is not None:
            keeping.stop_done(at + 1)
            if course.ends_leg(at):
                keeping.leg_done(place.leg.sells, place.leg.stores)
            if at in kept_at:
                keeping.mark()
        at_stop()
    bags = _collected(course, states, values, fan, seconds, (events_at, seconds_at))
    return bags if keeping is None else replace(bags, kept=keeping.collected())


def _collected(
    course: Course,
    states: IntArray,
    values: FloatArray,
    fan: FloatArray,
    seconds: FloatArray,
    at_stops: tuple[FloatArray, FloatArray],
) -> RouteBags:
    players, items = states.shape[0], course.items.size
    counts = np.zeros((players, items), dtype=np.int64)
    first, drought = np.zeros((2, players, items), dtype=np.int64)
    events, receipts, same = np.zeros((3, players), dtype=np.int64)
    if course.any is not None:
        code = course.any.program.code
        clock = int(code[S_CLOCK])
        events, receipts, same = (states[:, clock + at].copy() for at in (AT_EVENTS, AT_RECEIPTS, AT_SAME))
        collect(states, int(code[S_COUNTS]), events, counts, first, drought)
    bags = (counts, first, drought, values, fan, receipts, same)
    return RouteBags(*bags, events=events, seconds=seconds, events_at=at_stops[0], seconds_at=at_stops[1])
