"""Exact odds for players who carry something: guards, limits and decks.

An event is worked through backwards. Let f(s) be some expectation over what is yet to come for a
player in state s; then a roll before it turns f into sum_b p_b(s) Y_b f(s_b), over the branches b of
the roll, where Y_b folds in what the line gives. `f` is a bundle of arrays over all states, and what
"folding in" means depends on what is asked: a chance of none multiplies, a mean adds, a generating
function multiplies by another. What carries nothing is folded in whole, as its `Outcome`.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from golddice.core.arrays import BoolArray, FloatArray, IntArray
from golddice.core.errors import TooLarge
from golddice.core.game.links import links_of
from golddice.core.game.models import Drop, Line, Source, Table, Yield
from golddice.core.odds.carried.chaining import gather_into
from golddice.core.odds.carried.folds import AllOf, Bundle, Fold, Given, OneOf, marking, with_flows
from golddice.core.odds.carried.states import Branch, Rolls, Space, drop_axes, is_due, table_axes
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.odds.event.outcome import Outcome, Parts, independent, mixture
from golddice.core.odds.terms.axis import Axis
from golddice.core.odds.terms.law import Law

MOST_REPEATS = 2_000
MOST_SETS = 4_096
_SHARE_TIE = 1e-14
Tried = tuple[FloatArray | None, IntArray, IntArray]


def is_stateful(evaluator: Evaluator, kind: str, name: str) -> bool:
    """Whether what is reached from here rests on what a player carries."""
    return bool(axes_of(evaluator, kind, name))


def axes_of(evaluator: Evaluator, kind: str, name: str) -> dict[tuple[str, ...], Axis]:
    """Everything a player carries for what can be reached from a table or source, by key."""
    under = evaluator.under
    part: Table | Source = under.source(name) if kind == "source" else under.table(name)
    known = evaluator.reached_axes
    if (kind, name) not in known:
        found: dict[tuple[str, ...], Axis] = {}
        if isinstance(part, Source):
            for drop in part.drops:
                if bool(under.drop_open(drop)[0]):
                    found.update({axis.key: axis for axis in drop_axes(name, drop, under)})
                    found.update(axes_of(evaluator, "table", drop.table))
        else:
            found.update({axis.key: axis for axis in table_axes(part, under)})
            for link in under.remembered("links", part, lambda: links_of(part)):
                found.update(axes_of(evaluator, *link))
        known[kind, name] = found
    return known[kind, name]


@dataclass(frozen=True)
class Arm:
    """Branches of a roll after which the player is the same, and whose shares are the same in every
    state that they matter in: together they give one mixture.

    chance : ndarray, shape (s,)
    ends : ndarray of int, shape (m,); the states that they lead to.
    place : ndarray of int, shape (s,); which of `ends` follows on each state.
    """

    chance: FloatArray
    ends: IntArray
    place: IntArray
    given: Given


class Walk:
    """Walks an event of a table, a source or some of its drops backwards over a space."""

    def __init__(self, evaluator: Evaluator, space: Space) -> None:
        self.evaluator, self.under, self.space = evaluator, evaluator.under, space
        self._rolls: dict[str, Rolls] = {}
        self._branches: dict[tuple[str, frozenset[int]], list[Branch]] = {}
        self._each_parts: dict[str, tuple[list[int], Given]] = {}
        self._arms: dict[str, tuple[list[Arm], list[Branch]]] = {}
        self._stateful: dict[tuple[str, str], bool] = {}
        self._tries: dict[tuple[str, ...], Tried] = {}
        self._givens: dict[tuple[object, ...], Given] = {}

    def source(self, source: Source, drops: Sequence[Drop], fold: Fold, bundle: Bundle) -> Bundle:
        """Some drops of one event of a source, in order."""
        for drop in reversed(drops):
            bundle = self._drop(source, drop, fold, bundle, ())
        return bundle

    def table(self, table: Table, fold: Fold, bundle: Bundle, flows: tuple[int, ...] = ()) -> Bundle:
        """One execution of a table: all its rolls."""
        if not self._carries("table", table.id):
            given = self._given(("table", table.id), flows, lambda: self.evaluator.table(table.id), table)
            return fold.fold(bundle, given)
        law = self.under.law(table.rolls)
        if table.rule == "pick" and table.distinct and law.most > 1:
            return self._distinct(table, fold, bundle, law, flows)
        return self._repeated(law, lambda then: self._roll(table, fold, then, flows), bundle)

    def _carries(self, kind: str, name: str) -> bool:
        if (kind, name) not in self._stateful:
            self._stateful[kind, name] = is_stateful(self.evaluator, kind, name)
        return self._stateful[kind, name]

    def _drop(self, source: Source, drop: Drop, fold: Fold, bundle: Bundle, flows: tuple[int, ...]) -> Bundle:
        key = ("drop", source.id, drop.id)
        chance, hit, miss = self._tried(drop, key)
        if chance is None:
            return bundle
        if not self.space.has(key) and not self._carries("table", drop.table):
            given = self._given(key, flows, lambda: self.evaluator.drop(source, drop), drop)
            return fold.fold(bundle, given)
        inner, then = flows, bundle
        if self.evaluator.detail:
            column = self.evaluator.columns.drop_hits(source.id, drop.id)
            inner = (*flows, column + 1)
            then = fold.fold(bundle, self._mark(column))
        table = self.under.tables[drop.table]
        body = self._repeated(
            self.under.law(drop.times), lambda after: self.table(table, fold, after, inner), then
        )
        return _mixed([(chance, body, hit), (1.0 - chance, bundle, miss)])

    def _tried(self, drop: Drop, key: tuple[str, ...]) -> Tried:
        """A drop's chance by state (None where it is closed), and the states after a hit and a miss."""
        if key not in self._tries:
            self._tries[key] = self._new_try(drop, key)
        return self._tries[key]

    def _new_try(self, drop: Drop, key: tuple[str, ...]) -> Tried:
        every = self.space.every
        if not bool(self.under.drop_open(drop)[0]):
            return None, every, every
        chance = np.full(self.space.size, float(self.under.drop_chance(drop)[0]))
        if not self.space.has(key):
            return chance, every, every
        assert drop.guard is not None
        misses = self.space.at(key)
        chance = np.minimum(1.0, chance + drop.guard.rise * np.maximum(0, misses - drop.guard.after))
        chance = np.where(is_due(drop.guard, misses, self.space.size), 1.0, chance)
        hit = self.space.moved(every, key, np.zeros_like(every))
        return chance, hit, self.space.moved(every, key, misses + 1)

    def _repeated(self, law: Law, once: Callable[[Bundle], Bundle], bundle: Bundle) -> Bundle:
        """`once` so many times: the mixture over the law of its powers."""
        if law.is_one:
            return once(bundle)
        if law.most > MOST_REPEATS:
            raise TooLarge(f"{law.most:,} repeats of something with state; exact up to {MOST_REPEATS:,}")
        values, chances = law.row(0)
        weight = {int(value): float(chance) for value, chance in zip(values, chances, strict=True)}
        parts, then = [], bundle
        for count in range(law.most + 1):
            if weight.get(count, 0.0) > 0:
                parts.append((weight[count], then))
            if count < law.most:
                then = once(then)
        return _weighted(parts)

    def _roll(self, table: Table, fold: Fold, bundle: Bundle, flows: tuple[int, ...]) -> Bundle:
        """One roll of a table that carries something, or leads to what does."""
        if table.rule == "each":
            return self._each(table, fold, bundle, flows)
        arms, rest = self._gathered(table)
        parts = []
        for arm in arms:
            ended = tuple(array[arm.ends] for array in bundle)
            parts.append((arm.chance, fold.fold(ended, self._flowing(arm.given, flows)), arm.place))
        for branch in rest:
            after = bundle if branch.line is None else self._line(table, branch.line, fold, bundle, flows)
            parts.append((branch.chance, after, branch.after))
        return _mixed(parts)

    def _each(self, table: Table, fold: Fold, bundle: Bundle, flows: tuple[int, ...]) -> Bundle:
        """Each line on a chance of its own; those that carry nothing are folded in all at once."""
        held, free = self._parted(table)
        for at in reversed(held):
            chance, hit, miss = self._test(table, at)
            if chance is not None:
                given = self._line(table, at, fold, bundle, flows)
                bundle = _mixed([(chance, given, hit), (1.0 - chance, bundle, miss)])
            elif miss is not self.space.every:
                bundle = tuple(array[miss] for array in bundle)
        return fold.fold(bundle, self._flowing(free, flows))

    def _parted(self, table: Table) -> tuple[list[int], Given]:
        """The lines of `each` to which it matters what a player carries, and all others as one."""
        if table.id not in self._each_parts:
            every = range(len(table.lines))
            held = [at for at in every if self._is_held(table, at)]
            chances = self.under.chances(table) * ~np.isin(every, held)[:, None]
            free = [at for at in every if chances[at, 0] > 0]
            outcomes = [self.evaluator.line(table, table.lines[at]) for at in free]
            outcome = independent(chances[free], Parts.of(outcomes, 1))
            self._each_parts[table.id] = (held, Given(outcome, AllOf(table, chances[:, 0])))
        return self._each_parts[table.id]

    def _is_held(self, table: Table, at: int) -> bool:
        line = table.lines[at]
        keys = (("guard", table.id, line.id), ("limit", table.id, line.id))
        return any(map(self.space.has, keys)) or any(self._carries(*link) for link in links_of(line))

    def _one_of(
        self,
        table: Table,
        branches: list[Branch],
        fold: Fold,
        then: Callable[[int | None], Bundle],
        flows: tuple[int, ...],
    ) -> Bundle:
        parts = []
        for branch in branches:
            after = then(branch.line)
            if branch.line is not None:
                after = self._line(table, branch.line, fold, after, flows)
            parts.append((branch.chance, after, branch.after))
        return _mixed(parts)

    def _distinct(self, table: Table, fold: Fold, bundle: Bundle, law: Law, flows: tuple[int, ...]) -> Bundle:
        """Rolls without replacement: by how many rolls are left and which lines are out."""
        sets = sum(math.comb(len(table.lines), out) for out in range(min(law.most, len(table.lines) + 1)))
        if sets > MOST_SETS:
            raise TooLarge(
                f"“{table.id}” picks distinct lines, {sets:,} sets of them, with what players carry; "
                f"exact up to {MOST_SETS:,}"
            )
        kept: dict[tuple[int, frozenset[int]], Bundle] = {}

        def left(rolls: int, taken: frozenset[int]) -> Bundle:
            if rolls == 0:
                return bundle
            if (rolls, taken) not in kept:
                kept[rolls, taken] = self._one_of(
                    table,
                    self._exclusive(table, taken),
                    fold,
                    lambda line: left(rolls - 1, taken if line is None else taken | {line}),
                    flows,
                )
            return kept[rolls, taken]

        values, chances = law.row(0)
        parts = [(float(p), left(int(rolls), frozenset())) for rolls, p in zip(values, chances, strict=True)]
        return _weighted([part for part in parts if part[0] > 0])

    def _line(self, table: Table, at: int, fold: Fold, bundle: Bundle, flows: tuple[int, ...]) -> Bundle:
        """What a line gives when it hits."""
        line: Line = table.lines[at]
        if not any(self._carries(*link) for link in links_of(line)):
            key = ("line", table.id, at)
            given = self._given(key, flows, lambda: self.evaluator.line(table, line), line)
            return fold.fold(bundle, given)
        if self.evaluator.detail:
            column = self.evaluator.columns.line_hits(table.id, line.id)
            flows = (*flows, column + 1)
            bundle = fold.fold(bundle, self._mark(column))
        for given_yield in reversed(line.yields):
            bundle = self._yielded(given_yield, fold, bundle, flows)
        return bundle

    def _yielded(self, given: Yield, fold: Fold, bundle: Bundle, flows: tuple[int, ...]) -> Bundle:
        law = self.under.law(given.quantity)
        if given.table is not None and self._carries("table", given.table):
            table = self.under.tables[given.table]
            return self._repeated(law, lambda then: self.table(table, fold, then, flows), bundle)
        if given.source is not None and self._carries("source", given.source):
            source = self.under.sources[given.source]

            def event(then: Bundle) -> Bundle:
                for drop in reversed(source.drops):
                    then = self._drop(source, drop, fold, then, flows)
                return then

            return self._repeated(law, event, bundle)
        key = ("yield", id(given))
        return fold.fold(bundle, self._given(key, flows, lambda: self.evaluator.given(given), given))

    def _given(
        self,
        key: tuple[object, ...],
        flows: tuple[int, ...],
        outcome: Callable[[], Outcome],
        what: Yield | Drop | Line | Table,
    ) -> Given:
        """The same object whenever the same is given, so that folds can know it again."""
        if key not in self._givens:
            self._givens[key] = Given(outcome(), what)
        return self._flowing(self._givens[key], flows)

    def _flowing(self, given: Given, flows: tuple[int, ...]) -> Given:
        """The same, with its value noted as carried by the lines and drops that it came through."""
        if not flows:
            return given
        key = (id(given), *flows)
        if key not in self._givens:
            self._givens[key] = with_flows(given, flows)
        return self._givens[key]

    def _mark(self, column: int) -> Given:
        """Nothing but the note that a line or drop hit."""
        key = ("mark", column)
        if key not in self._givens:
            self._givens[key] = marking(column)
        return self._givens[key]

    def _gathered(self, table: Table) -> tuple[list[Arm], list[Branch]]:
        """One roll's branches put together to arms, and those that lead to more of what is carried."""
        if table.id not in self._arms:
            rest, alike = [], defaultdict(list)
            for branch in self._exclusive(table, frozenset()):
                line = None if branch.line is None else table.lines[branch.line]
                if line is not None and any(self._carries(*link) for link in links_of(line)):
                    rest.append(branch)
                else:
                    alike[branch.after.tobytes()].append(branch)
            arms = [arm for branches in alike.values() for arm in self._arms_of(table, branches)]
            self._arms[table.id] = (arms, rest)
        return self._arms[table.id]

    def _arms_of(self, table: Table, branches: list[Branch]) -> Iterator[Arm]:
        """States fall into classes in which the branches' shares are the same; an arm for each."""
        chances = np.stack([branch.chance for branch in branches])
        whole = chances.sum(axis=0)
        shares = np.divide(chances, whole, out=np.zeros_like(chances), where=whole > 0)
        for states in _alike(shares, whole > 0):
            among = [(branch.line, float(shares[n, states[0]])) for n, branch in enumerate(branches)]
            chance = np.zeros_like(whole)
            chance[states] = whole[states]
            yield _arm(chance, branches[0].after, self._mixture(table, among))

    def _mixture(self, table: Table, among: list[tuple[int | None, float]]) -> Given:
        """One of these lines, or nothing, with shares that sum to 1."""
        shares, blank = np.zeros(len(table.lines)), 0.0
        for line, share in among:
            if line is None:
                blank = share
            else:
                shares[line] = share
        key = (table.id, shares.tobytes(), blank)
        known = self.evaluator.mixtures
        if key not in known:
            held = np.flatnonzero(shares > 0)
            outcomes = [self.evaluator.line(table, table.lines[at]) for at in held]
            known[key] = mixture(shares[held, None], Parts.of(outcomes, 1), np.array([blank]))
        return Given(known[key], OneOf(table, shares, blank))

    def _test(self, table: Table, at: int) -> Tried:
        """A line's own chance by state (None where it is 0), and the states after a hit and a miss."""
        key = ("line", table.id, str(at))
        if key not in self._tries:
            chance, hit, miss = self._of(table).tested(at)
            stays = bool(np.all(miss == self.space.every))
            tried = chance if np.any(chance > 0) else None
            self._tries[key] = (tried, hit, self.space.every if stays else miss)
        return self._tries[key]

    def _of(self, table: Table) -> Rolls:
        if table.id not in self._rolls:
            self._rolls[table.id] = Rolls(table, self.under, self.space)
        return self._rolls[table.id]

    def _exclusive(self, table: Table, taken: frozenset[int]) -> list[Branch]:
        if (table.id, taken) not in self._branches:
            self._branches[table.id, taken] = self._of(table).exclusive(taken)
        return self._branches[table.id, taken]


