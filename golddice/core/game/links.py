"""What a table, a source or a line leads to."""

from __future__ import annotations

from golddice.core.game.models import BaseLine, Source, Table, Yield

Link = tuple[str, str]


def link_of(given: Yield) -> Link | None:
    """The table or source that a yield rolls; None for items and pools."""
    if given.table is not None:
        return "table", given.table
    return ("source", given.source) if given.source is not None else None


def links_of(part: Table | Source | BaseLine) -> list[Link]:
    """The tables and sources that a part rolls, each once, as (kind, id)."""
    if isinstance(part, Source):
        return list(dict.fromkeys(("table", drop.table) for drop in part.drops))
    lines = [part] if isinstance(part, BaseLine) else part.lines
    every = [link_of(given) for line in lines for given in line.yields]
    return list(dict.fromkeys(link for link in every if link is not None))
