"""Random games whose logs can have every fault, and the faults planted in their logs."""

from __future__ import annotations

import csv
import random
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import numpy as np

from golddice.core.exchange.logs.checking import check_log
from golddice.core.exchange.logs.making import COLUMNS, log_of_source
from golddice.core.exchange.logs.reading import read_log
from golddice.core.exchange.logs.rivals import Rivals
from golddice.core.game.models import Game
from golddice.core.game.reading import read_game
from golddice.core.game.views import View

Row = list[Any]
EVENT, TIME, PLAYER, SOURCE, INSTANCE, DEPTH, FLAGS, ITEM, QUANTITY = range(9)
PLAYERS, EVENTS = 30, 60


def random_game(luck: random.Random) -> Game:
    """A chest and an enemy that roll some tables of all sorts; and one table each with a range (of shells), a
    limit (of crowns) and a promise (of lenses)."""
    names = [f"i{at}" for at in range(luck.randint(2, 5))]
    tables = [_table(luck, f"t{at}", names) for at in range(luck.randint(1, 3))]
    low = luck.randint(1, 3)
    shells = {"min": low, "max": low + luck.randint(2, 4)}
    tables += [
        _pick("shells", "shell", luck.uniform(0.3, 0.9), quantity=shells),
        _pick("crowns", "crown", luck.uniform(0.2, 0.8), limit=luck.randint(1, 3)),
        _pick("lenses", "lens", luck.uniform(0.05, 0.4), guard={"after": 2, "sure_at": luck.randint(4, 12)}),
    ]
    every = [*names, "shell", "crown", "lens", "never"]
    drops = [
        {
            "id": table["id"],
            "table": table["id"],
            "chance": luck.choice([1.0, round(luck.uniform(0.3, 1), 2)]),
        }
        for table in tables
    ]
    drops[-1]["chance"] = 1.0  # a promise is one of rolls that are made
    return read_game(
        {
            **{"format": "golddice-game", "version": 1, "name": "Random"},
            "tiers": [{"id": "t", "name": "T"}],
            "items": [{"id": name, "name": name.title(), "tier": "t", "value": 1} for name in every],
            "tables": tables,
            "sources": [
                {"id": "eel", "name": "Eel", "kind": "enemy", "drops": drops},
                {"id": "chest", "name": "Chest", "kind": "container", "drops": drops},
            ],
        }
    )


def _table(luck: random.Random, name: str, items: list[str]) -> dict[str, Any]:
    rule = luck.choice(["pick", "each", "first"])
    lines = [
        {
            "id": f"l{at}",
            "weight" if rule == "pick" else "chance": round(luck.uniform(0.05, 0.9), 3),
            "yields": [{"item": item, "quantity": {"min": 1, "max": luck.randint(1, 3)}}],
        }
        for at, item in enumerate(items)
    ]
    more = {"nothing": round(luck.uniform(0, 2), 2)} if rule == "pick" else {}
    return {"id": name, "name": name.title(), "rule": rule, "lines": lines, **more}


def _pick(name: str, item: str, chance: float, quantity: Any = None, **more: Any) -> dict[str, Any]:
    given = {"item": item} | ({"quantity": quantity} if quantity else {})
    line = {"id": "a", "weight": chance, "yields": [given], **more}
    return {"id": name, "name": name.title(), "rule": "pick", "lines": [line], "nothing": 1 - chance}


def rows_of(game: Game, source: str, seed: int) -> list[Row]:
    given = {"depth": game.depth.from_, "flags": (), "players": PLAYERS, "events": EVENTS, "seed": seed}
    return [list(row) for row in log_of_source(game, source, **given)]


def held(game: Game, rows: list[Row], path: Path) -> dict[str, Any]:
    with path.open("w", encoding="utf-8", newline="") as file:
        csv.writer(file).writerows([COLUMNS, *rows])
    return check_log(game, read_log(game, path))


Plant = Callable[[Game, list[Row], random.Random], list[Row]]


def _twice(_: Game, rows: list[Row], luck: random.Random) -> list[Row]:
    again = set(luck.sample(sorted({row[EVENT] for row in rows}), 3))
    return rows + [list(row) for row in rows if row[EVENT] in again]


def _reopened(_: Game, rows: list[Row], luck: random.Random) -> list[Row]:
    again = luck.choice(rows)[INSTANCE]
    later = [list(row) for row in rows if row[INSTANCE] == again]
    for row in later:
        row[EVENT], row[TIME] = "again", row[TIME] + 500.0
    return rows + later


def _cannot_fall(_: Game, rows: list[Row], luck: random.Random) -> list[Row]:
    row = luck.choice(rows)
    return [*rows, [*row[:ITEM], "never", 1]]


def _same_results(_: Game, rows: list[Row], __: random.Random) -> list[Row]:
    first = rows[0][PLAYER]
    one = [row for row in rows if row[PLAYER] == first]
    return [
        [f"{player}/{row[EVENT]}", row[TIME], player, row[SOURCE], f"{player}/{row[INSTANCE]}", *row[DEPTH:]]
        for player in range(PLAYERS)
        for row in one
    ]


