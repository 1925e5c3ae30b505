"""(j) A game of 20 000 revisions: opening it, an edit, undo, its history and looking back, beside the same
game with one revision.
"""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable

from golddice.core.game.editing import Entry
from golddice.files.game_file import read_game_file
from golddice.server.settings import DEMO
from golddice.store.games import Games
from tests.support import database

REVISIONS = 20_000
TIMES = 7


def main(revisions: int = REVISIONS) -> None:
    base = database()
    game = read_game_file(DEMO)
    for name, many in (("1 revision", 1), (f"{revisions:,} revisions", revisions)):
        games = Games(base)
        row = games.create(game)
        bodies = games.load(row.id).entities.bodies["item"]
        names = list(bodies)
        for at in range(1, many):
            item = names[at % len(names)]
            games.change(row.id, at, [Entry("item", item, {**bodies[item], "value": float(at)})], "value")
        _told(name, Games(base), row.id, many, {**bodies[names[0]], "value": 7.5})


def _told(name: str, games: Games, game: str, many: int, body: dict[str, object]) -> None:
    def cold() -> None:
        Games(games._database).load(game)

    def back(revision: int) -> Callable[[], None]:
        return lambda: void(Games(games._database).load(game, revision))

    def edit() -> None:
        now = games.load(game).revision
        games.change(game, now, [Entry("item", str(body["id"]), {**body, "value": time.time()})], "edit")

    timed = {
        "open": cold,
        "history": lambda: void(games.history(game)),
        "edit": edit,
        "undo": lambda: void(games.undo(game)),
    }
    if many > 1:
        timed |= {"look back to 1": back(1), "look back halfway": back(many // 2)}
    for what, run in timed.items():
        print(f"{name:18} {what:20} {1000 * _median(run):7.0f} ms", flush=True)


def void(_: object) -> None:
    return None


def _median(run: Callable[[], None]) -> float:
    found = []
    for _ in range(TIMES):
        start = time.perf_counter()
        run()
        found.append(time.perf_counter() - start)
    return statistics.median(found)


if __name__ == "__main__":
    main()
