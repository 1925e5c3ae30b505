"""What a finding is: where, why, and the edit that would mend it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Literal

Body = dict[str, Any]


@dataclass(frozen=True)
class Mend:
    """One edit, as one step to undo: what it is called, and the new body of one entity, or None for it
    to go.

    The body is made when it is asked for: a big game has thousands of findings, and few are looked at.
    """

    label: str
    kind: str
    id: str
    make: Callable[[], Body | None]

    @property
    def entries(self) -> list[dict[str, Any]]:
        return [{"kind": self.kind, "id": self.id, "body": self.make()}]


@dataclass(frozen=True)
class Finding:
    """One thing worth a look.

    `path` is a JSON path in the game file. `kind` and `id` name the entity; `line` the line or drop
    within it; `field` the cell: entry, chance, quantity, gives, limits, depths, rolls, nothing.
    `depths` are first and last where it holds, None where depth does not matter.
    """

    level: Literal["error", "warning"]
    path: str
    kind: str
    id: str
    message: str
    line: str | None = None
    field: str | None = None
    depths: tuple[int, int] | None = None
    mend: Mend | None = None

    def plain(self) -> dict[str, Any]:
        """As it goes over the wire, the mend with its body."""
        mend = self.mend
        plain = {"label": mend.label, "entries": mend.entries} if mend else None
        return {**vars(self), "mend": plain}
