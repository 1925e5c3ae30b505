"""How much one event can come to: the limit that keeps a nested explosion from hanging a trial."""

from __future__ import annotations

from golddice.core.errors import TooLarge
from golddice.core.game.models import Table
from golddice.core.odds.conditions import Conditions

MOST_EXECUTIONS = 1_000_000


def executions(under: Conditions, kind: str, name: str) -> int:
    """The most rolls of tables and pools that one event of a source, or execution of a table, can
    come to. Worked out bottom-up, each table once; loops are refused before."""
    known: dict[tuple[str, str], int] = {}

    def of(kind: str, name: str) -> int:
        key = (kind, name)
        if key not in known:
            known[key] = of_source(name) if kind == "source" else of_table(under.table(name))
        return known[key]

    def of_source(name: str) -> int:
        drops = under.source(name).drops
        return 1 + sum(under.law(drop.times).most * of("table", drop.table) for drop in drops)

    def of_table(table: Table) -> int:
        lines = []
        for line in table.lines:
            given = [(under.law(one.quantity).most, one) for one in line.yields if one.item is None]
            lines.append(
                sum(
                    most
                    * (
                        1
                        if one.pool
                        else of("table" if one.table else "source", one.table or one.source or "")
                    )
                    for most, one in given
                )
            )
        worst = sum(lines) if table.rule == "each" else max(lines, default=0)
        return under.law(table.rolls).most * (1 + worst)

    return of(kind, name)


def check_size(under: Conditions, kind: str, name: str) -> None:
    """Raise TooLarge where one event may roll more than MOST_EXECUTIONS times."""
    most = executions(under, kind, name)
    if most > MOST_EXECUTIONS:
        raise TooLarge(
            f"one event of “{name}” could roll tables {most:,} times; "
            f"the limit is {MOST_EXECUTIONS:,}. Make its quantities, times or rolls smaller"
        )
