"""One edit of a source in a big game of which half of the sources are kin of one, in the core.

The rival is the same edit of the same game with every source written out; both in turns.
"""

from __future__ import annotations

import time
from collections.abc import Sequence

from bench.big import big_game
from golddice.core.game.editing import Entities, Entry
from golddice.core.game.reading import plain_game, read_game

TURNS = 300


def main() -> None:
    written_out = plain_game(big_game())
    names = [one["id"] for one in written_out["sources"]]
    elder, kin, outsider = names[0], names[1::2], names[2]
    as_kin = [
        {"id": one["id"], "name": one["name"], "like": elder} if one["id"] in kin else one
        for one in written_out["sources"]
    ]
    games = Entities.of(read_game(written_out)), Entities.of(read_game({**written_out, "sources": as_kin}))
    print(f"least of {TURNS} edits, {len(kin)} of {len(names)} sources kin of one:")
    for what, without, with_ in (
        ("a source outside of the family", [outsider], [outsider]),
        ("one of the kin", [kin[0]], [kin[0]]),
        ("their elder (without: all of them)", [elder, *kin], [elder]),
    ):
        first, second = _least(games, (without, with_))
        print(f"  {what:<36} {1e3 * second:7.3f} ms, written out {1e3 * first:7.3f} ms")


def _least(games: tuple[Entities, Entities], names: tuple[Sequence[str], Sequence[str]]) -> list[float]:
    now, least = list(games), [float("inf")] * 2
    for turn in range(TURNS):
        for at, touched in enumerate(names):
            bodies = ((name, dict(now[at].bodies["source"][name])) for name in touched)
            entries = [Entry("source", name, {**body, "seconds": turn + 1.0}) for name, body in bodies]
            began = time.perf_counter()
            now[at] = now[at].edited(entries)
            now[at].game()
            least[at] = min(least[at], time.perf_counter() - began)
    return least
