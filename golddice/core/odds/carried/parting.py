"""An event cut into parts that share nothing that a player carries: what carries nothing, and groups.

Drops stand apart, each on its own chance. So do the lines of a table that tries each of them, where that is
certain to be rolled once an event: twenty things of which a player can have one each are twenty players'
states of two, and not a million.
"""

from __future__ import annotations

from collections.abc import Iterator

from golddice.core.game.models import Drop, Source, Table
from golddice.core.game.views import View
from golddice.core.odds.carried.axes import Key, drop_keys, table_keys
from golddice.core.odds.carried.effort import Carried
from golddice.core.odds.carried.folds import AllOf, Given, marking, with_flows
from golddice.core.odds.carried.group import Group
from golddice.core.odds.carried.parts import LineOf, Part
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.odds.event.outcome import Parts, independent
from golddice.core.sharing import sharing
from golddice.core.terms.size import view_key

_MOST_APART = 1_000  # lines of a table that are followed by themselves


def parted(evaluator: Evaluator, carried: Carried, view: View) -> tuple[list[Given], list[Group]]:
    """What carries nothing, and the groups of what does, of one event of a source or one execution of a
    table."""
    under = evaluator.under
    plain: list[Given] = []
    held: list[tuple[list[Key], tuple[int, int]]] = []
    parts: dict[tuple[int, int], Part] = {}
    if view.kind == "table":
        source, table = None, under.table(view.id)
        keys = list(carried.keys(view))
        if not keys:
            return [Given(evaluator.table(view.id), table)], []
        if not _is_split(carried, table):
            return [], [Group(evaluator, carried, keys, table, (evaluator.detail, view_key(under, view)))]
        _take_lines(evaluator, carried, None, table, 0, plain, held, parts)
    else:
        source = under.source(view.id)
        for at, drop in enumerate(source.drops):
            if not bool(under.drop_open(drop)[0]):
                continue
            keys = carried.of_drop(source, drop)
            if not keys:
                plain.append(Given(evaluator.drop(source, drop), drop))
                continue
            table = under.tables[drop.table]
            if _is_sure(evaluator, source, drop) and _is_split(carried, table):
                _take_lines(evaluator, carried, (source, drop), table, at, plain, held, parts)
            else:
                parts[at, -1] = drop
                held.append((keys, (at, -1)))
    groups = [(keys, [parts[at] for at in sorted(ours)]) for keys, ours in sharing(held)]
    return plain, [_group(evaluator, carried, source, keys, ours) for keys, ours in groups]


def _is_sure(evaluator: Evaluator, source: Source, drop: Drop) -> bool:
    """Whether a drop rolls its table once in every event."""
    under = evaluator.under
    is_free = not drop_keys(source.id, drop, under)
    return is_free and float(under.drop_chance(drop)[0]) == 1.0 and under.law(drop.times).is_one


def _is_split(carried: Carried, table: Table) -> bool:
    under = carried.under
    is_once = table.rule == "each" and under.law(table.rolls).is_one
    return is_once and sum(1 for _ in _held_lines(carried, table)) <= _MOST_APART


def _held_lines(carried: Carried, table: Table) -> Iterator[tuple[int, list[Key]]]:
    """The open lines of a table of which a player carries something, or of what they lead to."""
    own = {key[2]: key for key in table_keys(table, carried.under)}
    for at, line in enumerate(table.lines):
        if bool(carried.under.line_open(line)[0]):
            keys = [own[line.id]] if line.id in own else []
            keys += carried.keys_within(line)
            if keys:
                yield at, keys


def _take_lines(
    evaluator: Evaluator,
    carried: Carried,
    by: tuple[Source, Drop] | None,
    table: Table,
    number: int,
    plain: list[Given],
    held: list[tuple[list[Key], tuple[int, int]]],
    parts: dict[tuple[int, int], Part],
) -> None:
    """Each line with something carried by itself, all others together."""
    under = evaluator.under
    chances = under.chances(table).copy()
    for at, keys in _held_lines(carried, table):
        parts[number, at] = LineOf(table, at, None if by is None else by[1])
        held.append((keys, (number, at)))
        chances[at] = 0.0
    free = [at for at in range(len(table.lines)) if chances[at, 0] > 0]
    outcome = independent(chances[free], Parts.of([evaluator.line(table, table.lines[at]) for at in free], 1))
    given = Given(outcome, AllOf(table, chances[:, 0]))
    if by is not None and evaluator.detail:
        column = evaluator.columns.drop_hits(by[0].id, by[1].id)
        given = with_flows(given, (column + 1,))
        plain.append(marking(column))
    plain.append(given)


def _group(
    evaluator: Evaluator, carried: Carried, source: Source | None, keys: list[Key], parts: list[Part]
) -> Group:
    under = evaluator.under
    rests_on: list[object] = ["" if source is None else source.id]
    for part in parts:
        drop = part.drop if isinstance(part, LineOf) else part
        table = part.table.id if isinstance(part, LineOf) else part.table
        line = part.table.lines[part.at].id if isinstance(part, LineOf) else None
        rests_on += [
            None if drop is None else under.own_key(drop),
            line,
            view_key(under, View("table", table)),
        ]
    return Group(evaluator, carried, keys, (source, parts), (evaluator.detail, *rests_on))
