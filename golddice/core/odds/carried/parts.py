"""Parts of an event that can be followed by themselves."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from golddice.core.game.models import Drop, Source, Table


@dataclass(frozen=True)
class LineOf:
    """A line, by its place, of a table that tries each of its lines once in every event; and the drop that
    rolls it, if one does."""

    table: Table
    at: int
    drop: Drop | None = None


Part = Drop | LineOf
# A whole table, or some parts of what a source (None: a table by itself) does.
What = Table | tuple[Source | None, Sequence[Part]]
