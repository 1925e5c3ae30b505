"""A game in which lines and drops give a mark besides what they give, so that a trial counts their hits."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass

from golddice.core.game.finding import by_id
from golddice.core.game.models import Game, Item, Line, Source, Table, Yield
from golddice.core.game.quantity import ONE
from golddice.core.terms.columns import Columns
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.marks import mark_item, mark_table, mark_tier, mark_yield

Part = tuple[str, str]


@dataclass(frozen=True)
class Marks:
    """The marked game, and the items (by index in it) that each column of the game as it was counts."""

    under: Conditions
    counted: dict[int, list[int]]

    def items_of(self, column: int) -> list[int]:
        return self.counted.get(column, [])


def marked(under: Conditions, lines: Iterable[Part], drops: Iterable[Part] = ()) -> Marks:
    """Lines by (table id, line id), drops by (source id, drop id).

    Marks are worth nothing and come from no pool. Items keep their places.
    """
    game, columns = under.game, Columns(under.catalogue)
    counted: dict[int, list[int]] = defaultdict(list)
    for at, item in enumerate(game.items):
        for column in (columns.item(at), columns.tier(under.tier_index[item.tier]), columns.units):
            counted[column].append(at)
    of_lines: dict[Part, Item] = {}
    for table, line in lines:
        counted[columns.line_hits(table, line)] = [len(game.items) + len(of_lines)]
        found = by_id(under.table(table).lines, line)
        # Of the line's own tier, so that the line keeps the tier's curve.
        of_lines[table, line] = mark_item(len(of_lines), under.catalogue.line_tier(found))
    of_drops: dict[Part, Item] = {}
    for source, drop in drops:
        number = len(of_lines) + len(of_drops)
        counted[columns.drop_hits(source, drop)] = [len(game.items) + number]
        of_drops[source, drop] = mark_item(number)
    return Marks(Conditions(_with_marks(game, of_lines, of_drops), under.depths, under.flags), counted)


def _with_marks(game: Game, of_lines: dict[Part, Item], of_drops: dict[Part, Item]) -> Game:
    between: list[Table] = []
    sources = [_marked_source(source, of_drops, between) for source in game.sources]
    return game.model_copy(
        update={
            "tiers": [*game.tiers, mark_tier()],
            "items": [*game.items, *of_lines.values(), *of_drops.values()],
            "tables": [*(_marked_table(table, of_lines) for table in game.tables), *between],
            "sources": sources,
        }
    )


def _marked_table(table: Table, marks: dict[Part, Item]) -> Table:
    lines: list[Line] = [
        line.model_copy(update={"yields": [*line.yields, mark_yield(marks[table.id, line.id])]})
        if (table.id, line.id) in marks
        else line
        for line in table.lines
    ]
    return table.model_copy(update={"lines": lines})


def _marked_source(source: Source, marks: dict[Part, Item], between: list[Table]) -> Source:
    """Marked drops go by way of a table that gives the mark and what the drop gave; it is put `between`."""
    drops = list(source.drops)
    for at, drop in enumerate(source.drops):
        if (mark := marks.get((source.id, drop.id))) is not None:
            given = Yield.model_construct(table=drop.table, quantity=drop.times)
            between.append(mark_table(mark, given))
            drops[at] = drop.model_copy(update={"table": mark.id, "times": ONE})
    return source.model_copy(update={"drops": drops})
