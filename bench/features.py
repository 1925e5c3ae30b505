"""Rolls a second with every feature in use: all rules, guards, limits, decks, pools, dice, nesting.

The rival is the same rolls in the plain source of `events`, which uses none of them. Rolls are
counted in the trace of one player: every roll of a table, and every test of a line.
"""

from __future__ import annotations

from concurrent.futures import Executor
from typing import Any

import numpy as np

from bench.events import NO_MARKS
from bench.timing import in_turns
from golddice.core.game.models import Game
from golddice.core.game.reading import read_game
from golddice.core.game.views import View
from golddice.core.terms.conditions import Conditions
from golddice.core.trial import notes
from golddice.core.trial.compiling import Compiled, compiled
from golddice.core.trial.playing import Unit, played, played_with_trace
from golddice.core.trial.trial import local_executor

PLAYERS, EVENTS = 4_000, 500
ONE = {"min": 1, "max": 1}


def game() -> Game:
    """One source whose drops reach a table of each rule, all of them with something carried."""

    def line(at: int, given: list[dict[str, Any]], **more: Any) -> dict[str, Any]:
        return {"id": f"l{at}", "yields": given, **more}

    items = [{"item": f"i{at}", "quantity": {"min": 1, "max": 3}} for at in range(6)]
    tables: list[dict[str, Any]] = [
        {
            "id": "outer",
            "rule": "pick",
            "nothing": 10,
            "rolls": {"min": 1, "max": 3},
            "lines": [
                line(0, [items[0]], weight=30, curve="c"),
                line(1, [{"table": "all"}], weight=20),
                line(2, [{"pool": {"tags": ["g"]}, "quantity": {"dice": "1d3"}}, items[1]], weight=20),
                line(3, [items[2]], weight=1, guard={"after": 5, "rise": 0.2, "sure_at": 40}),
            ],
        },
        {"id": "all", "rule": "each", "lines": [line(at, [items[at]], chance=0.3) for at in range(4)]},
        {
            "id": "set",
            "rule": "pick",
            "distinct": True,
            "rolls": {"min": 2, "max": 2},
            "lines": [line(at, [items[at]], weight=at + 1) for at in range(5)],
        },
        {
            "id": "row",
            "rule": "first",
            "lines": [line(at, [items[at]], chance=0.1 * (at + 1)) for at in range(4)],
        },
        {
            "id": "tries",
            "rule": "retry",
            "tries": 3,
            "lines": [line(at, [items[at]], weight=1, chance=0.2) for at in range(4)],
        },
        {"id": "cards", "rule": "deck", "lines": [line(at, [items[at]], copies=at + 1) for at in range(4)]},
    ]
    tables[1]["lines"][0] |= {"limit": 1}
    drops = [
        {"id": table["id"], "table": table["id"], "chance": 0.8} for table in tables if table["id"] != "all"
    ]
    drops[1] |= {"guard": {"sure_at": 3}}
    return read_game(
        {
            "format": "golddice-game",
            "version": 1,
            "name": "Bench",
            "curves": [{"id": "c", "name": "C", "points": [[1, 0.7]]}],
            "tiers": [{"id": "t", "name": "T"}],
            "items": [
                {"id": f"i{at}", "name": "I", "tier": "t", "tags": ["g"], "value": at} for at in range(6)
            ],
            "tables": [{**table, "name": table["id"]} for table in tables],
            "sources": [{"id": "s", "name": "S", "kind": "enemy", "drops": drops}],
        }
    )


def rolls_an_event(program: Compiled) -> float:
    """Mean over one player's events: rolls that draw a line or card, and lines tested."""
    _, trace, _ = played_with_trace(Unit.of(program, 7, 0, 1, 200, NO_MARKS))
    kinds = trace[1 : int(trace[0, 0]) + 1, 0]
    drawn = (notes.N_PICK, notes.N_TEST, notes.N_CARD, notes.N_DUE)
    return float(np.isin(kinds, drawn).sum()) / 200


def _play(executor: Executor, program: Compiled) -> None:
    size = PLAYERS // 8
    units = [Unit.of(program, 7, first, size, EVENTS, NO_MARKS) for first in range(0, PLAYERS, size)]
    for _ in executor.map(played, units):
        pass


def main() -> None:
    program = compiled(Conditions(game(), [1]), View("source", "s"))
    each = rolls_an_event(program)
    with local_executor(2) as two, local_executor(1) as one:
        both, alone = in_turns(5, lambda: _play(two, program), lambda: _play(one, program))
    events = PLAYERS * EVENTS
    print(f"{each:.1f} rolls an event; {events / both / 1e6:.2f} million events a second on two cores")
    print(f"two cores {events * each / both / 1e6:6.1f} million rolls a second")
    print(f"one core  {events * each / alone / 1e6:6.1f}")


if __name__ == "__main__":
    main()
