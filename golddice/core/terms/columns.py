"""Which column of an `Outcome` stands for what."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

from golddice.core.game.models import Game


@dataclass(frozen=True, eq=False)
class Columns:
    """Numbers the items, tiers, lines and drops of a game, once for all outcomes.

    Lines and drops have two columns each: how often they hit, and the value that came through.
    """

    game: Game

    def item(self, at: int) -> int:
        return at

    def tier(self, at: int) -> int:
        return len(self.game.items) + at

    @cached_property
    def units(self) -> int:
        """Everything received, whatever it is."""
        return len(self.game.items) + len(self.game.tiers)

    @cached_property
    def parts(self) -> dict[tuple[str, str], int]:
        """(table id, line id) and (source id, drop id), numbered."""
        keys = [(table.id, line.id) for table in self.game.tables for line in table.lines]
        # A source may share a table's id, so its drops are kept apart by a sign no id can hold.
        keys += [(f"@{source.id}", drop.id) for source in self.game.sources for drop in source.drops]
        return {key: at for at, key in enumerate(keys)}

    def line_hits(self, table: str, line: str) -> int:
        return self.units + 1 + 2 * self.parts[table, line]

    def line_flow(self, table: str, line: str) -> int:
        return self.line_hits(table, line) + 1

    def drop_hits(self, source: str, drop: str) -> int:
        return self.line_hits(f"@{source}", drop)

    def drop_flow(self, source: str, drop: str) -> int:
        return self.drop_hits(source, drop) + 1
