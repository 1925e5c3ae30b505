"""(e) Random games at the edge: huge and tiny chances, weights, limits, promises, quantities, values, events.

Each is asked in a process of its own, as `golddice odds` would be, with 1 GB and 30 seconds. Told are
crashes, figures called exact that differ from the oracle's by more than 1e-9, the longest and the largest.
`python -m bench edges` takes 1,000 games; `python -m bench.edges 50 7` takes 50, from seed 7 on.
"""

from __future__ import annotations

import json
import math
import multiprocessing
import random
import resource
import signal
import sys
import tempfile
import time
import traceback
from collections import Counter
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

from golddice.core.errors import GoldDiceError
from golddice.core.game.models import Game
from golddice.core.game.reading import read_game
from golddice.core.game.views import View
from golddice.core.sheets.report import odds
from golddice.core.warm import warm
from tests.games import game_data
from tests.oracle import Oracle, TooMany

GAMES = 1_000
SECONDS, BYTES = 30, 2**30
ORACLE = 5  # seconds
_CRAB = View("source", "crab")
_CHANCES = (0.0, 1e-12, 1e-9, 1e-6, 0.001, 0.3, 0.5, 0.97, 1 - 1e-6, 1 - 1e-9, 1.0)
_WEIGHTS = (0.0, 1e-9, 1e-6, 0.1, 1.0, 7.0, 1e4, 1e9)
_COUNTS = (1, 2, 3, 7, 50, 1_000, 10**6)
_VALUES = (0.0, 1e-6, 0.37, 1.0, 50.0, 12345.678, 1e9, 1e12)
_EVENTS = (None, None, 1, 17, 300, 10_000, 10**6)
_ITEMS = ("sand", "claw", "lens", "crown")


class _Made:
    """One game, and how many events are asked about."""

    def __init__(self, seed: int) -> None:
        self.luck = random.Random(seed)
        self.events = self.luck.choice(_EVENTS)

    def game(self) -> dict[str, Any]:
        names = [f"t{at}" for at in range(self.luck.choice([1, 1, 2, 3]))]
        tables = [self._table(name, names[at + 1 :]) for at, name in enumerate(names)]
        drops = [self._drop(at, names) for at in range(self.luck.choice([1, 1, 2, 3]))]
        crab = {"id": "crab", "name": "Crab", "kind": "enemy", "drops": drops}
        items = [
            {"id": one, "name": one, "tier": "silt", "value": self.luck.choice(_VALUES)} for one in _ITEMS
        ]
        return game_data(tables, sources=[crab], items=items)

    def _drop(self, at: int, names: list[str]) -> dict[str, Any]:
        drop = {
            "id": f"d{at}",
            "table": self.luck.choice(names),
            "chance": self.luck.choice([1.0, 1.0, 0.5, 1e-6]),
        }
        if self.luck.random() < 0.2:
            drop["guard"] = self._guard()
        if self.luck.random() < 0.3:
            drop["times"] = self._quantity((0, 1, 2, 5, 50))
        return drop

    def _table(self, name: str, inner: list[str]) -> dict[str, Any]:
        rule = self.luck.choice(["pick", "each", "first", "retry", "deck"])
        table: dict[str, Any] = {"id": name, "name": name, "rule": rule}
        if self.luck.random() < 0.4:
            table["rolls"] = self._quantity((0, 1, 2, 3, 20))
        if rule == "pick":
            table["nothing"] = self.luck.choice(_WEIGHTS)
            table["distinct"] = self.luck.random() < 0.2
        if rule == "retry":
            table["tries"] = self.luck.choice([1, 2, 5])
        many = self.luck.choice([1, 2, 3, 4, 8])
        return {**table, "lines": [self._line(rule, at, inner) for at in range(many)]}

    def _line(self, rule: str, at: int, inner: list[str]) -> dict[str, Any]:
        line: dict[str, Any] = {"id": f"l{at}"}
        if rule in ("pick", "retry"):
            line["weight"] = self.luck.choice(_WEIGHTS)
        if rule in ("each", "first", "retry"):
            line["chance"] = self.luck.choice(_CHANCES)
        if rule == "deck":
            line["copies"] = self.luck.choice([0, 1, 2, 5, 20])
        if self.luck.random() < 0.15:
            line["limit"] = self.luck.choice(_COUNTS)
        if rule != "deck" and self.luck.random() < 0.2:
            line["guard"] = self._guard()
        given = {"table": self.luck.choice(inner)} if inner and self.luck.random() < 0.3 else None
        one = given or {"item": self.luck.choice(_ITEMS)}
        line["yields"] = [{**one, "quantity": self._quantity((0, 1, 1, 1, 2, 9, 300, 10**6))}]
        if given:
            line["yields"][0]["quantity"] = self._quantity((0, 1, 1, 2))
        return line

    def _guard(self) -> dict[str, Any]:
        guard: dict[str, Any] = {
            "after": self.luck.choice([0, 1, 10, 1_000, 10**5]),
            "rise": self.luck.choice([0.0, 1e-9, 0.001, 0.1, 5.0]),
        }
        if self.luck.random() < 0.6:
            guard["sure_at"] = self.luck.choice([1, 2, 10, 500, 20_000, 10**6])
        return guard

    def _quantity(self, ends: tuple[int, ...]) -> dict[str, int]:
        low, high = sorted(self.luck.choices(ends, k=2))
        if high - low > 1_000:
            return {"min": low, "max": high, "step": high - low}
        return {"min": low, "max": high}


