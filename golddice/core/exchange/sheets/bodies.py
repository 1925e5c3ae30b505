"""What a preview comes to, and the bodies that it changes."""

from __future__ import annotations

import copy
from dataclasses import dataclass, field
from typing import Any

from golddice.core.game.editing import Entities, Entry
from golddice.core.game.models import Game
from golddice.core.game.reading import whole


@dataclass
class Preview:
    """new : kind, id, name. changed : kind, id, key, before, after. unchanged : rows. refused : sheet, row,
    column, why."""

    new: list[dict[str, Any]] = field(default_factory=list)
    changed: list[dict[str, Any]] = field(default_factory=list)
    unchanged: int = 0
    refused: list[dict[str, Any]] = field(default_factory=list)
    entries: list[Entry] = field(default_factory=list)

    def plain(self) -> dict[str, Any]:
        return {
            "new": self.new,
            "changed": self.changed,
            "unchanged": self.unchanged,
            "refused": self.refused,
        }


class Bodies:
    """Whole bodies of what may be changed, by kind and id; those touched or new."""

    def __init__(self, game: Game) -> None:
        self.entities = Entities.of(game)
        self.parsed = self.entities.parsed
        self.wholes: dict[tuple[str, str], dict[str, Any]] = {}
        self.edited: dict[tuple[str, str], dict[str, Any]] = {}
        self.rows: dict[tuple[str, str], tuple[str, int]] = {}  # where each was first touched

    def whole(self, kind: str, id: str) -> dict[str, Any]:
        """As the game has it now, with defaults."""
        key = kind, id
        if key not in self.wholes:
            part = self.parsed[kind].get(id)
            self.wholes[key] = whole(part) if part is not None else {}
        return self.wholes[key]

    def edit(self, kind: str, id: str, sheet: str, row: int) -> dict[str, Any]:
        """The body that is changed: in its short form, as a file has it."""
        key = kind, id
        if key not in self.edited:
            self.edited[key] = copy.deepcopy(self.entities.bodies[kind].get(id, {"id": id}))
            self.rows[key] = sheet, row
        return self.edited[key]
