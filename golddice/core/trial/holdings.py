"""What a player carries after some events, by name: misses of guards, hits of limits, cards left."""

from __future__ import annotations

from dataclasses import dataclass

from golddice.core.arrays import IntArray
from golddice.core.game.models import Game
from golddice.core.trial import program as p
from golddice.core.trial.compiling import Compiled


@dataclass(frozen=True)
class Held:
    """Of one line (`table`, `line`) or one drop (`source`, `line`); None where it carries no such.

    misses : rolls in a row without a hit. hits : of a limited line so far. left, of : cards of a deck
    line that are still in, and its copies.
    """

    table: str | None
    source: str | None
    line: str
    misses: int | None = None
    hits: int | None = None
    left: int | None = None
    of: int | None = None


def holdings(game: Game, compiled: Compiled, state: IntArray) -> list[Held]:
    """Everything carried, in file order. `state` is a player's, as the kernel leaves it."""
    tables = {table.id: table for table in game.tables}
    sources = {source.id: source for source in game.sources}
    code = compiled.program.code
    found: list[Held] = []
    for row, (name, at) in enumerate(compiled.lines):
        line = code[code[p.A_LINES] + row * p.LINE_FIELDS :]
        deck = tables[name].rule == "deck"
        guard, limit = int(line[p.L_GUARD]), int(line[p.L_HITS])
        if guard < 0 and limit < 0 and not deck:
            continue
        found.append(
            Held(
                name,
                None,
                tables[name].lines[at].id,
                int(state[code[p.S_MISSES] + guard]) if guard >= 0 else None,
                int(state[code[p.S_HITS] + limit]) if limit >= 0 else None,
                int(state[code[p.S_LEFT] + row]) if deck else None,
                int(line[p.L_COPIES]) if deck else None,
            )
        )
    for row, (name, at) in enumerate(compiled.drops):
        guard = int(code[code[p.A_DROPS] + row * p.DROP_FIELDS + p.D_GUARD])
        if guard >= 0:
            misses = int(state[code[p.S_MISSES] + guard])
            found.append(Held(None, name, sources[name].drops[at].id, misses))
    return found