def _shells(game: Game) -> Any:
    return next(table for table in game.tables if table.id == "shells").lines[0].yields[0].quantity


def _outside_range(game: Game, rows: list[Row], luck: random.Random) -> list[Row]:
    luck.choice([row for row in rows if row[ITEM] == "shell"])[QUANTITY] = _shells(game).max + 1
    return rows


def _missing_end(game: Game, rows: list[Row], luck: random.Random) -> list[Row]:
    """A range whose end the code leaves out."""
    low, high = _shells(game).min, _shells(game).max
    gone, instead = luck.choice([(low, low + 1), (high, high - 1)])
    for row in rows:
        if row[ITEM] == "shell" and row[QUANTITY] == gone:
            row[QUANTITY] = instead
    return rows


def _over_limit(game: Game, rows: list[Row], luck: random.Random) -> list[Row]:
    limit = next(table for table in game.tables if table.id == "crowns").lines[0].limit or 0
    player = luck.choice(rows)[PLAYER]
    mine = [row for row in rows if row[PLAYER] == player]
    return rows + [[*row[:ITEM], "crown", 1] for row in luck.sample(mine, limit + 1)]


def _late_guard(game: Game, rows: list[Row], luck: random.Random) -> list[Row]:
    """A counter that was reset: a player's promise is broken once."""
    guard = next(table for table in game.tables if table.id == "lenses").lines[0].guard
    assert guard is not None and guard.sure_at is not None
    player = luck.choice(rows)[PLAYER]
    events = list(dict.fromkeys(row[EVENT] for row in rows if row[PLAYER] == player))
    first = luck.randrange(len(events) - guard.sure_at)
    without = set(events[first : first + guard.sure_at])
    for row in rows:
        if row[EVENT] in without and row[ITEM] == "lens":
            row[ITEM], row[QUANTITY] = "", ""
    return rows


PLANTS: dict[str, tuple[str, Plant]] = {
    "twice": ("eel", _twice),
    "reopened": ("chest", _reopened),
    "cannot-fall": ("eel", _cannot_fall),
    "same-results": ("eel", _same_results),
    "outside-range": ("eel", _outside_range),
    "missing-end": ("eel", _missing_end),
    "over-limit": ("eel", _over_limit),
    "late-guard": ("eel", _late_guard),
}


def tried(games: int, seed: int, path: Path) -> Iterator[tuple[str, bool]]:
    """Of each game every fault and whether it was found; "none", whether anything was said without one."""
    luck = random.Random(seed)
    for at in range(games):
        game = random_game(luck)
        both = {source: rows_of(game, source, seed + at) for source in ("eel", "chest")}
        yield "none", any(not held(game, rows, path)["agrees"] for rows in both.values())
        for fault, (source, plant) in PLANTS.items():
            rows = plant(game, [list(row) for row in both[source]], luck)
            yield fault, fault in {one["fault"] for one in held(game, rows, path)["faults"]}


# --- which table is it really? -----------------------------------------------------------------------------


def game_of_many(luck: random.Random) -> Game:
    """Five sources that roll one or two tables of their own, of the same few items."""
    names = [f"i{at}" for at in range(luck.randint(3, 6))]
    tables = [_table(luck, f"t{at}", names) for at in range(8)]
    sources = [
        {
            "id": f"s{at}",
            "name": f"S{at}",
            "kind": "enemy",
            "drops": [
                {"id": one["id"], "table": one["id"]} for one in luck.sample(tables, luck.randint(1, 2))
            ],
        }
        for at in range(5)
    ]
    return read_game(
        {
            **{"format": "golddice-game", "version": 1, "name": "Random"},
            "tiers": [{"id": "t", "name": "T"}],
            "items": [{"id": name, "name": name.title(), "tier": "t", "value": 1} for name in names],
            "tables": tables,
            "sources": sources,
        }
    )


def named(games: int, seed: int, path: Path) -> Iterator[tuple[bool, bool]]:
    """Of logs in which one source rolls what another does: whether it is told at all that there is a likelier
    one, and whether what it truly is, or what has the same odds, stands first."""
    luck = random.Random(seed)
    for at in range(games):
        game = game_of_many(luck)
        said, truly = luck.sample([one.id for one in game.sources], 2)
        rows = rows_of(game, truly, seed + at)
        for row in rows:
            row[SOURCE] = said
        group = held(game, rows, path)["sources"][0]
        known = Rivals(game, [game.depth.from_]).under(frozenset())
        first = group["better"][0] if group["better"] else None
        yield (
            first is not None,
            first is not None
            and first["each"] is None
            and bool(
                np.allclose(known[View(first["kind"], first["id"])], known[View("source", truly)], atol=1e-12)
            ),
        )
