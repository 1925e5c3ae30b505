"""Every column that an event can touch, now or after any number of events."""

from __future__ import annotations

from golddice.core.game.links import links_of
from golddice.core.game.models import Drop, Line, Source, Table
from golddice.core.game.views import View
from golddice.core.odds.carried.parts import LineOf
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.terms.size import missing, part_of


def view_columns(evaluator: Evaluator, view: View) -> set[int]:
    """Of all that open lines and drops reached from here give, whatever their chance is now."""
    known = evaluator.reached_columns
    for one in missing(evaluator.under, view, known):
        part = part_of(evaluator.under, one)
        known[one] = _of_source(evaluator, part) if isinstance(part, Source) else _of_table(evaluator, part)
    return known[view]


def drop_columns(evaluator: Evaluator, source: Source, drop: Drop) -> set[int]:
    if not bool(evaluator.under.drop_open(drop).any()):
        return set()
    found = view_columns(evaluator, View("table", drop.table))
    if not evaluator.detail:
        return found
    hits = evaluator.columns.drop_hits(source.id, drop.id)
    return found | {hits, hits + 1}


def _of_source(evaluator: Evaluator, source: Source) -> set[int]:
    return set().union(*(drop_columns(evaluator, source, drop) for drop in source.drops))


def line_columns(evaluator: Evaluator, one: LineOf, source: Source | None) -> set[int]:
    """Of one line of a table, and how much value came by way of the drop that rolls it."""
    for view in links_of(one.table.lines[one.at]):
        view_columns(evaluator, view)
    found = _of_line(evaluator, one.table, one.table.lines[one.at])
    if evaluator.detail and one.drop is not None and source is not None:
        found |= {evaluator.columns.drop_hits(source.id, one.drop.id) + 1}
    return found


def _of_table(evaluator: Evaluator, table: Table) -> set[int]:
    return set().union(*(_of_line(evaluator, table, line) for line in table.lines))


def _of_line(evaluator: Evaluator, table: Table, line: Line) -> set[int]:
    # A card that was dealt stays in its deck when its line is shut.
    if table.rule != "deck" and not bool(evaluator.under.line_open(line).any()):
        return set()
    found: set[int] = set()
    if evaluator.detail:
        hits = evaluator.columns.line_hits(table.id, line.id)
        found |= {hits, hits + 1}
    for given in line.yields:
        if isinstance(given.what, View):
            found |= evaluator.reached_columns[given.what]
        else:
            found.update(int(column) for column in evaluator.given(given).columns)
    return found
