"""A big game: 2 000 items, 500 tables nested up to 6 deep, 200 sources; and games larger than that.

The rival of "after one edit" is the same from nothing; growth is told as time and memory per line.
"""

from __future__ import annotations

import random
import time
import tracemalloc
from typing import Any

from bench.timing import forget, seconds
from golddice.core.game.editing import Entities, Entry
from golddice.core.game.models import Game
from golddice.core.game.reading import read_game
from golddice.core.game.views import View
from golddice.core.odds.carried.prospect import Prospect
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.terms.conditions import Conditions

LEVELS = 6
RULES = ("pick", "pick", "pick", "each", "first", "retry")


def big_game(scale: float = 1.0, lines: int = 20, seed: int = 5, catalogue: float = 1.0) -> Game:
    """Reads like a real one: levels of tables, each giving items and tables of the next level.

    `scale` is of tables and sources, `catalogue` of items.
    """
    rng = random.Random(seed)
    items, tables, sources = int(2_000 * catalogue), int(500 * scale), int(200 * scale)
    data: dict[str, Any] = {
        "format": "golddice-game",
        "version": 1,
        "name": "Big",
        "depth": {"from": 1, "to": 100},
        "curves": [_curve(rng, at) for at in range(8)],
        "tiers": [{"id": f"t{at}", "name": f"T{at}", "curve": f"c{at}"} for at in range(5)],
        "items": [_item(rng, at) for at in range(items)],
        "tables": [_table(rng, at, tables, items, lines) for at in range(tables)],
        "sources": [_source(rng, at, tables) for at in range(sources)],
    }
    return read_game(data)


def _curve(rng: random.Random, at: int) -> dict[str, Any]:
    points = [[depth, round(rng.uniform(0.2, 3), 2)] for depth in (1, 25, 60, 100)]
    return {"id": f"c{at}", "name": f"C{at}", "shape": ("line", "step", "ease")[at % 3], "points": points}


def _item(rng: random.Random, at: int) -> dict[str, Any]:
    tags = [f"tag{at % 20}"]
    return {
        "id": f"i{at}",
        "name": f"I{at}",
        "tier": f"t{at % 5}",
        "tags": tags,
        "value": rng.randint(1, 900),
    }


def _table(rng: random.Random, at: int, tables: int, items: int, lines: int) -> dict[str, Any]:
    rule = rng.choice(RULES)
    size = tables // LEVELS
    level = min(LEVELS - 1, at // size)
    every = []
    for row in range(lines):
        line: dict[str, Any] = {"id": f"l{row}"}
        if rule in ("pick", "retry"):
            line["weight"] = rng.randint(1, 100)
        if rule != "pick":
            line["chance"] = round(rng.uniform(0.01, 0.4), 3)
        nested = row % 10 == 0 and level < LEVELS - 1
        if nested:
            line["yields"] = [{"table": f"b{min(tables - 1, (level + 1) * size + rng.randrange(size))}"}]
        elif row % 10 == 5:
            pool = {"tags": [f"tag{rng.randrange(20)}"]}
            line["yields"] = [{"pool": pool}]
        else:
            quantity = {"min": 1, "max": rng.randint(1, 4)}
            line["yields"] = [{"item": f"i{rng.randrange(items)}", "quantity": quantity}]
        if row % 7 == 0:
            line["curve"] = f"c{rng.randrange(8)}"
        every.append(line)
    table: dict[str, Any] = {"id": f"b{at}", "name": f"B{at}", "rule": rule, "lines": every}
    table["rolls"] = {"min": 1, "max": rng.randint(1, 2)}
    return table | ({"nothing": 50} if rule == "pick" else {"tries": 3} if rule == "retry" else {})


def _source(rng: random.Random, at: int, tables: int) -> dict[str, Any]:
    level = tables // LEVELS
    drops = [
        {"id": f"d{row}", "table": f"b{rng.randrange(level)}", "chance": round(rng.uniform(0.1, 1), 2)}
        for row in range(3)
    ]
    return {"id": f"s{at}", "name": f"S{at}", "kind": "enemy", "drops": drops}


def every_source(game: Game, depth: int = 14) -> None:
    """From nothing."""
    forget()
    evaluator = Evaluator(Conditions(game, [depth]), detail=False)
    for source in game.sources:
        _ = Prospect(evaluator, View("source", source.id)).outcome


def main() -> None:
    game = big_game()
    cold = seconds(lambda: every_source(game), 3)
    print(f"all 200 sources at one depth, from nothing  {cold:8.2f} s")
    _after_one_edit(game, cold)
    # More lines a table, more tables; last the catalogue too, of which pools give every table more.
    for scale, lines, catalogue in ((1, 20, 1), (1, 40, 1), (1, 80, 1), (2, 20, 1), (4, 20, 1), (2, 20, 2)):
        grown = big_game(scale, lines, catalogue=catalogue)
        count = sum(len(table.lines) for table in grown.tables)
        took = seconds(lambda grown=grown: every_source(grown), 3)  # type: ignore[misc]
        held = _memory(grown)
        print(
            f"{count:8,} lines, {lines} a table, {len(grown.items):,} items:  "
            f"{took:6.2f} s, {1e6 * took / count:6.1f} µs a line; "
            f"at most {held / 2**20:6.1f} MB, {held / count / 1024:5.2f} kB a line"
        )


def _memory(game: Game) -> int:
    """The most bytes that working out all sources holds at a time, the game aside."""
    tracemalloc.start()
    every_source(game)
    _, most = tracemalloc.get_traced_memory()
    tracemalloc.stop()
    return most


def _after_one_edit(game: Game, cold: float) -> None:
    entities = Entities.of(game)
    body = entities.bodies["table"]["b3"]
    view = next(s.id for s in game.sources if any(drop.table == "b3" for drop in s.drops))
    turn = iter(range(10**6))

    def edit(detail: bool) -> None:
        entry = Entry("table", "b3", {**body, "rolls": {"min": 1, "max": 2 + next(turn) % 5}})
        edited = entities.edited([entry]).game()
        evaluator = Evaluator(Conditions(edited, [14]), detail=detail)
        _ = Prospect(evaluator, View("source", view)).outcome

    for detail, name in ((False, "totals only"), (True, "with every line's share")):
        took = seconds(lambda detail=detail: edit(detail), 15)  # type: ignore[misc]
        print(f"one source after one edit, {name:24}{1000 * took:8.1f} ms   {cold / took:.0f} times")


if __name__ == "__main__":
    start = time.perf_counter()
    main()
