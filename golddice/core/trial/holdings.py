"""What a player carries after some events, by name: misses of guards, hits of limits, cards left."""

from __future__ import annotations

from dataclasses import dataclass

from golddice.core.arrays import IntArray
from golddice.core.game.finding import by_id
from golddice.core.game.models import DeckLine, Game, Table
from golddice.core.terms.layout import Held as Kind
from golddice.core.terms.layout import Slot
from golddice.core.trial import program as p
from golddice.core.trial.compiling import Compiled

KINDS: tuple[Kind, ...] = ("misses", "hits", "left")


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
    numbers = state[int(compiled.program.code[p.S_CARRIED]) :][: compiled.layout.size].tolist()
    carried = dict(zip(compiled.layout.slots, numbers, strict=True))
    found: list[Held] = []
    for name, at in compiled.lines:
        table, line = tables[name], tables[name].lines[at]
        own = {kind: carried.get(Slot(kind, "table", name, line.id)) for kind in KINDS}
        if any(value is not None for value in own.values()):
            copies = line.copies if isinstance(line, DeckLine) else None
            left = _left(table, carried, own["left"], copies)
            found.append(Held(name, None, line.id, own["misses"], own["hits"], left, copies))
    for name, at in compiled.drops:
        drop = by_id(game.sources, name).drops[at]
        misses = carried.get(Slot("misses", "source", name, drop.id))
        if misses is not None:
            found.append(Held(None, name, drop.id, misses))
    return found


def _left(table: Table, carried: dict[Slot, int], left: int | None, copies: int | None) -> int | None:
    """Cards left of a line; a deck without cards is a full one, shuffled before the next is drawn."""
    if left is None or copies is None:
        return None
    every = sum(carried[Slot("left", "table", table.id, line.id)] for line in table.lines)
    return left if every else copies
