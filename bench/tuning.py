"""(i) Tuning: problems that can be solved, made by disturbing a game's numbers, and such that cannot, with
contradictions planted; and how long proposals take. The rivals get the same figures and numbers: SciPy's
SLSQP with our exact gradients, each row of each aim a constraint; Nelder-Mead and differential evolution on
the sum of squared misses and of the change.
"""

from __future__ import annotations

import math
import os
import random
import sys
import time
from collections import Counter
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace

import numpy as np
from scipy.optimize import differential_evolution, minimize

from bench.big import big_game
from bench.timing import forget
from golddice.core.arrays import FloatArray
from golddice.core.game.models import Game
from golddice.core.game.target import Target
from golddice.core.game.views import View
from golddice.core.odds.depths.along import all_depths, met_at
from golddice.core.terms.resting import carries
from golddice.core.tuning import standings
from golddice.core.tuning.aims import Book, told
from golddice.core.tuning.asking import Ask
from golddice.core.tuning.numbers import Number, numbers_of, with_values
from golddice.core.tuning.proposal import propose
from golddice.core.tuning.slopes import touched
from golddice.core.tuning.solving import Task, groups, solved
from golddice.files.game_file import read_game_file
from golddice.server.settings import DEMO

FIGURES = ("chance", "one-in", "mean", "share", "worth", "value", "cv", "wait")
_FLOOR = 1e-6


@dataclass(frozen=True)
class Problem:
    """A game whose numbers were disturbed, its targets read from before, and by how much."""

    game: Game
    moved: dict[Number, float]
    size: float


