"""A game in which lines give a mark besides what they give, so that a trial counts their hits."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass

from golddice.core.game.models import Game, Item, Line, Table, Tier, Yield
from golddice.core.game.quantity import ONE
from golddice.core.odds.columns import Columns
from golddice.core.odds.conditions import Conditions

_MARK = "#mark"  # no id of a game can hold the sign


@dataclass(frozen=True)
class Marks:
    """The marked game, and the items (by index in it) that each column of the game as it was counts."""

    under: Conditions
    counted: dict[int, list[int]]

    def items_of(self, column: int) -> list[int]:
        return self.counted.get(column, [])


def marked(under: Conditions, lines: Iterable[tuple[str, str]]) -> Marks:
    """Marks are worth nothing and come from no pool. Items keep their places."""
    game, columns = under.game, Columns(under.game)
    counted: dict[int, list[int]] = defaultdict(list)
    for at, item in enumerate(game.items):
        for column in (columns.item(at), columns.tier(under.tier_index[item.tier]), columns.units):
            counted[column].append(at)
    marks: dict[tuple[str, str], Item] = {}
    for table, line in lines:
        counted[columns.line_hits(table, line)] = [len(game.items) + len(marks)]
        found = next(one for one in under.table(table).lines if one.id == line)
        marks[table, line] = _mark(len(marks), under.line_tier(found))
    return Marks(Conditions(_with_marks(game, marks), under.depths, under.flags), counted)


def _mark(number: int, tier: str | None) -> Item:
    """Of the line's own tier, so that the line keeps the tier's curve; or of one without a curve."""
    return Item.model_construct(id=f"{_MARK}{number}", name="", tier=tier or _MARK, abundance=0.0)


def _with_marks(game: Game, marks: dict[tuple[str, str], Item]) -> Game:
    tier = Tier.model_construct(id=_MARK, name="", curve=None)
    return game.model_copy(
        update={
            "tiers": [*game.tiers, tier],
            "items": [*game.items, *marks.values()],
            "tables": [_marked_table(table, marks) for table in game.tables],
        }
    )


def _marked_table(table: Table, marks: dict[tuple[str, str], Item]) -> Table:
    lines: list[Line] = [
        line.model_copy(update={"yields": [*line.yields, _one(marks[table.id, line.id])]})
        if (table.id, line.id) in marks
        else line
        for line in table.lines
    ]
    return table.model_copy(update={"lines": lines})


def _one(mark: Item) -> Yield:
    return Yield.model_construct(item=mark.id, quantity=ONE)
