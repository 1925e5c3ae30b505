"""Players followed from stop to stop through the states of what they carry.

Forward: the chance of each state, with the first moment of what came so far in each, about its mean; the
variance grows by what each event adds. A number of events that is drawn mixes players who did fewer with
players who did more.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import partial

import numpy as np

from golddice.core.arrays import FloatArray, IntArray
from golddice.core.errors import TooLarge
from golddice.core.game.models import Drop, Source, Table
from golddice.core.odds.carried.axes import Key
from golddice.core.odds.carried.chain import Moves
from golddice.core.odds.carried.effort import Carried
from golddice.core.odds.carried.folds import Bundle, Fold, NoneMatrix
from golddice.core.odds.carried.space import Space, space_of
from golddice.core.odds.carried.walk import Walk
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.odds.route.counts import Count
from golddice.core.odds.route.following import follow_event
from golddice.core.stopping import go_on
from golddice.core.terms.conditions import Conditions

MOST_FOLLOWED = 2_000  # states
MOST_STEPS = 6_000_000_000  # of about a nanosecond
_CHUNK = 2_000_000  # cells of matrices that are held at a time
_BEYOND = 1e-10  # of the rarest figure may lie beyond the last state

What = Table | tuple[Source, Sequence[Drop]]


@dataclass(frozen=True)
class Doing:
    """At one stop: so many times some drops of a source, or a table, under the conditions of a row."""

    row: int
    what: What
    count: Count


@dataclass(frozen=True)
class Player:
    """Where a player can be after some stops: here (s,) the chance of each state, first (s, k) the first
    moment of what came, about its mean; mean and var (k,)."""

    here: FloatArray
    first: FloatArray
    mean: FloatArray
    var: FloatArray


class Course:
    """The doings of a route that share what is carried, one for each stop or None, in a space of all they can
    come to. `rows` are the conditions, each of one depth; `joint` those of all rows together."""

    def __init__(
        self,
        rows: Sequence[Evaluator],
        joint: Conditions,
        keys: Sequence[Key],
        doings: Sequence[Doing | None],
        columns: IntArray,
    ) -> None:
        self._rows, self._joint, self._keys = rows, joint, keys
        self._doings, self.columns = doings, columns

    def followed(self) -> list[tuple[FloatArray, FloatArray]]:
        """Mean and variance after each stop, of the columns and of value last. Raises TooLarge."""
        stretch: dict[tuple[Key, int], int] = {}
        while True:
            space = space_of(self._keys, self._joint, stretch)
            found, beyond = self._through(space)
            if not beyond:
                return found
            for edge in beyond:
                stretch[edge] = 2 * stretch.get(edge, 1)

    def _through(self, space: Space) -> tuple[list[tuple[FloatArray, FloatArray]], list[tuple[Key, int]]]:
        """The same in one space; and the cut axes that players come to the end of too often."""
        if space.size > MOST_FOLLOWED:
            raise TooLarge(f"{space.size:,} states along the route; exact up to {MOST_FOLLOWED:,}")
        moves = _MovesAt(self._rows, space, self.columns)
        self._check(moves)
        edges = space.edges()
        highest = dict.fromkeys(edges, 0.0)
        kinds = self.columns.size + 1
        start = np.zeros(space.size)
        start[0] = 1.0
        player = Player(start, np.zeros((space.size, kinds)), np.zeros(kinds), np.zeros(kinds))
        found = []

        def seen(here: FloatArray) -> None:
            for edge, states in edges.items():
                highest[edge] = max(highest[edge], float(here[states].sum()))

        for doing in self._doings:
            if doing is not None:
                player = _done(player, moves.of(doing), doing.count, seen)
            found.append((player.mean, player.var))
        rarest = float(player.mean[player.mean > 0].min(initial=1.0))
        return found, [edge for edge, likely in highest.items() if likely > _BEYOND * min(rarest, 1.0)]

    def none_after(self, column: int, runs: Sequence[int]) -> list[float]:
        """The chance to have had none of a column after so many times of all stops, one after another; `runs`
        rising. Raises TooLarge."""
        stretch: dict[tuple[Key, int], int] = {}
        while True:
            space = space_of(self._keys, self._joint, stretch)
            found, beyond = self._none_through(space, column, runs)
            if not beyond:
                return found
            for edge in beyond:
                stretch[edge] = 2 * stretch.get(edge, 1)

    def _none_through(
        self, space: Space, column: int, runs: Sequence[int]
    ) -> tuple[list[float], list[tuple[Key, int]]]:
        """As `_through`, of players who have had none."""
        if space.size > MOST_FOLLOWED:
            raise TooLarge(f"{space.size:,} states along the route; exact up to {MOST_FOLLOWED:,}")
        events = runs[-1] * sum(doing.count.most for doing in self._doings if doing is not None)
        if events * space.size**2 > MOST_STEPS // 4:
            raise TooLarge(f"{events:,} events of players in {space.size:,} states")
        walks, edges = _Walks(self._rows, space), space.edges()
        highest = dict.fromkeys(edges, 0.0)
        known: dict[tuple[object, ...], FloatArray] = {}
        here = np.zeros(space.size)
        here[0] = 1.0
        found: list[float] = []
        for run in range(1, runs[-1] + 1):
            for doing in self._doings:
                if doing is None:
                    continue
                key = (doing.row, *_ids(doing.what))
                if key not in known:
                    known[key] = walks.through(doing, NoneMatrix(column, space.size))[0]
                here = _still_none(here, known[key], doing.count)
                for edge, states in edges.items():
                    highest[edge] = max(highest[edge], float(here[states].sum()))
            if run in runs:
                found.append(float(here.sum()))
        return found, [edge for edge, likely in highest.items() if likely > _BEYOND]

    def _check(self, moves: _MovesAt) -> None:
        """Raise TooLarge where following would take longer than the bound."""
        events = sum(doing.count.most for doing in self._doings if doing is not None)
        kinds = self.columns.size + 1
        dense = moves.space.size * min(moves.space.size, 64)  # seldom more ways on than that
        if events * dense * kinds > MOST_STEPS:
            raise TooLarge(f"{events:,} events of players in {moves.space.size:,} states")


class _Walks:
    """Walks through what is done at a stop, from every state of a space."""

    def __init__(self, rows: Sequence[Evaluator], space: Space) -> None:
        self._rows, self._space = rows, space

    def through(self, doing: Doing, fold: Fold) -> Bundle:
        go_on()
        carried, size = self.carried(doing), self._space.size
        carried.check(carried.effort(doing.what), size, fold.width)
        walk = Walk(self._rows[doing.row], carried, self._space, doing.row)
        return _event(walk, doing.what, fold, fold.end(size))

    def carried(self, doing: Doing) -> Carried:
        return Carried(self._rows[doing.row].under)


class _MovesAt:
    """What an event does from every state, by what is done and under which conditions."""

    def __init__(self, rows: Sequence[Evaluator], space: Space, columns: IntArray) -> None:
        self.space, self._columns = space, columns
        self._walks = _Walks(rows, space)
        self._known: dict[tuple[object, ...], Moves] = {}

    def of(self, doing: Doing) -> Moves:
        what = doing.what
        key = (doing.row, *(_ids(what)))
        if key not in self._known:
            go_on()
            self._known[key] = self._new(doing)
        return self._known[key]

    def _new(self, doing: Doing) -> Moves:
        size, carried = self.space.size, self._walks.carried(doing)
        effort = carried.effort(doing.what)
        at_a_time = max(1, min(_CHUNK // (size * size), carried.at_a_time(effort, size, size) - 2))
        parts = [
            Moves.walked(partial(self._walks.through, doing), chunk, size)
            for chunk in np.array_split(self._columns, max(1, -(-self._columns.size // at_a_time)))
        ]
        return _beside(parts)


def _ids(what: What) -> tuple[object, ...]:
    if isinstance(what, tuple):
        return ("source", what[0].id, *(drop.id for drop in what[1]))
    return ("table", what.id)


def _event(walk: Walk, what: What, fold: Fold, bundle: Bundle) -> Bundle:
    if isinstance(what, tuple):
        return walk.parts(what[0], what[1], fold, bundle)
    return walk.table(what, fold, bundle)


def _beside(parts: Sequence[Moves]) -> Moves:
    """The same moves with the columns of all parts; value last, once."""
    if len(parts) == 1:
        return parts[0]
    joined = {
        name: np.concatenate(
            [*(getattr(part, name)[..., :-1] for part in parts), getattr(parts[0], name)[..., -1:]], axis=-1
        )
        for name in ("means", "mean", "spread", "base")
    }
    return replace(parts[0], **joined)


def _done(player: Player, moves: Moves, count: Count, seen: Callable[[FloatArray], None]) -> Player:
    """After so many events more."""
    weights = dict(zip(count.values.tolist(), count.chances.tolist(), strict=True))
    mixed: list[tuple[float, Player]] = []
    for done in range(count.most + 1):
        if weights.get(done, 0.0) > 0:
            mixed.append((weights[done], player))
        if done < count.most:
            player = _after_one(player, moves)
            seen(player.here)
            if done & 63 == 0:
                go_on()
    return _mixture(mixed)


def _still_none(here: FloatArray, none: FloatArray, count: Count) -> FloatArray:
    """Players who had none, in these states, after so many events more that gave none, (s, s)."""
    weights = dict(zip(count.values.tolist(), count.chances.tolist(), strict=True))
    mixed = np.zeros_like(here)
    for done in range(count.most + 1):
        mixed += weights.get(done, 0.0) * here
        if done < count.most:
            here = here @ none
            if done & 63 == 0:
                go_on()
    return mixed


def _after_one(player: Player, moves: Moves) -> Player:
    here, first, gain, more = follow_event(
        moves.starts,
        moves.ends,
        moves.chances,
        np.ascontiguousarray(moves.means),
        np.ascontiguousarray(moves.mean),
        np.ascontiguousarray(moves.spread),
        player.here,
        player.first,
    )
    return Player(here, first, player.mean + gain + moves.base, player.var + more)


def _mixture(parts: Sequence[tuple[float, Player]]) -> Player:
    """Players who did differently often, told about the mean of all."""
    if len(parts) == 1:
        return parts[0][1]
    mean = np.sum([weight * one.mean for weight, one in parts], axis=0)
    here = np.sum([weight * one.here for weight, one in parts], axis=0)
    first = np.zeros_like(parts[0][1].first)
    var = np.zeros_like(mean)
    for weight, one in parts:
        off = one.mean - mean
        first += weight * (one.first + one.here[:, None] * off)
        var += weight * (one.var + off * off)
    return Player(here, first, mean, var)
