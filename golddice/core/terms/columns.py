"""Which column of an `Outcome` stands for what."""

from __future__ import annotations

from dataclasses import dataclass

from golddice.core.terms.catalogue import Catalogue


@dataclass(frozen=True)
class Columns:
    """Numbers items, groups of them (tiers, and what has a tag), lines and drops, for all outcomes under a
    catalogue.

    Lines and drops have two columns each: how often they hit, and the value that came through. They are
    numbered as they are come to, so that an edit that adds one leaves the numbers of all others.
    """

    catalogue: Catalogue

    def item(self, at: int) -> int:
        return at

    def tier(self, at: int) -> int:
        return len(self.catalogue.items) + at

    @property
    def units(self) -> int:
        """Everything received, whatever it is."""
        return len(self.catalogue.items) + self.catalogue.groups

    def line_hits(self, table: str, line: str) -> int:
        return self.units + 1 + 2 * self.catalogue.number((table, line))

    def drop_hits(self, source: str, drop: str) -> int:
        # A source may share a table's id, so its drops are kept apart by a sign no id can hold.
        return self.line_hits(f"@{source}", drop)
