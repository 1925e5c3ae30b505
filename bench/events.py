"""(a) Trial events a second, against NumPy and a plain loop that find the same figures.

Each finds, for one table of 12 lines and a blank, per player: counts, value, the event of the
first one and the longest drought of every item.
"""

from __future__ import annotations

import random
from concurrent.futures import Executor

import numpy as np

from bench.timing import in_turns
from golddice.core.arrays import FloatArray, IntArray
from golddice.core.game.reading import read_game
from golddice.core.game.views import View
from golddice.core.terms.conditions import Conditions
from golddice.core.trial.compiling import compiled
from golddice.core.trial.playing import Unit, played
from golddice.core.trial.trial import local_executor

LINES = 12
WEIGHTS = [1.0 + 3 * at for at in range(LINES)]
BLANK = 30.0
VALUES = [at + 1 for at in range(LINES)]
NO_MARKS = np.zeros(0, dtype=np.int64)


def main() -> None:
    with local_executor(2) as two, local_executor(1) as one:
        works = {
            "ours, two cores": (10_000_000, lambda: _ours(two, 10_000, 1_000)),
            "ours, one core": (5_000_000, lambda: _ours(one, 5_000, 1_000)),
            "NumPy choice, one core": (1_000_000, lambda: _numpy(1_000, 1_000)),
            "plain Python loop": (100_000, lambda: _loop(100, 1_000)),
        }
        taken = in_turns(9, *(work for _, work in works.values()))
    rates = {name: count / time for (name, (count, _)), time in zip(works.items(), taken, strict=True)}
    for name, rate in rates.items():
        ratio = rates["ours, two cores"] / rate
        print(f"{name:24}{rate / 1e6:9.3f} million events a second   ours on two: {ratio:6.1f} times")


def _ours(executor: Executor, players: int, events: int) -> None:
    program = compiled(Conditions(_game(), [1]), View("source", "s"))
    size = players // 8
    units = [Unit.of(program, 7, first, size, events, NO_MARKS) for first in range(0, players, size)]
    for _ in executor.map(played, units):
        pass


def _game():  # type: ignore[no-untyped-def]
    items = [{"id": f"i{at}", "name": "I", "tier": "t", "value": VALUES[at]} for at in range(LINES)]
    lines = [{"id": f"l{at}", "weight": WEIGHTS[at], "yields": [{"item": f"i{at}"}]} for at in range(LINES)]
    return read_game(
        {
            "format": "golddice-game",
            "version": 1,
            "name": "Bench",
            "tiers": [{"id": "t", "name": "T"}],
            "items": items,
            "tables": [{"id": "t", "name": "T", "rule": "pick", "nothing": BLANK, "lines": lines}],
            "sources": [{"id": "s", "name": "S", "kind": "enemy", "drops": [{"id": "a", "table": "t"}]}],
        }
    )


def _numpy(players: int, events: int, batch: int = 100) -> None:
    """In batches that stay in cache, which is its best."""
    rng = np.random.default_rng(7)
    for _ in range(0, players, batch):
        _numpy_batch(rng, batch, events)


def _numpy_batch(rng: np.random.Generator, players: int, events: int) -> tuple[IntArray, FloatArray]:
    p = np.array([*WEIGHTS, BLANK]) / (sum(WEIGHTS) + BLANK)
    drawn = rng.choice(LINES + 1, size=(players, events), p=p)
    key = (drawn + np.arange(players)[:, None] * (LINES + 1)).ravel()
    counts = np.bincount(key, minlength=players * (LINES + 1)).reshape(players, -1)[:, :LINES]
    value = counts @ np.array(VALUES, dtype=np.float64)
    order = np.argsort(key, kind="stable")
    event, group = order % events + 1, key[order]
    starts = np.concatenate([[0], np.flatnonzero(np.diff(group)) + 1])
    before = np.concatenate([[0], event[:-1]])
    before[starts] = 0
    first = np.zeros(players * (LINES + 1), dtype=np.int64)
    first[group[starts]] = event[starts]
    drought = np.full(players * (LINES + 1), events)
    drought[group[starts]] = np.maximum.reduceat(event - before - 1, starts)
    ends = np.concatenate([starts[1:] - 1, [group.size - 1]])
    drought[group[ends]] = np.maximum(drought[group[ends]], events - event[ends])
    return counts, value


def _loop(players: int, events: int) -> None:
    names = list(range(LINES + 1))
    cumulative = np.cumsum([*WEIGHTS, BLANK]).tolist()
    rng = random.Random(7)
    for _ in range(players):
        counts, first, last, drought = ([0] * LINES for _ in range(4))
        value = 0
        for event in range(1, events + 1):
            drawn = rng.choices(names, cum_weights=cumulative)[0]
            if drawn == LINES:
                continue
            counts[drawn] += 1
            value += VALUES[drawn]
            if not first[drawn]:
                first[drawn] = event
            drought[drawn] = max(drought[drawn], event - last[drawn] - 1)
            last[drawn] = event
        for item in range(LINES):
            drought[item] = max(drought[item], events - last[item])


if __name__ == "__main__":
    main()
