"""What a player carries, one thing at a time."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Axis:
    """One thing carried. `key` says what: ("guard", table, line), ("limit", ...), ("deck", table)
    or ("drop", source, drop); `size` how many values it takes, 0 for a fresh player."""

    key: tuple[str, ...]
    size: int

    def near(self, rolls: int) -> Axis:
        """As far as so many rolls from a fresh player lead."""
        return Axis(self.key, min(self.size, rolls + 1))