def main(count: int = GAMES, first: int = 0) -> None:
    warm()
    verdicts: Counter[str] = Counter()
    slowest: list[tuple[float, int]] = []
    largest: list[tuple[float, int]] = []
    for seed in range(first, first + count):
        verdict, took, grew, detail = _asked_apart(seed)
        verdicts[verdict] += 1
        slowest.append((took, seed))
        largest.append((grew, seed))
        if verdict in ("crashed", "differs", "killed"):
            with tempfile.NamedTemporaryFile("w", suffix=".golddice.json", delete=False) as file:
                json.dump(_Made(seed).game(), file)
            print(f"{verdict}, seed {seed}, events {_Made(seed).events}: {detail}; {file.name}", flush=True)
    print(", ".join(f"{many} {verdict}" for verdict, many in verdicts.most_common()))
    print("longest:", ", ".join(f"{took:.1f} s (seed {seed})" for took, seed in sorted(slowest)[-5:]))
    print("largest:", ", ".join(f"{grew:.0f} MB (seed {seed})" for grew, seed in sorted(largest)[-5:]))


def _asked_apart(seed: int) -> tuple[str, float, float, str]:
    """What became of a game, seconds and megabytes of its own, and what there is to say."""
    here, there = multiprocessing.Pipe(duplex=False)
    process = multiprocessing.get_context("fork").Process(target=_child, args=(seed, there))
    began = time.perf_counter()
    process.start()
    there.close()
    found = ("killed", time.perf_counter() - began, 0.0, "nothing was told")
    if here.poll(SECONDS + ORACLE):
        try:
            found = here.recv()
        except EOFError:
            found = ("killed", time.perf_counter() - began, 0.0, "it ended without a word")
    else:
        found = ("killed", float(SECONDS + ORACLE), 0.0, "it took too long")
    process.kill()
    process.join()
    return found


def _child(seed: int, there: Any) -> None:
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    resource.setrlimit(resource.RLIMIT_AS, (_size() + BYTES, _size() + BYTES))
    began = time.perf_counter()
    verdict, detail, compare = _asked(seed)
    took = time.perf_counter() - began
    grew = (resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before) / 1024
    signal.signal(signal.SIGALRM, _too_long)
    signal.alarm(ORACLE)  # which plays out in full what it can
    try:
        off = compare()
    except (TimeoutError, MemoryError):
        off = []
    there.send(("differs" if off else verdict, took, grew, "; ".join(off[:3]) or detail))


def _too_long(*_: object) -> None:
    raise TimeoutError


def _size() -> int:
    return int(Path("/proc/self/statm").read_text().split()[0]) * resource.getpagesize()


def _asked(seed: int) -> tuple[str, str, Callable[[], list[str]]]:
    """The verdict, what there is to say, and how to look for what differs."""
    made = _Made(seed)
    try:
        game = read_game(made.game())
        report = odds(game, _CRAB, events=made.events)
    except GoldDiceError as error:
        return "refused", str(error), list
    except BaseException:
        return "crashed", traceback.format_exc()[-600:], list
    return report["method"], "", lambda: list(_differences(game, report))


def _differences(game: Game, report: dict[str, Any]) -> Iterator[str]:
    yield from _unsound(report)
    if report["method"] != "exact":
        return
    oracle = Oracle(game, game.depth.from_)
    try:
        chances = oracle.events("crab", 1)
    except TooMany:
        return
    for item, at in oracle.items.items():
        found = report["items"][item]
        some = math.fsum(p for (_, bag), p in chances.items() if bag[at])
        mean = math.fsum(p * bag[at] for (_, bag), p in chances.items())
        for name, got, wanted in (("p_any", found["p_any"], some), ("mean", found["mean"], mean)):
            if abs(got - wanted) > 1e-9 * max(abs(wanted), 1e-15):
                yield f"{name} of {item} {got!r} for {wanted!r}"


def _unsound(told: Any, path: str = "") -> Iterator[str]:
    """Figures that no game can have."""
    if isinstance(told, dict):
        for key, one in told.items():
            yield from _unsound(one, f"{path}.{key}")
    elif isinstance(told, float):
        is_chance = path.rsplit(".", 1)[-1].startswith("p_")
        if not math.isfinite(told) or (is_chance and not -1e-12 <= told <= 1 + 1e-12):
            yield f"{path} is {told}"


if __name__ == "__main__":
    main(*map(int, sys.argv[1:]))
