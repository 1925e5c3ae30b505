"""The smallest change of numbers with which every aim is met.

Smallest is the sum of squares of steps: logarithms of ratios, of odds for chances. Aims are taken straight
where they stand and the shortest way to all of them is gone, again and again (sequential quadratic
programming); steps no longer than where straight is believed. Where no way leads to all, the aims are missed
by as little as can be.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, field, replace
from itertools import product

import numpy as np
from propcache.api import cached_property

from golddice.core.arrays import BoolArray, FloatArray, IntArray
from golddice.core.errors import TooLarge
from golddice.core.game.models import Game, Table
from golddice.core.stopping import go_on, tell
from golddice.core.tuning.aims import Aim, Book
from golddice.core.tuning.least import SOFT, nearest, shortest
from golddice.core.tuning.numbers import CHANCES, FARTHEST, Number

_STEPS = 40
_READINGS = 5
_NEAR = 1e-2  # of a coordinate
_STILL = 1e-7
_MANY = 100  # numbers, of which each look takes long
_SMALL, _OTHERS = 0.5, 2  # a change so small is hardly one of several kinds; starts more
_SAME, _ALIKE = 0.01, 2
_FEW, _FAR = 2, 0.8  # numbers; steps
_STARTS_TO_BE_SURE = 3
_SLOW, _PATIENCE = 0.01, 3  # so little nearer, so often: it is as near as it gets
_BENT = 1e-3  # of a coordinate
_NEARBY = 0.05  # of a step: slopes from so near are believed
_GAIN = 1e-6  # of what a change costs
_WIDEST = 2.0
_GENTLE_STEPS, _PLACES = 8, 5
_WORTH = 1e-2  # a number by a factor of e is worth no more than a tenth of a coordinate


@dataclass(frozen=True)
class Task:
    """numbers are to move so that aims are met; `costs` (n,) is what each number's squared step costs. With
    `keep_totals` each pick table whose weights move keeps their sum. No step is longer than `far`."""

    game: Game
    numbers: Sequence[Number]
    aims: Sequence[Aim]
    costs: FloatArray
    keep_totals: bool = True
    far: float = FARTHEST
    soft: float = SOFT  # what a squared step costs beside a squared miss, where not all can be met
    # Slopes that were dear to take: of an aim by its place, where, which of its rows, and they themselves.
    dear: dict[int, tuple[FloatArray, BoolArray, FloatArray]] = field(
        default_factory=dict, compare=False, init=False
    )
    # Of aims that are dear to read, likewise: the rows that are watched, and how all were when last read.
    known: dict[int, tuple[BoolArray, FloatArray]] = field(default_factory=dict, compare=False, init=False)

    @cached_property
    def base(self) -> Book:
        """The game as it is."""
        return Book(self.game)

    def watch_missed(self, read: Sequence[FloatArray]) -> bool:
        """Watch the rows that turned out to be missed; whether there are any that were not watched."""
        more = False
        for at, (watched, _) in list(self.known.items()):
            missed = self.aims[at].off(read[at]) > 0
            more = more or bool(np.any(missed & ~watched))
            self.known[at] = watched | missed, read[at]
        return more

    @staticmethod
    def of(
        game: Game,
        numbers: Sequence[Number],
        aims: Sequence[Aim],
        keep_totals: bool = True,
        far: float = FARTHEST,
    ) -> Task:
        return Task(game, numbers, aims, np.ones(len(numbers)), keep_totals, far)

    def values(self, steps: FloatArray) -> dict[Number, float]:
        return {
            number: number.moved(float(step))
            for number, step in zip(self.numbers, steps, strict=True)
            if step != 0.0
        }


@dataclass(frozen=True)
class Found:
    """steps (n,) of the numbers; misses (aims,) by how much the worst row of each misses, 0 where met.
    blocked : ids of a few targets that were found to be out of reach together."""

    steps: FloatArray
    misses: FloatArray
    blocked: tuple[str, ...] = ()

    @property
    def is_met(self) -> bool:
        return bool(np.all(self.misses <= 0))

    @property
    def size(self) -> float:
        return float(np.sqrt(self.steps @ self.steps))


def solved(task: Task, starts: int = 4, first: FloatArray | None = None, found: Found | None = None) -> Found:
    """The smallest change that was found, or the nearest. More starts are tried where the first does not
    lead to all; `found` is what came of the first, where that is known."""
    best = found or _from(task, np.zeros(len(task.numbers)) if first is None else first)
    same = 0
    for steps in _starts(task, starts - 1):
        if best.is_met:
            break
        other, before = _from(task, steps), best.misses.sum()
        if other.is_met or other.misses.sum() < before * (1 - 1e-6):
            best = other
        same += bool(np.isfinite(before) and abs(other.misses.sum() - before) < _SAME * before)
        if same >= _alike(task):
            break  # several ways led to the same place: it is the nearest that there is
    return _smaller(task, best) if best.is_met and starts > 1 else best


def gentler(task: Task, found: Found) -> Found:
    """Where aims cannot be met, what a change gains is weighed against what it is: the nearest of all may ask
    for weights a thousandfold for the last of a gain. From the best place on the way there, as long as it
    becomes better."""
    task = replace(task, soft=_WORTH)
    # Of aims that are dear to read all rows of the first, and of the others those that are watched since.
    places = [_Look(task, _level(task, part * found.steps)) for part in np.linspace(1, 0, _PLACES)]
    here, radius = min(places, key=lambda look: look.priced), 1.0
    for _ in range(_GENTLE_STEPS):
        go_on()
        other = _Look(task, _level(task, here.towards(radius)))
        gained = here.priced - other.priced
        if gained > 0:
            here, radius = other, min(_WIDEST, 2 * radius)
        else:
            radius /= 4
        if radius < _NEARBY or 0 < gained < _SLOW * here.priced:
            break
    return replace(found, steps=here.steps)


def as_near(task: Task, found: Found) -> Callable[[dict[Number, float]], bool]:
    """Whether other values, rounded ones, come to nearly as much as what was found by `gentler`."""
    task = replace(task, soft=_WORTH)
    most = (1 + _SLOW) * _Look(task, found.steps).priced

    def nearly(values: dict[Number, float]) -> bool:
        steps = [number.step_to(values.get(number, number.value)) for number in task.numbers]
        return _Look(task, np.array(steps)).priced <= most

    return nearly


def can_be_met(task: Task) -> bool:
    """Whether some change leads to all, as far as several starts can tell."""
    return any(
        found.is_met
        for found in _apart(task, [np.zeros(len(task.numbers)), *_starts(task, _STARTS_TO_BE_SURE)])
    )


def _apart(task: Task, starts: Iterable[FloatArray]) -> Iterator[Found]:
    """What comes of each start, until several led to the same place."""
    best, same = float("inf"), 0
    for steps in starts:
        found = _from(task, steps)
        yield found
        missed = float(found.misses.sum())
        same += abs(missed - best) < _SAME * best if np.isfinite(best) else 0
        best = min(best, missed)
        if same >= _alike(task):
            return


def _smaller(task: Task, best: Found) -> Found:
    """There may be several ways, each the smallest of its kind: where looking is cheap, others are tried."""
    is_cheap = len(task.numbers) <= _MANY and all(aim.is_noted for aim in task.aims)
    if not is_cheap or best.size < _SMALL:
        return best
    draw = np.random.default_rng(11)
    for _ in range(_OTHERS):
        found = _from(task, draw.normal(0.0, 0.5, len(task.numbers)))
        if found.is_met and found.size < best.size:
            best = found
    return best


def _starts(task: Task, count: int) -> Iterator[FloatArray]:
    """Other places to start from: chances lower, or curves, since one that is certain hides what comes after
    it; then any."""
    if not task.numbers or not task.aims or count <= 0:
        return
    chances = np.array([-1.5 * (number.sort in CHANCES) for number in task.numbers])
    points = np.array([-1.0 * (number.sort == "point") for number in task.numbers])
    lower = [steps for steps in (chances, points) if steps.any()] if is_hidden(task) else []
    draw = np.random.default_rng(7)
    yield from lower
    yield from spread(task)
    yield from (draw.normal(0.0, 0.7, len(task.numbers)) for _ in range(count))


def spread(task: Task) -> Iterator[FloatArray]:
    """Of one number or two starts far to all sides: what lies behind a bump is not met by chance."""
    count = len(task.numbers)
    if count <= _FEW:
        yield from (np.array(steps) for steps in product((_FAR, -_FAR), repeat=count))


def _alike(task: Task) -> int:
    """How many starts must lead to the same place before no more are tried."""
    return _ALIKE if len(task.numbers) > _FEW else _ALIKE + 2 ** len(task.numbers)


def is_hidden(task: Task) -> bool:
    """Whether something that is wanted cannot come at all as it is."""
    look = _Look(task, np.zeros(len(task.numbers)), every=True)
    return any(bool(np.any(np.isneginf(here))) for here in look.read)


def _from(task: Task, steps: FloatArray) -> Found:
    """From one start, until nothing more is gained; then all is read, and what was not watched may call for
    more."""
    here = _Look(task, _level(task, steps), every=True)
    for _ in range(_READINGS):
        best = _Look(task, _gone(here).steps, every=True)
        if best.misses.sum() <= here.misses.sum() or best.missed <= 0 or best.steps is here.steps:
            here = best
        if best.missed <= 0 or not task.watch_missed(best.read):
            break
    return Found(here.steps, here.misses)


def weighed_at(task: Task, steps: FloatArray) -> float:
    """What misses come to after some steps."""
    return _Look(task, steps, every=True).weighed


def straight_to(task: Task, steps: FloatArray) -> FloatArray:
    """Where all aims would be met were they as straight as they look from here, whole numbers taken for
    others."""
    return _Look(task, steps, every=True).towards(_WIDEST)


def _gone(start: _Look) -> _Look:
    """As far as it goes from a place. Near all aims each way there is believed as it is: it misses by the
    square of its length, and the next one mends that."""
    task, here, best = start.task, start, start
    radius, before, slow = 1.0, float("inf"), 0
    for _ in range(_STEPS):
        go_on()
        found = _Look(task, _level(task, here.towards(radius)))
        moved = float(np.abs(found.steps - here.steps).max(initial=0.0))
        gained = best.cost - found.cost
        if found.is_better_than(best):
            best = found
        tell(met=int((best.misses <= 0).sum()), of=len(task.aims))
        if here.missed > _NEAR:
            if found.is_better_than(here):
                slow = slow + 1 if found.weighed > (1 - _SLOW) * here.weighed else 0
                radius = min(_WIDEST, 2.0 * radius if moved > 0.7 * radius else radius)
                here = found
            else:
                radius = min(radius, moved) / 4
        else:
            if found.missed > max(3 * here.missed, _BENT):  # a kink: what is straight here is not there
                radius = moved / 4
                continue
            if moved >= 0.8 * before:  # round in circles: shorter steps, on slopes of their own
                radius = moved / 2
                task.dear.clear()
            before, here = moved, found
        if (
            slow >= _PATIENCE
            or moved < _STILL
            or (found.missed <= 0 and abs(gained) <= _GAIN * (1e-3 + found.cost))
        ):
            break
    return best


class _Look:
    """Where a task stands after some steps."""

    def __init__(self, task: Task, steps: FloatArray, every: bool = False) -> None:
        """Of aims that are dear to read, unless `every` row is asked for, those that are watched; the others
        count as they were read last."""
        self.task, self.steps = task, steps
        self.book = task.base.with_(task.values(steps))
        self.read = [self._read(at, aim, every) for at, aim in enumerate(task.aims)]
        self.misses = np.array([_miss(aim, here) for aim, here in zip(task.aims, self.read, strict=True)])
        self.cost = float(task.costs @ steps**2)

    def _read(self, at: int, aim: Aim, every: bool) -> FloatArray:
        known = self.task.known.get(at)
        try:
            if aim.is_noted:
                return aim.read(self.book)
            if every or known is None:
                found = aim.read(self.book)
                watched = aim.near(found) if known is None else known[0]
                self.task.known[at] = watched, found
                return found
            watched, last = known
            found = last.copy()
            found[watched] = aim.read(self.book, watched)
            return found
        except TooLarge:
            return np.full(aim.rows, np.nan)

    @property
    def missed(self) -> float:
        return float(self.misses.max(initial=0.0))

    def is_better_than(self, other: _Look) -> bool:
        """Nearer to all aims; or as near, for less."""
        if self.missed <= 0 and other.missed <= 0:
            return self.cost < other.cost
        mine, theirs = self.weighed, other.weighed
        return mine < theirs * (1 - 1e-4) or (mine <= theirs * (1 + 1e-9) and self.cost < other.cost)

    @cached_property
    def weighed(self) -> float:
        """What misses come to; what cannot be mended anyhow, an item that is nowhere, is the same for all."""
        weights = np.array([aim.target.weight for aim in self.task.aims])
        finite = np.where(np.isfinite(self.misses), self.misses, 1e3)
        return float(weights @ finite**2)

    @property
    def priced(self) -> float:
        """That, and what the change costs."""
        return self.weighed + self.task.soft * self.cost

    def towards(self, radius: float) -> FloatArray:
        """Where the shortest way leads, as straight as things look from here and no further than that."""
        task, count = self.task, self.steps.size
        rows, least, weights = self._bounds
        near = np.concatenate([np.eye(count), -np.eye(count)])
        edge = np.concatenate(
            [np.maximum(self.steps - radius, -task.far), np.maximum(-self.steps - radius, -task.far)]
        )
        root = np.sqrt(task.costs)
        every, bounds = np.vstack([rows, near]) / root, np.concatenate([least, edge])
        equal, to = _totals(task, self.steps)
        found = None if task.soft > SOFT else shortest(every, bounds, equal / root, to)
        if found is None:
            hard = np.concatenate([weights, np.full(edge.size, np.inf)])
            found = nearest(every, bounds, equal / root, to, hard, task.soft)
        return found / root

    @cached_property
    def _bounds(self) -> tuple[FloatArray, FloatArray, FloatArray]:
        """rows @ steps >= least of all aims, (m, n) and (m,), and what each is worth, (m,)."""
        rows, least = [np.zeros((0, self.steps.size))], [np.zeros(0)]
        weights = [np.zeros(0)]
        for at, (aim, here) in enumerate(zip(self.task.aims, self.read, strict=True)):
            lean, told = self._slopes(at, aim, here)
            told = told & np.isfinite(here)
            for sign, bound in ((1.0, aim.low), (-1.0, -aim.high)):
                if np.isfinite(bound):
                    straight = sign * lean[told]
                    rows.append(straight)
                    least.append(bound - sign * here[told] + straight @ self.steps)
                    weights.append(np.full(int(told.sum()), aim.target.weight))
        return np.vstack(rows), np.concatenate(least), np.concatenate(weights)

    def _slopes(self, at: int, aim: Aim, here: FloatArray) -> tuple[FloatArray, BoolArray]:
        """Of aims whose slopes are dear, those of a place nearby where they were taken before."""
        dear, wanted = self.task.dear, aim.near(here)
        if at in dear:
            steps, told, lean = dear[at]
            if np.abs(self.steps - steps).max(initial=0.0) < _NEARBY and np.all(told | ~wanted):
                return lean, told
            wanted |= told  # what was in the way once would be again, were it forgotten
        lean, told = aim.slopes(self.book, self._numbers, wanted)
        if not told.all() or not aim.is_noted:
            dear[at] = (self.steps, told, lean)
        return lean, told

    @cached_property
    def _numbers(self) -> list[Number]:
        """The numbers as they stand here: a derivative of log-odds rests on the chance."""
        return [
            replace(number, value=number.moved(float(step)))
            for number, step in zip(self.task.numbers, self.steps, strict=True)
        ]


def _miss(aim: Aim, here: FloatArray) -> float:
    """By how much its worst row is outside; infinite where there is no figure."""
    return float("inf") if aim.low > aim.high else float(np.max(aim.off(here), initial=0.0))


# --- the weights of a table, which count only beside one another ----------------------------------------


def groups(task: Task) -> list[IntArray]:
    """The numbers of each pick table of which all weights move that are not pinned: there all of them could
    be larger together, and nothing would change. Where some are kept, these say how large the others are."""
    found: dict[str, list[int]] = {}
    for at, number in enumerate(task.numbers):
        if number.of == "table" and number.sort in ("weight", "nothing"):
            found.setdefault(number.id, []).append(at)
    tables = {table.id: table for table in task.game.tables}
    whole = [rows for name, rows in found.items() if len(rows) > 1 and len(rows) == _movable(tables[name])]
    return [np.array(rows, dtype=np.int64) for rows in whole]


def has_pinned(task: Task) -> bool:
    """Whether a table that keeps its total has weights that do not move: then keeping it leaves out ways."""
    mine = {task.numbers[rows[0]].id for rows in groups(task)}
    picks = [table for table in task.game.tables if table.id in mine and table.rule == "pick"]
    return any(line.pinned and line.weight > 0 for table in picks for line in table.lines)


def _movable(table: Table) -> int:
    """How many of a pick table's weights can move; of another table none need to keep a total."""
    if table.rule != "pick":
        return -1
    return sum(line.weight > 0 and not line.pinned for line in table.lines) + (table.nothing > 0)


def _level(task: Task, steps: FloatArray) -> FloatArray:
    """Steps after which each table's moving weights come to what they did."""
    found = np.clip(steps, -task.far, task.far)
    if not task.keep_totals:
        return found
    for rows in groups(task):
        before = np.array([task.numbers[at].value for at in rows])
        found[rows] -= np.log((before * np.exp(found[rows])).sum() / before.sum())
    return found


def _totals(task: Task, steps: FloatArray) -> tuple[FloatArray, FloatArray]:
    """equal @ steps = to where each total stays, taken straight from here."""
    mine = groups(task) if task.keep_totals else []
    equal, to = np.zeros((len(mine), steps.size)), np.zeros(len(mine))
    for row, at in enumerate(mine):
        here = np.array([task.numbers[one].value for one in at]) * np.exp(steps[at])
        equal[row, at] = here / here.sum()
        to[row] = equal[row, at] @ steps[at]
    return equal, to
