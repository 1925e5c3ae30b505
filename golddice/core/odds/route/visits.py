"""Which events visits come to, and how they are counted: by marks."""

from __future__ import annotations

from collections.abc import Sequence

from golddice.core.errors import TooLarge
from golddice.core.game.models import Game, Source, Table, Yield
from golddice.core.game.views import View
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.marks import mark_item, mark_table, mark_tier
from golddice.core.terms.size import most_rolls
from golddice.core.terms.stops import Stop


def with_marks(game: Game, stops: Sequence[Stop]) -> Game:
    """The game in which every source that a visit meets leaves a mark, by which its events are counted.

    Only what a spawn table yields, or a table inside it, is an event; so lines of tables that sources
    roll too may not be marked. Raises TooLarge where a table would have to be both.
    """
    tables = _spawning(game, stops)
    marked = {source.id for source in met_on(game, stops)}
    if not marked:
        return game
    marks = [mark_item(name) for name in sorted(marked)]
    return game.model_copy(
        update={
            "tiers": [*game.tiers, mark_tier()],
            "items": [*game.items, *marks],
            "tables": [
                *(_marking(table) if table.id in tables else table for table in game.tables),
                *map(mark_table, marks),
            ],
        }
    )


def _marking(table: Table) -> Table:
    """With a mark beside each source that a line yields: in a table, so that the line keeps its tier."""

    def more(given: Yield) -> list[Yield]:
        if given.source is None:
            return [given]
        mark = mark_item(given.source).id
        return [given, Yield.model_construct(table=mark, quantity=given.quantity)]

    lines = [
        line.model_copy(update={"yields": [one for given in line.yields for one in more(given)]})
        for line in table.lines
    ]
    return table.model_copy(update={"lines": lines})


def _spawning(game: Game, stops: Sequence[Stop]) -> set[str]:
    """The tables that visits execute, and those inside them, other than by way of a source."""
    tables = {table.id: table for table in game.tables}
    found = {stop.view.id for stop in stops if stop.doing == "visits" and stop.view is not None}
    pending = list(found)
    while pending:
        for line in tables[pending.pop()].lines:
            for given in line.yields:
                if given.table is not None and given.table not in found:
                    found.add(given.table)
                    pending.append(given.table)
    return found


def met_on(game: Game, stops: Sequence[Stop]) -> list[Source]:
    """The sources whose events visits come to."""
    spawning = _spawning(game, stops)
    names = {
        given.source
        for table in game.tables
        if table.id in spawning
        for line in table.lines
        for given in line.yields
        if given.source is not None
    }
    if names:
        _check_apart(game, spawning)
    return [source for source in game.sources if source.id in names]


def _check_apart(game: Game, spawning: set[str]) -> None:
    """Raise TooLarge where a table of which a line yields a source is both a visit's and an event's."""
    under = Conditions(game, [game.depth.from_])
    inside = {
        view.id
        for source in game.sources
        for view in most_rolls(under, View("source", source.id))
        if view.kind == "table"
    }
    for table in game.tables:
        yields = any(given.source is not None for line in table.lines for given in line.yields)
        if yields and table.id in spawning & inside:
            raise TooLarge(f"“{table.id}” is rolled by visits and within events: events cannot be told apart")
