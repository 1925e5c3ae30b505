"""Exact odds for players who carry something: guards, limits and decks.

An event is worked through backwards. Let f(s) be some expectation over what is yet to come for a
player in state s; then a roll before it turns f into sum_b p_b(s) Y_b f(s_b), over the branches b of
the roll, where Y_b folds in what the line gives. `f` is a bundle of arrays over all states, and what
"folding in" means depends on what is asked (`folds`). What carries nothing is folded in whole, as its
`Outcome`.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from golddice.core.arrays import BoolArray, FloatArray, IntArray
from golddice.core.game.links import links_of
from golddice.core.game.models import Drop, Line, Source, Table, Yield
from golddice.core.game.views import View
from golddice.core.odds.carried.axes import Reach
from golddice.core.odds.carried.distinct import Rolling
from golddice.core.odds.carried.effort import Carried
from golddice.core.odds.carried.folds import (
    AllOf,
    Bundle,
    Fold,
    Given,
    OneOf,
    Way,
    marking,
    with_flows,
)
from golddice.core.odds.carried.parts import LineOf, Part
from golddice.core.odds.carried.pockets import Branch, Exclusive, exclusive
from golddice.core.odds.carried.space import Space
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.odds.event.outcome import Outcome, Parts, independent, mixture
from golddice.core.stopping import go_on
from golddice.core.terms.law import AnyLaw
from golddice.core.terms.resting import is_distinct

_SHARE_TIE = 1e-14
Tried = tuple[FloatArray | None, IntArray, IntArray]


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
    """Walks an event of a table, a source or some of its drops backwards over a space, at one depth: that
    of the evaluator, which has no other. The space may be of more."""

    def __init__(self, evaluator: Evaluator, carried: Carried, space: Space, row: int = 0) -> None:
        self.evaluator, self.under, self.space, self._row = evaluator, evaluator.under, space, row
        self._carried = carried
        self._exclusives: dict[str, Exclusive] = {}
        self._rollings: dict[str, Rolling] = {}
        self._each_parts: dict[str, tuple[list[int], Given]] = {}
        self._arms: dict[str, tuple[list[Arm], list[Branch]]] = {}
        self._tries: dict[tuple[str, ...], Tried] = {}
        self._givens: dict[tuple[object, ...], Given] = {}

    def parts(self, source: Source | None, parts: Sequence[Part], fold: Fold, bundle: Bundle) -> Bundle:
        """Some parts of one event of a source, in order."""
        for part in reversed(parts):
            if isinstance(part, LineOf):
                bundle = self._tested(part.table, part.at, fold, bundle, self._flows_of(source, part.drop))
            else:
                assert source is not None
                bundle = self._drop(source, part, fold, bundle, ())
        return bundle

    def _flows_of(self, source: Source | None, drop: Drop | None) -> tuple[int, ...]:
        if source is None or drop is None or not self.evaluator.detail:
            return ()
        return (self.evaluator.columns.drop_hits(source.id, drop.id) + 1,)

    def table(self, table: Table, fold: Fold, bundle: Bundle, flows: tuple[int, ...] = ()) -> Bundle:
        """One execution of a table: all its rolls."""
        if not self._carries(View("table", table.id)):
            given = self._given(("table", table.id), flows, lambda: self.evaluator.table(table.id), table)
            return fold.fold(bundle, given)
        law = self.under.law(table.rolls)
        if is_distinct(self.under, table):
            return self._distinct(table, fold, bundle, law, flows)
        return self._repeated(fold, law, lambda then: self._roll(table, fold, then, flows), bundle)

    def _carries(self, view: View) -> bool:
        return self._carried.has(view)

    def _leads_on(self, line: Line) -> bool:
        """Whether a line leads to anything of which a player carries something."""
        return any(map(self._carries, links_of(line)))

    def _drop(self, source: Source, drop: Drop, fold: Fold, bundle: Bundle, flows: tuple[int, ...]) -> Bundle:
        key = ("drop", source.id, drop.id)
        chance, hit, miss = self._tried(drop, key)
        if chance is None:
            return bundle
        if not self.space.has(key) and not self._carries(View("table", drop.table)):
            given = self._given(key, flows, lambda: self.evaluator.drop(source, drop), drop)
            return fold.fold(bundle, given)
        inner, then = flows, bundle
        if self.evaluator.detail:
            column = self.evaluator.columns.drop_hits(source.id, drop.id)
            inner = (*flows, column + 1)
            then = fold.fold(bundle, self._mark(column))
        table = self.under.tables[drop.table]
        body = self._repeated(
            fold, self.under.law(drop.times), lambda after: self.table(table, fold, after, inner), then
        )
        return fold.mix([Way(chance, body, hit), Way(1.0 - chance, bundle, miss)])

    def _tried(self, drop: Drop, key: tuple[str, ...]) -> Tried:
        """A drop's chance by state (None where it is closed), and the states after a hit and a miss."""
        if key not in self._tries:
            self._tries[key] = self._new_try(drop, key)
        return self._tries[key]

    def _new_try(self, drop: Drop, key: tuple[str, ...]) -> Tried:
        every = self.space.every
        if not bool(self.under.drop_open(drop)[0]):
            return None, every, every
        if not self.space.has(key):
            return np.full(self.space.size, float(self.under.drop_chance(drop)[0])), every, every
        chance, hit, miss = self.space.tested(key).tried(self._row)
        return self.space.chance(key, chance), self.space.moved(key, hit), self.space.moved(key, miss)

    def _repeated(self, fold: Fold, law: AnyLaw, once: Callable[[Bundle], Bundle], bundle: Bundle) -> Bundle:
        """`once` so many times: the mixture over the law of its powers."""
        if law.is_one:
            return once(bundle)
        values, chances = law.row(0)
        weight = {int(value): float(chance) for value, chance in zip(values, chances, strict=True)}
        parts, then = [], bundle
        for count in range(law.most + 1):
            go_on()
            if weight.get(count, 0.0) > 0:
                parts.append((weight[count], then))
            if count < law.most:
                then = once(then)
        return self._weighted(fold, parts)

    def _weighted(self, fold: Fold, parts: Sequence[tuple[float, Bundle]]) -> Bundle:
        if len(parts) == 1 and parts[0][0] == 1.0:
            return parts[0][1]
        every = self.space.every
        return fold.mix([Way(np.full(every.size, weight), bundle, every) for weight, bundle in parts])

    def _roll(self, table: Table, fold: Fold, bundle: Bundle, flows: tuple[int, ...]) -> Bundle:
        """One roll of a table that carries something, or leads to what does."""
        if table.rule == "each":
            return self._each(table, fold, bundle, flows)
        arms, rest = self._gathered(table)
        ways = []
        for arm in arms:
            ended = fold.taken(bundle, arm.ends)
            ways.append(Way(arm.chance, fold.fold(ended, self._flowing(arm.given, flows)), arm.place))
        for branch in rest:
            after = bundle if branch.line is None else self._line(table, branch.line, fold, bundle, flows)
            ways.append(Way(branch.chance, after, branch.after))
        return fold.mix(ways)

    def _each(self, table: Table, fold: Fold, bundle: Bundle, flows: tuple[int, ...]) -> Bundle:
        """Each line on a chance of its own; those that carry nothing are folded in all at once."""
        held, free = self._parted(table)
        for at in reversed(held):
            bundle = self._tested(table, at, fold, bundle, flows)
        return fold.fold(bundle, self._flowing(free, flows))

    def _tested(self, table: Table, at: int, fold: Fold, bundle: Bundle, flows: tuple[int, ...]) -> Bundle:
        """One try of a line on its own chance."""
        chance, hit, miss = self._test(table, at)
        if chance is not None:
            given = self._line(table, at, fold, bundle, flows)
            return fold.mix([Way(chance, given, hit), Way(1.0 - chance, bundle, miss)])
        return bundle if miss is self.space.every else fold.taken(bundle, miss)

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
        return self.space.has(("line", table.id, line.id)) or self._leads_on(line)

    def _distinct(
        self, table: Table, fold: Fold, bundle: Bundle, law: AnyLaw, flows: tuple[int, ...]
    ) -> Bundle:
        """Rolls without replacement."""

        def given(at: int, slabs: Bundle) -> Bundle:
            if not self._leads_on(table.lines[at]):
                return self._line(table, at, fold, slabs, flows)
            size, whole = self.space.size, slabs[0].shape[0]
            each = (tuple(part[start : start + size] for part in slabs) for start in range(0, whole, size))
            folded = [self._line(table, at, fold, slab, flows) for slab in each]
            return tuple(map(np.concatenate, zip(*folded, strict=True)))

        left = self._rolling(table).left(law.most, bundle, fold, given)
        values, chances = law.row(0)
        parts = zip(chances.tolist(), map(left.__getitem__, values.tolist()), strict=True)
        return self._weighted(fold, [part for part in parts if part[0] > 0])

    def _rolling(self, table: Table) -> Rolling:
        if table.id not in self._rollings:
            assert table.rule == "pick"
            at, stride = self.space.within(("table", table.id))
            self._rollings[table.id] = Rolling(
                table, self.under, self._pocket(table), self._row_of(table), at, stride
            )
        return self._rollings[table.id]

    def _line(self, table: Table, at: int, fold: Fold, bundle: Bundle, flows: tuple[int, ...]) -> Bundle:
        """What a line gives when it hits."""
        line: Line = table.lines[at]
        if not self._leads_on(line):
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
        law, what = self.under.law(given.quantity), given.what
        if not isinstance(what, View) or not self._carries(what):
            key = ("yield", id(given))
            return fold.fold(bundle, self._given(key, flows, lambda: self.evaluator.given(given), given))
        if what.kind == "table":
            table = self.under.tables[what.id]
            return self._repeated(fold, law, lambda then: self.table(table, fold, then, flows), bundle)
        source = self.under.sources[what.id]

        def event(then: Bundle) -> Bundle:
            for drop in reversed(source.drops):
                then = self._drop(source, drop, fold, then, flows)
            return then

        return self._repeated(fold, law, event, bundle)

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
            for branch in self._branched(table):
                line = None if branch.line is None else table.lines[branch.line]
                if line is not None and self._leads_on(line):
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
        key = ("line", table.id, table.lines[at].id)
        if key not in self._tries:
            self._tries[key] = self._new_test(table, at, key)
        return self._tries[key]

    def _new_test(self, table: Table, at: int, key: tuple[str, ...]) -> Tried:
        every = self.space.every
        if not self.space.has(key):
            chance = np.full(every.size, float(self.under.chances(table)[at, 0]))
            return chance if chance[0] > 0 else None, every, every
        chance, hit, miss = self.space.tested(key).tried(self._row)
        missed = self.space.moved(key, miss)
        return (
            self.space.chance(key, chance) if bool((chance > 0).any()) else None,
            self.space.moved(key, hit),
            every if bool(np.all(missed == every)) else missed,
        )

    def _branched(self, table: Table) -> list[Branch]:
        """The branches of one roll, over all states."""
        go_on()
        at, stride = self.space.within(("table", table.id))
        return [
            Branch(one.chance[at], self.space.every + (one.after[at] - at) * stride, one.line)
            for one in self._pocket(table).rolled(self._row_of(table))
        ]

    def _row_of(self, table: Table) -> int:
        """Which of its pocket's depths is looked at."""
        return self._row if self.space.has(("table", table.id)) else 0

    def _pocket(self, table: Table) -> Exclusive:
        """What a player carries of a table; of one that carries nothing itself, but leads to what does, that
        of a single content."""
        key = ("table", table.id)
        if self.space.has(key):
            return self.space.exclusive(key)
        if table.id not in self._exclusives:
            self._exclusives[table.id] = exclusive(table, self.under, Reach())
        return self._exclusives[table.id]


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