def main(count: int = 200) -> None:
    game = read_game_file(DEMO)
    if "--rivals-alone" in sys.argv:
        _rivals(game, 20)
        return
    _solvable(game, count)
    _contradictions(game, count // 2)
    _times(game)
    _large()
    if "--rivals" in sys.argv:
        _rivals(game, 20)


# --- problems ----------------------------------------------------------------------------------------------


def problem(game: Game, draw: random.Random, *, whole: bool = True) -> Problem | None:
    """One of a random source: figures at several depths as targets, then 1 to 30 numbers disturbed."""
    source = draw.choice(game.sources)
    under = all_depths(game, frozenset())
    depths = under.depths[met_at(under, source)].tolist()
    targets = [_target(game, draw, source.id, depths, at) for at in range(draw.randint(1, 6))]
    asked = game.model_copy(update={"targets": targets})
    read = [
        one.target.model_copy(update=_wanted(one.target, one.figures[0]))
        for one in standings(asked)
        if one.untold is None and one.figures and math.isfinite(one.figures[0]) and one.figures[0] > _FLOOR
    ]
    read = [one for one in read if one.figure not in ("chance", "share", "worth") or one.wanted < 1 - _FLOOR]
    near = touched(under, View("source", source.id))
    numbers = [
        number
        for number in numbers_of(game)
        if (number.of, number.id) in near and number.sort != "copies" and (whole or not number.is_whole)
    ]
    chosen = draw.sample(numbers, min(len(numbers), draw.randint(1, 30)))
    values = {number: _disturbed(number, draw) for number in chosen}
    values = {number: value for number, value in values.items() if value != number.value}
    if not read or not values:
        return None
    other = with_values(asked.model_copy(update={"targets": read}), values)
    if {number.where for number in values} - {number.where for number in numbers_of(other)}:
        return None  # a range's ends became one number
    return Problem(other, values, _size_back(game, values))


def _target(game: Game, draw: random.Random, source: str, depths: list[int], at: int) -> Target:
    figure, depth = draw.choice(FIGURES), draw.choice(depths)
    of: dict[str, str] = {}
    if figure in ("share", "worth"):
        of = {"tier": draw.choice(game.tiers).id}
    elif figure not in ("value", "cv"):
        of = draw.choice([{"tier": draw.choice(game.tiers).id}, {"item": draw.choice(game.items).id}])
    return Target(
        id=f"t{at}", name=f"T{at}", source=source, figure=figure, wanted=1.0, depths=(depth, depth), **of
    )


def _wanted(target: Target, figure: float) -> dict[str, float]:
    return {"wanted": figure, "tolerance": 0.0 if target.figure == "wait" else 0.002 * figure}


def _disturbed(number: Number, draw: random.Random) -> float:
    step = draw.uniform(-math.log(3), math.log(3))
    if number.is_whole:
        return float(round(number.value * math.exp(step))) or number.value  # 0 is no ratio away
    if number.sort == "chance":
        return min(max(number.value * math.exp(step), number.value / 3), 1 - (1 - number.value) / 3)
    return number.value * math.exp(step)


def _size_back(game: Game, values: dict[Number, float]) -> float:
    """How large the change back is; where all weights of a table were disturbed, back to what stands in the
    same ratios and comes to what they come to now."""
    steps = {number: -number.change(value) for number, value in values.items()}
    task = Task.of(with_values(game, values), list(values), [])
    for rows in groups(task):
        numbers = [list(values)[at] for at in rows]
        level = math.log(sum(values[one] for one in numbers) / sum(one.value for one in numbers))
        for number in numbers:
            steps[number] += level
    return math.sqrt(sum(step * step for step in steps.values()))


def _solvable(game: Game, count: int) -> None:
    draw, made = random.Random(11), list[Problem]()
    while len(made) < count:
        one = problem(game, draw)
        if one is not None:
            made.append(one)
    start, told = time.perf_counter(), list[_Solved]()
    with ProcessPoolExecutor(os.cpu_count()) as pool:
        for at, (one, found) in enumerate(zip(made, pool.map(_solved, made), strict=True), 1):
            told.append(found)
            if not found.is_met or not found.is_small:
                how = "met" if found.is_met else "nearest"
                print(
                    f"  {at}: {how}, size {found.size:.3f} of {one.size:.3f}, "
                    f"{found.took:.1f} s, targets {[target.figure for target in one.game.targets]}, "
                    f"moved {Counter(number.sort for number in one.moved)}",
                    flush=True,
                )
            if at % 50 == 0:
                print(f"  {at} of {count} after {time.perf_counter() - start:.0f} s", flush=True)
    times = sorted(one.took for one in told)
    print(
        f"{sum(one.is_met for one in told)} of {count} met, {sum(one.is_small for one in told)} by no more "
        f"than the disturbance; {sum(times) / count:.2f} s each on average, {times[count // 2]:.2f} for half,"
        f" at most {times[-1]:.1f}, as many at a time as there are processors"
    )


@dataclass(frozen=True)
class _Solved:
    is_met: bool
    is_small: bool
    size: float
    took: float


def _solved(one: Problem) -> _Solved:
    began = time.perf_counter()
    found = propose(one.game, Ask(unlock=[number.where for number in one.moved]))
    took = time.perf_counter() - began
    size = math.sqrt(sum(number.change(value) ** 2 for number, value in found.values.items()))
    is_met = found.status != "nearest"
    return _Solved(is_met, is_met and size <= one.size * 1.01 + 1e-9, size, took)


# --- contradictions --------------------------------------------------------------------------------------


def contradiction(game: Game, draw: random.Random) -> tuple[Game, set[str]]:
    """A game with targets of which a few contradict each other, and which these are."""
    source = draw.choice(game.sources)
    under = all_depths(game, frozenset())
    depth = draw.choice(under.depths[met_at(under, source)].tolist())
    plain = {"source": source.id, "depths": (depth, depth)}
    tiers = draw.sample(game.tiers, 3)
    # Of what rests on what players carry a wait may be short though one event is unlikely to give any.
    carried = carries(under, View("source", source.id))
    kind = draw.randrange(3 if carried else 4)
    if kind == 0:
        planted = [
            {"figure": "value", "side": "at-least", "wanted": 30.0},
            {"figure": "value", "side": "at-most", "wanted": 20.0},
        ]
    elif kind == 1:
        planted = [{"figure": "share", "tier": t.id, "side": "at-least", "wanted": 0.4} for t in tiers]
    elif kind == 2:
        planted = [
            {"figure": "chance", "tier": tiers[0].id, "side": "at-least", "wanted": 0.3},
            {"figure": "mean", "tier": tiers[0].id, "side": "at-most", "wanted": 0.2},
        ]
    else:
        planted = [
            {"figure": "wait", "tier": tiers[0].id, "side": "at-most", "wanted": 10.0},
            {"figure": "one-in", "tier": tiers[0].id, "side": "at-least", "wanted": 40.0},
        ]
    harmless = [
        {"figure": "cv", "side": "at-most", "wanted": 50.0},
        {"figure": "chance", "tier": tiers[1].id, "side": "at-most", "wanted": 0.999},
    ]
    parts = [*planted, *harmless]
    draw.shuffle(parts)
    targets = [Target(id=f"t{at}", name=f"T{at}", **plain, **part) for at, part in enumerate(parts)]  # type: ignore[arg-type]
    names = {target.id for target, part in zip(targets, parts, strict=True) if part in planted}
    return game.model_copy(update={"targets": targets}), names


def _contradictions(game: Game, count: int) -> None:
    draw, named, real, start = random.Random(13), 0, 0, time.perf_counter()
    for _ in range(count):
        asked, planted = contradiction(game, draw)
        found = propose(asked)
        named += bool(found.conflict)
        good = bool(found.conflict) and _contradicts(asked, found.conflict)
        real += good
        if not good or not found.conflict:
            print(f"  {found.status}: {found.conflict} of {planted}, {asked.targets}")
    each = (time.perf_counter() - start) / count
    print(f"{named} of {count} contradictions named, {real} really and smallest; {each:.2f} s each")


def _contradicts(game: Game, names: list[str]) -> bool:
    """Not met together, and met where any one is left out; asked anew, of all numbers that may move."""

    def can(some: list[str]) -> bool:
        if not some:
            return True
        return propose(game, Ask(targets=some)).status != "nearest"

    return not can(names) and all(can([one for one in names if one != name]) for name in names)


# --- times and rivals ------------------------------------------------------------------------------------


def _times(game: Game) -> None:
    def timed(name: str, ask: Ask) -> None:
        took = []
        for _ in range(3):
            forget()
            standings(game)
            start = time.perf_counter()
            found = propose(game, ask)
            took.append(time.perf_counter() - start)
        print(f"{name:44} {sorted(took)[1]:6.2f} s, {found.free} numbers free: {found.status}")

    without = [target.id for target in game.targets if target.id != "angler-rare"]
    timed("all targets of the demo but one", Ask(targets=without))
    timed("all of them, two contradict", Ask())
    timed("eel pays, its table alone", Ask(targets=["eel-pays"], unlock=["eel-catch"]))
    timed("eel pays, a line alone", Ask(targets=["eel-pays"], unlock=["eel-catch/g/weight"]))
    timed("eel pays", Ask(targets=["eel-pays"]))
    timed("eel pays, the fewest numbers", Ask(targets=["eel-pays"], way="fewest"))


def _large() -> None:
    """500 targets on a big game: where they stand after an edit; 50 of them missed, 200 numbers free."""
    game, draw = big_game(), random.Random(23)
    parts = []
    for at in range(500):
        figure = ("chance", "value", "share", "mean", "cv")[at % 5]
        of = {"tier": f"t{at % 5}"} if figure in ("chance", "share", "mean") else {}
        low = draw.randint(1, 90)
        parts.append({"source": game.sources[at % 200].id, "figure": figure, **of, "depths": (low, low + 10)})
    wishes = [Target(id=f"w{at}", name=f"W{at}", wanted=0, **part) for at, part in enumerate(parts)]  # type: ignore[arg-type]
    game = game.model_copy(update={"targets": wishes})
    stood = standings(game)
    targets = []
    for one in stood:
        figures = [figure for figure in one.figures if np.isfinite(figure)]
        low, high = (min(figures), max(figures)) if figures else (0.0, 0.0)
        wanted = {"wanted": (low + high) / 2, "tolerance": (high - low) / 2 + 0.01 * high}
        targets.append(one.target.model_copy(update=wanted))
    game = game.model_copy(update={"targets": targets})
    forget()
    start = time.perf_counter()
    held = sum(one.is_met for one in standings(game))
    print(f"500 targets on a big game, from nothing       {time.perf_counter() - start:6.2f} s, {held} met")
    numbers = numbers_of(game)
    took = []
    for number in draw.sample([one for one in numbers if one.sort == "weight"], 9):
        edited = with_values(game, {number: number.value * 2})
        start = time.perf_counter()
        standings(edited)
        took.append(time.perf_counter() - start)
    print(f"the same after an edit, the middle of nine    {sorted(took)[4]:6.2f} s, at most {max(took):.2f}")
    near = set().union(*(touched(all_depths(game), target.view) for target in targets[:25]))
    mine = [one for one in numbers if (one.of, one.id) in near and one.sort in ("weight", "chance")]
    some = draw.sample(mine, 200)
    moved = {one: one.moved(draw.uniform(-1.0, 1.0)) for one in some}
    disturbed = with_values(game, moved)
    missed = [one.target.id for one in standings(disturbed) if not one.is_met][:50]
    forget()
    start = time.perf_counter()
    found = propose(disturbed, Ask(targets=missed, unlock=[one.where for one in some]))
    took = time.perf_counter() - start
    print(f"{len(missed)} targets missed, {found.free} numbers free          {took:6.2f} s: {found.status}")


def _rivals(game: Game, count: int) -> None:
    draw, made = random.Random(17), 0
    solves: Counter[str] = Counter()
    takes: Counter[str] = Counter()
    while made < count:
        one = problem(game, draw, whole=False)
        if one is None:
            continue
        made += 1
        aims, _ = told(Book(one.game), one.game.targets)
        numbers = [n for n in numbers_of(one.game) if n.where in {m.where for m in one.moved}]
        task = Task.of(one.game, numbers, aims)

        ways = _ways(task)
        for name, way in ways.items():
            start = time.perf_counter()
            steps = way()
            takes[name] += time.perf_counter() - start  # type: ignore[assignment]
            solves[name] += _is_met(task, steps)
    for name in takes:
        print(f"{name:24} {solves[name]:3} of {count} met, {takes[name] / count:.2f} s each")


def _ways(task: Task) -> dict[str, Callable[[], FloatArray]]:
    count = len(task.numbers)

    def cost(steps: FloatArray) -> float:
        book = Book(with_values(task.game, task.values(steps)))
        off = [np.minimum(aim.off(aim.read(book)), 50.0) for aim in task.aims]
        return 1e4 * sum(float(one @ one) for one in off) + float(steps @ steps)

    start, box = np.zeros(count), [(-1.5, 1.5)] * count
    return {
        "ours": lambda: solved(task).steps,
        "SLSQP, our gradients": lambda: _slsqp(task, box),
        "Nelder-Mead": lambda: minimize(cost, start, method="Nelder-Mead", options={"maxfev": 4_000}).x,
        "differential evolution": lambda: (
            differential_evolution(cost, box, maxiter=30, popsize=6, seed=1, polish=False).x
        ),
    }


def _slsqp(task: Task, box: list[tuple[float, float]]) -> FloatArray:
    """The least change under all bounds, from no change and from three other places."""

    def book(steps: FloatArray) -> Book:
        return Book(with_values(task.game, task.values(steps)))

    def rows(steps: FloatArray) -> FloatArray:
        here, found = book(steps), []
        for aim in task.aims:
            read = np.clip(aim.read(here), -50.0, 50.0)
            found += [read - aim.low] if np.isfinite(aim.low) else []
            found += [aim.high - read] if np.isfinite(aim.high) else []
        return np.concatenate(found)

    def slopes(steps: FloatArray) -> FloatArray:
        here, found = book(steps), []
        moved = zip(task.numbers, steps.tolist(), strict=True)
        numbers = [replace(number, value=number.moved(step)) for number, step in moved]
        for aim in task.aims:
            lean, _ = aim.slopes(here, numbers, np.ones(aim.rows, dtype=bool))
            found += [lean] if np.isfinite(aim.low) else []
            found += [-lean] if np.isfinite(aim.high) else []
        return np.nan_to_num(np.concatenate(found))

    draw, best = np.random.default_rng(7), np.zeros(len(task.numbers))
    for start in (best, *(draw.normal(0.0, 0.7, len(task.numbers)) for _ in range(3))):
        constraint = {"type": "ineq", "fun": rows, "jac": slopes}
        found = minimize(
            lambda steps: float(steps @ steps),
            start,
            jac=lambda steps: 2 * steps,
            method="SLSQP",
            bounds=box,
            constraints=[constraint],
            options={"maxiter": 60},
        )
        best = np.asarray(found.x)
        if found.success and _is_met(task, best):
            break
    return best


def _is_met(task: Task, steps: FloatArray) -> bool:
    return all(stood.is_met for stood in standings(with_values(task.game, task.values(steps))))


if __name__ == "__main__":
    main()