def _mixed(parts: Sequence[tuple[FloatArray, Bundle, IntArray]]) -> Bundle:
    """sum over (chance, bundle, state after): chance(s) * bundle(after(s))."""
    arrays = []
    for n, like in enumerate(parts[0][1]):
        result = np.zeros((parts[0][0].size, like.shape[1]), dtype=like.dtype)
        for chance, bundle, after in parts:
            gather_into(result, chance, after, np.ascontiguousarray(bundle[n]))
        arrays.append(result)
    return tuple(arrays)


def _weighted(parts: Sequence[tuple[float, Bundle]]) -> Bundle:
    return tuple(
        np.asarray(sum(weight * bundle[n] for weight, bundle in parts)) for n in range(len(parts[0][1]))
    )


def _alike(shares: FloatArray, counts: BoolArray) -> Iterator[IntArray]:
    """The states that count, in classes of the same shares; shares (n, s), counts (s,)."""
    states = np.flatnonzero(counts)
    if not states.size:
        return
    among = shares[:, states]
    if np.abs(among - among[:, :1]).max() < _SHARE_TIE:  # the usual case, told quickly
        yield states
        return
    _, which = np.unique(np.round(among / _SHARE_TIE), axis=1, return_inverse=True)
    for at in range(int(which.max()) + 1):
        yield states[which.ravel() == at]


def _arm(chance: FloatArray, after: IntArray, given: Given) -> Arm:
    ends, place = np.unique(np.where(chance > 0, after, after[np.argmax(chance)]), return_inverse=True)
    return Arm(chance, ends, place.ravel(), given)
