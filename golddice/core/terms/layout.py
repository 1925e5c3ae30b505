"""What a player carries, one number after another, whatever the depth and the flags: misses of guards, hits
of limits, cards left of a deck's lines.

The event kernel numbers these slots in its state, and the exact odds build their states of them, so that a
player can be taken from one depth to another, and so that both mean the same.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Literal, NamedTuple

from propcache.api import cached_property

from golddice.core.game.models import Source, Table

Held = Literal["misses", "hits", "left"]


class Slot(NamedTuple):
    """One number that is carried: of a line of a table, or of a drop of a source."""

    kind: Held
    of: Literal["table", "source"]
    holder: str
    part: str


def slots_of(part: Table | Source) -> Iterator[Slot]:
    """What a player can carry of one table or source, in file order."""
    if isinstance(part, Source):
        for drop in part.drops:
            if drop.guard is not None:
                yield Slot("misses", "source", part.id, drop.id)
        return
    for line in part.lines:
        if part.rule == "deck":
            yield Slot("left", "table", part.id, line.id)
        if line.guard is not None:
            yield Slot("misses", "table", part.id, line.id)
        if line.limit is not None:
            yield Slot("hits", "table", part.id, line.id)


@dataclass(frozen=True)
class Layout:
    """The slots of some tables and sources, numbered."""

    slots: tuple[Slot, ...]

    @staticmethod
    def of(parts: Iterable[Table | Source]) -> Layout:
        return Layout(tuple(slot for part in parts for slot in slots_of(part)))

    @cached_property
    def _numbers(self) -> dict[Slot, int]:
        return {slot: at for at, slot in enumerate(self.slots)}

    def at(self, kind: Held, of: Literal["table", "source"], holder: str, part: str) -> int:
        """The number of a slot, -1 where nothing of the kind is carried."""
        return self._numbers.get(Slot(kind, of, holder, part), -1)

    @property
    def size(self) -> int:
        return len(self.slots)
