"""What a finding is: where, why, and the edit that would mend it."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from typing import Any, Literal


@dataclass(frozen=True)
class Mend:
    """One edit, as one step to undo: what it is called, and the new bodies by kind and id."""

    label: str
    entries: list[dict[str, Any]]


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
        return asdict(self)
