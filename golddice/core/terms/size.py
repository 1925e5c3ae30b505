"""How much one event can come to: the limit that keeps a nested explosion from hanging a trial."""

from __future__ import annotations

from golddice.core.errors import TooLarge
from golddice.core.game.models import Source, Table
from golddice.core.odds.terms.conditions import Conditions
from golddice.core.odds.terms.forms import form_of

MOST_EXECUTIONS = 1_000_000
_PLENTY = 10**9


def executions(under: Conditions, kind: str, name: str) -> int:
    """The most rolls of tables and pools that one event of a source, or execution of a table, can
    come to. Worked out bottom-up, each table once; loops are refused before."""
    known = under.executions

    def of(kind: str, name: str) -> int:
        key = (kind, name)
        if key not in known:
            known[key] = of_source(name) if kind == "source" else of_table(under.table(name))
        return known[key]

    def of_source(name: str) -> int:
        drops = under.source(name).drops
        return 1 + sum(under.law(drop.times).most * of("table", drop.table) for drop in drops)

    def of_table(table: Table) -> int:
        form = form_of(table)
        lines = dict.fromkeys(form.others, 0)
        for at, _, many in form.pools:
            lines[at] += under.law(many).most
        for at, link, many in form.links:
            lines[at] += under.law(many).most * of(*link)
        worst = sum(lines.values()) if table.rule == "each" else max(lines.values(), default=0)
        return under.law(table.rolls).most * (1 + worst)

    return of(kind, name)


def most_rolls(under: Conditions, kind: str, name: str) -> dict[tuple[str, str], int]:
    """The most rolls of each table, and events of each source, within one event or execution.

    Worked out from the top, each table after everything that rolls it.
    """
    order = _outermost_first(under, kind, name)
    events = dict.fromkeys(order, 0)
    events[kind, name] = 1
    result: dict[tuple[str, str], int] = {}
    for key in order:
        here = events[key]
        if key[0] == "table":
            here *= under.law(under.table(key[1]).rolls).most
        result[key] = min(here, _PLENTY)
        for inner, most in _inner(under, key):
            events[inner] = min(events[inner] + result[key] * most, _PLENTY)
    return result


def _outermost_first(under: Conditions, kind: str, name: str) -> list[tuple[str, str]]:
    """What is reached, in an order in which each comes after all that lead to it."""
    done: dict[tuple[str, str], None] = {}

    def visit(key: tuple[str, str]) -> None:
        if key not in done:
            for inner, _ in _inner(under, key):
                visit(inner)
            done[key] = None

    visit((kind, name))
    return list(reversed(done))


def _inner(under: Conditions, key: tuple[str, str]) -> list[tuple[tuple[str, str], int]]:
    """What one event or roll may lead to, and how many times."""
    part = under.source(key[1]) if key[0] == "source" else under.table(key[1])
    return under.remembered("inner", part, lambda: _new_inner(under, part))


def _new_inner(under: Conditions, part: Table | Source) -> list[tuple[tuple[str, str], int]]:
    if isinstance(part, Source):
        return [(("table", drop.table), under.law(drop.times).most) for drop in part.drops]
    return [(link, under.law(many).most) for _, link, many in form_of(part).links]


def check_size(under: Conditions, kind: str, name: str) -> None:
    """Raise TooLarge where one event may roll more than MOST_EXECUTIONS times."""
    most = executions(under, kind, name)
    if most > MOST_EXECUTIONS:
        raise TooLarge(
            f"one event of “{name}” could roll tables {most:,} times; "
            f"the limit is {MOST_EXECUTIONS:,}. Make its quantities, times or rolls smaller"
        )
