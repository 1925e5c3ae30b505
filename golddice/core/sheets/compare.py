"""What if this table were rolled by another rule: the same entries, read as each rule reads them.

People mistake one rule for another, and the same numbers then mean very different chances.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

import numpy as np

from golddice.core.errors import TooLarge
from golddice.core.game.models import (
    RULES,
    ChanceLine,
    DeckLine,
    Game,
    PickTable,
    RetryLine,
    Table,
)
from golddice.core.game.reading import plain, read_part
from golddice.core.odds.event.rules import roll_chances
from golddice.core.terms.conditions import Conditions

TRIES = 3
DECK_SIZE = 100
BLANK = "blank"
MOST_LINES = 5_000
_KEPT = ("id", "curve", "depths", "needs", "unless", "guard", "limit", "yields")


@dataclass(frozen=True)
class Reading:
    """One rule's reading of a table: the table so rolled, and what one roll then does.

    `chances` by line id; `nothing` that no line hits; `hits` how many lines hit, on average.
    """

    rule: str
    table: Table
    chances: dict[str, float]
    nothing: float
    hits: float


def compared(game: Game, table: str, depth: int, flags: Iterable[str] = ()) -> list[Reading]:
    """The table's own rule and all others, in the order of RULES, at one depth."""
    under = Conditions(game, [depth], flags)
    found = under.table(table)
    if len(found.lines) > MOST_LINES:
        raise TooLarge(f"{len(found.lines):,} lines; tables of up to {MOST_LINES:,} are compared")
    return [_read(under, found if rule == found.rule else as_rule(found, rule)) for rule in RULES]


def _read(under: Conditions, table: Table) -> Reading:
    chances, nothing = roll_chances(table, under)
    by_line = {line.id: float(chances[at, 0]) for at, line in enumerate(table.lines)}
    blank = by_line.pop(BLANK, 0.0) if table.rule == "deck" else 0.0
    return Reading(table.rule, table, by_line, float(nothing[0]) + blank, sum(by_line.values()))


def as_rule(table: Table, rule: str) -> Table:
    """The table rolled by another rule, each line's entry read as a share of 1.

    A weight's share is its part of all weights with the blank; a chance is itself; copies are their
    part of the deck. Curves, depths, flags, limits stay; a guard stays except on a deck.
    """
    shares, blank = _shares(table)
    kept = [{key: value for key, value in plain(line).items() if key in _KEPT} for line in table.lines]
    lines = [{**line, **_entry(rule, share)} for line, share in zip(kept, shares, strict=True)]
    body: dict[str, Any] = {"id": table.id, "name": table.name, "rule": rule, "lines": lines}
    body |= {key: value for key, value in plain(table).items() if key in ("rolls", "notes")}
    if rule == "pick":
        body["nothing"] = _short(100 * blank)
    elif rule == "retry":
        body["tries"] = TRIES
    elif rule == "deck":
        for line in lines:
            line.pop("guard", None)
        if blank > 0:
            lines.append({"id": BLANK, "copies": max(1, round(DECK_SIZE * blank))})
    read: Table = read_part("table", body)
    return read


def _shares(table: Table) -> tuple[list[float], float]:
    """Each line's entry as a share of 1, and what is left for nothing."""
    if table.rule in ("each", "first", "retry"):
        chances = [line.chance for line in table.lines if isinstance(line, (ChanceLine, RetryLine))]
        return chances, max(0.0, 1.0 - sum(chances))
    if isinstance(table, PickTable):
        entries, blank = [line.weight for line in table.lines], table.nothing
    else:
        entries = [float(line.copies) for line in table.lines if isinstance(line, DeckLine)]
        blank = 0.0
    total = sum(entries) + blank
    return [entry / total if total else 0.0 for entry in entries], blank / total if total else 1.0


def _entry(rule: str, share: float) -> dict[str, Any]:
    if rule == "pick":
        return {"weight": _short(100 * share)}
    if rule == "retry":
        return {"weight": 1.0, "chance": _short(share)}
    if rule == "deck":
        return {"copies": max(1, round(DECK_SIZE * share)) if share > 0 else 0}
    return {"chance": min(1.0, _short(share))}


def _short(value: float) -> float:
    """Four figures, which is what a person would have typed."""
    return float(np.format_float_positional(value, precision=4, fractional=False)) if value else 0.0
