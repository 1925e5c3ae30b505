"""Mean and spread of what a player has received after every stop of a route."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from propcache.api import cached_property

from golddice.core.arrays import FloatArray, IntArray
from golddice.core.errors import TooLarge
from golddice.core.game.models import Drop, Game, Route
from golddice.core.odds.carried.axes import Key
from golddice.core.odds.carried.effort import Carried
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.odds.event.outcome import Outcome
from golddice.core.odds.route.counts import count_at
from golddice.core.odds.route.course import Course, Doing, What
from golddice.core.odds.route.prices import check_prices
from golddice.core.odds.route.visits import met_on, with_marks
from golddice.core.sharing import sharing
from golddice.core.stopping import go_on
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.marks import mark_item
from golddice.core.terms.places.laid import laid_out
from golddice.core.terms.stops import Stop, stops_of


@dataclass(frozen=True)
class AtStop:
    """Since the start of the route. `mean` and `var` are by item, then by tier."""

    stop: Stop
    events: float
    seconds: float
    mean: FloatArray
    var: FloatArray
    value_mean: float
    value_var: float


@dataclass(frozen=True)
class _Done:
    """What is done at a stop, apart from what it has nothing to do with: `keys` are what it rests on."""

    stop: int
    keys: frozenset[Key]
    doing: Doing


class Expectation:
    """Along a route of a game. Every answer raises TooLarge where it cannot be told exactly."""

    def __init__(self, game: Game, route: Route) -> None:
        self.game, self.route = game, route
        self.stops = stops_of(game, route)
        laid = laid_out(game, self.stops)
        self._rough, self._laid = laid.rough, laid.game
        self._counted = with_marks(self._laid, self.stops)
        places = list(dict.fromkeys((stop.depth, stop.flags) for stop in self.stops))
        self._row = {place: at for at, place in enumerate(places)}
        self._rows = [
            Evaluator(Conditions(self._counted, [depth], flags), detail=False) for depth, flags in places
        ]
        depths, flags_at = [depth for depth, _ in places], [flags for _, flags in places]
        self._joint = Conditions(self._counted, depths or [game.depth.from_], (), flags_at or None)

    def told(self) -> list[AtStop]:
        """After every stop."""
        if self._rough:
            raise TooLarge(f"{self._rough[0]} can be set out in too many ways")
        check_prices(self._laid, self.route, self.stops)
        kinds = len(self._counted.items) + len(self._counted.tiers) + 1
        means, variances = np.zeros((2, len(self.stops), kinds))
        for keys, dones in _courses(self._dones):
            if not keys:
                for done in dones:
                    mean, var = self._compound(done.doing, kinds)
                    means[done.stop :] += mean
                    variances[done.stop :] += var
                continue
            columns = self._columns_of(dones)
            doings: list[Doing | None] = [None] * len(self.stops)
            for done in dones:
                doings[done.stop] = done.doing
            course = Course(self._rows, self._joint, keys, doings, columns)
            places = np.append(columns, kinds - 1)
            for at, (mean, var) in enumerate(course.followed()):
                means[at, places] += mean
                variances[at, places] += var
        return list(self._at_stops(means, np.maximum(variances, 0.0)))

    def none_after(self, runs: Sequence[int]) -> FloatArray:
        """The chance to have had none of each item after the whole route, so many times in a row, what is
        carried going on from run to run. `runs` rising, shape (r,); gives (r, items)."""
        if self._rough:
            raise TooLarge(f"{self._rough[0]} can be set out in too many ways")
        check_prices(self._laid, self.route, self.stops)
        items = len(self.game.items)
        times = np.array(runs)[:, None]
        none = np.ones((len(runs), items))
        for keys, dones in _courses(self._dones):
            if not keys:
                for done in dones:
                    none *= self._none_of(done.doing, items) ** times
                continue
            columns = self._columns_of(dones)
            doings: list[Doing | None] = [None] * len(self.stops)
            for done in dones:
                doings[done.stop] = done.doing
            course = Course(self._rows, self._joint, keys, doings, columns)
            for column in columns[columns < items].tolist():
                none[:, column] *= course.none_after(column, runs)
        return none

    def _none_of(self, doing: Doing, items: int) -> FloatArray:
        """The chance that what carries nothing gives none of each item, by its law of how often."""
        outcome, count = self._outcome(doing), doing.count
        mine = outcome.columns < items
        none = np.ones(items)
        once = 1.0 - outcome.hit[0, mine]
        none[outcome.columns[mine]] = once[:, None] ** count.values @ count.chances
        return none

    def _at_stops(self, means: FloatArray, variances: FloatArray) -> Iterator[AtStop]:
        items, tiers = len(self.game.items), len(self.game.tiers)
        wanted = np.concatenate([np.arange(items), len(self._counted.items) + np.arange(tiers)])
        index = {item.id: at for at, item in enumerate(self._counted.items)}
        met = [(source, index[mark_item(source.id).id]) for source in met_on(self._laid, self.stops)]
        events = seconds = 0.0
        for at, stop in enumerate(self.stops):
            count = count_at(self._rows[self._row[stop.depth, stop.flags]].under, stop)
            if stop.doing == "events":
                assert stop.view is not None
                events += count.mean
                seconds += count.mean * self._joint.source(stop.view.id).seconds
            elif stop.doing == "visits":
                seconds += count.mean * stop.between
            by_visit = [(source, float(means[at, mark])) for source, mark in met]
            yield AtStop(
                stop,
                events + sum(many for _, many in by_visit),
                seconds + sum(many * source.seconds for source, many in by_visit),
                means[at, wanted],
                variances[at, wanted],
                float(means[at, -1]),
                float(variances[at, -1]),
            )

    def _compound(self, doing: Doing, kinds: int) -> tuple[FloatArray, FloatArray]:
        """Of what carries nothing: a sum of so many alike. By column, value last."""
        outcome, count = self._outcome(doing), doing.count
        mean, var = np.zeros(kinds), np.zeros(kinds)
        at = outcome.columns[outcome.columns < kinds - 1]
        places = np.flatnonzero(outcome.columns < kinds - 1)
        mean[at], var[at] = outcome.mean[0, places], outcome.var[0, places]
        mean[-1], var[-1] = outcome.value_mean[0], outcome.value_var[0]
        return count.mean * mean, count.mean * var + count.var * mean**2

    def _outcome(self, doing: Doing) -> Outcome:
        evaluator = self._rows[doing.row]
        if isinstance(doing.what, tuple):
            source, drops = doing.what
            return evaluator.tried(source, drops)
        return evaluator.table(doing.what.id)

    def _columns_of(self, dones: Sequence[_Done]) -> IntArray:
        """Items and tiers that the doings can give, at any of their depths."""
        found: set[int] = set()
        most = len(self._counted.items) + len(self._counted.tiers)
        for done in dones:
            found.update(int(one) for one in self._outcome(done.doing).columns if one < most)
        return np.array(sorted(found), dtype=np.int64)

    # --- what is done where ----------------------------------------------------------------------------

    @cached_property
    def _dones(self) -> list[_Done]:
        carried = Carried(self._joint)
        found: list[_Done] = []
        for at, stop in enumerate(self.stops):
            go_on()
            if stop.doing != "nothing":
                found += self._done_at(at, stop, carried)
        return found

    def _done_at(self, at: int, stop: Stop, carried: Carried) -> Iterator[_Done]:
        """Drops that share nothing are done apart, where how often is no chance that they would share."""
        row = self._row[stop.depth, stop.flags]
        under = self._rows[row].under
        count = count_at(under, stop)
        assert stop.view is not None
        if stop.view.kind == "table":
            table = self._joint.table(stop.view.id)
            yield _Done(at, frozenset(carried.keys(stop.view)), Doing(row, table, count))
            return
        source = self._joint.source(stop.view.id)
        drops = [drop for drop in source.drops if bool(under.drop_open(drop)[0])]
        groups = [(frozenset(carried.of_drop(source, drop)), [drop]) for drop in drops]
        if count.values.size > 1 and any(keys for keys, _ in groups):
            groups = [(frozenset().union(*(keys for keys, _ in groups)), drops)]
        for keys, ours in groups:
            yield _Done(at, keys, Doing(row, (source, ours), count))


def _courses(dones: Sequence[_Done]) -> Iterator[tuple[list[Key], list[_Done]]]:
    """What shares anything that is carried, together; of one stop and course, as one doing."""
    plain = [done for done in dones if not done.keys]
    if plain:
        yield [], list(_merged(plain))  # drops share how often their source is met
    for keys, ours in sharing((done.keys, done) for done in dones if done.keys):
        yield sorted(keys), list(_merged(ours))


def _merged(dones: Sequence[_Done]) -> Iterator[_Done]:
    by_stop: dict[int, list[_Done]] = {}
    for done in dones:
        by_stop.setdefault(done.stop, []).append(done)
    for at, ours in sorted(by_stop.items()):
        first = ours[0]
        what: What = first.doing.what
        if isinstance(what, tuple):
            source = what[0]
            chosen = {drop.id for done in ours for drop in _drops(done.doing.what)}
            what = (source, [drop for drop in source.drops if drop.id in chosen])
        yield _Done(at, first.keys, Doing(first.doing.row, what, first.doing.count))


def _drops(what: What) -> Sequence[Drop]:
    return what[1] if isinstance(what, tuple) else ()
